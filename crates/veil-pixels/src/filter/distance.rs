//! How far each pixel is from the nearest one of a matte.
//!
//! - Shape: one float a pixel; the result covers the window asked for.
//! - Units: pixels of the raster, between pixel centres; exact.
//! - A pixel belongs to the matte where its coverage is at least ½. Outside its data there is none.
//! - Source: Felzenszwalb and Huttenlocher, "Distance Transforms of Sampled Functions", 2012.

use rayon::prelude::*;

use crate::{Cancel, Cancelled, Edge, Field, Raster, Window};

/// Coverage from which a pixel belongs to a matte.
const BELONGS: f32 = 0.5;

/// Distances of `wanted` to the nearest pixel of the matte, or of what it leaves out, no farther than `most`, at least
/// 1. `data` is where the matte exists; `source` must hold what lies in it within `most` of `wanted`.
pub fn distance(
    source: &Field,
    data: Window,
    to: Side,
    most: f32,
    wanted: Window,
    cancel: &Cancel,
) -> Result<Field, Cancelled> {
    let reach = most.ceil() as i32;
    let read = source.extended(wanted.grow(reach, reach), data, Edge::Clear);
    let columns = down_columns(&read, to, reach as f32, wanted, cancel)?;
    Raster::written_with(wanted, cancel, Envelope::default, |envelope, y, row| {
        let line = (y - wanted.y0) as usize;
        envelope.find(columns.len(), |column| columns[column][line]);
        envelope.write(reach as usize, most, row);
    })
}

/// Which pixels distances are measured to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Side {
    /// Those of the matte: 0 within it.
    Matte,
    /// Those that it leaves out: 0 outside of it.
    Rest,
}

/// By column, the distance of each pixel of `wanted`'s rows to the nearest one in its column; infinite beyond `reach`.
fn down_columns(
    read: &Field,
    to: Side,
    reach: f32,
    wanted: Window,
    cancel: &Cancel,
) -> Result<Vec<Vec<f32>>, Cancelled> {
    let window = read.window();
    let (wide, high) = (window.width(), window.height());
    let hit = |column: usize, line: usize| match to {
        Side::Matte => read.pixels()[line * wide + column] >= BELONGS,
        Side::Rest => read.pixels()[line * wide + column] < BELONGS,
    };
    let column = |column: usize| {
        cancel.check()?;
        let mut found = vec![f32::INFINITY; high];
        let mut since = f32::INFINITY;
        for (line, found) in found.iter_mut().enumerate() {
            since = if hit(column, line) { 0.0 } else { since + 1.0 };
            *found = since;
        }
        since = f32::INFINITY;
        for (line, found) in found.iter_mut().enumerate().rev() {
            since = if hit(column, line) { 0.0 } else { since + 1.0 };
            *found = found.min(since);
        }
        let skip = (wanted.y0 - window.y0) as usize;
        let within = |value: &f32| if *value <= reach { *value } else { f32::INFINITY };
        Ok(found[skip..skip + wanted.height()].iter().map(within).collect())
    };
    (0..wide).into_par_iter().with_min_len(8).map(column).collect()
}

/// The lowest of parabolas that stand over the columns.
#[derive(Default)]
struct Envelope {
    /// Columns whose parabola is lowest somewhere, from left to right, with how high it stands.
    feet: Vec<(f64, f64)>,
    /// From where on each of them is.
    from: Vec<f64>,
}

impl Envelope {
    fn find(&mut self, columns: usize, height: impl Fn(usize) -> f32) {
        self.feet.clear();
        self.from.clear();
        for column in 0..columns {
            let height = f64::from(height(column));
            if height.is_infinite() {
                continue;
            }
            let (place, square) = (column as f64, height * height);
            let mut from = f64::NEG_INFINITY;
            while let (Some(&(foot, low)), Some(&start)) = (self.feet.last(), self.from.last()) {
                from = ((square + place * place) - (low + foot * foot)) / (2.0 * (place - foot));
                if from > start {
                    break;
                }
                self.feet.pop();
                self.from.pop();
                from = f64::NEG_INFINITY;
            }
            self.feet.push((place, square));
            self.from.push(from);
        }
    }

    /// From the column `skip` on.
    fn write(&self, skip: usize, most: f32, row: &mut [f32]) {
        let mut at = 0;
        for (index, out) in row.iter_mut().enumerate() {
            let place = (skip + index) as f64;
            while self.from.get(at + 1).is_some_and(|from| *from < place) {
                at += 1;
            }
            let distance =
                self.feet.get(at).map(|(foot, low)| ((place - foot) * (place - foot) + low).sqrt());
            *out = distance.map_or(most, |distance| (distance as f32).min(most));
        }
    }
}
