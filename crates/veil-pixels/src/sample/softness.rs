//! A signal at many widths of blur, to be read softened by a different amount at every place.
//!
//! - Levels: Gaussians of σ 0.7, 1.4, 2.8 … pixels, an octave apart. From the third on each is held on a grid
//!   half as fine as the one before, so that they cost little whatever their width.
//! - Between two levels the result is their mixture with exactly the variance asked for, so that softness has
//!   no steps; the signal itself is the level of variance 0.
//! - Edges: as the [`Edge`] says, outside the data window, at every level.
//! - Source: Williams, "Pyramidal Parametrics", 1983, for reading between levels; Burt and Adelson, 1983, for
//!   the levels; the bookkeeping of variances is that of [`crate::filter::blur`].

use std::cmp::Ordering;

use crate::buffer::raster::{Pixel, Wide};
use crate::filter::blur::{HALVING_VARIANCE, Sigma, gaussian, halved};
use crate::sample::resample::{Filter, Sampler, Scratch};
use crate::{Cancel, Cancelled, Edge, Raster, Window};

/// σ of the least blurred level, in pixels; below it a blur can hardly be seen.
const LEAST_SIGMA: f32 = 0.7;
/// Nothing is softened by more than this σ, in pixels of the raster.
pub const MOST_SIGMA: f32 = 128.0;
/// Levels on the grid of the signal itself.
const FINE_LEVELS: usize = 2;
/// Pixels of a level's own grid beyond the data window within which a blurred border still changes: what the level's own
/// step reaches, and half, a quarter … of that from the levels below.
const FADES_WITHIN: i32 = 14;
/// Pixels about a place that reading it touches, on any grid, with one to spare.
const TAPS: i32 = 3;

/// How many levels it takes to soften by up to `widest`.
fn level_count(widest: f32) -> usize {
    let widest = widest.min(MOST_SIGMA);
    if widest > 0.0 { 1 + (0..).take_while(|level| sigma_of(*level) < widest).count() } else { 0 }
}

/// σ of a level in pixels of the signal.
pub fn sigma_of(level: i32) -> f32 {
    LEAST_SIGMA * (level as f32).exp2()
}

/// Pixels of the signal along one pixel of a level's grid.
fn divisor_of(level: usize) -> i32 {
    1 << (level + 1).saturating_sub(FINE_LEVELS)
}

/// The blur on a level's own grid that makes it of the level below.
fn step_of(level: usize) -> Sigma {
    let (here, below) = (sigma_of(level as i32), if level == 0 { 0.0 } else { sigma_of(level as i32 - 1) });
    let missing = here * here - below * below;
    if level < FINE_LEVELS {
        return Sigma::round(missing.sqrt());
    }
    let (here, below) = (divisor_of(level) as f32, divisor_of(level - 1) as f32);
    Sigma::round((missing - HALVING_VARIANCE * below * below).sqrt() / here)
}

/// How far about a place the signal is read when it is softened by up to `widest`.
pub fn reach(widest: f32) -> i32 {
    let levels = level_count(widest);
    let mut reach = TAPS;
    for level in (0..levels).rev() {
        reach = reach.max(TAPS) + TAPS + 1 + step_of(level).reach().0;
        if level >= FINE_LEVELS {
            reach = 2 * reach + 3;
        }
    }
    reach
}

/// One level, where it is read.
struct Level<P: Pixel> {
    variance: f32,
    divisor: i32,
    picture: Raster<P>,
    /// Where the signal exists, in its own pixels.
    data: Window,
    edge: Edge,
    /// Left, top, right and bottom of the places that are read as they are.
    plain: [f32; 4],
}

/// The places of a level that need not be brought back to where the signal exists.
fn plain_places(data: Window, edge: Edge, divisor: i32) -> [f32; 4] {
    let fades = match edge {
        Edge::Clear | Edge::Hold => FADES_WITHIN * divisor,
        Edge::Mirror | Edge::Repeat => 0,
    };
    let Window { x0, y0, x1, y1 } = data.grow(fades, fades);
    [x0, y0, x1, y1].map(|at| at as f32)
}

impl<P: Pixel> Level<P> {
    #[inline(always)]
    fn at(&self, sampler: &Sampler<'_, P>, x: f32, y: f32) -> P::Wide {
        let [x0, y0, x1, y1] = self.plain;
        // A place is brought back before it is read, held or not: the same place then always gives the same bits.
        if x >= x0 && x < x1 && y >= y0 && y < y1 {
            self.read(sampler, x, y)
        } else {
            self.beyond(sampler, x, y)
        }
    }

