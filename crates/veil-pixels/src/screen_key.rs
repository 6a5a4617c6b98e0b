//! A figure taken off a green or blue screen.
//!
//! - Shape: scene-linear pictures and coverage fields over one window.
//! - Model: what is seen is `α · figure + (1 − α) · screen`, which holds for light, so it is undone in light.
//! - The screen's colour may change over the frame: it is given for every pixel, from a picture of the screen alone or
//!   [`grown`] from what is surely screen.
//! - Colour difference: how much the screen's channel lies above the larger of the other two, as a share of what it does
//!   in the screen. Source: Vlahos, US patent 4,100,569, 1978; exact for figures whose two are alike.
//! - Colour distance: how far a colour lies from the screen's at its brightness.
//! - Refined: the colour of the figure is carried from where it is solid to its edge, and the share of both colours that
//!   comes nearest to what is seen is the coverage. Source: the projection of Ruzon and Tomasi, "Alpha Estimation in
//!   Natural Images", 2000, with one colour for each side.

use crate::blur::{Sigma, gaussian};
use crate::distance::{Side, distance};
use crate::mixture::{Part, mixture};
use crate::{Cancel, Cancelled, Edge, Field, Picture, Raster, Rgba};

/// The colour of a screen.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub enum Screen {
    /// Green.
    #[default]
    Green,
    /// Blue.
    Blue,
}

impl Screen {
    const fn channel(self) -> usize {
        match self {
            Self::Green => 1,
            Self::Blue => 2,
        }
    }

    /// How far the screen's channel lies above the larger of the other two.
    pub fn excess(self, colour: Rgba) -> f32 {
        self.above(colour, 0.0)
    }

    /// How far it lies above something from the larger of the other two, at 0, to their mean, at 1.
    fn above(self, colour: Rgba, to_mean: f32) -> f32 {
        let own = self.channel();
        let [a, b] = [(own + 1) % 3, (own + 2) % 3].map(|channel| colour[channel]);
        let (larger, mean) = (a.max(b), (a + b) / 2.0);
        colour[own] - (larger + (mean - larger) * to_mean)
    }
}

/// How a colour is told from the screen's.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Method {
    /// By the screen's channel against the others.
    Difference,
    /// By how far the colour lies from the screen's; full from this share of the screen's brightness on.
    Distance(f32),
}

/// Share of the screen's excess from which a pixel is surely screen.
const SURELY: f32 = 0.8;
/// Coverage from which a pixel is surely figure.
const SOLID: f32 = 0.985;
/// From far to near: standard deviations by which the screen's colour is carried.
const SCREEN_REACH: [f32; 3] = [160.0, 40.0, 10.0];
/// The same for the figure's.
const FIGURE_REACH: [f32; 3] = [24.0, 8.0, 3.0];

fn dot(a: [f32; 3], b: [f32; 3]) -> f32 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

fn colour([r, g, b, _]: Rgba) -> [f32; 3] {
    [r, g, b]
}

fn less(a: [f32; 3], b: [f32; 3]) -> [f32; 3] {
    std::array::from_fn(|axis| a[axis] - b[axis])
}

/// The coverage of one pixel before a screen.
fn coverage(screen: Screen, method: Method, seen: Rgba, behind: Rgba) -> f32 {
    let share = match method {
        Method::Difference => {
            let whole = screen.excess(behind);
            if whole <= 0.0 { 1.0 } else { 1.0 - screen.excess(seen) / whole }
        }
        Method::Distance(reach) => {
            let (seen, behind) = (colour(seen), colour(behind));
            let strength = dot(behind, behind);
            if strength <= 0.0 || reach <= 0.0 {
                return 1.0;
            }
            let along = dot(seen, behind) / strength;
            let off = less(seen, behind.map(|value| value * along));
            dot(off, off).sqrt() / (strength.sqrt() * reach)
        }
    };
    share.clamp(0.0, 1.0)
}

