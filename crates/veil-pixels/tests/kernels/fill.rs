//! Checks of `fill`.

use proptest::prelude::*;
use veil_pixels::fill::{membrane, patches};
use veil_pixels::{Cancel, Field, Picture, Window};

fn hole(window: Window, holes: &[[i32; 4]]) -> Field {
    Field::from_fn(window, |x, y| {
        f32::from(holes.iter().any(|[x0, y0, x1, y1]| (*x0..*x1).contains(&x) && (*y0..*y1).contains(&y)))
    })
}

/// Of the mean-of-neighbours equation: x² − y², xy and every plane solve it exactly, so a hole in them is filled with
/// what was there, whatever its form, as far as it does not reach the border.
#[test]
fn what_is_its_neighbours_mean_comes_back() {
    let window = Window::new(-20, -15, 100, 75);
    let made_of: [fn(f32, f32) -> f32; 3] =
        [|x, y| (x * x - y * y) * 1e-3, |x, y| x * y * 1e-3, |x, y| 3.0 - 0.1 * x + 0.2 * y];
    let hole = hole(window, &[[0, 0, 60, 50], [-10, 20, 5, 30], [70, 60, 71, 61]]);
    for made_of in made_of {
        let known = Field::from_fn(window, |x, y| {
            if hole.get(x, y) == Some(1.0) { f32::NAN } else { made_of(x as f32, y as f32) }
        });
        let made = membrane(&known, &hole, &Cancel::new()).unwrap();
        for y in window.rows() {
            for x in window.x0..window.x1 {
                let (own, wanted) = (made.get(x, y).unwrap(), made_of(x as f32, y as f32));
                assert!((own - wanted).abs() < 2e-3, "{x} {y}: {own} for {wanted}");
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// No hole is brighter than its rim, and what is known stays bit for bit.
    #[test]
    fn a_membrane_stays_between_what_it_is_spanned_between(
        values in prop::collection::vec(-2.0f32..3.0, 40 * 30),
        marks in prop::collection::vec(prop::bool::weighted(0.7), 40 * 30),
    ) {
        let window = Window::sized(40, 30);
        let known = Field::from_pixels(window, values).unwrap();
        let hole = Field::from_pixels(window, marks.iter().map(|mark| f32::from(*mark)).collect()).unwrap();
        let made = membrane(&known, &hole, &Cancel::new()).unwrap();
        for ((own, known), hole) in made.pixels().iter().zip(known.pixels()).zip(&marks) {
            let is_right = if *hole { (-2.01..3.01).contains(own) } else { own.to_bits() == known.to_bits() };
            prop_assert!(is_right, "{own} for {known}");
        }
    }
}

/// A woven pattern goes on through a hole: patches know it, a membrane does not.
#[test]
fn a_pattern_goes_on() {
    let window = Window::sized(160, 120);
    let woven = |x: i32, y: i32| {
        let light = if (x / 4 + y / 6) % 2 == 0 { 0.8 } else { 0.1 };
        [light, light * 0.5, 0.2, 1.0]
    };
    let hole = hole(window, &[[60, 40, 100, 76]]);
    let known =
        Picture::from_fn(window, |x, y| if hole.get(x, y) == Some(1.0) { [0.0; 4] } else { woven(x, y) });
    let cancel = Cancel::new();
    let off = |made: &Picture| {
        let all = window.rows().flat_map(|y| (0..160).map(move |x| [x, y]));
        let inside = all.filter(|[x, y]| hole.get(*x, *y) == Some(1.0));
        inside.map(|[x, y]| (made.get(x, y).unwrap()[0] - woven(x, y)[0]).abs()).sum::<f32>() / (40.0 * 36.0)
    };
    let made = patches(&known, &hole, 3, &cancel).unwrap();
    let smooth = membrane(&known, &hole, &cancel).unwrap();
    assert!(off(&made) < 0.1 * off(&smooth), "{} beside {}", off(&made), off(&smooth));
    assert_eq!(made.get(80, 20), known.get(80, 20));
    assert_eq!(patches(&known, &hole, 3, &cancel).unwrap(), made);
}

#[test]
fn another_seed_finds_other_patches() {
    let window = Window::sized(64, 48);
    let grainy = |x: i32, y: i32| ((x * 7919 + y * 104_729) % 101) as f32 / 100.0;
    let picture = Picture::from_fn(window, |x, y| [grainy(x, y), grainy(y, x), 0.5, 1.0]);
    let hole = hole(window, &[[20, 16, 40, 30]]);
    let [one, other] = [3, 4].map(|seed| patches(&picture, &hole, seed, &Cancel::new()).unwrap());
    assert_ne!(one, other);
}

/// Nothing is known, nothing is to be filled, or next to nothing fits.
#[test]
fn holes_that_nothing_is_known_about_stay() {
    let cancel = Cancel::new();
    for (window, holes) in
        [(Window::sized(9, 7), vec![[0, 0, 9, 7]]), (Window::sized(9, 7), vec![]), (Window::EMPTY, vec![])]
    {
        let picture = Picture::from_fn(window, |x, y| [x as f32, y as f32, 0.5, 1.0]);
        let hole = hole(window, &holes);
        assert_eq!(membrane(&picture, &hole, &cancel).unwrap(), picture);
        assert_eq!(patches(&picture, &hole, 1, &cancel).unwrap(), picture);
    }
    let thin = Window::sized(200, 3);
    let picture = Picture::flat(thin, [0.25, 0.5, 1.0, 1.0]);
    assert_eq!(
        patches(&picture, &hole(thin, &[[20, 0, 60, 3]]), 1, &cancel).unwrap().get(30, 1).unwrap()[3],
        1.0
    );
}
