//! A signal read between its pixels.
//!
//! - Units: places in pixels of the raster, pixel centres at halves.
//! - Filters: [`Filter::Nearest`]; [`Filter::Linear`], two taps an axis; [`Filter::Cubic`] and
//!   [`Filter::Mitchell`], four; [`Filter::Lanczos`], six, scaled to sum to 1.
//! - Edges: a tap outside the data window is read as the [`Edge`] says.
//! - Source of the cubic: Keys, "Cubic Convolution Interpolation for Digital Image Processing",
//!   1981, with a = −1/2 (the Catmull-Rom spline). Of the softer one: Mitchell and Netravali, "Reconstruction
//!   Filters in Computer Graphics", 1988, with B = C = 1/3. Of the windowed sinc: Duchon, "Lanczos Filtering in One
//!   and Two Dimensions", 1979, with three lobes.

use multiversion::multiversion;

use crate::buffer::raster::{Pixel, weighed_by_columns};
use crate::sample::taps;
use crate::{Edge, Raster, Rgba, Window};

/// How a place between pixels is made of the pixels around it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum Filter {
    /// The pixel that holds the place.
    Nearest,
    /// Straight between the four nearest.
    Linear,
    /// Catmull-Rom over the sixteen nearest: sharper, may overshoot an edge slightly.
    #[default]
    Cubic,
    /// Mitchell and Netravali's cubic: softer, hardly overshoots; a place at a pixel's centre is softened too.
    Mitchell,
    /// Sinc of three lobes over the thirty-six nearest: sharpest, may ring at an edge.
    Lanczos,
}

impl Filter {
    /// Whether it swings beyond the values that it reads.
    pub const fn rings(self) -> bool {
        matches!(self, Self::Cubic | Self::Mitchell | Self::Lanczos)
    }

    /// How many pixels beyond the one that holds a place are read.
    pub const fn reach(self) -> i32 {
        match self {
            Self::Nearest => 0,
            Self::Linear => 1,
            Self::Cubic | Self::Mitchell => 2,
            Self::Lanczos => 3,
        }
    }
}

/// Coverage may be this far beyond none and the whole by rounding alone.
const ROUNDING: f32 = 1e-5;

/// Whether coverage is at least none and at most the whole, but for rounding.
pub(crate) fn is_coverage(alpha: f32) -> bool {
    (-ROUNDING..=1.0 + ROUNDING).contains(&alpha)
}

/// A premultiplied pixel with its coverage between the least and the most of what it was read from, and the colour that
/// goes with it: what a filter took above the most is as light as the most, and of what it took below the least only
/// light that covers nothing is left.
pub(crate) fn covered(pixel: Rgba, [least, most]: [f32; 2]) -> Rgba {
    let [r, g, b, a] = pixel;
    if a > most {
        let share = most / a;
        [r * share, g * share, b * share, most]
    } else if a < least {
        [r.max(0.0), g.max(0.0), b.max(0.0), least]
    } else {
        pixel
    }
}

/// A raster to read at any place.
#[derive(Clone, Copy)]
pub struct Sampler<'a, P: Pixel> {
    source: &'a Raster<P>,
    window: Window,
    pixels: &'a [P],
    width: usize,
    data: Window,
    edge: Edge,
    /// How many pixels on from a place lies what is read some time later.
    ahead: isize,
}

/// So many rows of places later memory is there that is asked for now.
pub(crate) const ROWS_AHEAD: i32 = 6;

impl<'a, P: Pixel> Sampler<'a, P> {
    /// `data` is where the signal exists; what lies in it but not in `source` reads as zero.
    pub fn new(source: &'a Raster<P>, data: Window, edge: Edge) -> Self {
        let window = source.window();
        let width = window.width();
        let ahead = ROWS_AHEAD as isize * width as isize;
        Self { source, window, pixels: source.pixels(), width, data, edge, ahead }
    }

    /// The same, for places that go so many pixels right and down in [`ROWS_AHEAD`] rows. It changes no result.
    pub(crate) fn going(self, [right, down]: [isize; 2]) -> Self {
        Self { ahead: down * self.width as isize + right, ..self }
    }

