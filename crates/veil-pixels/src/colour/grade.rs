//! Colour correction of one pixel.
//!
//! - Shape: colour without its alpha, in and out.
//! - Order: exposure and the colour of the light, gain and lift, offset, contrast about the pivot, gamma, saturation.
//! - Units: exposure in stops; the rest as factors; lift and offset in linear light.
//! - Identity: exposure 0, lift 0, gain 1, offset 0, contrast 1, gamma 1, saturation 1 return the input bit for bit.
//! - Source: gain, lift and offset as in the trade (white is multiplied, black is raised while white
//!   stays, both are moved); contrast as a power about a pivot; saturation about luma.

use multiversion::multiversion;
use multiversion::target::target_cfg_f;

use crate::Rgba;
use crate::colour::bare::{OnColour, Planes, in_runs};
use crate::colour::power::power;
use crate::colour::{LUMA_709, luma};

/// A grade, each of red, green and blue apart where a colour is given.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Grade {
    /// In stops.
    pub exposure: f32,
    /// Factors of the light's own colour.
    pub light: [f32; 3],
    /// What black becomes while 1 stays.
    pub lift: [f32; 3],
    /// Factor on linear light.
    pub gain: [f32; 3],
    /// Added after gain.
    pub offset: [f32; 3],
    /// Power about the pivot.
    pub contrast: f32,
    /// The value that contrast leaves alone.
    pub pivot: f32,
    /// Middle values are raised above 1 and lowered below it.
    pub gamma: [f32; 3],
    /// 0 is grey, 1 as it is.
    pub saturation: f32,
    /// Weights of red, green and blue in the grey that saturation leaves; they sum to 1.
    pub luma: [f32; 3],
}

impl Grade {
    /// Changes nothing.
    pub const NONE: Self = Self {
        exposure: 0.0,
        light: [1.0; 3],
        lift: [0.0; 3],
        gain: [1.0; 3],
        offset: [0.0; 3],
        contrast: 1.0,
        pivot: 0.18,
        gamma: [1.0; 3],
        saturation: 1.0,
        luma: LUMA_709,
    };

    /// A grey graded by the means of its colours, without the light's colour and saturation: for alpha.
    pub fn of_grey(&self, value: f32) -> f32 {
        let mean = |colour: [f32; 3]| [(colour[0] + colour[1] + colour[2]) / 3.0; 3];
        let grey = Self {
            light: [1.0; 3],
            lift: mean(self.lift),
            gain: mean(self.gain),
            offset: mean(self.offset),
            gamma: mean(self.gamma),
            saturation: 1.0,
            ..*self
        };
        grey.apply([value; 3])[0]
    }

    /// The graded colour.
    pub fn apply(&self, colour: [f32; 3]) -> [f32; 3] {
        Grader::new(*self).apply(colour)
    }
}

/// A grade, with what is the same for every pixel worked out once.
#[derive(Clone, Copy, Debug)]
pub struct Grader {
    grade: Grade,
    /// What each channel is multiplied by first.
    factors: [f32; 3],
}

impl Grader {
    /// For many pixels.
    pub fn new(grade: Grade) -> Self {
        let exposure = if grade.exposure == 0.0 { 1.0 } else { grade.exposure.exp2() };
        let factor = |channel: usize| exposure * grade.light[channel] * grade.gain[channel];
        Self { grade, factors: [factor(0), factor(1), factor(2)] }
    }

    /// As [`Self::apply`], of a run of pixels.
    #[inline(always)]
    fn apply_planes<const FUSED: bool>(&self, planes: &mut Planes) {
        let grade = &self.grade;
        for (channel, plane) in planes.iter_mut().enumerate() {
            let (factor, lift, offset) = (self.factors[channel], grade.lift[channel], grade.offset[channel]);
            plane.iter_mut().for_each(|value| *value *= factor);
            if lift != 0.0 {
                plane.iter_mut().for_each(|value| *value += lift * (1.0 - *value));
            }
            plane.iter_mut().for_each(|value| *value += offset);
            if grade.contrast != 1.0 {
                plane
                    .iter_mut()
                    .for_each(|value| *value = power_about::<FUSED>(*value, grade.pivot, grade.contrast));
            }
            if grade.gamma[channel] != 1.0 {
                let exponent = 1.0 / grade.gamma[channel];
                plane.iter_mut().for_each(|value| *value = power_about::<FUSED>(*value, 1.0, exponent));
            }
        }
        if grade.saturation != 1.0 {
            let [red, green, blue] = planes;
            for ((r, g), b) in red.iter_mut().zip(green).zip(blue) {
                let grey = luma([*r, *g, *b, 1.0], grade.luma);
                for value in [r, g, b] {
                    *value = grey + (*value - grey) * grade.saturation;
                }
            }
        }
    }

    /// The graded colour.
    pub fn apply(&self, colour: [f32; 3]) -> [f32; 3] {
        self.graded::<false>(colour)
    }

