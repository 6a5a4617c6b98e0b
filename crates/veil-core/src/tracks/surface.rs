//! A surface that bends, followed by a lattice laid over it.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use veil_pixels::track::{LaidSurface, SurfaceTracker};
use veil_pixels::warp::mesh::{Corners, Places, Through};
use veil_pixels::{Cancel, Cancelled};

use super::carrying::Carrying;
use super::{Seen, Track, TrackSample, nearest_turn};

/// Most rows and most columns.
const MOST: usize = 40;

/// A lattice over a part of a picture, as it was drawn at the frame where its track begins.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct TrackSurface {
    /// Rows of cells, 1 to 40.
    pub rows: usize,
    /// Columns of cells, 1 to 40.
    pub columns: usize,
    /// Its corners there, row by row from the top left one, in full-resolution pixels.
    pub corners: Vec<[f64; 2]>,
    /// How firmly the corners hold each other, 0–1.
    pub stiffness: f64,
}

/// Where a surface lies at a frame.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SurfaceSample {
    /// Its corners.
    pub corners: Vec<[f64; 2]>,
    /// How alike each cell is, −1 to 1, row by row.
    pub likeness: Vec<f64>,
    /// It was laid there by hand: what is followed begins and ends there.
    #[serde(default, skip_serializing_if = "is_not")]
    pub by_hand: bool,
}

const fn is_not(by_hand: &bool) -> bool {
    !*by_hand
}

impl SurfaceSample {
    /// Between this and another one; cells are as alike as the less alike of both.
    pub(super) fn towards(&self, other: &Self, share: f64) -> Self {
        let corners = self.corners.iter().zip(&other.corners);
        let likeness = self.likeness.iter().zip(&other.likeness);
        Self {
            corners: corners.map(|(a, b)| super::mixed(*a, *b, share)).collect(),
            likeness: likeness.map(|(a, b)| a.min(*b)).collect(),
            by_hand: false,
        }
    }

    /// Without the digits that say nothing.
    pub(super) fn rounded(mut self) -> Self {
        let to = |value: f64, digits: f64| (value * digits).round() / digits;
        self.corners.iter_mut().flatten().for_each(|number| *number = to(*number, 1e3));
        self.likeness.iter_mut().for_each(|number| *number = to(*number, 1e2));
        self
    }
}

impl TrackSurface {
    fn corner_count(&self) -> usize {
        (self.rows + 1) * (self.columns + 1)
    }

    fn cell_count(&self) -> usize {
        self.rows * self.columns
    }

    /// As it was drawn.
    pub(super) fn sample(&self, by_hand: bool) -> SurfaceSample {
        SurfaceSample { corners: self.corners.clone(), likeness: vec![1.0; self.cell_count()], by_hand }
    }

    fn places(&self, from: &[[f64; 2]], to: &[[f64; 2]]) -> Option<Places> {
        Places::new(&Corners {
            cells: [self.rows, self.columns],
            rest: from,
            moved: to,
            added: [&[], &[]],
            through: Through::Corners,
        })
    }

    /// From where it lies to where it lies; none where either has not as many corners.
    pub(super) fn carrying(&self, from: &SurfaceSample, to: &SurfaceSample) -> Option<Carrying> {
        self.places(&from.corners, &to.corners).map(|places| Carrying::Surface(Box::new(places)))
    }

    /// Corners of another number of rows and columns on the same surface.
    fn laid_anew(&self, corners: &[[f64; 2]], [rows, columns]: [usize; 2]) -> Vec<[f64; 2]> {
        let Some(places) = self.places(corners, corners) else { return Vec::new() };
        let share = |number: usize, of: usize, cells: usize| number as f64 / of as f64 * cells as f64;
        let at = |row: usize, column: usize| {
            places.of_numbers([share(row, rows, self.rows), share(column, columns, self.columns)])
        };
        (0..=rows)
            .flat_map(|row| (0..=columns).map(move |column| (row, column)))
            .map(|(row, column)| at(row, column))
            .collect()
    }

    /// Cells are as alike as the old one that their middle lies in.
    fn alike_anew(&self, likeness: &[f64], [rows, columns]: [usize; 2]) -> Vec<f64> {
        let old = |number: usize, of: usize, cells: usize| (2 * number + 1) * cells / (2 * of);
        let at = |row: usize, column: usize| {
            likeness
                .get(old(row, rows, self.rows) * self.columns + old(column, columns, self.columns))
                .copied()
        };
        (0..rows)
            .flat_map(|row| (0..columns).map(move |column| (row, column)))
            .map(|(row, column)| at(row, column).unwrap_or(0.0))
            .collect()
    }

    pub(super) fn check(&self, track: &Track) -> Result<(), &'static str> {
        if track.region.is_some() {
            return Err("is of a region and of a surface at once");
        }
        if ![self.rows, self.columns].iter().all(|cells| (1..=MOST).contains(cells)) {
            return Err("wants a surface of 1 to 40 rows and as many columns");
        }
        let corners = |corners: &[[f64; 2]]| {
            corners.len() == self.corner_count()
                && corners.iter().flatten().all(|number| number.abs() <= 1.0e6)
        };
        if !corners(&self.corners) {
            return Err("wants a corner of its surface for each end of its rows and columns");
        }
        if !(0.0..=1.0).contains(&self.stiffness) {
            return Err("wants a stiffness of 0 to 1");
        }
        let fits = |sample: &TrackSample| {
            sample.surface.as_ref().is_some_and(|surface| {
                corners(&surface.corners) && surface.likeness.len() == self.cell_count()
            })
        };
        if track.samples.values().all(fits) {
            Ok(())
        } else {
            Err("has a frame where its surface has other rows or columns")
        }
    }
}