    #[inline(always)]
    fn read(&self, sampler: &Sampler<'_, P>, x: f32, y: f32) -> P::Wide {
        let scale = 1.0 / self.divisor as f32;
        sampler.wide_at(self.filter(), x * scale, y * scale)
    }

    /// How it is read between its pixels.
    fn filter(&self) -> Filter {
        if self.divisor == 1 { Filter::Linear } else { Filter::Cubic }
    }

    /// A place beyond where the signal, with its fading border, exists.
    #[cold]
    #[inline(never)]
    fn beyond(&self, sampler: &Sampler<'_, P>, x: f32, y: f32) -> P::Wide {
        let fades = (FADES_WITHIN * self.divisor) as f32;
        let folded = |place: f32, from: i32, to: i32| self.edge.place(place, from as f32, to as f32, fades);
        let x = folded(x, self.data.x0, self.data.x1);
        let y = folded(y, self.data.y0, self.data.y1);
        x.zip(y).map_or_else(P::Wide::default, |(x, y)| self.read(sampler, x, y))
    }

    fn sampler(&self) -> Sampler<'_, P> {
        Sampler::new(&self.picture, self.picture.window(), Edge::Hold)
    }

    /// Its pixels over a window that may lead beyond where the signal exists.
    fn over(&self, window: Window, cancel: &Cancel) -> Result<Raster<P>, Cancelled> {
        let held = self.picture.window();
        if held.contains(window) {
            return Ok(self.picture.clone());
        }
        let centre = |at: i32| (at as f32 + 0.5) * self.divisor as f32;
        let sampler = self.sampler();
        Raster::written(window, cancel, |y, row| {
            for (x, out) in (window.x0..).zip(row) {
                *out = self
                    .picture
                    .get(x, y)
                    .unwrap_or_else(|| P::narrow(self.at(&sampler, centre(x), centre(y))));
            }
        })
    }
}

/// The levels of one signal.
pub struct Softness<P: Pixel> {
    levels: Vec<Level<P>>,
}

impl<P: Pixel> Softness<P> {
    /// How many levels there are.
    pub fn count(&self) -> usize {
        self.levels.len()
    }

    /// For places within `reads`, softened by up to `widest`.
    ///
    /// `data` is where the signal exists; `sharp` must hold what the edge reads for `reads` grown by [`reach`].
    pub fn new(
        sharp: &Raster<P>,
        data: Window,
        edge: Edge,
        reads: Window,
        widest: f32,
        cancel: &Cancel,
    ) -> Result<Self, Cancelled> {
        let windows = level_windows(level_count(widest), data, edge, reads);
        let mut levels: Vec<Level<P>> = Vec::with_capacity(windows.len());
        for (number, window) in windows.into_iter().enumerate() {
            let step = step_of(number);
            let (x, y) = step.reach();
            let wide = window.grow(x, y);
            let picture = match levels.last() {
                None => gaussian(sharp, data, edge, step, window, cancel)?,
                Some(below) => {
                    let source = if number < FINE_LEVELS {
                        below.over(wide, cancel)?
                    } else {
                        halved(&below.over(finer(wide), cancel)?, wide, cancel)?
                    };
                    gaussian(&source, source.window(), Edge::Hold, step, window, cancel)?
                }
            };
            let sigma = sigma_of(number as i32);
            let divisor = divisor_of(number);
            let plain = plain_places(data, edge, divisor);
            levels.push(Level { variance: sigma * sigma, divisor, picture, data, edge, plain });
        }
        Ok(Self { levels })
    }

    /// Whether nothing is softened at all.
    pub fn is_sharp(&self) -> bool {
        self.levels.is_empty()
    }

    /// To read many places.
    pub fn reader<'a>(&'a self, sharp: Sampler<'a, P>) -> Reader<'a, P> {
        let levels = self.levels.iter();
        Reader { sharp, levels: levels.map(|level| (level, level.sampler())).collect() }
    }
}

/// What halving reads to give a window of the coarser grid.
pub fn finer(window: Window) -> Window {
    Window::new(2 * window.x0 - 2, 2 * window.y0 - 2, 2 * window.x1 + 2, 2 * window.y1 + 2)
}