    /// The value at a place. A place that is not a number, or lies beyond all reason, reads as zero or as no number.
    #[inline(always)]
    pub fn at(&self, filter: Filter, x: f32, y: f32) -> P {
        P::narrow(self.wide_at(filter, x, y))
    }

    /// As [`Self::at`], in a register.
    #[inline(always)]
    pub(crate) fn wide_at(&self, filter: Filter, x: f32, y: f32) -> P::Wide {
        match filter {
            Filter::Nearest => self.read(Nearest, x + 0.5, y + 0.5),
            Filter::Linear => self.read(Linear, x, y),
            Filter::Cubic => self.read(Cubic, x, y),
            Filter::Mitchell => self.read(Mitchell, x, y),
            Filter::Lanczos => self.read(Lanczos, x, y),
        }
    }

    #[inline(always)]
    fn read<const N: usize>(&self, weights: impl Weights<N>, x: f32, y: f32) -> P::Wide {
        self.taps(x, y, weights).unwrap_or_else(|taps| self.beyond(taps))
    }

    /// The weighed taps, or what is to be weighed where some lie outside of the raster.
    #[inline(always)]
    fn taps<const N: usize>(&self, x: f32, y: f32, weights: impl Weights<N>) -> Result<P::Wide, Taps<N>> {
        let (column, row) = ((x - 0.5).floor(), (y - 0.5).floor());
        let weights = [weights.at(x - 0.5 - column), weights.at(y - 0.5 - row)];
        let before = (N as i32 - 1) / 2;
        // Casting saturates, so that places far away stay far away.
        let first = [(column as i32).saturating_sub(before), (row as i32).saturating_sub(before)];
        let (right, down) = (first[0].wrapping_sub(self.window.x0), first[1].wrapping_sub(self.window.y0));
        let [room_x, room_y] = self.room::<N>();
        if (right as u32) < room_x && (down as u32) < room_y {
            Ok(self.weighed(down as usize * self.width + right as usize, weights))
        } else {
            Err(Taps { first, weights })
        }
    }

    /// How many columns and rows a first tap may stand in, so that the others are in the raster too.
    #[inline(always)]
    fn room<const N: usize>(&self) -> [u32; 2] {
        let room = |length: i32| length.saturating_sub(N as i32 - 1).max(0) as u32;
        [room(self.window.x1.wrapping_sub(self.window.x0)), room(self.window.y1.wrapping_sub(self.window.y0))]
    }

    /// The taps whose first is at an index of the pixels, weighed along the rows and then down.
    #[inline(always)]
    fn weighed<const N: usize>(&self, start: usize, weights: [[f32; N]; 2]) -> P::Wide {
        combined(|number| &self.pixels[start + number * self.width..][..N], &weights)
    }

    /// The values at a run of places; as [`Self::at`] gives each of them, but faster. `places` fills in where the
    /// pixels of `out` from a number on are read, by axis.
    pub fn read_run(&self, filter: Filter, places: impl FnMut(usize, &mut [f32], &mut [f32]), out: &mut [P]) {
        self.read_run_with(&mut Scratch::default(), filter, places, out);
    }

    /// The same with scratch space that was used before: clearing it takes longer than reading a short run.
    pub fn read_run_with(
        &self,
        Scratch { x, y, block }: &mut Scratch,
        filter: Filter,
        mut places: impl FnMut(usize, &mut [f32], &mut [f32]),
        out: &mut [P],
    ) {
        for (number, out) in out.chunks_mut(RUN).enumerate() {
            let (x, y) = (&mut x[..out.len()], &mut y[..out.len()]);
            places(number * RUN, x, y);
            match filter {
                Filter::Nearest => {
                    for (out, (x, y)) in out.iter_mut().zip(x.iter().zip(y.iter())) {
                        *out = self.at(Filter::Nearest, *x, *y);
                    }
                }
                Filter::Linear => read_block(self, x, y, Linear, block, out),
                Filter::Cubic => read_block(self, x, y, Cubic, block, out),
                Filter::Mitchell => read_block(self, x, y, Mitchell, block, out),
                Filter::Lanczos => read_block(self, x, y, Lanczos, block, out),
            }
        }
    }

