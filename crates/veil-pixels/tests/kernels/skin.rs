//! Checks of `skin` and of the sheet that a lattice is.

use proptest::prelude::*;
use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::mesh::{Corners, Front, Sheet, Through};
use veil_pixels::warp::skin::{Laid, Reads};
use veil_pixels::{Cancel, Edge, Map, Picture, Raster, Window};

type Place = [f64; 2];

const SIZE: Place = [60.0, 40.0];

/// A lattice of 2 by 3 cells over a picture.
fn rest() -> Vec<Place> {
    (0..12).map(|at| [f64::from(at % 4) * SIZE[0] / 3.0, f64::from(at / 4) * SIZE[1] / 2.0]).collect()
}

fn picture(colour: impl Fn(i32, i32) -> f32 + Sync) -> Picture {
    Raster::from_fn(Window::sized(60, 40), |x, y| [colour(x, y), 0.25, 0.5, 1.0])
}

/// Where the place at rest lies that each pixel shows.
fn places(moved: &[Place], front: Front, backs: bool, window: Window) -> Map {
    let rest = rest();
    let corners = Corners { cells: [2, 3], rest: &rest, moved, added: [&[]; 2], through: Through::Corners };
    let cancel = Cancel::new();
    let window = window.grow(1, 1);
    let moves =
        Sheet::new(&corners, front, backs).unwrap().over(window, &cancel).unwrap().map(&cancel).unwrap();
    Raster::from_fn(window, |x, y| {
        let [right, down] = moves.get(x, y).unwrap();
        [x as f32 + 0.5 - right, y as f32 + 0.5 - down]
    })
}

fn shown(source: &Picture, places: Map) -> Picture {
    let cancel = Cancel::new();
    let sides = [0.0, 0.0, SIZE[0], SIZE[1]];
    let laid = Laid::new(places, None, Some(sides), &cancel).unwrap();
    let reads = Reads::of(sides, source.window(), Edge::Clear, Filter::Cubic).unwrap();
    let read = Raster::from_fn(laid.reads(reads), |x, y| source.get(x, y).unwrap_or_default());
    laid.apply(&read, reads, &cancel).unwrap()
}

fn by(way: impl Fn(Place) -> Place) -> Vec<Place> {
    rest().into_iter().map(way).collect()
}

fn texture(x: i32, y: i32) -> f32 {
    0.5 + 0.3 * ((x as f32) * 0.4).sin() * ((y as f32) * 0.3).cos()
}

#[test]
fn what_has_not_moved_is_the_picture_and_nothing_beyond_it() {
    let source = picture(texture);
    let made = shown(&source, places(&rest(), Front::Lower, true, Window::new(-3, -3, 63, 43)));
    for y in -3..43 {
        for x in -3..63 {
            assert_eq!(made.get(x, y).unwrap(), source.get(x, y).unwrap_or_default(), "{x} {y}");
        }
    }
}

/// Beside a border that runs through pixels each is covered by the share that lies within.
#[test]
fn pixels_at_the_border_are_covered_in_part() {
    let made = shown(
        &picture(|_, _| 0.75),
        places(&by(|[x, y]| [x + 10.25, y + 5.0]), Front::Lower, true, Window::sized(90, 60)),
    );
    let alpha = |x: i32| made.get(x, 20).unwrap()[3];
    assert_eq!([alpha(8), alpha(9)], [0.0; 2]);
    for (x, wanted) in [(10, 0.75), (11, 1.0), (69, 1.0), (70, 0.25), (71, 0.0)] {
        assert!((alpha(x) - wanted).abs() < 1e-3, "{x}: {}, not {wanted}", alpha(x));
    }
    let sum: f32 = made.pixels().iter().map(|pixel| pixel[3]).sum();
    assert!((sum - 60.0 * 40.0).abs() < 1.0, "as much as there is: {sum}");
}