/// What each level holds, in its own pixels: what is read of it, and what the next one is made of.
fn level_windows(count: usize, data: Window, edge: Edge, reads: Window) -> Vec<Window> {
    let mut windows = vec![Window::EMPTY; count];
    let mut for_next = Window::EMPTY;
    for level in (0..count).rev() {
        let divisor = divisor_of(level);
        let fades = (FADES_WITHIN + TAPS) * divisor;
        let wanted = reads.scaled_down(divisor as u32).grow(TAPS, TAPS).union(for_next);
        let in_signal = Window::new(
            wanted.x0.saturating_mul(divisor),
            wanted.y0.saturating_mul(divisor),
            wanted.x1.saturating_mul(divisor),
            wanted.y1.saturating_mul(divisor),
        );
        let exists = match edge {
            Edge::Clear | Edge::Hold => Edge::Hold.reads_window(in_signal, data.grow(fades, fades)),
            Edge::Mirror | Edge::Repeat => edge.reads_window(in_signal, data),
        };
        let window = exists.scaled_down(divisor as u32).grow(TAPS, TAPS);
        windows[level] = window;
        let (x, y) = step_of(level).reach();
        for_next = if level < FINE_LEVELS { window.grow(x, y) } else { finer(window.grow(x, y)) };
    }
    windows
}

/// Most places that a run has.
pub const RUN: usize = 256;
/// Fewer places than these of a run are read one by one.
const FEWEST: usize = 4;

/// Places of a run that lie between the same two levels.
struct Group<P> {
    x: [f32; RUN],
    y: [f32; RUN],
    variances: [f32; RUN],
    /// Which of the run each is.
    numbers: [u16; RUN],
    count: usize,
    read: [P; RUN],
}

/// Space to read runs in, to be used again: clearing it takes longer than reading a short run.
pub struct SoftScratch<P> {
    places: Scratch,
    softer: [P; RUN],
    group: Group<P>,
}

impl<P: Pixel> Default for SoftScratch<P> {
    fn default() -> Self {
        let none = [0.0; RUN];
        let read = [P::default(); RUN];
        let group = Group { x: none, y: none, variances: none, numbers: [0; RUN], count: 0, read };
        Self { places: Scratch::default(), softer: read, group }
    }
}

impl<P> Group<P> {
    fn add(&mut self, number: usize, [x, y]: [f32; 2], variance: f32) {
        let at = self.count;
        (self.x[at], self.y[at], self.variances[at]) = (x, y, variance);
        self.numbers[at] = number as u16;
        self.count += 1;
    }
}

/// Hands on places to be read.
fn taken_from([x, y]: [&[f32]; 2]) -> impl FnMut(usize, &mut [f32], &mut [f32]) {
    move |start, to_x, to_y| {
        to_x.copy_from_slice(&x[start..start + to_x.len()]);
        to_y.copy_from_slice(&y[start..start + to_y.len()]);
    }
}

/// Places of a level that are read as they are.
fn read_level<P: Pixel>(
    (level, sampler): &(&Level<P>, Sampler<'_, P>),
    scratch: &mut Scratch,
    [x, y]: [&[f32]; 2],
    out: &mut [P],
) {
    let scale = 1.0 / level.divisor as f32;
    let scaled = |start: usize, to_x: &mut [f32], to_y: &mut [f32]| {
        to_x.iter_mut().zip(&x[start..]).for_each(|(to, at)| *to = at * scale);
        to_y.iter_mut().zip(&y[start..]).for_each(|(to, at)| *to = at * scale);
    };
    sampler.read_run_with(scratch, level.filter(), scaled, out);
}

/// Reads a signal softened by any amount.
pub struct Reader<'a, P: Pixel> {
    sharp: Sampler<'a, P>,
    levels: Vec<(&'a Level<P>, Sampler<'a, P>)>,
}