    /// Where the first of so many taps a side must be for any of them to be in the signal, where nothing is beyond it;
    /// everywhere where something is.
    fn nothing_beyond<const N: usize>(&self) -> Window {
        const EVERYWHERE: Window = Window::new(i32::MIN, i32::MIN, i32::MAX, i32::MAX);
        let taps = N as i32 - 1;
        match self.edge {
            Edge::Clear => Window {
                x0: self.data.x0.saturating_sub(taps),
                y0: self.data.y0.saturating_sub(taps),
                ..self.data
            },
            Edge::Hold | Edge::Mirror | Edge::Repeat => EVERYWHERE,
        }
    }

    /// Taps of which some lie outside the raster.
    #[cold]
    #[inline(never)]
    fn beyond<const N: usize>(&self, Taps { first, weights }: Taps<N>) -> P::Wide {
        let touches = |first: i32, from: i32, to: i32| first < to && first.saturating_add(N as i32) > from;
        if self.edge == Edge::Clear
            && !(touches(first[0], self.data.x0, self.data.x1)
                && touches(first[1], self.data.y0, self.data.y1))
        {
            return P::Wide::default();
        }
        let taps: [[P; N]; N] = std::array::from_fn(|number| {
            std::array::from_fn(|column| {
                self.pixel(first[0].saturating_add(column as i32), first[1].saturating_add(number as i32))
            })
        });
        combined(|number| &taps[number][..], &weights)
    }

    fn pixel(&self, x: i32, y: i32) -> P {
        if self.data.is_empty() {
            return P::default();
        }
        let at = |edge: Edge| {
            Some((edge.index(x, self.data.x0, self.data.x1)?, edge.index(y, self.data.y0, self.data.y1)?))
        };
        at(self.edge).and_then(|(x, y)| self.source.get(x, y)).unwrap_or_default()
    }
}

impl Sampler<'_, Rgba> {
    /// The least and the most coverage of the pixels that a filter reads for a place, at least none and the whole.
    pub(crate) fn coverage(&self, filter: Filter, x: f32, y: f32) -> [f32; 2] {
        let (column, row) = ((x - 0.5).floor() as i32, (y - 0.5).floor() as i32);
        let reach = 1 - filter.reach()..=filter.reach();
        let taps = reach.clone().flat_map(|down| reach.clone().map(move |right| (right, down)));
        let alphas =
            taps.map(|(right, down)| self.pixel(column.saturating_add(right), row.saturating_add(down))[3]);
        alphas.fold([0.0, 1.0], |[least, most], alpha| [least.min(alpha), most.max(alpha)])
    }
}

/// Pixels to be weighed: the first one's place, and the weights by axis.
struct Taps<const N: usize> {
    first: [i32; 2],
    weights: [[f32; N]; 2],
}

/// Rows of taps, weighed down the columns and then along: the even columns and the odd ones apart, since two
/// neighbouring pixels fill a register. Two by two are mixed.
#[inline(always)]
fn combined<'r, P: Pixel, const N: usize>(
    row: impl Fn(usize) -> &'r [P],
    weights: &[[f32; N]; 2],
) -> P::Wide {
    if N == 2 {
        return P::mix_pairs(row(0), row(1), [weights[0][1], weights[1][1]]);
    }
    match weights.each_ref().map(|weights| weights.first_chunk::<4>()) {
        [Some(along), Some(down)] if N == 4 => P::weigh_four(row, [along, down]),
        _ => weighed_by_columns(row, weights.each_ref()),
    }
}

/// Places that are worked out together.
const RUN: usize = 256;

/// A filter of a known number of taps.
trait Weights<const N: usize>: Copy {
    /// Weights of the taps for a place `t` beyond the pixel centre before it, 0 ≤ t < 1.
    fn at(self, t: f32) -> [f32; N];
}

#[derive(Clone, Copy)]
struct Nearest;

impl Weights<1> for Nearest {
    /// One, unless the place is no number.
    #[inline(always)]
    fn at(self, t: f32) -> [f32; 1] {
        [1.0 + 0.0 * t]
    }
}

#[derive(Clone, Copy)]
struct Linear;

