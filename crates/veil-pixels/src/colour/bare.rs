//! Operations on colour without its alpha, brought to premultiplied pixels.
//!
//! - Where alpha is 1 or more the operation works on the colour as it is, where it is between 0 and 1 on the colour divided
//!   by alpha, and the result is multiplied by it again.
//! - Nothing stays nothing: where there is neither coverage nor light, no operation makes light, and near there little.
//! - Light without coverage, as glows and arcs are, counts as if it had just enough coverage for its brightest channel to
//!   be white; of what the operation makes of black, it gets none by that. So what is linear changes it as it changes all
//!   else, a curve that leaves white where it is leaves it, and all goes over evenly into what has some coverage.
//! - What is brighter than white keeps its own alpha as long as that is not next to nothing: a pixel of coverage `a` may be
//!   `1 + 100 a` times as bright as white before any of its light counts as light without coverage.

use multiversion::multiversion;

use crate::{Cancel, Cancelled, Picture, Rgba};

/// How much brighter than white a colour may be, for each part of coverage that it has.
const BRIGHTER: f32 = 100.0;

/// The coverage by which a pixel's colour is divided: its alpha, or what its light would have where that is more. 0 only
/// where nothing is.
#[inline(always)]
fn counted([r, g, b, a]: Rgba, white: f32) -> f32 {
    if a >= 1.0 {
        return a;
    }
    let brightest = r.abs().max(g.abs()).max(b.abs()) / white;
    let alpha = a.max(0.0);
    (brightest / (1.0 + BRIGHTER * alpha)).min(1.0).max(alpha)
}

/// A premultiplied pixel's colour without its coverage; nothing is black.
#[inline(always)]
pub fn bare(pixel: Rgba) -> [f32; 3] {
    let [r, g, b, _] = pixel;
    let counted = counted(pixel, 1.0);
    if counted == 1.0 || counted == 0.0 { [r, g, b] } else { [r / counted, g / counted, b / counted] }
}

/// An operation on colour, for premultiplied pixels.
#[derive(Clone, Copy, Debug)]
pub struct OnColour<F> {
    change: F,
    /// The numbers that stand for no light, and how far above them those are that stand for white.
    black: f32,
    white: f32,
    /// What becomes of black.
    made_of_black: [f32; 3],
}

impl<F: Fn([f32; 3]) -> [f32; 3]> OnColour<F> {
    /// An operation on light.
    pub fn new(change: F) -> Self {
        Self::between(change, 0.0, 1.0)
    }

    /// An operation on numbers of which `black` stands for no light and `white` for white, above it.
    pub fn between(change: F, black: f32, white: f32) -> Self {
        let made_of_black = change([black; 3]);
        Self { change, black, white: white - black, made_of_black }
    }

    /// What becomes of a premultiplied pixel. Its alpha stays.
    #[inline(always)]
    pub fn at(&self, pixel: Rgba) -> Rgba {
        let [r, g, b, a] = pixel;
        if a == 1.0 {
            let [r, g, b] = (self.change)([r, g, b]);
            return [r, g, b, a];
        }
        let counted = counted(pixel, self.white);
        if counted == 0.0 {
            return [0.0, 0.0, 0.0, a];
        }
        // Light without coverage lies above black, and black of no coverage is nothing.
        let without = counted - a.clamp(0.0, counted);
        let made = (self.change)([r, g, b].map(|value| (value + without * self.black) / counted));
        let of = |channel: usize| made[channel] * counted - without * self.made_of_black[channel];
        [of(0), of(1), of(2), a]
    }

    /// What becomes of a premultiplied pixel whose alpha becomes another. Where it had none, black comes in with it.
    pub fn under(&self, pixel: Rgba, alpha: f32) -> Rgba {
        let [r, g, b, before] = self.at(pixel);
        let black = self.made_of_black;
        let of = |made: f32, channel: usize| {
            if before > 0.0 { made * (alpha / before) } else { made + black[channel] * alpha }
        };
        [of(r, 0), of(g, 1), of(b, 2), alpha]
    }

    /// Every pixel of a picture.
    pub fn over(&self, picture: &Picture, cancel: &Cancel) -> Result<Picture, Cancelled>
    where
        F: Sync,
    {
        picture.map(cancel, |pixel: Rgba| self.at(pixel))
    }
}

/// Pixels that are worked on together.
pub const RUN: usize = 64;

/// Red, green and blue of a run of pixels.
pub type Planes = [[f32; RUN]; 3];

/// Changes a row: what is opaque for a run of pixels plane by plane, so that a register holds many, the rest pixel by pixel.
/// `planes` must give, of each pixel, the bits that `alone` gives.
#[inline(always)]
pub fn in_runs(row: &mut [Rgba], planes: impl Fn(&mut Planes), alone: impl Fn(Rgba) -> Rgba) {
    let (runs, rest) = row.as_chunks_mut::<RUN>();
    for run in runs {
        change_run(run, &planes, &alone);
    }
    if !rest.is_empty() {
        let mut run = [[0.0, 0.0, 0.0, 1.0]; RUN];
        run[..rest.len()].copy_from_slice(rest);
        change_run(&mut run, &planes, &alone);
        rest.copy_from_slice(&run[..rest.len()]);
    }
}

#[inline(always)]
fn change_run(run: &mut [Rgba; RUN], planes: &impl Fn(&mut Planes), alone: &impl Fn(Rgba) -> Rgba) {
    if run.iter().fold(false, |seen, pixel| seen | (pixel[3] != 1.0)) {
        run.iter_mut().for_each(|pixel| *pixel = alone(*pixel));
        return;
    }
    let mut held = [[0.0f32; RUN]; 3];
    for at in 0..RUN {
        let [r, g, b, _] = run[at];
        (held[0][at], held[1][at], held[2][at]) = (r, g, b);
    }
    planes(&mut held);
    for at in 0..RUN {
        run[at] = [held[0][at], held[1][at], held[2][at], 1.0];
    }
}

/// Changes every colour value of a row, of red, green and blue alike, as [`OnColour`] does it.
#[multiversion(targets("x86_64+avx512f+avx512dq+avx512vl", "x86_64+avx2", "aarch64+neon"))]
pub fn values_row<F: Fn(f32) -> f32 + Copy>(row: &mut [Rgba], change: F) {
    let changed = OnColour::new(|colour: [f32; 3]| colour.map(change));
    let planes =
        |planes: &mut Planes| planes.as_flattened_mut().iter_mut().for_each(|value| *value = change(*value));
    in_runs(row, planes, |pixel| changed.at(pixel));
}
