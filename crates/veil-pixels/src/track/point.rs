//! A point followed from frame to frame.
//!
//! Each frame the pattern of the frame before is looked for within the search box, found to a fraction of a pixel, and
//! then the first pattern from there: what the first one says counts as long as it still looks alike, so that small
//! errors do not add up. Where neither is found the point is lost; the first pattern is then looked for in a box that
//! grows, and the point taken up again where it is seen.

use super::align::{Fit, Motion, Outliers, Pattern};
use super::search::Patch;
use super::slide::Slide;
use crate::Field;
use crate::warp::perspective::Homography;

/// How a point is followed.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct PointSettings {
    /// Half the pattern's width and height, in pixels.
    pub pattern: [f64; 2],
    /// How far the point may move from one frame to the next, right and left, up and down.
    pub search: [f64; 2],
    /// How the pattern may change.
    pub motion: Motion,
    /// How alike it must be to be taken for the same, 0–1.
    pub least_likeness: f64,
}

impl Default for PointSettings {
    fn default() -> Self {
        Self { pattern: [15.0; 2], search: [15.0; 2], motion: Motion::Shift, least_likeness: 0.7 }
    }
}

/// What a point is known by.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Known {
    /// It looks as it did at first.
    ByFirst,
    /// It looks as it did in the frame before, and no longer as at first: small errors may add up.
    ByLast,
    /// It was not found.
    Lost,
}

/// Where a point is in a frame.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Followed {
    /// Where it is; where it was last, when it is lost.
    pub at: [f64; 2],
    /// How much larger than at first.
    pub scale: f64,
    /// Radians turned since the first frame, counter-clockwise as seen.
    pub turn: f64,
    /// How alike it is to what it is known by, at most 1; 0 when it is lost.
    pub likeness: f64,
    /// What it is known by.
    pub known: Known,
}

/// What a point looks like in one frame.
#[derive(Clone)]
struct Look {
    seen: SeenAs,
    patch: Patch,
}

#[derive(Clone)]
enum SeenAs {
    /// All of it lies on the image, and it only moves.
    Whole(Box<Slide>),
    Part(Box<Pattern>),
}

impl Look {
    fn new(image: &Field, at: [f64; 2], settings: PointSettings) -> Option<Self> {
        let only_moves = settings.motion == Motion::Shift;
        let slide = only_moves.then(|| Slide::new(image, at, settings.pattern)).flatten();
        let seen = match slide {
            Some(slide) => Some(SeenAs::Whole(Box::new(slide))),
            None => Pattern::new(image, at, settings.pattern, settings.motion, |_, _| true)
                .map(|pattern| SeenAs::Part(Box::new(pattern))),
        };
        Some(Self { seen: seen?, patch: Patch::new(image, at, settings.pattern, settings.search) })
    }

    fn centre(&self) -> [f64; 2] {
        match &self.seen {
            SeenAs::Whole(slide) => slide.centre(),
            SeenAs::Part(pattern) => pattern.centre(),
        }
    }

    /// The mean of this, which is made of so many images, and of another; itself where that cannot be.
    fn joined(&mut self, other: &Self, images: u32) {
        if let (SeenAs::Whole(slide), SeenAs::Whole(other)) = (&self.seen, &other.seen)
            && let Some(mean) = slide.joined(other, 1.0 / (images as f32 + 1.0))
        {
            self.seen = SeenAs::Whole(Box::new(mean));
        }
    }

    /// Whether two ways lead to the same place, to about what a place is looked for with.
    fn is_about(&self, a: Homography, b: Homography) -> bool {
        let centre = self.centre();
        let [a, b] = [a, b].map(|way| way.at(centre).unwrap_or([f64::INFINITY; 2]));
        (a[0] - b[0]).abs().max((a[1] - b[1]).abs()) < SAME
    }

    /// Lays it on a frame from where it is thought to be.
    fn fit(&self, image: &Field, thought: Homography) -> Option<Fit> {
        match &self.seen {
            SeenAs::Part(pattern) => pattern.fit(image, thought, Outliers::Count),
            SeenAs::Whole(slide) => slide
                .fit(image, thought.at(slide.centre())?)
                .or_else(|| slide.pattern().fit(image, thought, Outliers::Count)),
        }
    }
}

/// Follows one point.
pub struct PointTracker {
    settings: PointSettings,
    first: Look,
    /// How many images that is the mean of.
    images: u32,
    /// The first pattern, to be looked for after a loss.
    first_far: Patch,
    last: Look,
    /// From the first frame to the last one it was found in.
    placed: Homography,
    /// How far it moved into that one.
    moved: [f64; 2],
    /// Frames since it was lost.
    missed: u32,
}

/// As likely as this a place is it, where the next one is less likely by so much.
const CLEARLY: f64 = 0.9;
const CLEARER_BY: f64 = 0.1;
/// Of so many images the first pattern is the mean, while it looks so: noise in it would be in every place that is found.
const MOST_JOINED: u32 = 8;
/// A place at the end of the search box must be this much likelier than one where it is expected.
const EXPECTED: f64 = 0.03;
/// Fits of one place begin within so many pixels of it.
const SAME: f64 = 2.0;
/// Places that are looked at more closely.
const CANDIDATES: usize = 3;
/// After a loss the search box is this much larger for each frame, up to so many times.
const GROWS_BY: f64 = 0.5;
const MOST_GROWN: f64 = 3.0;
/// A pattern of the frame before must be more alike than one of the first.
const LAST_IS_STRICTER_BY: f64 = 0.1;