impl Weights<2> for Linear {
    #[inline(always)]
    fn at(self, t: f32) -> [f32; 2] {
        [1.0 - t, t]
    }
}

#[derive(Clone, Copy)]
struct Cubic;

impl Weights<4> for Cubic {
    #[inline(always)]
    fn at(self, t: f32) -> [f32; 4] {
        [
            ((-0.5 * t + 1.0) * t - 0.5) * t,
            (1.5 * t - 2.5) * t * t + 1.0,
            ((-1.5 * t + 2.0) * t + 0.5) * t,
            (0.5 * t - 0.5) * t * t,
        ]
    }
}

#[derive(Clone, Copy)]
struct Mitchell;

impl Weights<4> for Mitchell {
    #[inline(always)]
    fn at(self, t: f32) -> [f32; 4] {
        const SIXTH: f32 = 1.0 / 18.0;
        let near = |d: f32| ((21.0 * d - 36.0) * d * d + 16.0) * SIXTH;
        let far = |d: f32| (((-7.0 * d + 36.0) * d - 60.0) * d + 32.0) * SIXTH;
        [far(1.0 + t), near(t), near(1.0 - t), far(2.0 - t)]
    }
}

#[derive(Clone, Copy)]
struct Lanczos;

impl Weights<6> for Lanczos {
    #[inline(always)]
    fn at(self, t: f32) -> [f32; 6] {
        use std::f32::consts::PI;
        // Sines are taken of angles up to a right one, where a short series is exact to the last bits.
        let ripple = quarter_sine(PI * t.min(1.0 - t));
        let lobe = |distance: f32, sign: f32| {
            let window = quarter_sine(PI / 3.0 * distance.min(3.0 - distance));
            let weight = sign * ripple * window * 3.0 / (PI * PI * distance * distance);
            if distance == 0.0 { 1.0 } else { weight }
        };
        let weights = [
            lobe(2.0 + t, 1.0),
            lobe(1.0 + t, -1.0),
            lobe(t, 1.0),
            lobe(1.0 - t, 1.0),
            lobe(2.0 - t, -1.0),
            lobe(3.0 - t, 1.0),
        ];
        let sum = ((weights[0] + weights[1]) + (weights[2] + weights[3])) + (weights[4] + weights[5]);
        weights.map(|weight| weight / sum)
    }
}

/// Sine of an angle from 0 to a right one, by its Taylor series; within 1e-7.
#[inline(always)]
fn quarter_sine(angle: f32) -> f32 {
    let square = angle * angle;
    let series = ((((-1.0 / 39_916_800.0 * square + 1.0 / 362_880.0) * square - 1.0 / 5040.0) * square
        + 1.0 / 120.0)
        * square
        - 1.0 / 6.0)
        * square
        + 1.0;
    angle * series
}

/// A float without a fraction as a whole number, many at a time, which a cast is not; what lies farther out than any
/// picture reaches, or is no number, comes to lie out there too.
#[inline(always)]
fn whole(value: f32) -> i32 {
    const FAR: f32 = 4_000_000.0;
    // Adding this leaves the whole number in the low bits.
    const SHIFT: f32 = 12_582_912.0;
    let near = value.clamp(-FAR, FAR) + SHIFT;
    (near.to_bits() as i32).wrapping_sub(SHIFT.to_bits() as i32)
}

/// What is worked out of a run of places before they are read.
pub struct Scratch {
    x: [f32; RUN],
    y: [f32; RUN],
    block: Block,
}

impl Default for Scratch {
    fn default() -> Self {
        let block = Block { starts: [0; RUN], shares: [[0.0; RUN]; 2], strayed: [0; RUN] };
        Self { x: [0.0; RUN], y: [0.0; RUN], block }
    }
}

/// What is known of [`RUN`] places.
struct Block {
    /// Each one's first tap, as an index of the pixels.
    starts: [u32; RUN],
    /// How far it lies beyond a pixel's centre, by axis.
    shares: [[f32; RUN]; 2],
    /// 1 where its taps reach over the border.
    strayed: [u32; RUN],
}

