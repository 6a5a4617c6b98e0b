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

use multiversion::multiversion;
use rayon::prelude::*;
use std::sync::OnceLock;

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
/// Layers from this one on, before and behind, are of radii of five pixels and more: they are spread over blocks of two by two pixels,
/// and read between these.
const COARSE: i32 = 6;
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

/// The openings at all radii up to the largest, made when they are first asked for.
struct Spreads {
    opening: Opening,
    /// Of a row.
    lines: u32,
    /// Behind the focus and before it, each for light from a quarter above a pixel's middle, from there, and from a quarter below.
    sides: [[Vec<OnceLock<Spread>>; 3]; 2],
}

impl Spreads {
    fn new(opening: Opening, largest: f32, lines: u32) -> Self {
        let count = (largest * FINE).ceil() as usize + 1;
        let none = || std::iter::repeat_with(OnceLock::new).take(count).collect();
        Self { opening, lines, sides: [(); 2].map(|()| [(); 3].map(|()| none())) }
    }

    /// Of a radius, for light from so many quarters below a pixel's middle.
    fn of(&self, radius: f32, below: i32) -> &Spread {
        let is_before = radius < 0.0;
        let side = &self.sides[usize::from(is_before)][(below + 1) as usize];
        let at = if radius.abs() < SHARP { 0 } else { (radius.abs() * FINE).round() as usize };
        let at = at.min(side.len() - 1);
        side[at]
            .get_or_init(|| self.opening.spread(at as f32 / FINE, below as f32 / 4.0, is_before, self.lines))
    }
}

/// How far is read about a pixel, where radii are at most this large.
pub fn reads(largest: f32) -> i32 {
    let largest = largest.min(LARGEST);
    around(largest.ceil() as i32 + 1) + reach(largest.max(1.0))
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
    let reach = largest.ceil() as i32 + 1;
    let about = wanted.grow(around(reach), around(reach));
    let behind = Behind::of(picture, &radii, (data, about), largest, cancel)?;
    let sources = Sources {
        picture: picture.extended(about, data, Edge::Hold),
        radii: radii.extended(about, data, Edge::Hold),
        behind,
        fine: Spreads::new(opening, largest, 1),
        // What is half as fine has edges where there are no rows.
        coarse: Spreads::new(opening, largest / 2.0 + 1.0, 2),
        reach,
    };
    sources.spread(wanted, cancel)
}

/// What is behind what is before the focus, where that hides it.
struct Behind {
    picture: Picture,
    /// Radii of it; no numbers where it is not hidden, or nothing is known.
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
                *out = if is_hidden { facts[1].max(0.0) } else { f32::NAN };
            }
        })?;
        Ok(Some(Self { picture: made, radii }))
    }
}

/// A pixel that is spread, or the pixels of a block that are in one layer.
#[derive(Clone, Copy, Default)]
struct Source {
    layer: i32,
    /// Of pixels or of blocks, and the radius likewise.
    at: [i32; 2],
    radius: f32,
    /// Premultiplied, times how much of a pixel or a block it is.
    light: Rgba,
    whole: f32,
    /// How many quarters of a block right of its middle and below its light is.
    aside: [i32; 2],
}

/// What is around a window, in pixels, so that all that falls on it is there.
const fn around(reach: i32) -> i32 {
    reach + 6
}

/// Pixels that are spread.
struct Sources {
    picture: Picture,
    radii: Field,
    behind: Option<Behind>,
    fine: Spreads,
    coarse: Spreads,
    reach: i32,
}