/// Turned by a right angle it is the picture with rows and columns exchanged.
#[test]
fn a_quarter_turn_exchanges_rows_and_columns() {
    let source = picture(texture);
    let made = shown(&source, places(&by(|[x, y]| [40.0 - y, x]), Front::Lower, true, Window::sized(40, 60)));
    for y in 1..59 {
        for x in 1..39 {
            let (a, b) = (made.get(x, y).unwrap(), source.get(y, 39 - x).unwrap());
            assert!(a.iter().zip(b).all(|(a, b)| (a - b).abs() < 2e-3), "{x} {y}: {a:?}, not {b:?}");
        }
    }
}

/// Made narrow alone, stripes across that way run into one another and those along it stay: it is softened one way only.
#[test]
fn what_is_made_narrow_is_softened_that_way_alone() {
    let narrow = |source: &Picture| {
        let made =
            shown(source, places(&by(|[x, y]| [x / 6.0, y]), Front::Lower, true, Window::sized(12, 40)));
        let inside: Vec<f32> = (8..32).map(|y| made.get(5, y).unwrap()[0]).collect();
        let least = inside.iter().copied().fold(f32::MAX, f32::min);
        (least, inside.iter().copied().fold(f32::MIN, f32::max))
    };
    let (low, high) = narrow(&picture(|x, _| f32::from(u8::from(x % 2 == 0))));
    assert!((low - 0.5).abs() < 0.02 && (high - 0.5).abs() < 0.02, "{low} to {high}");
    let (low, high) = narrow(&picture(|_, y| f32::from(u8::from(y % 4 < 2))));
    assert!(low < 0.1 && high > 0.9, "{low} to {high}");
}

/// The right half folded back over the left: what is in front, and whether its back is seen, is as is asked for.
#[test]
fn of_what_is_folded_the_cells_in_front_are_seen() {
    let folded = by(|[x, y]| [if x > 30.0 { 60.0 - x } else { x } + 10.0, y + 10.0]);
    let source = picture(|x, _| if x < 30 { 0.0 } else { 1.0 });
    let red = |front, backs| {
        shown(&source, places(&folded, front, backs, Window::sized(60, 60))).get(18, 30).unwrap()[0]
    };
    assert!(red(Front::Right, true) > 0.99);
    assert!(red(Front::Left, true) < 0.01);
    assert!(red(Front::Right, false) < 0.01, "the back of the right half is not there");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    /// Wherever it lies, what it shows is where single places of the lattice go, and how much of the picture exists beside
    /// what is shown makes no difference.
    #[test]
    fn pixels_show_the_places_that_lie_on_them(ways in prop::collection::vec(prop::array::uniform2(-4.0f64..4.0), 12)) {
        let moved: Vec<Place> = rest().iter().zip(&ways).map(|(at, by)| [at[0] + by[0] + 12.0, at[1] + by[1] + 12.0]).collect();
        let window = Window::sized(84, 64);
        let places = places(&moved, Front::Lower, true, window);
        let rest = rest();
        let corners = Corners { cells: [2, 3], rest: &rest, moved: &moved, added: [&[]; 2], through: Through::Corners };
        let single = veil_pixels::warp::mesh::Places::new(&corners).unwrap();
        for (x, y) in (0..64).step_by(7).flat_map(|y| (0..84).step_by(5).map(move |x| (x, y))) {
            let shown = places.get(x, y).unwrap();
            let back = single.back([f64::from(x) + 0.5, f64::from(y) + 0.5]).unwrap();
            let is_well_within = (1.0..SIZE[0] - 1.0).contains(&back[0]) && (1.0..SIZE[1] - 1.0).contains(&back[1]);
            if is_well_within {
                prop_assert!((f64::from(shown[0]) - back[0]).hypot(f64::from(shown[1]) - back[1]) < 0.02);
            }
        }
        let small = picture(texture);
        let large: Picture = Raster::from_fn(Window::new(-20, -20, 90, 80), |x, y| small.get(x, y).unwrap_or_default());
        let (a, b) = (shown(&small, places.clone()), shown(&large, places));
        for (a, b) in a.pixels().iter().zip(b.pixels()) {
            prop_assert!(a.iter().zip(b).all(|(a, b)| (a - b).abs() < 1e-6), "{a:?}, not {b:?}");
        }
    }
}