/// Up to [`RUN`] places: first where all of them are and by what they are weighed, many at a time, and then one
/// after the other. Places that reach over the border are read alone at the end.
#[multiversion(targets("x86_64+avx2+fma", "x86_64+sse4.1", "aarch64+neon"))]
fn read_block<P: Pixel, W: Weights<N>, const N: usize>(
    sampler: &Sampler<'_, P>,
    x: &[f32],
    y: &[f32],
    weights: W,
    Block { starts, shares, strayed }: &mut Block,
    out: &mut [P],
) {
    let before = (N as i32 - 1) / 2;
    let ([room_x, room_y], window) = (sampler.room::<N>(), sampler.window);
    let (skip_x, skip_y) = (before.wrapping_add(window.x0), before.wrapping_add(window.y0));
    let width = sampler.width as u32;
    let mut strays = 0;
    for index in 0..out.len().min(RUN) {
        let (x, y) = (x[index] - 0.5, y[index] - 0.5);
        let (column, row) = (x.floor(), y.floor());
        let right = whole(column).wrapping_sub(skip_x) as u32;
        let down = whole(row).wrapping_sub(skip_y) as u32;
        let strays_here = u32::from((right >= room_x) | (down >= room_y));
        strayed[index] = strays_here;
        strays += strays_here;
        // A stray reads the first pixels for the time being.
        starts[index] = down.wrapping_mul(width).wrapping_add(right) & strays_here.wrapping_sub(1);
        shares[0][index] = x - column;
        shares[1][index] = y - row;
    }
    if (strays as usize) < out.len() {
        read_inside(sampler, &starts[..out.len()], shares, weights, out);
    }
    if strays > 0 {
        let nothing = sampler.nothing_beyond::<N>();
        for ((out, strayed), (x, y)) in out.iter_mut().zip(&*strayed).zip(x.iter().zip(y)) {
            if *strayed > 0 {
                // Much of a row may lie where there is nothing.
                let [column, row] = [x, y].map(|at| whole((at - 0.5).floor()).wrapping_sub(before));
                let is_far = !nothing.holds(column, row);
                *out = if is_far { P::default() } else { P::narrow(sampler.read(weights, *x, *y)) };
            }
        }
    }
}

/// Places none of which reaches over the border: each one's first tap, and how far beyond a pixel's centre it lies.
#[inline(always)]
fn read_inside<P: Pixel, W: Weights<N>, const N: usize>(
    sampler: &Sampler<'_, P>,
    starts: &[u32],
    shares: &[[f32; RUN]; 2],
    weights: W,
    out: &mut [P],
) {
    let rows = taps::Rows { floats: P::floats(sampler.pixels), width: sampler.width, ahead: sampler.ahead };
    let together = P::CHANNELS == taps::FLOATS;
    if N == 2 {
        // The share is the weight.
        let [x, y] = [&shares[0][..out.len()], &shares[1][..out.len()]];
        let done = match P::CHANNELS {
            taps::FLOATS => taps::mixed(rows, starts, [x, y], P::floats_mut(out)),
            taps::MOVE_FLOATS => taps::mixed_moves(rows, starts, [x, y], P::floats_mut(out)),
            _ => false,
        };
        if done {
            return;
        }
        for (((start, x), y), out) in starts.iter().zip(x).zip(y).zip(out) {
            let start = *start as usize;
            let below = &sampler.pixels[start + sampler.width..][..2];
            *out = P::narrow(P::mix_pairs(&sampler.pixels[start..][..2], below, [*x, *y]));
        }
        return;
    }
    let mut weighed = [[[0.0f32; N]; RUN]; 2];
    for (weighed, shares) in weighed.iter_mut().zip(shares) {
        for (weighed, share) in weighed.iter_mut().zip(shares) {
            *weighed = weights.at(*share);
        }
    }
    let [x, y] = [&weighed[0][..out.len()], &weighed[1][..out.len()]];
    if together && taps::weighed(rows, starts, [x, y], P::floats_mut(out)) {
        return;
    }
    for (((start, x), y), out) in starts.iter().zip(x).zip(y).zip(out) {
        *out = P::narrow(sampler.weighed(*start as usize, [*x, *y]));
    }
}
