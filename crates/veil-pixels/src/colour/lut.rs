//! Colours looked up in a table.
//!
//! - Shape: three floats in, three out; alpha is left alone by taking colours without it.
//! - Range: what lies outside a table's domain is read at its border.
//! - A line of entries is read straight between two; a cube by the tetrahedron of its cell that holds the place.
//! - Source of the tetrahedra: Kasson, Nin, Plouffe and Hafner, "Performing Color Space Conversions with
//!   Three-Dimensional Linear Interpolation", 1995.

use crate::{Cancel, Cancelled, Picture, Rgba};

use super::{premultiplied, unpremultiplied};

/// Entries of a table.
#[derive(Clone, Debug, PartialEq)]
pub enum Entries {
    /// Channel by channel: at least two.
    Line(Vec<[f32; 3]>),
    /// `side`³ of them, red fastest; a side of at least two.
    Cube {
        /// Along each axis.
        side: usize,
        /// All of them.
        colours: Vec<[f32; 3]>,
    },
}

/// A table with where it is read.
#[derive(Clone, Debug, PartialEq)]
pub struct Lut {
    /// Colour of the first entries.
    pub low: [f32; 3],
    /// Colour of the last entries, above the first by channel.
    pub high: [f32; 3],
    /// What is looked up.
    pub entries: Entries,
}

impl Lut {
    /// The colour that a colour becomes. What is not a number counts as the lowest.
    pub fn at(&self, colour: [f32; 3]) -> [f32; 3] {
        let place: [f32; 3] = std::array::from_fn(|at| {
            let share = (colour[at] - self.low[at]) / (self.high[at] - self.low[at]);
            if share > 0.0 { share.min(1.0) } else { 0.0 }
        });
        match &self.entries {
            Entries::Line(line) => std::array::from_fn(|at| {
                let (index, t) = step(place[at], line.len());
                line[index][at] + (line[index + 1][at] - line[index][at]) * t
            }),
            Entries::Cube { side, colours } => in_cube(colours, *side, place),
        }
    }

    /// Every colour of a premultiplied picture.
    pub fn apply(&self, picture: &Picture, cancel: &Cancel) -> Result<Picture, Cancelled> {
        picture.map(cancel, |pixel: Rgba| {
            let [r, g, b, alpha] = unpremultiplied(pixel);
            let [r, g, b] = self.at([r, g, b]);
            premultiplied([r, g, b, alpha])
        })
    }
}

/// The entry before a share of the way along `count` of them, and how far beyond it.
fn step(share: f32, count: usize) -> (usize, f32) {
    let place = share * (count - 1) as f32;
    let index = (place as usize).min(count - 2);
    (index, place - index as f32)
}

fn in_cube(colours: &[[f32; 3]], side: usize, place: [f32; 3]) -> [f32; 3] {
    let steps = place.map(|share| step(share, side));
    let strides = [1, side, side * side];
    let start: usize = (0..3).map(|axis| steps[axis].0 * strides[axis]).sum();
    // From the near corner to the far one, along the axis on which the place is farthest first.
    let mut order = [0, 1, 2];
    order.sort_by(|a, b| steps[*b].1.total_cmp(&steps[*a].1));
    let mut at = start;
    let mut sum = colours[start];
    for axis in order {
        let next = at + strides[axis];
        let share = steps[axis].1;
        for (sum, (near, far)) in sum.iter_mut().zip(colours[at].iter().zip(colours[next])) {
            *sum += (far - near) * share;
        }
        at = next;
    }
    sum
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_cube_of_corners_gives_each_colour_back_and_holds_its_border() {
        let corner = |index: usize| [index & 1, index >> 1 & 1, index >> 2].map(|bit| bit as f32);
        let entries = Entries::Cube { side: 2, colours: (0..8).map(corner).collect() };
        let lut = Lut { low: [0.0; 3], high: [1.0; 3], entries };
        for colour in [[0.2, 0.7, 0.4], [0.9, 0.1, 0.1], [0.0, 1.0, 0.5]] {
            assert!(lut.at(colour).iter().zip(colour).all(|(a, b)| (a - b).abs() < 1e-6));
        }
        assert_eq!(lut.at([-3.0, 0.5, 9.0]), [0.0, 0.5, 1.0]);
        assert_eq!(lut.at([f32::NAN; 3]), [0.0; 3]);
    }

    #[test]
    fn a_line_is_read_between_its_entries_within_its_domain() {
        let line = Entries::Line(vec![[0.0; 3], [1.0, 2.0, 3.0], [4.0; 3]]);
        let lut = Lut { low: [-1.0; 3], high: [1.0; 3], entries: line };
        assert_eq!(lut.at([-0.5, 0.0, 0.5]), [0.5, 2.0, 3.5]);
    }
}
