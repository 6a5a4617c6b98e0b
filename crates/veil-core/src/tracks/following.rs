//! A track followed from frame to frame.

use veil_pixels::colour::srgb_from_linear;
use veil_pixels::track::{Known, PlaneSettings, PlaneTracker, PointSettings, PointTracker};
use veil_pixels::warp::perspective::Homography;
use veil_pixels::{Cancel, Cancelled, Field, Window};

use super::surface::FollowedSurface;
use super::{Corners, Track, TrackSample, middle_of};
use crate::colour::Working;
use crate::signal::{Pixels, Take};

/// What is followed of a picture: its luma as a display has it, so that what happens in the shade counts as much as what
/// happens in the light. A field is taken as it is.
pub fn image(pixels: &Pixels, working: Working, cancel: &Cancel) -> Result<Field, Cancelled> {
    match pixels {
        Pixels::Field(field) => Ok(field.clone()),
        Pixels::Map(map) => map.map(cancel, |[x, y]: [f32; 2]| x.hypot(y)),
        Pixels::Picture(picture) => Take::Luma
            .apply(picture, working, cancel)?
            .map(cancel, |luma: f32| srgb_from_linear(luma.max(0.0))),
    }
}

/// A track on its way through the frames.
pub enum Following {
    /// A point.
    Point(Box<PointTracker>),
    /// A region, with its corners in the first frame.
    Region(Box<PlaneTracker>, Corners),
    /// A surface.
    Surface(Box<FollowedSurface>),
}

/// What a track is followed in: the image of a frame, and what covers what is left out of it.
#[derive(Clone, Copy)]
pub struct Seen<'a> {
    /// The image.
    pub image: &'a Field,
    /// Coverage of what does not count.
    pub without: Option<&'a Field>,
}

impl Seen<'_> {
    /// Whether what is at a place counts.
    pub(super) fn counts(self, at: [f64; 2]) -> bool {
        let covered = |field: &Field| field.get(at[0].floor() as i32, at[1].floor() as i32);
        self.without.and_then(covered).unwrap_or(0.0) < 0.5
    }
}

/// Whether a place lies within four corners.
fn within(corners: Corners, [x, y]: [f64; 2]) -> bool {
    let side = |at: usize| {
        let (a, b) = (corners[at], corners[(at + 1) % 4]);
        (b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0])
    };
    let sides: [f64; 4] = std::array::from_fn(side);
    sides.iter().all(|side| *side >= 0.0) || sides.iter().all(|side| *side <= 0.0)
}

/// The window about four corners.
fn window_about(corners: Corners) -> Window {
    let least = |axis: usize| corners.iter().map(|corner| corner[axis]).fold(f64::INFINITY, f64::min);
    let most = |axis: usize| corners.iter().map(|corner| corner[axis]).fold(f64::NEG_INFINITY, f64::max);
    Window::new(
        least(0).floor() as i32,
        least(1).floor() as i32,
        most(0).ceil() as i32,
        most(1).ceil() as i32,
    )
}

impl Following {
    /// Begins in the track's first frame; none where there is nothing to follow.
    pub fn begin(track: &Track, seen: Seen<'_>, cancel: &Cancel) -> Result<Option<Self>, Cancelled> {
        let (motion, least_likeness) = (track.motion.into(), track.least_likeness);
        if let Some(lattice) = &track.surface {
            let begun = FollowedSurface::begin(lattice, least_likeness, seen, cancel)?;
            return Ok(begun.map(|begun| Self::Surface(Box::new(begun))));
        }
        let Some(corners) = track.region else {
            let settings =
                PointSettings { pattern: track.pattern, search: track.search, motion, least_likeness };
            let tracker = PointTracker::new(seen.image, track.at, settings);
            return Ok(tracker.map(|tracker| Self::Point(Box::new(tracker))));
        };
        let window = window_about(corners).intersect(seen.image.window());
        let counts = |first: [f64; 2], here: [f64; 2]| within(corners, first) && seen.counts(here);
        let settings = PlaneSettings { motion, least_likeness };
        let tracker = PlaneTracker::new(seen.image, window, settings, counts, cancel)?;
        Ok(tracker.map(|tracker| Self::Region(Box::new(tracker), corners)))
    }

    /// Where it is in the next frame; none where it is lost.
    pub fn step(&mut self, seen: Seen<'_>, cancel: &Cancel) -> Result<Option<TrackSample>, Cancelled> {
        match self {
            Self::Point(tracker) => {
                let found = tracker.step(seen.image);
                Ok((found.known != Known::Lost).then_some(TrackSample {
                    at: found.at,
                    scale: found.scale,
                    turn: found.turn.to_degrees(),
                    likeness: found.likeness,
                    corners: None,
                    surface: None,
                }))
            }
            Self::Region(tracker, corners) => {
                let corners = *corners;
                let counts = |first: [f64; 2], here: [f64; 2]| within(corners, first) && seen.counts(here);
                let fit = tracker.step(seen.image, counts, cancel)?;
                Ok(fit.and_then(|fit| region_sample(corners, fit.placed, fit.likeness)))
            }
            Self::Surface(surface) => surface.step(seen, cancel),
        }
    }
}

/// Where a region is; none where part of it lies behind the eye.
fn region_sample(corners: Corners, placed: Homography, likeness: f64) -> Option<TrackSample> {
    let middle = middle_of(corners);
    let at = placed.at(middle)?;
    let right = placed.at([middle[0] + 1.0, middle[1]])?;
    let (dx, dy) = (right[0] - at[0], right[1] - at[1]);
    let mut moved = corners;
    for corner in &mut moved {
        *corner = placed.at(*corner)?;
    }
    Some(TrackSample {
        at,
        scale: dx.hypot(dy),
        turn: (-dy).atan2(dx).to_degrees(),
        likeness,
        corners: Some(moved),
        surface: None,
    })
}
