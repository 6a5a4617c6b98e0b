//! A picture out of focus, by how large a point becomes at each of its pixels.
//!
//! - Shape: a premultiplied picture, and a field of radii; the result covers the window asked for.
//! - Units: radii in pixels of this picture, at most [`LARGEST`]; of what is behind the focus above 0, of what is before it below 0.
//! - Energy: each pixel's light is spread over the opening at its radius and none is lost, so that a highlight becomes a disc of
//!   its light. Light is counted in whole steps of 2⁻³⁸, so that sums are exact and a region is the crop of the whole.
//! - Depth: what has a larger radius lies behind what has a smaller one. Layers of like radii are spread each by itself and laid
//!   over each other from the back; where what is in front hides what is behind, that is made up from what is beside it, so that
//!   near things are soft over it, and far ones are mixed from what is seen of them only.
//! - Edges: the picture goes on as at its border.
//! - Sources: Potmesil and Chakravarty, "A Lens and Aperture Camera Model for Synthetic Image Generation", 1981, for the spreading;
//!   [`blur_circle`]: the thin lens, Hecht, "Optics", chapter 5.

use rayon::prelude::*;

use super::aperture::{Opening, Spread};
use crate::filter::outward::{outward, reach};
use crate::{Cancel, Cancelled, Edge, Field, Picture, Raster, Rgba, Window};

/// No radius is larger, in pixels.
pub const LARGEST: f32 = 200.0;
/// Smaller radii are sharp.
const SHARP: f32 = 0.5;
/// Radii are told apart by parts of a pixel.
const FINE: f32 = 8.0;
/// Layers to each doubling of the radius.
const LAYERS: f32 = 1.5;
/// One, in steps of light; and the brightest that is counted.
const ONE: f64 = (1u64 << 38) as f64;
const BRIGHTEST: f32 = 65_504.0;
/// Pixels that are made at once, so that their sums stay in a near cache.
const TILE: [usize; 2] = [192, 96];

/// The diameter of the circle that a point becomes on the sensor of a thin lens, in the unit of the focal length; above 0 behind the
/// focus, below 0 before it. All lengths in that unit, the focus farther off than the focal length.
pub fn blur_circle(focal: f64, f_number: f64, focus: f64, depth: f64) -> f64 {
    let from_focus = if depth.is_infinite() { 1.0 } else { (depth - focus) / depth };
    focal * focal * from_focus / (f_number * (focus - focal))
}

/// No layer is further from the focus.
const DEEPEST: i32 = 16;

/// The layer of a radius: the further behind the focus, the larger, and before it below 0.
fn layer(radius: f32) -> i32 {
    let size = radius.abs();
    if size < SHARP {
        return 0;
    }
    let far = 1 + ((size / SHARP).log2() * LAYERS) as i32;
    if radius > 0.0 { far } else { -far }
}

/// The openings at all radii up to the largest, behind the focus and before it.
struct Spreads {
    sides: [Vec<Spread>; 2],
}

impl Spreads {
    fn new(opening: Opening, largest: f32) -> Self {
        let count = (largest * FINE).ceil() as usize + 1;
        let side = |turned: bool| {
            (0..=count).into_par_iter().map(|at| opening.spread(at as f32 / FINE, turned)).collect()
        };
        Self { sides: [side(false), side(true)] }
    }

    fn of(&self, radius: f32) -> &Spread {
        let side = &self.sides[usize::from(radius < 0.0)];
        let at = if radius.abs() < SHARP { 0 } else { (radius.abs() * FINE).round() as usize };
        &side[at.min(side.len() - 1)]
    }
}

/// How far is read about a pixel, where radii are at most this large.
pub fn reads(largest: f32) -> i32 {
    let largest = largest.min(LARGEST);
    largest.ceil() as i32 + 2 + reach(largest.max(1.0))
}

/// A picture of which every pixel is spread by its radius. `picture` and `radii` hold what [`reads`] names of it, as far as it exists;
/// `data` is where it does. No radius counts for more than the largest that is given.
pub fn defocused(
    picture: &Picture,
    radii: &Field,
    data: Window,
    (opening, largest): (Opening, f32),
    wanted: Window,
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    let largest = largest.min(LARGEST);
    let limited = |radius: f32| if radius.is_nan() { 0.0 } else { radius.clamp(-largest, largest) };
    let radii = radii.map(cancel, limited)?;
    if largest < SHARP {
        return Ok(picture.extended(wanted, data, Edge::Hold));
    }
    let about = wanted.grow(largest.ceil() as i32 + 1, largest.ceil() as i32 + 1);
    let behind = Behind::of(picture, &radii, (data, about), largest, cancel)?;
    let sources = Sources {
        picture: picture.extended(about, data, Edge::Hold),
        radii: radii.extended(about, data, Edge::Hold),
        behind,
        spreads: Spreads::new(opening, largest),
        reach: largest.ceil() as i32 + 1,
    };
    sources.spread(wanted, cancel)
}

