//! A camera found from the shot's tracks, and the places in space that they are of.
//!
//! - World: metres, right-handed, y up, as in `camera`. Until it is set down, the first camera stands at the origin, level, and
//!   looks along −z; what is followed is [`AWAY`] metres away, for the middle one of all.

use glam::{DMat3, DVec3};
use serde::{Deserialize, Serialize};
use veil_pixels::Cancel;
use veil_pixels::solve::{Focal, Going, Pose, Sight, Solved, Unsolved, solve};

use crate::camera::{Camera, CameraAt, CameraFrame, Lens};
use crate::picture::PictureFormat;
use crate::tracks::Track;

/// How far away what is followed is taken to be, in metres, until a distance is known.
const AWAY: f64 = 10.0;

/// How a camera is said to go.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum CameraGoes {
    /// It moves.
    Moves,
    /// It turns where it stands.
    Turns,
}

/// What is known before a camera is solved.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SolveTask {
    /// How it goes.
    pub goes: CameraGoes,
    /// Its focal length in millimetres; none where it is to be found.
    pub focal_mm: Option<f64>,
    /// The width of its sensor in millimetres.
    pub sensor_width_mm: f64,
}

/// A camera that was solved.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct SolvedCamera {
    /// The frames that are known.
    pub camera: Camera,
    /// How far from where they were seen places are expected, in pixels, frame by frame of the camera's: the root of the mean square.
    pub frame_errors: Vec<f64>,
    /// What was followed, as far as it is known.
    pub points: Vec<SolvedPoint>,
}

/// A place in space.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct SolvedPoint {
    /// The track's name.
    pub name: String,
    /// Where it is; of a camera that only turns, somewhere on the way to it.
    pub place: [f64; 3],
    /// How far from where it was seen it is expected, in pixels: the root of the mean square.
    pub error: f64,
    /// The share of the frames it was seen in that fit with the rest.
    pub fits: f64,
}

