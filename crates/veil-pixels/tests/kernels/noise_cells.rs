//! Checks of `noise::cells`.

use veil_pixels::noise::{Basis, Noise, Points, cell, point};
use veil_pixels::{Cancel, Window};

use crate::noise::{noise, octave};

/// Worley 1996: the distances are those that a search over all points about finds.
#[test]
fn distances_are_those_of_a_search_over_every_point() {
    for depth in [None, Some(3.37)] {
        let octave = octave(depth);
        let points = Points::new(&octave, Window::sized(60, 40));
        for step in 0..2000 {
            let place = octave.place(f64::from(step % 60), f64::from(step % 37));
            let ((i, u), (j, v)) = (cell(place[0]), cell(place[1]));
            let (k, w) = depth.map_or((0, 0.0), cell);
            let layers = if depth.is_some() { -4..=4 } else { 0..=0 };
            let mut all = Vec::new();
            for c in layers {
                for b in -4..=4 {
                    for a in -4..=4 {
                        let [x, y, z] = point(octave.seed, i + a, j + b, k + c);
                        let z = if depth.is_some() { c as f32 + z - w } else { 0.0 };
                        all.push((a as f32 + x - u).hypot(b as f32 + y - v).hypot(z));
                    }
                }
            }
            all.sort_by(f32::total_cmp);
            let found = points.nearest(place);
            assert!((found.first - all[0]).abs() < 1e-5 && (found.second - all[1]).abs() < 1e-5);
        }
    }
}

/// A row is looked at many pixels at a time; each gets the bits that it gets alone, in cells far larger than pixels and
/// far smaller ones, turned or not.
#[test]
fn a_row_of_pixels_is_each_of_them() {
    for (size, angle, depth) in
        [(24.0, 0.0, None), (9.0, 0.4, None), (1.3, 0.0, None), (14.0, 0.2, Some(1.8))]
    {
        for basis in [Basis::Cells, Basis::Walls] {
            let noise = Noise { basis, size: [size, 0.7 * size], angle, depth, ..noise() };
            let window = Window::new(-31, -7, 64, 12);
            let made = noise.over(window, 1.0, &Cancel::new()).unwrap();
            let octave = noise.octaves(1.0)[0];
            let points = Points::new(&octave, window);
            for y in window.y0..window.y1 {
                for x in window.x0..window.x1 {
                    let found = points.nearest(octave.place(f64::from(x), f64::from(y)));
                    let apart = if basis == Basis::Cells { found.first } else { found.second - found.first };
                    assert_eq!(made.get(x, y).unwrap(), 2.0 * apart - 1.0, "{noise:?} at {x}, {y}");
                }
            }
        }
    }
}
