//! Checks of `displace`.

use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::displace::*;
use veil_pixels::{Cancel, Edge, Raster, Window};

const SHARP: Displacement = Displacement { softness: 0.0, filter: Filter::Cubic, edge: Edge::Hold };

/// Common practice, as the words define it: a map value times the strength is the distance moved;
/// (3, 0) at strength 2 moves the picture six pixels to the right.
#[test]
fn a_move_of_six_to_the_right_carries_the_dot_six_to_the_right() {
    let data = Window::sized(32, 16);
    let mut dot = Raster::clear(data);
    dot.set(10, 7, 1.0);
    let moves = Moves::new(Raster::flat(data, [3.0 * 2.0, 0.0]));
    let moved = SHARP.apply(&dot, data, &moves, &Cancel::new()).unwrap();
    assert_eq!(moved.get(16, 7), Some(1.0));
    assert_eq!(moved.get(10, 7), Some(0.0));
}

#[test]
fn a_map_of_zeros_is_the_input_bit_for_bit_even_beside_infinities() {
    let data = Window::sized(21, 9);
    let mut picture = Raster::from_fn(data, |x, y| [x as f32 * 0.3, -(y as f32), 1e30, 1.0]);
    picture.set(4, 4, [f32::INFINITY, 0.0, 0.0, 1.0]);
    let still = Moves::new(Raster::clear(data));
    let soft = Displacement { softness: 2.0, ..SHARP };
    assert_eq!(soft.apply(&picture, data, &still, &Cancel::new()).unwrap(), picture);
}

#[test]
fn softness_spreads_an_edge_by_its_share_of_the_move() {
    let data = Window::sized(201, 5);
    let mut dot = Raster::clear(data);
    for y in 0..5 {
        dot.set(100, y, 1.0f32);
    }
    for (distance, softness) in [(2.0f32, 1.0f32), (6.0, 0.5), (8.0, 0.8), (10.0, 0.33)] {
        let how = Displacement { softness, ..SHARP };
        let moves = Moves::new(Raster::flat(data, [distance, 0.0]));
        let moved = how.apply(&dot, data, &moves, &Cancel::new()).unwrap();
        let row = moved.row(2);
        let sum: f32 = row.iter().sum();
        let mean: f32 = row.iter().enumerate().map(|(x, v)| x as f32 * v).sum::<f32>() / sum;
        let variance: f32 =
            row.iter().enumerate().map(|(x, v)| (x as f32 - mean).powi(2) * v).sum::<f32>() / sum;
        let wanted = (softness * distance).powi(2);
        assert!((mean - 100.0 - distance).abs() < 0.01, "mean {mean}");
        assert!((variance - wanted).abs() < 0.06 * wanted + 0.1, "{variance} for {wanted}");
    }
}
