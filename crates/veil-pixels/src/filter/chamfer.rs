//! How far each pixel is from the nearest one of up to four sets at once, nearly and quickly.
//!
//! - Shape: a float a set; the result covers the window of the seeds.
//! - Units: pixels of the raster, between pixel centres; at most 4 % off, never 0 where no seed is.
//! - Source: Borgefors, "Distance Transformations in Digital Images", 1986, of a neighbourhood of three by three with
//!   the steps that she finds best.

use crate::{Cancel, Cancelled, Raster};

/// A step to the side, and one across.
const STEPS: [f32; 2] = [0.955_09, 1.369_30];
/// Rows of the result that one worker does at once.
const BAND: usize = 96;

/// From 0 at the seeds, and anything up to `most` elsewhere, to the distances, no farther than `most`. A set with no seed
/// near is `most` away.
pub fn spread(seeds: &Raster<[f32; 4]>, most: f32, cancel: &Cancel) -> Result<Raster<[f32; 4]>, Cancelled> {
    let window = seeds.window();
    let (width, reach) = (window.width(), (most / STEPS[0]).ceil() as i32);
    Raster::written_in_bands(window, BAND, cancel, |first, band| {
        let last = first + (band.len() / width) as i32;
        let (from, to) = ((first - reach).max(window.y0), (last + reach).min(window.y1));
        let mut held = Vec::with_capacity((to - from) as usize * width);
        (from..to).for_each(|y| held.extend_from_slice(seeds.row(y)));
        for line in 0..(to - from) as usize {
            let (above, here) = held.split_at_mut(line * width);
            along(&mut here[..width], above.len().checked_sub(width).map(|start| &above[start..]));
        }
        cancel.check()?;
        for line in (0..(to - from) as usize).rev() {
            let (here, below) = held.split_at_mut((line + 1) * width);
            back(&mut here[line * width..], below.get(..width));
        }
        let skip = (first - from) as usize * width;
        band.copy_from_slice(&held[skip..skip + band.len()]);
        Ok(())
    })
}

#[inline(always)]
fn nearer(here: &mut [f32; 4], there: &[f32; 4], step: f32) {
    for (here, there) in here.iter_mut().zip(there) {
        let way = there + step;
        // As `min` would, without its care for what is no number.
        *here = if way < *here { way } else { *here };
    }
}

/// What comes from the row beside and from the left.
fn along(row: &mut [[f32; 4]], beside: Option<&[[f32; 4]]>) {
    if let Some(beside) = beside {
        from_beside(row, beside);
    }
    for at in 1..row.len() {
        let left = row[at - 1];
        nearer(&mut row[at], &left, STEPS[0]);
    }
}

/// What comes from the row beside and from the right.
fn back(row: &mut [[f32; 4]], beside: Option<&[[f32; 4]]>) {
    if let Some(beside) = beside {
        from_beside(row, beside);
    }
    for at in (1..row.len()).rev() {
        let right = row[at];
        nearer(&mut row[at - 1], &right, STEPS[0]);
    }
}

fn from_beside(row: &mut [[f32; 4]], beside: &[[f32; 4]]) {
    let last = row.len() - 1;
    for (at, here) in row.iter_mut().enumerate() {
        nearer(here, &beside[at], STEPS[0]);
        nearer(here, &beside[at.saturating_sub(1)], STEPS[1]);
        nearer(here, &beside[(at + 1).min(last)], STEPS[1]);
    }
}