impl<P: Pixel> Reader<'_, P> {
    /// The place softened by a Gaussian of a variance, in pixels² of the signal. Where it is sharp it is read by
    /// `filter`.
    #[inline(always)]
    pub fn at(&self, filter: Filter, variance: f32, x: f32, y: f32) -> P {
        let mut lower_variance = 0.0;
        let mut lower = None;
        for upper in &self.levels {
            let (level, sampler) = upper;
            if variance <= level.variance {
                let share = (variance - lower_variance) / (level.variance - lower_variance);
                let soft = level.at(sampler, x, y);
                return P::narrow(self.lower(filter, lower, x, y).mix(soft, share));
            }
            lower_variance = level.variance;
            lower = Some(upper);
        }
        P::narrow(self.lower(filter, lower, x, y))
    }

    /// As [`Self::at`] gives each of a run of places, but faster. `places` and `variances` are as many as `out`, and up to
    /// [`RUN`].
    pub fn read_run(
        &self,
        scratch: &mut SoftScratch<P>,
        filter: Filter,
        [x, y]: [&[f32]; 2],
        variances: &[f32],
        out: &mut [P],
    ) {
        let SoftScratch { places, softer, group } = scratch;
        let mut between = [0u8; RUN];
        let between = &mut between[..out.len()];
        for (level, _) in &self.levels {
            for (between, variance) in between.iter_mut().zip(variances) {
                // A variance that is no number is beyond every level.
                *between += u8::from(!matches!(
                    variance.partial_cmp(&level.variance),
                    Some(Ordering::Less | Ordering::Equal)
                ));
            }
        }
        let (least, most) =
            between.iter().fold((u8::MAX, 0), |(least, most), at| (least.min(*at), most.max(*at)));
        for upper in usize::from(least)..=usize::from(most) {
            if least == most && self.are_plain(upper, [x, y]) {
                self.read_between(filter, upper, [x, y], variances, (places, softer), out);
                return;
            }
            group.count = 0;
            let here = between.iter().enumerate().filter(|(_, at)| usize::from(**at) == upper);
            for (number, _) in here {
                let (place, variance) = ([x[number], y[number]], variances[number]);
                if self.are_plain(upper, [&place[..1], &place[1..]]) {
                    group.add(number, place, variance);
                } else {
                    out[number] = self.at(filter, variance, place[0], place[1]);
                }
            }
            let count = group.count;
            let (to, numbers) = (&mut group.read[..count], &group.numbers[..count]);
            if count < FEWEST {
                for (at, number) in numbers.iter().enumerate() {
                    out[usize::from(*number)] =
                        self.at(filter, group.variances[at], group.x[at], group.y[at]);
                }
                continue;
            }
            let [x, y] = [&group.x[..count], &group.y[..count]];
            self.read_between(filter, upper, [x, y], &group.variances[..count], (places, softer), to);
            for (read, number) in to.iter().zip(numbers) {
                out[usize::from(*number)] = *read;
            }
        }
    }

    /// Whether places are read as they are of a level and of the one below; not beyond all levels.
    #[inline(always)]
    fn are_plain(&self, upper: usize, [x, y]: [&[f32]; 2]) -> bool {
        let within = |places: &[f32], from: f32, to: f32| places.iter().all(|at| *at >= from && *at < to);
        upper < self.levels.len()
            && self.levels[upper.saturating_sub(1)..=upper].iter().all(|(level, _)| {
                let [x0, y0, x1, y1] = level.plain;
                within(x, x0, x1) && within(y, y0, y1)
            })
    }

    /// Places softened by more than the level below one and no more than that one.
    fn read_between(
        &self,
        filter: Filter,
        upper: usize,
        places: [&[f32]; 2],
        variances: &[f32],
        (scratch, softer): (&mut Scratch, &mut [P; RUN]),
        out: &mut [P],
    ) {
        let softer = &mut softer[..out.len()];
        read_level(&self.levels[upper], scratch, places, softer);
        let from = match upper.checked_sub(1) {
            Some(lower) => {
                read_level(&self.levels[lower], scratch, places, out);
                self.levels[lower].0.variance
            }
            None => {
                self.sharp.read_run_with(scratch, filter, taken_from(places), out);
                0.0
            }
        };
        let wide = self.levels[upper].0.variance - from;
        for ((out, softer), variance) in out.iter_mut().zip(softer).zip(variances) {
            *out = out.mix(*softer, (variance - from) / wide);
        }
    }

    #[inline(always)]
    fn lower(&self, filter: Filter, level: Option<&(&Level<P>, Sampler<'_, P>)>, x: f32, y: f32) -> P::Wide {
        match level {
            Some((level, sampler)) => level.at(sampler, x, y),
            None => self.sharp.wide_at(filter, x, y),
        }
    }
}