impl Track {
    /// With what was found of a surface, in order away from a frame where it was known.
    pub(super) fn with_surface_found(
        mut self,
        lattice: TrackSurface,
        found: &[(i32, Option<TrackSample>)],
        keeps: impl Fn(i32) -> bool,
    ) -> Self {
        self.samples.retain(|frame, sample| {
            keeps(*frame) || sample.surface.as_ref().is_some_and(|known| known.by_hand)
        });
        self.samples.entry(self.begins).or_insert_with(|| TrackSample {
            at: self.at,
            scale: 1.0,
            turn: 0.0,
            likeness: 1.0,
            corners: None,
            surface: Some(lattice.sample(true)),
        });
        let mut last = None;
        for (frame, sample) in found {
            self.samples.remove(frame);
            let Some(sample) = sample else { continue };
            let laid = sample.surface.as_ref().map_or(&lattice.corners, |surface| &surface.corners);
            let (scale, turned) = grown_and_turned(&lattice.corners, laid);
            let beside = [frame - 1, frame + 1]
                .iter()
                .find_map(|beside| self.samples.get(beside))
                .map(|beside| beside.turn);
            let turn = nearest_turn(turned, last.or(beside).unwrap_or(0.0));
            last = Some(turn);
            self.samples.insert(*frame, TrackSample { scale, turn, ..sample.clone() }.rounded());
        }
        self.surface = Some(lattice);
        self
    }

    /// The same with another number of rows and columns of its surface, which lies where it lay at every frame. The error says why
    /// it cannot have them.
    pub fn with_cells(&self, rows: usize, columns: usize) -> Result<Self, &'static str> {
        let old = self.surface.as_ref().ok_or("has no surface")?;
        let cells = [rows, columns];
        if !cells.iter().all(|cells| (1..=MOST).contains(cells)) {
            return Err("wants a surface of 1 to 40 rows and as many columns");
        }
        let mut made = self.clone();
        for surface in made.samples.values_mut().filter_map(|sample| sample.surface.as_mut()) {
            surface.corners = old.laid_anew(&surface.corners, cells);
            surface.likeness = old.alike_anew(&surface.likeness, cells);
        }
        let corners = old.laid_anew(&old.corners, cells);
        made.surface = Some(TrackSurface { rows, columns, corners, ..old.clone() });
        Ok(made)
    }
}

/// A surface on its way through the frames.
pub struct FollowedSurface {
    tracker: SurfaceTracker,
    least_likeness: f64,
}

/// How much what is at a place counts.
fn counts(seen: Seen<'_>) -> impl Fn([f64; 2]) -> f32 + Sync {
    move |at| if seen.counts(at) { 1.0 } else { 0.0 }
}

impl FollowedSurface {
    /// Begins in the frame where the lattice was laid; none where there is nothing to follow.
    pub(super) fn begin(
        lattice: &TrackSurface,
        least_likeness: f64,
        seen: Seen<'_>,
        cancel: &Cancel,
    ) -> Result<Option<Self>, Cancelled> {
        let cells = [lattice.rows, lattice.columns];
        let tracker = SurfaceTracker::new(
            seen.image,
            cells,
            &lattice.corners,
            lattice.stiffness,
            &counts(seen),
            cancel,
        )?;
        Ok(tracker.map(|tracker| Self { tracker, least_likeness }))
    }

    /// Goes on from another frame, where it is known to lie.
    pub(super) fn resume(
        &mut self,
        corners: &[[f64; 2]],
        seen: Seen<'_>,
        cancel: &Cancel,
    ) -> Result<(), Cancelled> {
        self.tracker.resume(seen.image, corners, &counts(seen), cancel)
    }

    /// Where it is in the next frame, its size and turn not told; none where hardly anything of it is to be seen.
    pub(super) fn step(&mut self, seen: Seen<'_>, cancel: &Cancel) -> Result<Option<TrackSample>, Cancelled> {
        let LaidSurface { points, likeness } = self.tracker.step(seen.image, &counts(seen), cancel)?;
        let alike = likeness.iter().map(|cell| cell.max(0.0)).sum::<f64>() / likeness.len() as f64;
        let sample = TrackSample {
            at: middle(&points),
            scale: 1.0,
            turn: 0.0,
            likeness: alike,
            corners: None,
            surface: Some(SurfaceSample { corners: points, likeness, by_hand: false }),
        };
        Ok((alike >= self.least_likeness).then_some(sample))
    }
}

/// The mean of places.
pub(super) fn middle(places: &[[f64; 2]]) -> [f64; 2] {
    [0, 1].map(|axis| places.iter().map(|place| place[axis]).sum::<f64>() / places.len() as f64)
}

/// How much larger places are than others and how far turned, in degrees counter-clockwise as seen: the similarity that leaves the
/// least squares.
fn grown_and_turned(from: &[[f64; 2]], to: &[[f64; 2]]) -> (f64, f64) {
    let (a, b) = (middle(from), middle(to));
    let (mut along, mut across, mut squares) = (0.0, 0.0, 0.0);
    for (p, q) in from.iter().zip(to) {
        let ([x, y], [u, v]) = ([p[0] - a[0], p[1] - a[1]], [q[0] - b[0], q[1] - b[1]]);
        along += x * u + y * v;
        across += x * v - y * u;
        squares += x * x + y * y;
    }
    if squares <= 0.0 {
        (1.0, 0.0)
    } else {
        (along.hypot(across) / squares, -across.atan2(along).to_degrees())
    }
}