impl PointTracker {
    /// Begins at a place; none where there is nothing to follow.
    pub fn new(image: &Field, at: [f64; 2], settings: PointSettings) -> Option<Self> {
        let first = Look::new(image, at, settings)?;
        let far = Patch::new(image, at, settings.pattern, settings.search.map(|reach| reach * MOST_GROWN));
        let placed = Homography::IDENTITY;
        let last = first.clone();
        Some(Self { settings, last, first, images: 1, first_far: far, placed, moved: [0.0; 2], missed: 0 })
    }

    fn at(&self) -> [f64; 2] {
        let centre = self.first.centre();
        self.placed.at(centre).unwrap_or(centre)
    }

    /// Looks for the point in the next frame.
    pub fn step(&mut self, image: &Field) -> Followed {
        let Some((fit, known)) = self.found(image) else {
            self.missed += 1;
            return self.told(0.0, Known::Lost);
        };
        let before = self.at();
        self.missed = 0;
        self.placed = fit.placed;
        let (at, settings) = (self.at(), self.settings);
        self.moved = [0, 1].map(|axis| at[axis] - before[axis]);
        if let Some(last) = Look::new(image, at, settings) {
            if known == Known::ByFirst && fit.likeness >= CLEARLY && self.images < MOST_JOINED {
                self.first.joined(&last, self.images);
                self.images += 1;
            }
            self.last = last;
        }
        self.told(fit.likeness, known)
    }

    fn told(&self, likeness: f64, known: Known) -> Followed {
        let at = self.at();
        let [x, y] = self.first.centre();
        let right = self.placed.at([x + 1.0, y]).unwrap_or([at[0] + 1.0, at[1]]);
        let (dx, dy) = (right[0] - at[0], right[1] - at[1]);
        Followed { at, scale: dx.hypot(dy), turn: (-dy).atan2(dx), likeness, known }
    }

    /// From the first frame to this one.
    fn found(&self, image: &Field) -> Option<(Fit, Known)> {
        let at = self.at();
        let grown = (1.0 + GROWS_BY * f64::from(self.missed)).min(MOST_GROWN);
        let reach = self.settings.search.map(|length| length * grown);
        let patch = if self.missed > 0 { &self.first_far } else { &self.last.patch };
        let likely = patch.look(image, at, reach, CANDIDATES);
        let last = self.last.centre();
        let within = |fit: &Fit| {
            let to = fit.placed.at(last).unwrap_or([f64::INFINITY; 2]);
            (0..2).all(|axis| (to[axis] - at[axis]).abs() <= reach[axis] + 1.0)
        };
        // Where nothing tells two places apart but noise, it went on as it went.
        let worth = |fit: &Fit| {
            let to = fit.placed.at(last).unwrap_or(at);
            let away = (0..2).map(|axis| (to[axis] - at[axis] - self.moved[axis]) / reach[axis].max(1.0));
            fit.likeness - EXPECTED * away.map(|share| share * share).sum::<f64>().sqrt().min(1.0)
        };
        let likeness =
            |number: usize| likely.get(number).map_or(f64::NEG_INFINITY, |place| f64::from(place.likeness));
        let torn = self.missed == 0 && likeness(1) >= likeness(0) - CLEARER_BY;
        let expected = Homography::shift(self.moved[0], self.moved[1]);
        let mut from_last = if torn { self.last.fit(image, expected).filter(within) } else { None };
        for (number, place) in likely.iter().enumerate() {
            let start = Homography::shift(place.moved[0], place.moved[1]);
            let known = from_last.as_ref().is_some_and(|best| self.last.is_about(best.placed, start));
            let fit = if known { None } else { self.last.fit(image, start).filter(within) };
            from_last = from_last.into_iter().chain(fit).max_by(|a, b| worth(a).total_cmp(&worth(b)));
            // What is left looks so much less alike that it need not be tried.
            let next = likeness(number + 1);
            if from_last
                .is_some_and(|best| best.likeness >= CLEARLY && next < f64::from(place.likeness) - CLEARER_BY)
            {
                break;
            }
        }
        let from_last = from_last?;
        let least = self.settings.least_likeness;
        let start = self.placed.then(from_last.placed);
        if let Some(fit) = self.first.fit(image, start)
            && fit.likeness >= least
            && self.near(&fit, start)
        {
            return Some((fit, Known::ByFirst));
        }
        let alike = self.missed == 0 && from_last.likeness >= (least + LAST_IS_STRICTER_BY).min(0.98);
        alike.then_some((Fit { placed: start, ..from_last }, Known::ByLast))
    }

    /// Whether the first pattern stayed about where that of the frame before was found.
    fn near(&self, fit: &Fit, start: Homography) -> bool {
        let centre = self.first.centre();
        match (fit.placed.at(centre), start.at(centre)) {
            (Some(a), Some(b)) => (a[0] - b[0]).hypot(a[1] - b[1]) <= self.settings.pattern[0].max(4.0) / 2.0,
            _ => false,
        }
    }
}
