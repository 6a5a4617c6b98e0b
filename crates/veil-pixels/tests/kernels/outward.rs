//! Checks of `filter::outward`.

use proptest::prelude::*;
use veil_pixels::filter::outward::{outward, reach};
use veil_pixels::{Cancel, Picture, Window};

const DATA: Window = Window::new(0, 0, 160, 90);

/// Known to the left of an edge.
fn known(edge: i32, colour: impl Fn(i32, i32) -> [f32; 3] + Sync) -> Picture {
    Picture::from_fn(DATA, |x, y| {
        let [red, green, blue] = colour(x, y);
        if x < edge { [red, green, blue, 1.0] } else { [0.0; 4] }
    })
}

/// What is of one colour goes on as that colour, up to the width and no further than is said.
#[test]
fn one_colour_goes_on_as_far_as_was_said() {
    let own = [0.8, 0.25, 3.0];
    let made = outward(&known(50, |_, _| own), DATA, 30.0, DATA, &Cancel::new()).unwrap();
    for x in 50..79 {
        let pixel = made.get(x, 40).unwrap();
        (0..3).for_each(|at| assert!((pixel[at] / own[at] - 1.0).abs() < 1e-4, "{x}: {pixel:?}"));
        assert!(pixel[3] > 0.8, "{x}: {}", pixel[3]);
    }
    assert_eq!(made.get(50 + reach(30.0) + 1, 40).unwrap(), [0.0; 4]);
}

/// Near the edge a colour is that of its neighbours: two halves of other colours keep apart there.
#[test]
fn near_the_edge_it_is_the_nearest_colour() {
    let halves = |_: i32, y: i32| if y < 45 { [1.0, 0.0, 0.0] } else { [0.0, 0.0, 1.0] };
    let made = outward(&known(50, halves), DATA, 40.0, DATA, &Cancel::new()).unwrap();
    let [above, below] = [38, 52].map(|y| made.get(52, y).unwrap());
    assert!(above[0] > 0.99 && below[2] > 0.99, "{above:?} {below:?}");
    let far = made.get(85, 45).unwrap();
    assert!((far[0] - 0.5).abs() < 0.05, "{far:?}");
}

proptest! {
    /// Every colour lies between known ones, and a region is the crop of the whole.
    #[test]
    fn nothing_is_made_up(width in 1.0f32..60.0, edge in 1i32..150, turn in 0.1f32..2.0, x in 0i32..120, y in 0i32..60) {
        let colours = |x: i32, y: i32| [0.5 + 0.4 * (x as f32 * turn).sin(), 0.3, 0.5 + 0.4 * (y as f32 * turn).cos()];
        let known = known(edge, colours);
        let made = outward(&known, DATA, width, DATA, &Cancel::new()).unwrap();
        for pixel in made.pixels().iter().filter(|pixel| pixel[3] > 0.0) {
            prop_assert!((0.0999..=0.9001).contains(&pixel[0]) && (pixel[1] - 0.3).abs() < 1e-4, "{pixel:?}");
        }
        let part = Window::new(x, y, x + 40, y + 30);
        let alone = outward(&known, DATA, width, part, &Cancel::new()).unwrap();
        let wanted = made.cropped(part);
        prop_assert_eq!(alone.pixels(), wanted.pixels());
    }
}