/// Sums of light, and of how much of it there would be if every pixel were whole.
struct Sums {
    window: Window,
    /// Pixels beside it to which steps may lead.
    room: i32,
    /// Whether every pixel is, so that alpha tells how much is whole.
    opaque: bool,
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
        lists.iter_mut().for_each(Vec::clear);
        let blocks = half(window);
        self.take(&self.picture, &self.radii, [window, blocks], lists);
        if let Some(Behind { picture, radii }) = &self.behind {
            self.take(picture, radii, [window, blocks], lists);
        }
        let mut made = vec![([0.0f32; 4], 0.0f32); window.area()];
        let opaque = lists.iter().flatten().all(|source| source.light[3] == source.whole);
        let mut fine = Sums::new(window, self.reach, opaque);
        let mut coarse = Sums::new(blocks, self.reach / 2 + 1, opaque);
        for layer in lists.iter().filter(|layer| !layer.is_empty()) {
            if layer[0].layer.abs() >= COARSE {
                add(&self.coarse, layer, &mut coarse);
                coarse.lay_blocks_over(window, &mut made);
            } else {
                add(&self.fine, layer, &mut fine);
                fine.lay_over(&mut made);
            }
        }
        made.into_iter()
            .map(|(light, whole)| if whole > 0.0 { light.map(|part| part / whole) } else { light })
            .collect()
    }

    /// Pixels, and blocks of them, whose light falls on a window, by layers; those with a radius of no size are none.
    fn take(
        &self,
        picture: &Picture,
        radii: &Field,
        [window, blocks]: [Window; 2],
        lists: &mut [Vec<Source>],
    ) {
        let far = around(self.reach) - 2;
        let about = half(window.grow(far, far));
        let x0 = radii.window().x0;
        for block_y in about.y0..about.y1 {
            let rows = [0, 1].map(|down| (picture.row(2 * block_y + down), radii.row(2 * block_y + down)));
            for block_x in about.x0..about.x1 {
                let mut block = Block::default();
                for number in 0..4 {
                    let [right, down] = [number % 2, number / 2];
                    let at = [2 * block_x + right, 2 * block_y + down];
                    let (pixels, radii) = rows[down as usize];
                    let place = (at[0] - x0) as usize;
                    let Some((pixel, radius)) = pixels.get(place).zip(radii.get(place)) else { continue };
                    if radius.is_nan() {
                        continue;
                    }
                    let layer = layer(*radius);
                    if layer.abs() >= COARSE {
                        block.add(layer, *radius, *pixel, [right, down]);
                    } else if touches(window, at, radius.abs()) {
                        let source =
                            Source { layer, at, radius: *radius, light: *pixel, whole: 1.0, aside: [0; 2] };
                        lists[(DEEPEST - layer) as usize].push(source);
                    }
                }
                for source in block.sources([block_x, block_y]) {
                    if touches(blocks, source.at, source.radius.abs()) {
                        lists[(DEEPEST - source.layer) as usize].push(source);
                    }
                }
            }
        }
    }
}

/// Four pixels, by the layers that they are in.
#[derive(Default)]
struct Block {
    /// Sums; the radius is one of pixels.
    sums: [Source; 4],
    /// Where the light of each is, times its brightness, and that.
    places: [[f32; 3]; 4],
    count: usize,
}

impl Block {
    fn add(&mut self, layer: i32, radius: f32, pixel: Rgba, [right, down]: [i32; 2]) {
        let same = self.sums[..self.count].iter().position(|source| source.layer == layer);
        let number = same.unwrap_or(self.count);
        self.count = self.count.max(number + 1);
        let (sum, place) = (&mut self.sums[number], &mut self.places[number]);
        sum.layer = layer;
        sum.radius += radius;
        sum.whole += 0.25;
        (0..4).for_each(|channel| sum.light[channel] += pixel[channel] / 4.0);
        // What is black is in its own middle.
        let bright = pixel[0].abs() + pixel[1].abs() + pixel[2].abs() + 1e-6;
        let aside = [right, down].map(|side| (2 * side - 1) as f32 * bright);
        (place[0], place[1], place[2]) = (place[0] + aside[0], place[1] + aside[1], place[2] + bright);
    }

    fn sources(&self, at: [i32; 2]) -> impl Iterator<Item = Source> {
        self.sums[..self.count].iter().zip(&self.places).map(move |(sum, [right, down, bright])| Source {
            at,
            // Of blocks, and the mean of as many pixels as there are.
            radius: sum.radius / 2.0 / (sum.whole * 4.0),
            aside: [right, down].map(|side| (side / bright).round() as i32),
            ..*sum
        })
    }
}

/// The blocks of two by two pixels that a window is read between.
fn half(window: Window) -> Window {
    let down = |at: i32| at.div_euclid(2);
    Window::new(down(window.x0) - 1, down(window.y0) - 1, down(window.x1 - 1) + 2, down(window.y1 - 1) + 2)
}

/// Adds light of some pixels over their spans, as steps up where these begin and down where they end.
#[multiversion(targets("x86_64+avx2+fma", "x86_64+sse4.1", "aarch64+neon"))]
fn add(spreads: &Spreads, some: &[Source], sums: &mut Sums) {
    let (window, room, stride) = (sums.window, sums.room, sums.stride());
    for source in some {
        let spread = spreads.of(source.radius, source.aside[1]);
        // A quarter of what a pixel gets; sums of it are exact.
        let per_part = spread.per_pixel * ONE / 4.0;
        let whole = (f64::from(source.whole) * per_part) as i64;
        let light = source.light.map(|part| (f64::from(part.clamp(-BRIGHTEST, BRIGHTEST)) * per_part) as i64);
        let parts: [[i64; 4]; 5] = std::array::from_fn(|times| light.map(|part| part * times as i64));
        // Quarters from where a row begins; a pixel's middle is two of them in.
        let left = (source.at[0] - window.x0 + room) * 4 + 2 + source.aside[0];
        for span in &spread.spans {
            let row = source.at[1] + span.down;
            if row < window.y0 || row >= window.y1 {
                continue;
            }
            let begin = (row - window.y0) as usize * stride;
            let (from, to) = ((left + span.begin) as usize, (left + span.end) as usize);
            let light = &mut sums.light[begin..begin + stride];
            for (at, up) in [(from, true), (to, false)] {
                let (pixel, share) = (at / 4, at % 4);
                let Some([own, next]) = light.get_mut(pixel..pixel + 2) else { continue };
                for channel in 0..4 {
                    let (this, rest) = (parts[4 - share][channel], parts[share][channel]);
                    own[channel] += if up { this } else { -this };
                    next[channel] += if up { rest } else { -rest };
                }
            }
            if sums.opaque {
                continue;
            }
            let wholes = &mut sums.whole[begin..begin + stride];
            for (at, sign) in [(from, 1), (to, -1)] {
                let (pixel, share) = (at / 4, (at % 4) as i64);
                let Some([own, next]) = wholes.get_mut(pixel..pixel + 2) else { continue };
                *own += sign * whole * (4 - share);
                *next += sign * whole * share;
            }
        }
    }
}