/// The coverage of a figure, by each pixel alone.
pub fn matte(
    picture: &Picture,
    behind: &Picture,
    screen: Screen,
    method: Method,
    cancel: &Cancel,
) -> Result<Field, Cancelled> {
    Raster::written(picture.window(), cancel, |y, row| {
        for ((seen, behind), out) in picture.row(y).iter().zip(behind.row(y)).zip(row) {
            *out = coverage(screen, method, *seen, *behind);
        }
    })
}

/// The colour of what counts, carried to every pixel: from near where there is enough near, else from farther off.
fn carried(
    picture: &Picture,
    counts: &Field,
    reaches: &[f32],
    else_all: Rgba,
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    let window = picture.window();
    let weighed: Picture = Raster::written(window, cancel, |y, row| {
        for ((pixel, weight), out) in picture.row(y).iter().zip(counts.row(y)).zip(row) {
            *out = [pixel[0] * weight, pixel[1] * weight, pixel[2] * weight, *weight];
        }
    })?;
    let mut found = Raster::flat(window, else_all);
    for reach in reaches {
        let bell = Part { sigma: *reach, weight: 1.0 };
        let near = mixture(&weighed, window, &[bell], window, cancel)?;
        found.fill_rows(cancel, |y, row| {
            for ([r, g, b, weight], out) in near.row(y).iter().zip(row) {
                let t = ((weight - 0.004) / 0.04).clamp(0.0, 1.0);
                if t > 0.0 {
                    let colour = [r / weight, g / weight, b / weight, 1.0];
                    *out = std::array::from_fn(|at| out[at] + (colour[at] - out[at]) * t);
                }
            }
        })?;
    }
    Ok(found)
}

/// The screen's colour at every pixel, grown from where the picture surely shows it; `about` is its colour roughly.
pub fn grown(
    picture: &Picture,
    about: [f32; 3],
    screen: Screen,
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    let about = [about[0], about[1], about[2], 1.0];
    let whole = screen.excess(about);
    // A darker corner of the screen is as green for its brightness.
    let green = |pixel: Rgba| screen.excess(pixel) / pixel[screen.channel()].max(1e-6);
    let surely = |pixel: Rgba| {
        whole > 0.0 && screen.excess(pixel) > whole * 0.25 && green(pixel) > SURELY * green(about)
    };
    let counts = picture.map(cancel, |pixel: Rgba| if surely(pixel) { 1.0 } else { 0.0 })?;
    carried(picture, &counts, &SCREEN_REACH, about, cancel)
}

/// How far each pixel lies within what is wholly figure, at most `most`. A figure goes on beyond the border of the picture.
fn within_solid(matte: &Field, most: f32, cancel: &Cancel) -> Result<Field, Cancelled> {
    let (window, reach) = (matte.window(), most.ceil() as i32);
    let wide = window.grow(reach, reach);
    let full = matte.map(cancel, |coverage: f32| if coverage >= SOLID { 1.0 } else { 0.0 })?;
    distance(&full.extended(wide, window, Edge::Hold), wide, Side::Rest, most, window, cancel)
}

/// The coverage that the colours of the figure and of the screen near each pixel explain best, along an edge as wide as
/// `width`. Where no figure is near, and where its colour is the screen's, the coverage stays.
pub fn refined(
    picture: &Picture,
    behind: &Picture,
    matte: &Field,
    width: f32,
    cancel: &Cancel,
) -> Result<Field, Cancelled> {
    // By its colour alone a pixel may pass for whole far into the edge, so what counts as figure keeps away from it.
    let mut solid = within_solid(matte, width.max(1.0), cancel)?;
    solid.change(cancel, |inside| if inside >= width.max(1.0) - 0.5 { 1.0 } else { 0.0 })?;
    let figure = carried(picture, &solid, &FIGURE_REACH, [0.0; 4], cancel)?;
    Raster::written(matte.window(), cancel, |y, row| {
        let colours = picture.row(y).iter().zip(behind.row(y)).zip(figure.row(y));
        let edge = matte.row(y).iter().zip(solid.row(y));
        for (((seen, behind), figure), ((before, solid), out)) in colours.zip(edge.zip(row)) {
            let known = figure[3].clamp(0.0, 1.0);
            if *before <= 0.0 || *solid > 0.0 || known <= 0.0 {
                *out = *before;
                continue;
            }
            let behind = colour(*behind);
            let way = less(colour(*figure).map(|value| value / known), behind);
            let (length, strength) = (dot(way, way), dot(behind, behind));
            let share = dot(less(colour(*seen), behind), way) / length.max(1e-9);
            let trust = known * (length / (0.02 * strength).max(1e-9)).min(1.0);
            *out = before + (share.clamp(0.0, 1.0) - before) * trust;
        }
    })
}