/// Why there is no camera.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum SolveError {
    /// It was called off.
    #[error("it was called off")]
    Cancelled,
    /// Too little was followed.
    #[error(
        "the camera cannot be told: no two frames have {0} tracked points in common; follow more points over more frames"
    )]
    TooFew(usize),
    /// Nothing goes aside from the rest.
    #[error(
        "the camera does not move enough for the depth of anything to show: solve it as one that only turns"
    )]
    NoDepth,
    /// A lens that takes in nothing.
    #[error("the {0} must be a number of millimetres above 0")]
    Lens(&'static str),
    /// A point that there is none of.
    #[error("no point of this camera is called `{0}`")]
    NoPoint(String),
    /// The points say nothing.
    #[error("{0}")]
    Points(&'static str),
}

impl SolveTask {
    /// Solves the camera from points that were followed; regions and surfaces are no points, and are left aside.
    ///
    /// # Errors
    /// [`SolveError`] says why there is none.
    pub fn solve(
        self,
        tracks: &[Track],
        picture: &PictureFormat,
        cancel: &Cancel,
    ) -> Result<SolvedCamera, SolveError> {
        let above = |number: f64| number.is_finite() && number > 0.0;
        if !above(self.sensor_width_mm) {
            return Err(SolveError::Lens("width of the sensor"));
        }
        if self.focal_mm.is_some_and(|focal| !above(focal)) {
            return Err(SolveError::Lens("focal length"));
        }
        let points: Vec<&Track> =
            tracks.iter().filter(|track| track.region.is_none() && track.surface.is_none()).collect();
        let width = f64::from(picture.width);
        let focal = self
            .focal_mm
            .map_or(Focal::Of(width), |focal| Focal::Known(focal / self.sensor_width_mm * width));
        let going = match self.goes {
            CameraGoes::Moves => Going::Moves,
            CameraGoes::Turns => Going::Turns,
        };
        let sights = sights(&points, picture);
        let frames = (picture.frames.last - picture.frames.first + 1).max(0) as usize;
        let solved = solve([frames, points.len()], &sights, focal, going, cancel);
        let solved = solved.map_err(|why| match why {
            Unsolved::Cancelled => SolveError::Cancelled,
            Unsolved::TooFew => SolveError::TooFew(going.fewest()),
            Unsolved::NoDepth => SolveError::NoDepth,
        })?;
        Ok(self.told(&solved, &sights, &points, picture))
    }

    fn told(
        self,
        solved: &Solved,
        sights: &[Sight],
        points: &[&Track],
        picture: &PictureFormat,
    ) -> SolvedCamera {
        let sensor_width_mm = self.sensor_width_mm;
        let focal_mm = solved.focal / f64::from(picture.width) * sensor_width_mm;
        let lens = Lens::Focal { focal_mm, sensor_width_mm };
        let known = |(number, pose): (usize, &Option<Pose>)| {
            let frame = picture.frames.first + number as i32;
            pose.map(|pose| (number, CameraFrame { frame, camera: seen_by(&pose, lens) }))
        };
        let (numbers, frames): (Vec<usize>, Vec<CameraFrame>) =
            solved.poses.iter().enumerate().filter_map(known).unzip();
        let error = |of: &dyn Fn(&Sight) -> bool| {
            let misses = sights.iter().zip(&solved.misses).zip(&solved.counts);
            let own = misses.filter(|((sight, _), counts)| **counts && of(sight));
            let squares: Vec<f64> = own.filter_map(|((_, miss), _)| *miss).map(|miss| miss * miss).collect();
            (squares.iter().sum::<f64>() / squares.len().max(1) as f64).sqrt()
        };
        let fits = |point: usize| {
            let own = sights.iter().zip(&solved.counts).filter(|(sight, _)| sight.point == point);
            let all = own.clone().count().max(1);
            own.filter(|(_, counts)| **counts).count() as f64 / all as f64
        };
        let point = |(number, place): (usize, &Option<[f64; 3]>)| {
            place.map(|place| SolvedPoint {
                name: points[number].name.clone(),
                place: upright(place),
                error: error(&|sight| sight.point == number),
                fits: fits(number),
            })
        };
        let mut camera = SolvedCamera {
            camera: Camera { name: "solved".into(), frames },
            frame_errors: numbers.iter().map(|number| error(&|sight| sight.frame == *number)).collect(),
            points: solved.points.iter().enumerate().filter_map(point).collect(),
        };
        camera.come_to_rest();
        camera
    }
}

/// Where points were seen in the frames of the shot.
fn sights(points: &[&Track], picture: &PictureFormat) -> Vec<Sight> {
    let middle = [f64::from(picture.width) / 2.0, f64::from(picture.height) / 2.0];
    let mut sights = Vec::new();
    for (point, track) in points.iter().enumerate() {
        for (frame, sample) in track.samples.range(picture.frames.first..=picture.frames.last) {
            let at = [sample.at[0] - middle[0], sample.at[1] - middle[1]];
            sights.push(Sight { point, frame: (frame - picture.frames.first) as usize, at });
        }
    }
    sights
}

/// With y up and z toward the eye, of what has y down and z away from it.
const fn upright([x, y, z]: [f64; 3]) -> [f64; 3] {
    [x, -y, -z]
}

fn seen_by(pose: &Pose, lens: Lens) -> CameraAt {
    let [right, down, forward] = pose.axes.map(upright);
    let back = |way: [f64; 3]| way.map(|part| -part);
    CameraAt { place: upright(pose.place), right, up: back(down), back: back(forward), lens }
}

impl SolvedCamera {
    /// How far from where they were seen places are expected, over all frames, in pixels.
    pub fn error(&self) -> f64 {
        let squares: f64 = self.frame_errors.iter().map(|error| error * error).sum();
        (squares / self.frame_errors.len().max(1) as f64).sqrt()
    }

    /// The first camera comes to stand at the origin, and the middle one of all points [`AWAY`] from it.
    fn come_to_rest(&mut self) {
        let Some(first) = self.camera.frames.first().map(|frame| frame.camera) else { return };
        let place = DVec3::from(first.place);
        let mut far: Vec<f64> =
            self.points.iter().map(|point| DVec3::from(point.place).distance(place)).collect();
        far.sort_by(f64::total_cmp);
        let middle = far.get(far.len() / 2).copied().filter(|far| *far > 0.0).unwrap_or(AWAY);
        let turn = DMat3::from_cols(first.right.into(), first.up.into(), first.back.into()).transpose();
        self.carried(place, turn, AWAY / middle);
    }

    /// All of it, from a new origin, turned and made larger.
    fn carried(&mut self, origin: DVec3, turn: DMat3, scale: f64) {
        let place = |place: [f64; 3]| (turn * (DVec3::from(place) - origin) * scale).to_array();
        let way = |way: [f64; 3]| (turn * DVec3::from(way)).normalize().to_array();
        for CameraFrame { camera, .. } in &mut self.camera.frames {
            *camera = CameraAt {
                place: place(camera.place),
                right: way(camera.right),
                up: way(camera.up),
                back: way(camera.back),
                lens: camera.lens,
            };
        }
        self.points.iter_mut().for_each(|point| point.place = place(point.place));
    }

    fn place(&self, name: &str) -> Result<DVec3, SolveError> {
        let found = self.points.iter().find(|point| point.name == name);
        found.map(|point| point.place.into()).ok_or_else(|| SolveError::NoPoint(name.into()))
    }

    /// Three points come to lie on the ground, where y is 0: the first at the origin, the second along x.
    ///
    /// # Errors
    /// Where there is no such point, or all three are in a line.
    pub fn set_down(&mut self, ground: [&str; 3]) -> Result<(), SolveError> {
        let [origin, along, third] = ground.map(|name| self.place(name));
        let (origin, along, third) = (origin?, along?, third?);
        let up = (along - origin).cross(third - origin).try_normalize();
        let (Some(up), Some(x)) = (up, (along - origin).try_normalize()) else {
            return Err(SolveError::Points("the three points of the ground must not be in a line"));
        };
        // The camera is above the ground.
        let first = self.camera.frames.first().map_or(DVec3::ZERO, |frame| frame.camera.place.into());
        let up = if up.dot(first - origin) < 0.0 { -up } else { up };
        self.carried(origin, DMat3::from_cols(x, up, x.cross(up)).transpose(), 1.0);
        Ok(())
    }

    /// Two points come to be so many metres from each other; the origin stays.
    ///
    /// # Errors
    /// Where there is no such point, both are one, or the distance is none.
    pub fn measured(&mut self, [from, to]: [&str; 2], metres: f64) -> Result<(), SolveError> {
        let far = self.place(from)?.distance(self.place(to)?);
        if far <= 0.0 {
            return Err(SolveError::Points("a distance is measured between two points"));
        }
        if !(metres.is_finite() && metres > 0.0) {
            return Err(SolveError::Points("a distance must be a number of metres above 0"));
        }
        self.carried(DVec3::ZERO, DMat3::IDENTITY, metres / far);
        Ok(())
    }
}