/// What is behind what is before the focus, where that hides it.
struct Behind {
    picture: Picture,
    /// Radii of it; below 0 where it is not hidden, or nothing is known.
    radii: Field,
}

impl Behind {
    /// None where nothing is before the focus.
    fn of(
        picture: &Picture,
        radii: &Field,
        (data, about): (Window, Window),
        width: f32,
        cancel: &Cancel,
    ) -> Result<Option<Self>, Cancelled> {
        let nearest = radii.pixels().iter().fold(0.0f32, |least, radius| least.min(*radius));
        if nearest > -SHARP {
            return Ok(None);
        }
        let is_open = |radius: f32| radius > -SHARP;
        let window = picture.window();
        let known: Picture = Raster::written(window, cancel, |y, row: &mut [Rgba]| {
            for ((out, pixel), radius) in row.iter_mut().zip(picture.row(y)).zip(radii.row(y)) {
                *out = if is_open(*radius) { [pixel[0], pixel[1], pixel[2], 1.0] } else { [0.0; 4] };
            }
        })?;
        let facts: Picture = Raster::written(window, cancel, |y, row: &mut [Rgba]| {
            for ((out, pixel), radius) in row.iter_mut().zip(picture.row(y)).zip(radii.row(y)) {
                *out = if is_open(*radius) { [pixel[3], *radius, 0.0, 1.0] } else { [0.0; 4] };
            }
        })?;
        let colours = outward(&known, data, width, about, cancel)?;
        let facts = outward(&facts, data, width, about, cancel)?;
        let shown = radii.extended(about, data, Edge::Hold);
        let made = Raster::written(about, cancel, |y, row: &mut [Rgba]| {
            for ((out, colour), facts) in row.iter_mut().zip(colours.row(y)).zip(facts.row(y)) {
                *out = [colour[0], colour[1], colour[2], facts[0]];
            }
        })?;
        let radii = Raster::written(about, cancel, |y, row: &mut [f32]| {
            for ((out, facts), shown) in row.iter_mut().zip(facts.row(y)).zip(shown.row(y)) {
                let is_hidden = !is_open(*shown) && facts[3] > 0.0;
                *out = if is_hidden { facts[1].max(0.0) } else { -1.0 };
            }
        })?;
        Ok(Some(Self { picture: made, radii }))
    }
}

/// A pixel that is spread: one of the picture, or of what is hidden there.
#[derive(Clone, Copy)]
struct Source {
    at: [i32; 2],
    is_hidden: bool,
}

/// Pixels that are spread.
struct Sources {
    picture: Picture,
    radii: Field,
    behind: Option<Behind>,
    spreads: Spreads,
    reach: i32,
}

/// Sums of light, and of how much of it there would be if every pixel were whole.
struct Sums {
    window: Window,
    light: Vec<[i64; 4]>,
    whole: Vec<i64>,
}

impl Sources {
    fn spread(&self, wanted: Window, cancel: &Cancel) -> Result<Picture, Cancelled> {
        let [width, height] = TILE;
        let columns = wanted.width().div_ceil(width);
        let tile = |row: usize, column: usize| {
            let (x0, y0) = (wanted.x0 + (column * width) as i32, wanted.y0 + (row * height) as i32);
            Window::new(x0, y0, x0 + width as i32, y0 + height as i32).intersect(wanted)
        };
        let tiles: Vec<Window> = (0..wanted.height().div_ceil(height))
            .flat_map(|row| (0..columns).map(move |column| (row, column)))
            .map(|(row, column)| tile(row, column))
            .collect();
        let made: Vec<Vec<Rgba>> = tiles
            .par_iter()
            .map_init(
                || vec![Vec::new(); 2 * DEEPEST as usize + 1],
                |lists, tile| {
                    cancel.check()?;
                    Ok(self.tile(*tile, lists))
                },
            )
            .collect::<Result<_, Cancelled>>()?;
        Raster::written(wanted, cancel, |y, row: &mut [Rgba]| {
            let first = (y - wanted.y0) as usize / height * columns;
            for (tile, pixels) in tiles[first..first + columns].iter().zip(&made[first..first + columns]) {
                let begin = (y - tile.y0) as usize * tile.width();
                let at = (tile.x0 - wanted.x0) as usize;
                row[at..at + tile.width()].copy_from_slice(&pixels[begin..begin + tile.width()]);
            }
        })
    }

