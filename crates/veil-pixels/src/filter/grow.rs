//! Fields grown and shrunk: the greatest or the least value within a round reach.
//!
//! - Shape: one float a pixel; the result covers the window asked for.
//! - Units: the reach in pixels of the raster, any fraction. The field is taken as straight between pixels, so that an
//!   edge moves by just that length.
//! - Outside its data the field is 0.
//! - Source: grey-scale dilation and erosion by a disc, Serra, "Image Analysis and Mathematical Morphology", 1982. The
//!   greatest of a run is that of two overlapping runs whose lengths are powers of two.

use crate::{Cancel, Cancelled, Edge, Field, Raster, Window};

/// How far a length is read, in whole pixels.
pub fn reach(length: f32) -> i32 {
    length.abs().ceil() as i32
}

/// The field of `wanted`, grown by `length`, or shrunk where that is negative. `data` is where it exists; `source` must
/// hold what lies in it within [`reach`] of `wanted`.
pub fn grown(
    source: &Field,
    data: Window,
    length: f32,
    wanted: Window,
    cancel: &Cancel,
) -> Result<Field, Cancelled> {
    let radius = length.abs();
    let read = source.extended(wanted.grow(reach(length), reach(length)), data, Edge::Clear);
    if radius == 0.0 {
        return Ok(read);
    }
    if length > 0.0 {
        return greatest(read, radius, wanted, cancel);
    }
    let turned = greatest(read.map(cancel, |value| -value)?, radius, wanted, cancel)?;
    turned.map(cancel, |value| -value)
}

/// The greatest value of runs of 2ⁿ pixels that start at each pixel, for each n.
fn runs(field: Field, longest: usize, cancel: &Cancel) -> Result<Vec<Field>, Cancelled> {
    let mut runs = vec![field];
    let mut length = 1;
    while 2 * length <= longest {
        let last = &runs[runs.len() - 1];
        let longer = Raster::written(last.window(), cancel, |y, row| {
            let from = last.row(y);
            let far = from.len().min(length);
            greater(from, &from[far..], row);
            let tail = from.len() - far;
            row[tail..].copy_from_slice(&from[tail..]);
        })?;
        runs.push(longer);
        length *= 2;
    }
    Ok(runs)
}

fn greater(a: &[f32], b: &[f32], out: &mut [f32]) {
    for (out, (a, b)) in out.iter_mut().zip(a.iter().zip(b)) {
        *out = a.max(*b);
    }
}

fn greatest(field: Field, radius: f32, wanted: Window, cancel: &Cancel) -> Result<Field, Cancelled> {
    let whole = radius.floor() as i32;
    let runs = runs(field, 2 * whole as usize + 1, cancel)?;
    let field = &runs[0];
    let (skip, wide) = ((wanted.x0 - field.window().x0) as usize, wanted.width());
    Raster::written(wanted, cancel, |y, row| {
        row.fill(f32::NEG_INFINITY);
        for steps in -whole..=whole {
            let height = steps as f32;
            let half = (radius * radius - height * height).max(0.0).sqrt();
            let (half, rest) = (half.floor() as usize, half.fract());
            let count = 2 * half + 1;
            let power = count.ilog2() as usize;
            let run = &runs[power].row(y + steps)[skip - half..];
            raise_to_greater(row, &run[..wide], &run[count - (1 << power)..][..wide]);
            if rest > 0.0 {
                let line = &field.row(y + steps)[skip - half - 1..];
                raise_to_mix(row, &line[1..], line, rest);
                raise_to_mix(row, &line[2 * half + 1..], &line[2 * half + 2..], rest);
            }
        }
        let rest = radius.fract();
        if rest > 0.0 {
            let line = |steps: i32| &field.row(y + steps)[skip..][..wide];
            raise_to_mix(row, line(-whole), line(-whole - 1), rest);
            raise_to_mix(row, line(whole), line(whole + 1), rest);
        }
    })
}

fn raise_to_greater(row: &mut [f32], a: &[f32], b: &[f32]) {
    for (out, (a, b)) in row.iter_mut().zip(a.iter().zip(b)) {
        *out = out.max(a.max(*b));
    }
}

/// To what lies a share of the way from `near` to `far`.
fn raise_to_mix(row: &mut [f32], near: &[f32], far: &[f32], share: f32) {
    for (out, (near, far)) in row.iter_mut().zip(near.iter().zip(far)) {
        *out = out.max(near * (1.0 - share) + far * share);
    }
}
