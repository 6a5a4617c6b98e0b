//! From one signal to another by an amount and a matte.
//!
//! - Shape: two rasters of the same window; the matte covers it too.
//! - Range: where amount times matte is 0 the result is `from`, where it is 1 it is `to`, bit for bit.

use crate::buffer::raster::Pixel;
use crate::{Cancel, Cancelled, Field, Raster};

/// `from + (to − from) · amount · matte`.
pub fn mix<P: Pixel>(
    from: &Raster<P>,
    to: &Raster<P>,
    amount: f32,
    matte: Option<&Field>,
    cancel: &Cancel,
) -> Result<Raster<P>, Cancelled> {
    debug_assert_eq!(from.window(), to.window(), "signals of one window are mixed");
    Raster::written(from.window(), cancel, |y, row| {
        row.copy_from_slice(to.row(y));
        mix_row(from.row(y), row, amount, matte.map(|matte| matte.row(y)));
    })
}

/// At each pixel the one that is seen more of, where values must not be averaged: `to` where amount times matte is at
/// least a half.
pub fn seen_more<P: Pixel>(
    from: &Raster<P>,
    to: &Raster<P>,
    amount: f32,
    matte: Option<&Field>,
    cancel: &Cancel,
) -> Result<Raster<P>, Cancelled> {
    Raster::written(from.window(), cancel, |y, row| {
        row.copy_from_slice(to.row(y));
        for (at, (out, from)) in row.iter_mut().zip(from.row(y)).enumerate() {
            if amount * matte.map_or(1.0, |matte| matte.row(y)[at]) < 0.5 {
                *out = *from;
            }
        }
    })
}

/// [`mix`] of a row of pixels, where `to` stands.
pub fn mix_row<P: Pixel>(from: &[P], to: &mut [P], amount: f32, matte: Option<&[f32]>) {
    let pairs = to.iter_mut().zip(from);
    match matte {
        None => pairs.for_each(|(to, from)| *to = share(*from, *to, amount)),
        Some(matte) => pairs.zip(matte).for_each(|((to, from), m)| *to = share(*from, *to, amount * m)),
    }
}

/// The signal made weaker: every float times amount and matte.
pub fn weaken<P: Pixel>(
    signal: &Raster<P>,
    amount: f32,
    matte: Option<&Field>,
    cancel: &Cancel,
) -> Result<Raster<P>, Cancelled> {
    mix(&Raster::clear(signal.window()), signal, amount, matte, cancel)
}

#[inline(always)]
fn share<P: Pixel>(from: P, to: P, t: f32) -> P {
    if t == 0.0 { from } else { from.mix(to, t) }
}
