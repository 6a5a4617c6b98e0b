//! Exact coverage of polygons.
//!
//! - Shape: a field, the share of each pixel's square that lies inside, 0–1.
//! - Units: places in pixels of the raster; a pixel's square runs from its number to the next.
//! - Inside: where the outlines wind round a place, whichever way; where they do so twice it counts once. Within a
//!   pixel that two outlines share, their shares are summed.
//! - Accuracy: worked out in double precision and rounded to a millionth, so that a window gives the bits that the
//!   whole gives.
//! - Source: signed areas under each edge, summed along the row, as in analytic anti-aliasing since Catmull, "A Hidden-
//!   Surface Algorithm with Anti-Aliasing", 1978.

use crate::{Cancel, Cancelled, Field, Raster, Window};

/// One over this is the step that coverage is rounded to.
const STEPS: f64 = 1_048_576.0;
/// A piece of an edge narrower than this is upright.
const UPRIGHT: f64 = 1e-9;
/// The middle of a piece stays within its pixel.
const BELOW_ONE: f64 = 1.0 - f64::EPSILON;

/// A straight piece of an outline.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Edge {
    from: [f64; 2],
    to: [f64; 2],
}

/// Closed outlines, by their corners.
#[derive(Clone, Debug, Default)]
pub struct Polygon {
    edges: Vec<Edge>,
}

impl Polygon {
    /// Of outlines that each close from their last corner to their first. One with fewer than three corners is nothing.
    pub fn new(outlines: impl IntoIterator<Item = Vec<[f64; 2]>>) -> Self {
        let mut edges = Vec::new();
        for corners in outlines.into_iter().filter(|corners| corners.len() > 2) {
            let next = corners.iter().cycle().skip(1);
            edges.extend(corners.iter().zip(next).map(|(from, to)| Edge { from: *from, to: *to }));
        }
        edges.retain(|edge| {
            edge.from[1] != edge.to[1] && edge.from.iter().chain(&edge.to).all(|v| v.is_finite())
        });
        Self { edges }
    }

    /// The pixels that it covers any of.
    pub fn window(&self) -> Window {
        let ends = || self.edges.iter().flat_map(|edge| [edge.from, edge.to]);
        if self.edges.is_empty() {
            return Window::EMPTY;
        }
        let least = |axis: usize| ends().map(|end| end[axis]).fold(f64::INFINITY, f64::min);
        let most = |axis: usize| ends().map(|end| end[axis]).fold(f64::NEG_INFINITY, f64::max);
        let whole = |value: f64| value.clamp(-1.0e9, 1.0e9) as i32;
        Window::new(
            whole(least(0).floor()),
            whole(least(1).floor()),
            whole(most(0).ceil()),
            whole(most(1).ceil()),
        )
    }

    /// The coverage over a window.
    pub fn over(&self, window: Window, cancel: &Cancel) -> Result<Field, Cancelled> {
        let rows = self.by_row(window);
        Raster::written_with(
            window,
            cancel,
            || vec![0.0; window.width() + 1],
            |areas, y, row| {
                areas.fill(0.0);
                for edge in &rows[(y - window.y0) as usize] {
                    self.edges[*edge].add_to_row(f64::from(y), f64::from(window.x0), areas);
                }
                let mut sum = 0.0;
                for (out, area) in row.iter_mut().zip(areas.iter()) {
                    sum += area;
                    *out = ((sum.abs().min(1.0) * STEPS).round() / STEPS) as f32;
                }
            },
        )
    }

    /// The edges that meet each row of a window.
    fn by_row(&self, window: Window) -> Vec<Vec<usize>> {
        let mut rows = vec![Vec::new(); window.height()];
        let (top, bottom) = (f64::from(window.y0), f64::from(window.y1));
        for (number, edge) in self.edges.iter().enumerate() {
            let (first, last) =
                (edge.from[1].min(edge.to[1]).max(top), edge.from[1].max(edge.to[1]).min(bottom));
            if first < last {
                let (first, last) = ((first - top).floor() as usize, (last - top).ceil() as usize);
                rows[first..last.min(window.height())].iter_mut().for_each(|row| row.push(number));
            }
        }
        rows
    }
}

impl Edge {
    /// Adds what lies to the right of the edge in a row: to each pixel its area, to the next what is left of it, so that
    /// the sum along the row is the coverage.
    fn add_to_row(&self, y: f64, left: f64, areas: &mut [f64]) {
        let down = self.from[1] < self.to[1];
        let (upper, lower) = if down { (self.from, self.to) } else { (self.to, self.from) };
        let way = if down { 1.0 } else { -1.0 };
        let (top, bottom) = (upper[1].max(y), lower[1].min(y + 1.0));
        if bottom <= top {
            return;
        }
        let slope = (lower[0] - upper[0]) / (lower[1] - upper[1]);
        let place = |y: f64| upper[0] + (y - upper[1]) * slope - left;
        let (near, far) = (place(top).min(place(bottom)), place(top).max(place(bottom)));
        let (tall, end) = (way * (bottom - top), (areas.len() - 1) as f64);
        let mut add = |at: f64, high: f64| {
            let column = at.floor();
            let share = at - column;
            areas[column as usize] += high * (1.0 - share);
            areas[column as usize + 1] += high * share;
        };
        if far - near < UPRIGHT {
            if near < end {
                add(near.max(0.0), tall);
            }
            return;
        }
        // What lies to the left of the window is one piece; what lies to the right of it is none.
        let high = |from: f64, to: f64| tall * (to - from) / (far - near);
        if near < 0.0 {
            add(0.0, high(near, far.min(0.0)));
        }
        let mut from = near.max(0.0);
        while from < far.min(end) {
            let to = far.min(from.floor() + 1.0);
            let column = from.floor();
            add(column + ((from + to) / 2.0 - column).min(BELOW_ONE), high(from, to));
            from = to;
        }
    }
}
