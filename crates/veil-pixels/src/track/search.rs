//! Where a pattern may be, to about a pixel.
//!
//! - Source: normalised cross-correlation, Lewis, "Fast Normalized Cross-Correlation", 1995.

use crate::resize::block_means;
use crate::{Cancel, Cancelled, Edge, Field, Window};

/// A place that looks like the pattern.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Likely {
    /// How far from where it was looked for.
    pub(super) moved: [f64; 2],
    /// The correlation there.
    pub(super) likeness: f32,
}

/// Beyond this many pixels it is looked for on an image a quarter as fine.
const FAR: f64 = 24.0;

/// A small image of a pattern, to be looked for.
#[derive(Clone)]
pub(super) struct Patch {
    half: [f64; 2],
    fine: Small,
    coarse: Small,
}

/// An image at one to so many, as differences from its mean.
#[derive(Clone)]
struct Small {
    divisor: u32,
    wide: usize,
    values: Vec<f32>,
    spread: f32,
}

impl Small {
    fn of(image: &Field, centre: [f64; 2], half: [f64; 2], divisor: u32) -> Result<Self, Cancelled> {
        let small = shrunk(image, centre, half, divisor)?;
        let mean = small.pixels().iter().sum::<f32>() / small.pixels().len().max(1) as f32;
        let values: Vec<f32> = small.pixels().iter().map(|value| value - mean).collect();
        let spread = values.iter().map(|value| value * value).sum::<f32>().sqrt();
        Ok(Self { divisor, wide: small.window().width(), values, spread })
    }

    fn high(&self) -> usize {
        self.values.len() / self.wide.max(1)
    }
}

/// The blocks of an image about a place, so that the place lies in the middle of a block.
fn shrunk(image: &Field, centre: [f64; 2], half: [f64; 2], divisor: u32) -> Result<Field, Cancelled> {
    let step = divisor as i32;
    let span = |centre: f64, half: f64| {
        let blocks = (half / f64::from(divisor)).floor() as i32;
        let from = centre.floor() as i32 - step / 2;
        (from - blocks * step, from + (blocks + 1) * step)
    };
    let ((x0, x1), (y0, y1)) = (span(centre[0], half[0]), span(centre[1], half[1]));
    let part = image.extended(Window::new(x0, y0, x1, y1), image.window(), Edge::Hold);
    let moved = Field::from_pixels(Window::sized((x1 - x0) as u32, (y1 - y0) as u32), part.pixels().to_vec());
    block_means(&moved.unwrap_or_else(|| Field::clear(Window::sized(1, 1))), divisor, &Cancel::new())
}

impl Patch {
    /// What an image shows within so far of a centre.
    pub(super) fn new(image: &Field, centre: [f64; 2], half: [f64; 2]) -> Result<Self, Cancelled> {
        let of = |divisor| Small::of(image, centre, half, divisor);
        Ok(Self { half, fine: of(2)?, coarse: of(4)? })
    }

    /// The likeliest places within so far of a centre, the best first, at most `most`.
    pub(super) fn look(
        &self,
        image: &Field,
        centre: [f64; 2],
        reach: [f64; 2],
        most: usize,
    ) -> Result<Vec<Likely>, Cancelled> {
        let small = if reach[0].max(reach[1]) > FAR { &self.coarse } else { &self.fine };
        let (wide, high) = (small.wide, small.high());
        let area = shrunk(image, centre, [0, 1].map(|axis| self.half[axis] + reach[axis]), small.divisor)?;
        let (columns, rows) = (area.window().width(), area.window().height());
        if wide == 0 || high == 0 || columns < wide || rows < high || small.spread <= 0.0 {
            return Ok(Vec::new());
        }
        let (across, down) = (columns - wide + 1, rows - high + 1);
        let likeness: Vec<f32> = (0..across * down)
            .map(|place| correlation(small, area.pixels(), columns, place % across, place / across))
            .collect();
        let at = |x: usize, y: usize| likeness[y * across + x];
        let peak = |x: usize, y: usize| {
            let near = |place: usize, count: usize| place.saturating_sub(1)..(place + 2).min(count);
            near(y, down).all(|row| near(x, across).all(|column| at(column, row) <= at(x, y)))
        };
        let step = f64::from(small.divisor);
        let mut found: Vec<Likely> = (0..across * down)
            .map(|place| (place % across, place / across))
            .filter(|(x, y)| peak(*x, *y))
            .map(|(x, y)| {
                let from = |place: usize, count: usize| (place as f64 - (count - 1) as f64 / 2.0) * step;
                Likely { moved: [from(x, across), from(y, down)], likeness: at(x, y) }
            })
            .collect();
        found.sort_by(|a, b| b.likeness.total_cmp(&a.likeness));
        found.truncate(most);
        Ok(found)
    }
}

/// The correlation of a patch with an area, its corner at a place of the area.
fn correlation(patch: &Small, area: &[f32], columns: usize, x: usize, y: usize) -> f32 {
    let (mut product, mut sum, mut squares) = (0.0f32, 0.0f32, 0.0f32);
    for (row, values) in patch.values.chunks_exact(patch.wide).enumerate() {
        let start = (y + row) * columns + x;
        for (value, seen) in values.iter().zip(&area[start..start + patch.wide]) {
            product += value * seen;
            sum += seen;
            squares += seen * seen;
        }
    }
    let spread = (squares - sum * sum / patch.values.len() as f32).max(0.0).sqrt() * patch.spread;
    if spread > 1e-9 { product / spread } else { 0.0 }
}