    #[inline(always)]
    fn graded<const FUSED: bool>(&self, mut colour: [f32; 3]) -> [f32; 3] {
        let grade = &self.grade;
        for (channel, value) in colour.iter_mut().enumerate() {
            let lit = *value * self.factors[channel];
            let raised =
                if grade.lift[channel] == 0.0 { lit } else { lit + grade.lift[channel] * (1.0 - lit) };
            let moved = raised + grade.offset[channel];
            let contrasted = if grade.contrast == 1.0 {
                moved
            } else {
                power_about::<FUSED>(moved, grade.pivot, grade.contrast)
            };
            *value = if grade.gamma[channel] == 1.0 {
                contrasted
            } else {
                power_about::<FUSED>(contrasted, 1.0, 1.0 / grade.gamma[channel])
            };
        }
        if grade.saturation != 1.0 {
            let grey = luma([colour[0], colour[1], colour[2], 1.0], grade.luma);
            colour = colour.map(|value| grey + (value - grey) * grade.saturation);
        }
        colour
    }
}

/// Grades a row of premultiplied pixels, each as [`OnColour`] and [`Grader::apply`] do it.
#[multiversion(targets("x86_64+avx512f+avx512dq+avx512vl+fma", "x86_64+avx2+fma", "aarch64+neon"))]
pub fn grade_row(grader: &Grader, row: &mut [Rgba]) {
    const FUSED: bool = target_cfg_f!(target_feature = "fma");
    let graded = OnColour::new(|colour: [f32; 3]| grader.graded::<FUSED>(colour));
    in_runs(row, |planes| grader.apply_planes::<FUSED>(planes), |pixel| graded.at(pixel));
}

/// Powers of bright values stop here, far above any light, so that nothing becomes infinite.
const MOST: f32 = 1.0e15;

/// `(value / pivot)^power · pivot`, mirrored below 0, no larger than [`MOST`].
#[inline(always)]
fn power_about<const FUSED: bool>(value: f32, pivot: f32, exponent: f32) -> f32 {
    let raised = (power::<FUSED>(value.abs() / pivot, exponent) * pivot).min(MOST).copysign(value);
    if value == 0.0 { value } else { raised }
}

/// Black and white points moved, with a gamma between.
///
/// `in_low..in_high` becomes 0..1, which is raised to `1 / gamma` and becomes `out_low..out_high`.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Levels {
    /// What becomes `out_low`.
    pub in_low: f32,
    /// What becomes `out_high`. At or below `in_low` the result is a hard threshold there.
    pub in_high: f32,
    /// Middle values are raised above 1 and lowered below it.
    pub gamma: f32,
    /// See `in_low`.
    pub out_low: f32,
    /// See `in_high`.
    pub out_high: f32,
    /// What lies beyond the points is cut off.
    pub clamp: bool,
}

impl Levels {
    /// As [`Self::apply`], of many values.
    #[inline(always)]
    fn over_run<const FUSED: bool>(&self, values: &mut [f32]) {
        let span = self.in_high - self.in_low;
        if span > 0.0 {
            values.iter_mut().for_each(|value| *value = (*value - self.in_low) / span);
        } else {
            values.iter_mut().for_each(|value| *value = if *value > self.in_low { 1.0 } else { 0.0 });
        }
        if self.clamp {
            values.iter_mut().for_each(|value| *value = value.clamp(0.0, 1.0));
        }
        if self.gamma != 1.0 {
            let exponent = 1.0 / self.gamma;
            values.iter_mut().for_each(|value| *value = power_about::<FUSED>(*value, 1.0, exponent));
        }
        let wide = self.out_high - self.out_low;
        values.iter_mut().for_each(|value| *value = self.out_low + *value * wide);
    }

    /// One value.
    pub fn apply(&self, value: f32) -> f32 {
        self.moved::<false>(value)
    }

    #[inline(always)]
    fn moved<const FUSED: bool>(&self, value: f32) -> f32 {
        let span = self.in_high - self.in_low;
        let unit = if span > 0.0 {
            (value - self.in_low) / span
        } else if value > self.in_low {
            1.0
        } else {
            0.0
        };
        let unit = if self.clamp { unit.clamp(0.0, 1.0) } else { unit };
        let bent = if self.gamma == 1.0 { unit } else { power_about::<FUSED>(unit, 1.0, 1.0 / self.gamma) };
        self.out_low + bent * (self.out_high - self.out_low)
    }
}

/// Puts a row of premultiplied pixels through levels, as [`OnColour`] and [`Levels::apply`] do it.
#[multiversion(targets("x86_64+avx512f+avx512dq+avx512vl+fma", "x86_64+avx2+fma", "aarch64+neon"))]
pub fn levels_row(levels: &Levels, row: &mut [Rgba]) {
    const FUSED: bool = target_cfg_f!(target_feature = "fma");
    let changed = OnColour::new(|colour: [f32; 3]| colour.map(|value| levels.moved::<FUSED>(value)));
    in_runs(row, |planes| levels.over_run::<FUSED>(planes.as_flattened_mut()), |pixel| changed.at(pixel));
}
