//! Checks of `perspective`.

use proptest::prelude::*;
use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::perspective::*;
use veil_pixels::{Cancel, Edge, Picture, Raster, Window};

fn carried(forth: Homography) -> Carried {
    Carried { back: forth.inverse().unwrap(), filter: Filter::Cubic, edge: Edge::Clear }
}

/// By hand: a quarter turn counter-clockwise, as seen with y down, brings what is right of the origin above it.
#[test]
fn a_quarter_turn_brings_the_right_side_up() {
    let [x, y] = Homography::turn(std::f64::consts::FRAC_PI_2).at([3.0, 0.0]).unwrap();
    assert!(x.abs() < 1e-12 && (y + 3.0).abs() < 1e-12);
}

#[test]
fn there_and_back_is_where_it_began_and_a_flat_matrix_has_no_way_back() {
    let there = Homography::from_rows([[1.2, 0.1, 30.0], [-0.2, 0.8, 11.0], [1e-4, -3e-4, 1.0]]);
    let round = there.then(there.inverse().unwrap());
    let [x, y] = round.at([420.0, 77.0]).unwrap();
    assert!((x - 420.0).abs() < 1e-9 && (y - 77.0).abs() < 1e-9);
    assert_eq!(Homography::scale(0.0, 1.0).inverse(), None);
}

#[test]
fn whole_pixels_move_bit_for_bit() {
    let data = Window::sized(40, 30);
    let noisy = Raster::from_fn(data, |x, y| ((x * 7919 + y * 104_729) % 1013) as f32 / 1013.0);
    let moved = carried(Homography::shift(5.0, -3.0)).apply(&noisy, data, data, &Cancel::new()).unwrap();
    assert_eq!(moved.get(20, 10), noisy.get(15, 13));
    assert_eq!(moved.get(2, 10), Some(0.0));
}

/// Common practice: fine stripes made ten times smaller turn into their mean, not into broad ones.
#[test]
fn stripes_made_ten_times_smaller_are_even() {
    let data = Window::sized(600, 600);
    let stripes = Raster::from_fn(data, |x, y| ((x / 2 + y / 3) % 2) as f32);
    let small = Window::sized(60, 60);
    let shrunk = carried(Homography::scale(0.1, 0.1)).apply(&stripes, data, small, &Cancel::new()).unwrap();
    for y in 10..50 {
        for value in &shrunk.row(y)[10..50] {
            assert!((value - 0.5).abs() < 0.02, "{value}");
        }
    }
}

/// Made smaller evenly it is softened once, by a hair of perspective place by place; no one can tell which, inside
/// and beyond the border.
#[test]
fn what_is_softened_evenly_is_what_is_softened_place_by_place() {
    let data = Window::new(-3, 5, 90, 75);
    let waves = Raster::from_fn(data, |x, y| 0.5 + 0.4 * (x as f32 * 0.31).sin() * (y as f32 * 0.23).cos());
    let wanted = Window::new(-12, -8, 60, 52);
    for edge in [Edge::Clear, Edge::Hold, Edge::Mirror, Edge::Repeat] {
        let made = |hair: f64| {
            let turned = Homography::turn(0.2).then(Homography::scale(0.45, 0.6)).rows();
            let forth = Homography::from_rows([turned[0], turned[1], [hair, 0.0, 1.0]]);
            let carried = Carried { edge, ..carried(forth) };
            carried.apply(&waves, data, wanted, &Cancel::new()).unwrap()
        };
        let (even, each) = (made(0.0), made(1e-9));
        let apart = even.pixels().iter().zip(each.pixels()).map(|(a, b)| (a - b).abs());
        let worst = apart.fold(0.0, f32::max);
        assert!(worst < 0.03, "{edge:?}: {worst}");
    }
}

/// Just below the rows that are read, what is seen of this plane goes beyond all numbers of pixels.
#[test]
fn a_horizon_right_below_the_window_ends_nothing() {
    let (window, wanted) = (Window::sized(4096, 4), Window::sized(8, 4));
    let source: Picture = Raster::from_fn(window, |x, _| [x as f32; 4]);
    let to_horizon = -(1.0 - f64::EPSILON / 2.0) / 8.0;
    let back = Homography::from_rows([[0.1, 0.0, 0.0], [0.0, 0.1, 0.0], [0.0, to_horizon, 1.0]]);
    let seen = Carried { back, filter: Filter::Linear, edge: Edge::Hold };
    let made = seen.apply(&source, window, wanted, &Cancel::new()).unwrap();
    assert!(made.pixels().iter().flatten().all(|value| value.is_finite()));
}

proptest! {
    /// However much is made smaller, and however far off it lies.
    #[test]
    fn a_region_is_the_crop_of_the_whole(
        turn in -3.2f64..3.2, scale in prop::array::uniform2(-3.0f64..3.0), shear in -8.0f64..8.0,
        pivot in prop::array::uniform2(-300.0f64..300.0), hair in prop_oneof![Just(0.0), -1e-3f64..1e-3],
        x in 0i32..60, y in 0i32..40, w in 1i32..36, h in 1i32..24,
        edge in prop::sample::select(vec![Edge::Clear, Edge::Hold, Edge::Mirror, Edge::Repeat]),
    ) {
        let data = Window::sized(96, 64);
        let noisy = Raster::from_fn(data, |x, y| ((x * 7919 + y * 104_729) % 1013) as f32 / 1013.0);
        let rows = Homography::shift(-pivot[0], -pivot[1])
            .then(Homography::scale(10f64.powf(scale[0]), 10f64.powf(scale[1])))
            .then(Homography::shear(shear))
            .then(Homography::turn(turn))
            .then(Homography::shift(pivot[0], pivot[1]))
            .rows();
        let back = Homography::from_rows([rows[0], rows[1], [hair, 0.0, 1.0]]);
        let carried = Carried { back, filter: Filter::Cubic, edge };
        let given = |wanted: Window| {
            let source = noisy.cropped(carried.reads(wanted, data));
            carried.apply(&source, data, wanted, &Cancel::new()).unwrap()
        };
        let part = Window::new(x, y, x + w, y + h);
        prop_assert_eq!(given(part), given(data).cropped(part));
    }
}
