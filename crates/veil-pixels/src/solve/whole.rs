//! A camera solved: begun, filled in, and looked at anew.

use rayon::prelude::*;

use super::bundle::{Free, adjust};
use super::moving;
use super::scene::{Scene, Stand};
use super::seen::Seen;
use super::sight::{Focal, Going, Pose, Sight, Solved, Unsolved};
use crate::Cancel;

/// Angles of view that are tried where none is known, as shares of the picture's width that the focal length is.
const TRIED: [f64; 5] = [0.6, 0.9, 1.3, 1.9, 2.8];
/// Steps of the whole, and how often it is looked at anew what fits.
const LAST_STEPS: usize = 20;
const ROUNDS: usize = 3;

/// Finds the camera of so many frames, and so many places.
///
/// # Errors
/// [`Unsolved`] says why there is none.
pub fn solve(
    [frames, points]: [usize; 2],
    sights: &[Sight],
    focal: Focal,
    going: Going,
    cancel: &Cancel,
) -> Result<Solved, Unsolved> {
    let free = Free { focal: matches!(focal, Focal::Of(_)), places: going == Going::Moves };
    let focals = match focal {
        Focal::Known(focal) => vec![focal],
        Focal::Of(width) => TRIED.map(|share| share * width).to_vec(),
    };
    let seen = Seen::of(frames, points, sights);
    let begun: Vec<Result<Scene, Unsolved>> = focals
        .par_iter()
        .map(|focal| {
            let empty = Scene::empty(*focal, frames, points);
            match going {
                Going::Turns => seen.turned(empty, free, cancel),
                Going::Moves => moving::begun(&seen, empty, free, cancel),
            }
        })
        .collect();
    let mut scene = seen.best(begun)?;
    // What was begun with agrees; all else is looked at by it.
    let begun: Vec<bool> = scene.points.iter().map(Option::is_some).collect();
    let begun = seen.only(&begun);
    begun.fill(&mut scene, free, cancel)?;
    adjust(&mut scene, &begun.all, free, LAST_STEPS, cancel)?;
    // The better cameras are known, the better it shows what does not fit.
    for _ in 0..ROUNDS {
        seen.forget_far_off(&mut scene);
        seen.place_points(&mut scene, free);
        let counts = seen.fitting(&mut scene);
        let kept = seen.kept(&counts);
        kept.fill(&mut scene, free, cancel)?;
        adjust(&mut scene, &kept.all, free, LAST_STEPS, cancel)?;
    }
    let counts = seen.fitting(&mut scene);
    Ok(Solved {
        focal: scene.focal,
        misses: sights.iter().map(|sight| Some(scene.miss(sight)?.norm())).collect(),
        poses: scene.stands.iter().map(|stand| stand.as_ref().map(Pose::of)).collect(),
        points: scene.points.iter().map(|point| point.map(Into::into)).collect(),
        counts,
    })
}

impl Pose {
    fn of(stand: &Stand) -> Self {
        let rows = *stand.turn.to_rotation_matrix().matrix();
        let row = |row: usize| [rows[(row, 0)], rows[(row, 1)], rows[(row, 2)]];
        Self { axes: [row(0), row(1), row(2)], place: stand.place.into() }
    }
}
