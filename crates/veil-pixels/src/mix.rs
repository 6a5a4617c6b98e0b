//! From one signal to another by an amount and a matte.
//!
//! - Shape: two rasters of the same window; the matte covers it too.
//! - Range: where amount times matte is 0 the result is `from`, where it is 1 it is `to`, bit for bit.

use crate::raster::Pixel;
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
        let pairs = from.row(y).iter().zip(to.row(y));
        match matte {
            None => {
                for (out, (a, b)) in row.iter_mut().zip(pairs) {
                    *out = share(*a, *b, amount);
                }
            }
            Some(matte) => {
                for ((out, (a, b)), m) in row.iter_mut().zip(pairs).zip(matte.row(y)) {
                    *out = share(*a, *b, amount * m);
                }
            }
        }
    })
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    #[test]
    fn nothing_and_all_are_exact_beside_infinities() {
        let window = Window::sized(3, 1);
        let from = Raster::flat(window, [0.1f32, f32::INFINITY, -2.0, 1.0]);
        let to = Raster::flat(window, [0.7f32, 0.2, f32::INFINITY, 0.0]);
        let matte = Raster::from_fn(window, |x, _| x as f32);
        let mixed = mix(&from, &to, 1.0, Some(&matte), &Cancel::new()).unwrap();
        assert_eq!((mixed.get(0, 0), mixed.get(1, 0)), (from.get(0, 0), to.get(1, 0)));
        assert_eq!(mix(&from, &to, 0.0, None, &Cancel::new()).unwrap(), from);
    }
}
