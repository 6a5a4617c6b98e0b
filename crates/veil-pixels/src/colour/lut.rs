//! Colours looked up in a table.
//!
//! - Shape: three floats in, three out; alpha is left alone by taking colours without it.
//! - Range: what lies outside a table's domain is read at its border.
//! - A line of entries is read straight between two; a cube by the tetrahedron of its cell that holds the place.
//! - Source of the tetrahedra: Kasson, Nin, Plouffe and Hafner, "Performing Color Space Conversions with
//!   Three-Dimensional Linear Interpolation", 1995.

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