/// Whether light from a place can fall on a window.
fn touches(window: Window, [x, y]: [i32; 2], radius: f32) -> bool {
    let reach = radius.ceil() as i32 + 1;
    x + reach >= window.x0 && x - reach < window.x1 && y + reach >= window.y0 && y - reach < window.y1
}

impl Sums {
    fn new(window: Window, reach: i32, opaque: bool) -> Self {
        let room = 2 * reach + 2;
        let count = (window.width() + 2 * room as usize) * window.height();
        let whole = if opaque { Vec::new() } else { vec![0; count] };
        Self { window, room, opaque, light: vec![[0; 4]; count], whole }
    }

    fn stride(&self) -> usize {
        self.window.width() + 2 * self.room as usize
    }

    /// Lays what was added to blocks over pixels, read between them, and begins anew.
    fn lay_blocks_over(&mut self, window: Window, made: &mut [(Rgba, f32)]) {
        let wide = self.window.width();
        let mut blocks = vec![([0.0f32; 4], 0.0f32); self.window.area()];
        self.lay_over(&mut blocks);
        for (y, made) in (window.y0..).zip(made.chunks_mut(window.width())) {
            let (row, down) = before(y, self.window.y0);
            let rows = [row, row + 1].map(|row| &blocks[row * wide..(row + 1) * wide]);
            for (x, (pixel, covers)) in (window.x0..).zip(made) {
                let (column, right) = before(x, self.window.x0);
                let read = |of: &dyn Fn(&(Rgba, f32)) -> f32| {
                    let along = |row: &[(Rgba, f32)]| {
                        of(&row[column]) + (of(&row[column + 1]) - of(&row[column])) * right
                    };
                    let [above, below] = [along(rows[0]), along(rows[1])];
                    above + (below - above) * down
                };
                let own = read(&|block| block.1);
                if own == 0.0 {
                    continue;
                }
                let left = (1.0 - own).max(0.0);
                *pixel =
                    std::array::from_fn(|channel| read(&|block| block.0[channel]) + pixel[channel] * left);
                *covers = own + *covers * left;
            }
        }
    }

    /// Lays what was added over what is there, and begins anew.
    fn lay_over(&mut self, made: &mut [(Rgba, f32)]) {
        let (stride, before, width) = (self.stride(), self.room as usize, self.window.width());
        for (number, made) in made.chunks_mut(width).enumerate() {
            let row = number * stride..(number + 1) * stride;
            let wholes = if self.opaque { &mut [][..] } else { &mut self.whole[row.clone()] };
            laid_over(&mut self.light[row], wholes, before, made);
        }
    }
}

/// Sums the steps of a row, lays what they come to over pixels that begin so far on, and clears the row.
#[multiversion(targets("x86_64+avx2+fma", "x86_64+sse4.1", "aarch64+neon"))]
fn laid_over(light: &mut [[i64; 4]], wholes: &mut [i64], before: usize, made: &mut [(Rgba, f32)]) {
    let (mut sum, mut all) = ([0i64; 4], 0i64);
    let mut step = |number: usize, light: &[[i64; 4]]| {
        (0..4).for_each(|channel| sum[channel] += light[number][channel]);
        // What is opaque covers as much as its alpha says.
        all = wholes.get(number).map_or(sum[3], |whole| all + whole);
        (sum, all)
    };
    for number in 0..before {
        step(number, light);
    }
    for (number, (pixel, covers)) in made.iter_mut().enumerate() {
        let (sum, all) = step(before + number, light);
        if all != 0 {
            let own = (all as f64 / ONE) as f32;
            let left = (1.0 - own).max(0.0);
            *pixel =
                std::array::from_fn(|channel| (sum[channel] as f64 / ONE) as f32 + pixel[channel] * left);
            *covers = own + *covers * left;
        }
    }
    light.fill([0; 4]);
    wholes.fill(0);
}

/// The block before a pixel, counted from the first of a run of blocks, and how far on to the next one the pixel lies.
fn before(pixel: i32, first: i32) -> (usize, f32) {
    let block = (pixel - 1).div_euclid(2);
    ((block - first) as usize, if pixel.rem_euclid(2) == 1 { 0.25 } else { 0.75 })
}
