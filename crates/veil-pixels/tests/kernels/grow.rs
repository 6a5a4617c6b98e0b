//! Checks of `grow`.

use veil_pixels::filter::grow::*;
use veil_pixels::{Cancel, Raster, Window};

/// Common practice: a soft edge moves by the length, to a fraction of a pixel.
#[test]
fn an_edge_moves_by_the_length_both_ways() {
    let data = Window::sized(60, 7);
    let edge = Raster::from_fn(data, |x, _| (24.3 - x as f32).clamp(0.0, 1.0));
    for length in [0.0, 0.4, 1.0, 3.7, 12.25, -0.4, -5.5] {
        let wanted = Window::new(8, 3, 50, 4);
        let moved = grown(&edge, data, length, wanted, &Cancel::new()).unwrap();
        let covered: f32 = moved.row(3).iter().sum();
        // Columns 8 to 24.3 are covered; above and below, the frame's border is only reached by the long ones.
        let room = if length < 0.0 && length.abs() > 3.0 { 0.0 } else { 16.3 + length };
        assert!((covered - room).abs() < 1e-4, "{length}: {covered}");
    }
}

/// A disc of radius 20 grown by 6.5 is one of 26.5: its area is πr².
#[test]
fn a_disc_stays_round() {
    let data = Window::new(-40, -40, 40, 40);
    let disc = |radius: f32| {
        Raster::from_fn(data, |x, y| (radius + 0.5 - (x as f32 + 0.5).hypot(y as f32 + 0.5)).clamp(0.0, 1.0))
    };
    let moved = grown(&disc(20.0), data, 6.5, data, &Cancel::new()).unwrap();
    let area: f32 = moved.pixels().iter().sum();
    let wanted = std::f32::consts::PI * 26.5 * 26.5;
    assert!((area / wanted - 1.0).abs() < 0.01, "{area} {wanted}");
    let most = moved.pixels().iter().zip(disc(26.5).pixels()).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
    assert!(most < 0.5, "{most}");
}