    /// The pixels of a window, layer by layer from the back.
    fn tile(&self, window: Window, lists: &mut [Vec<Source>]) -> Vec<Rgba> {
        let about = window.grow(self.reach, self.reach);
        lists.iter_mut().for_each(Vec::clear);
        let place = |radius: f32| (DEEPEST - layer(radius)) as usize;
        for y in about.y0..about.y1 {
            let begin = (about.x0 - self.radii.window().x0) as usize;
            for (x, radius) in (about.x0..).zip(&self.radii.row(y)[begin..begin + about.width()]) {
                if touches(window, [x, y], radius.abs()) {
                    lists[place(*radius)].push(Source { at: [x, y], is_hidden: false });
                }
            }
            let Some(behind) = &self.behind else { continue };
            for (x, radius) in (about.x0..).zip(&behind.radii.row(y)[begin..begin + about.width()]) {
                if *radius >= 0.0 && touches(window, [x, y], *radius) {
                    lists[place(*radius)].push(Source { at: [x, y], is_hidden: true });
                }
            }
        }
        let mut made = vec![([0.0f32; 4], 0.0f32); window.area()];
        let mut sums = Sums::new(window);
        for layer in lists.iter().filter(|layer| !layer.is_empty()) {
            layer.iter().for_each(|source| self.add(&mut sums, *source));
            sums.lay_over(&mut made);
        }
        made.into_iter()
            .map(|(light, whole)| if whole > 0.0 { light.map(|part| part / whole) } else { light })
            .collect()
    }

    fn add(&self, sums: &mut Sums, Source { at: [x, y], is_hidden }: Source) {
        let (picture, radii) = match &self.behind {
            Some(behind) if is_hidden => (&behind.picture, &behind.radii),
            _ => (&self.picture, &self.radii),
        };
        let at = (x - radii.window().x0) as usize;
        let (pixel, spread) = (picture.row(y)[at], self.spreads.of(radii.row(y)[at]));
        // A quarter of what a pixel gets; sums of it are exact.
        let per_part = spread.per_pixel * ONE / 4.0;
        let light = pixel.map(|part| (f64::from(part.clamp(-BRIGHTEST, BRIGHTEST)) * per_part) as i64);
        sums.add(&spread.spans, [x, y], light, per_part as i64);
    }
}

/// Whether light from a place can fall on a window.
fn touches(window: Window, [x, y]: [i32; 2], radius: f32) -> bool {
    let reach = radius.ceil() as i32 + 1;
    x + reach >= window.x0 && x - reach < window.x1 && y + reach >= window.y0 && y - reach < window.y1
}

impl Sums {
    fn new(window: Window) -> Self {
        // One more at the end of each row: where a span ends beyond it.
        let count = (window.width() + 1) * window.height();
        Self { window, light: vec![[0; 4]; count], whole: vec![0; count] }
    }

    /// Adds light over spans, as steps up where they begin and down where they end.
    fn add(&mut self, spans: &[super::aperture::Span], [x, y]: [i32; 2], light: [i64; 4], whole: i64) {
        let (width, window) = (self.window.width() as i32, self.window);
        for span in spans {
            let row = y + span.down;
            if row < window.y0 || row >= window.y1 {
                continue;
            }
            let begin = (row - window.y0) as usize * (width as usize + 1);
            // Quarters from the left border of the window; a pixel's middle is two of them in.
            let left = (x - window.x0) * 4 + 2;
            let (rows, whole_row) = (
                &mut self.light[begin..=begin + width as usize],
                &mut self.whole[begin..=begin + width as usize],
            );
            for (at, sign) in [(left + span.begin, 1), (left + span.end, -1)] {
                let (pixel, parts) = (at.div_euclid(4), i64::from(at.rem_euclid(4)));
                if pixel >= width {
                    continue;
                }
                let (pixel, parts) = if pixel < 0 { (0, 0) } else { (pixel as usize, parts) };
                let (own, next) = (sign * (4 - parts), sign * parts);
                for channel in 0..4 {
                    rows[pixel][channel] += light[channel] * own;
                }
                whole_row[pixel] += whole * own;
                if parts > 0 {
                    for channel in 0..4 {
                        rows[pixel + 1][channel] += light[channel] * next;
                    }
                    whole_row[pixel + 1] += whole * next;
                }
            }
        }
    }

    /// Lays what was added over what is there, and begins anew.
    fn lay_over(&mut self, made: &mut [(Rgba, f32)]) {
        let width = self.window.width();
        let rows = self.light.chunks_mut(width + 1).zip(self.whole.chunks_mut(width + 1));
        for ((light, whole), made) in rows.zip(made.chunks_mut(width)) {
            let (mut sum, mut all) = ([0i64; 4], 0i64);
            for ((light, whole), (pixel, covers)) in light.iter_mut().zip(whole.iter_mut()).zip(made) {
                for channel in 0..4 {
                    sum[channel] += light[channel];
                }
                all += *whole;
                (*light, *whole) = ([0; 4], 0);
                if all != 0 {
                    let own = (all as f64 / ONE) as f32;
                    let left = (1.0 - own).max(0.0);
                    *pixel = std::array::from_fn(|channel| {
                        (sum[channel] as f64 / ONE) as f32 + pixel[channel] * left
                    });
                    *covers = own + *covers * left;
                }
            }
            (light[width], whole[width]) = ([0; 4], 0);
        }
    }
}
