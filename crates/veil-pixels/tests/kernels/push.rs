//! Checks of `push`.

use veil_pixels::warp::push::*;
use veil_pixels::{Cancel, Map, Raster, Window};

/// Divergence and curl, y down, by central differences at a place away from the centre.
fn divergence_and_curl(map: &Map, x: i32, y: i32) -> [f32; 2] {
    let at = |x, y| map.get(x, y).unwrap();
    let along = |axis: usize| (at(x + 1, y)[axis] - at(x - 1, y)[axis]) / 2.0;
    let down = |axis: usize| (at(x, y + 1)[axis] - at(x, y - 1)[axis]) / 2.0;
    [along(0) + down(1), along(1) - down(0)]
}

/// By mathematics: v = (x, y) has divergence 2 and no curl; turned by 90° it has curl and no divergence; with x and y
/// swapped it has neither.
#[test]
fn outward_spreads_turned_twists_and_swapped_is_a_saddle() {
    let (window, cancel) = (Window::sized(80, 60), Cancel::new());
    let centre = [31.0, 22.0];
    // The field is the distance, so that the map is the place itself.
    let distance =
        Raster::from_fn(window, |x, y| (x as f32 + 0.5 - centre[0]).hypot(y as f32 + 0.5 - centre[1]));
    let of = |direction| push(&distance, 0.0, &direction, window, &cancel).unwrap();
    let quarter = std::f32::consts::FRAC_PI_2;
    let outward = of(Direction::Outward(centre, 0.0));
    let twist = of(Direction::Outward(centre, quarter));
    let swapped = outward.map(&cancel, |[x, y]| [y, x]).unwrap();
    for (x, y) in [(50, 40), (12, 9), (60, 20), (31, 50)] {
        for (map, wanted) in [(&outward, [2.0, 0.0]), (&twist, [0.0, -2.0]), (&swapped, [0.0, 0.0])] {
            let got = divergence_and_curl(map, x, y);
            assert!(
                (got[0] - wanted[0]).abs() < 1e-3 && (got[1] - wanted[1]).abs() < 1e-3,
                "{got:?} not {wanted:?}"
            );
        }
    }
    let along = of(Direction::Along(&outward, quarter));
    assert!(
        along
            .pixels()
            .iter()
            .zip(twist.pixels())
            .all(|(a, b)| (0..2).all(|axis| (a[axis] - b[axis]).abs() < 1e-4))
    );
}

#[test]
fn up_is_up_and_the_still_value_moves_nothing() {
    let (window, cancel) = (Window::sized(2, 1), Cancel::new());
    let field = Raster::from_fn(window, |x, _| if x == 0 { 0.5 } else { 0.75 });
    let up = push(&field, 0.5, &Direction::Angle(std::f32::consts::FRAC_PI_2), window, &cancel).unwrap();
    assert_eq!(up.get(0, 0).unwrap().map(f32::abs), [0.0, 0.0]);
    let [x, y] = up.get(1, 0).unwrap();
    assert!(x.abs() < 1e-6 && (y + 0.25).abs() < 1e-6, "{x} {y}");
}
