//! Checks of `noise::cells`.

use veil_pixels::Window;
use veil_pixels::noise::{Points, cell, point};

use crate::noise::octave;

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
