//! Checks of `along`.

use veil_pixels::filter::along::{along, reach};
use veil_pixels::{Cancel, Edge, Field, Map, Raster, Window};

fn blurred(source: &Field, moves: &Map, edge: Edge) -> Field {
    along(source, source.window(), edge, moves, &Cancel::new()).unwrap()
}

/// By the source: an edge that moves evenly over 12 pixels while the shutter is open becomes a slope of 12 pixels about it,
/// and a picture keeps its sum.
#[test]
fn an_edge_becomes_a_slope_as_long_as_its_move() {
    let window = Window::sized(80, 9);
    let edge = Raster::from_fn(window, |x, _| if x < 40 { 0.0 } else { 1.0 });
    let seen = blurred(&edge, &Raster::flat(window, [12.0, 0.0]), Edge::Hold);
    for x in 10..70 {
        let wanted = ((x as f32 + 0.5 - 40.0) / 12.0 + 0.5).clamp(0.0, 1.0);
        let found = seen.get(x, 4).unwrap();
        assert!((found - wanted).abs() < 0.03, "{x}: {found}, not {wanted}");
    }
    let dot = Raster::from_fn(window, |x, y| if (x, y) == (40, 4) { 1.0 } else { 0.0 });
    let spread = blurred(&dot, &Raster::flat(window, [9.0, 3.0]), Edge::Clear);
    assert!((spread.pixels().iter().sum::<f32>() - 1.0).abs() < 0.02);
}

#[test]
fn what_does_not_move_stays_and_no_number_counts_as_no_move() {
    let window = Window::new(-7, 3, 30, 20);
    let noisy = Raster::from_fn(window, |x, y| ((x * 7919 + y * 104_729) % 1013) as f32);
    let moves = Raster::from_fn(window, |x, _| if x % 2 == 0 { [0.0, 0.0] } else { [f32::NAN, 4.0] });
    assert_eq!(blurred(&noisy, &moves, Edge::Mirror), noisy);
    assert_eq!(reach(&moves), (1, 1));
    let far = Raster::flat(window, [f32::MAX.sqrt(), -1e9]);
    assert!(
        reach(&far).0 <= 502
            && blurred(&noisy, &far, Edge::Hold).pixels().iter().all(|value| value.is_finite())
    );
}