/// Coverage from which on, above what is cleaned, a pixel is one of a figure.
const NEAR_FIGURE: f32 = 0.17;

/// The coverage without what is no more than `faint` and farther than `width` from any figure: noise and folds of the
/// screen. From there up to twice as much it comes back evenly.
pub fn cleaned(matte: &Field, faint: f32, width: f32, cancel: &Cancel) -> Result<Field, Cancelled> {
    let window = matte.window();
    let figure = faint + NEAR_FIGURE;
    let of_figure = matte.map(cancel, |coverage: f32| if coverage >= figure { 1.0 } else { 0.0 })?;
    // A single pixel of noise is no figure.
    let crowd = gaussian(&of_figure, window, Edge::Hold, Sigma::round(1.5), window, cancel)?;
    let near = crowd.map(cancel, |share: f32| if share >= 0.1 { 1.0 } else { 0.0 })?;
    let away = distance(&near, window, Side::Matte, width.max(1.0), window, cancel)?;
    Raster::written(window, cancel, |y, row| {
        for ((coverage, away), out) in matte.row(y).iter().zip(away.row(y)).zip(row) {
            let far = *away >= width.max(1.0) - 0.5;
            let left = if faint > 0.0 { ((coverage - faint) / faint).clamp(0.0, 1.0) } else { 1.0 };
            *out = if far { coverage * left } else { *coverage };
        }
    })
}

/// What becomes of the screen's light on the figure.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Despill {
    /// How much of it is taken off, 0–1.
    pub amount: f32,
    /// How much of the light taken off comes back, in the colour that takes its place, 0–1.
    pub back: f32,
    /// How far along the edge all that lies above the mean of the other two channels counts as the screen's, not only what
    /// lies above the larger of them, 0–1. What is warm and blurred by its motion would be left as green as it is red.
    pub tight: f32,
    /// How far that reaches into the figure, in pixels; over as much again it fades.
    pub width: f32,
}

/// How much of each pixel is edge: 1 up to `width` into the figure, none from twice that on.
fn along_edge(matte: &Field, width: f32, cancel: &Cancel) -> Result<Field, Cancelled> {
    let width = width.max(1.0);
    let mut inside = within_solid(matte, 2.0 * width, cancel)?;
    inside.change(cancel, |inside| (2.0 - inside / width).clamp(0.0, 1.0))?;
    Ok(inside)
}

/// The figure alone, premultiplied by its coverage. `toward` gives the colour that takes the place of the screen's light.
pub fn figure(
    picture: &Picture,
    behind: &Picture,
    matte: &Field,
    screen: Screen,
    despill: Despill,
    toward: impl Fn(i32, i32) -> [f32; 3] + Sync,
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    let window = picture.window();
    let edge = along_edge(matte, despill.width, cancel)?;
    Raster::written(window, cancel, |y, row| {
        let colours = picture.row(y).iter().zip(behind.row(y)).zip(matte.row(y).iter().zip(edge.row(y)));
        for (x, (((seen, behind), (alpha, edge)), out)) in (window.x0..).zip(colours.zip(row)) {
            if *alpha <= 0.0 {
                *out = [0.0; 4];
                continue;
            }
            let mut own: Rgba = std::array::from_fn(|at| (seen[at] - (1.0 - alpha) * behind[at]).max(0.0));
            own[3] = *alpha;
            let spill = screen.above(own, edge * despill.tight).max(0.0) * despill.amount;
            own[screen.channel()] -= spill;
            let light = toward(x, y);
            for (channel, light) in light.into_iter().enumerate() {
                own[channel] += spill * despill.back * light;
            }
            *out = own;
        }
    })
}
