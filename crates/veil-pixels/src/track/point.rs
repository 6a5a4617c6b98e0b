//! A point followed from frame to frame.
//!
//! Each frame the pattern of the frame before is looked for within the search box, found to a fraction of a pixel, and
//! then the first pattern from there: what the first one says counts as long as it still looks alike, so that small
//! errors do not add up. Where neither is found the point is lost; the first pattern is then looked for in a box that
//! grows, and the point taken up again where it is seen.

use super::align::{Fit, Motion, Outliers, Pattern};
use super::search::Patch;
use crate::perspective::Homography;
use crate::{Cancelled, Field};

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

/// Follows one point.
pub struct PointTracker {
    settings: PointSettings,
    first: Pattern,
    first_patch: Patch,
    last: Pattern,
    last_patch: Patch,
    /// From the first frame to the last one it was found in.
    placed: Homography,
    /// Frames since it was lost.
    missed: u32,
}

/// Places that are looked at more closely.
const CANDIDATES: usize = 3;
/// After a loss the search box is this much larger for each frame, up to so many times.
const GROWS_BY: f64 = 0.5;
const MOST_GROWN: f64 = 3.0;
/// A pattern of the frame before must be more alike than one of the first.
const LAST_IS_STRICTER_BY: f64 = 0.1;

impl PointTracker {
    /// Begins at a place; none where there is nothing to follow.
    pub fn new(image: &Field, at: [f64; 2], settings: PointSettings) -> Result<Option<Self>, Cancelled> {
        let Some(first) = Pattern::new(image, at, settings.pattern, settings.motion, |_, _| true) else {
            return Ok(None);
        };
        let patch = Patch::new(image, at, settings.pattern)?;
        Ok(Some(Self {
            settings,
            last: first.clone(),
            first,
            last_patch: patch.clone(),
            first_patch: patch,
            placed: Homography::IDENTITY,
            missed: 0,
        }))
    }

    fn at(&self) -> [f64; 2] {
        self.placed.at(self.first.centre()).unwrap_or(self.first.centre())
    }

    /// Looks for the point in the next frame.
    pub fn step(&mut self, image: &Field) -> Result<Followed, Cancelled> {
        let Some((fit, known)) = self.found(image)? else {
            self.missed += 1;
            return Ok(self.told(0.0, Known::Lost));
        };
        self.missed = 0;
        self.placed = fit.placed;
        let (at, settings) = (self.at(), self.settings);
        if let Some(last) = Pattern::new(image, at, settings.pattern, settings.motion, |_, _| true) {
            self.last = last;
            self.last_patch = Patch::new(image, at, settings.pattern)?;
        }
        Ok(self.told(fit.likeness, known))
    }

    fn told(&self, likeness: f64, known: Known) -> Followed {
        let at = self.at();
        let [x, y] = self.first.centre();
        let right = self.placed.at([x + 1.0, y]).unwrap_or([at[0] + 1.0, at[1]]);
        let (dx, dy) = (right[0] - at[0], right[1] - at[1]);
        Followed { at, scale: dx.hypot(dy), turn: (-dy).atan2(dx), likeness, known }
    }

    /// From the first frame to this one.
    fn found(&self, image: &Field) -> Result<Option<(Fit, Known)>, Cancelled> {
        let at = self.at();
        let grown = (1.0 + GROWS_BY * f64::from(self.missed)).min(MOST_GROWN);
        let reach = self.settings.search.map(|length| length * grown);
        let patch = if self.missed > 0 { &self.first_patch } else { &self.last_patch };
        let likely = patch.look(image, at, reach, CANDIDATES)?;
        let shifts = likely.iter().map(|place| Homography::shift(place.moved[0], place.moved[1]));
        let within = |fit: &Fit| {
            let to = fit.placed.at(self.last.centre()).unwrap_or([f64::INFINITY; 2]);
            (0..2).all(|axis| (to[axis] - at[axis]).abs() <= reach[axis] + 1.0)
        };
        let from_last = shifts
            .filter_map(|start| self.last.fit(image, start, Outliers::Count))
            .filter(within)
            .max_by(|a, b| a.likeness.total_cmp(&b.likeness));
        let Some(from_last) = from_last else { return Ok(None) };
        let least = self.settings.least_likeness;
        let start = self.placed.then(from_last.placed);
        if let Some(fit) = self.first.fit(image, start, Outliers::Count)
            && fit.likeness >= least
            && self.near(&fit, start)
        {
            return Ok(Some((fit, Known::ByFirst)));
        }
        let alike = self.missed == 0 && from_last.likeness >= (least + LAST_IS_STRICTER_BY).min(0.98);
        Ok(alike.then_some((Fit { placed: start, ..from_last }, Known::ByLast)))
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
