//! Dense motion between two pictures.
//!
//! - Shape: two fields of one window, and a move for every pixel of the first: where it lies in the second.
//! - Units: pixels; brightness in levels of 256, as it is seen.
//! - Method: from coarse to fine, patches are found again and vote, and their motion is refined everywhere at once. The
//!   finest level is half as fine as the pictures, unless they are small.
//! - Edges: beyond the border the border's pixels go on; what leaves the picture is moved as what is about it.

pub mod agree;
pub mod go_on;
pub mod midway;
mod patches;
mod refine;

use refine::Care;

use crate::sample::resample::{Filter, Sampler, Scratch};
use crate::sample::resize::block_means;
use crate::{Cancel, Cancelled, Edge, Field, Map, Move, Raster, Window};

/// Pixels about a level that patches may lead into.
const BORDER: i32 = 16;
/// The least width or height of a picture that is still halved.
const LEAST: usize = 32;
/// Pixels of a picture up to which it is sought on itself, and not on one half as fine.
const SMALL: usize = 1 << 17;
/// Halvings from which a level counts as coarse: a sweep there costs little, and edges of the motion are to stay.
const COARSE: usize = 2;
/// How often what patches found is handed on to those about them.
const HANDED_ON: usize = 2;

/// How finely motion is sought.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Fineness {
    /// As finely as it is told.
    Fine,
    /// Half as finely, in about a quarter of the time: enough where only how far something goes counts.
    Quick,
}

/// The motion from one picture to another, both of one window.
pub fn flow(from: &Field, other: &Field, fineness: Fineness, cancel: &Cancel) -> Result<Map, Cancelled> {
    let window = from.window();
    if window.width().min(window.height()) < patches::SIZE {
        return Ok(Raster::clear(window));
    }
    let levels = levels(from, other, fineness, cancel)?;
    let halved = usize::from(window.area() > SMALL) + usize::from(fineness == Fineness::Quick);
    let finest = halved.min(levels.len() - 1);
    let mut moves = None;
    for (number, level) in levels.iter().enumerate().rev() {
        let size = level[0].window();
        let start = match &moves {
            Some(coarse) => finer(coarse, size, cancel)?,
            None => Raster::clear(size),
        };
        let care = if number < COARSE { refine::FINE } else { refine::ROUGH };
        moves = Some(if number < finest { start } else { on_level(level, &start, care, cancel)? });
    }
    let moves = moves.unwrap_or_else(|| Raster::clear(window));
    Raster::written(window, cancel, |y, row| row.copy_from_slice(moves.row(y - window.y0)))
}

/// Both pictures from the origin on, and halved until they are small.
fn levels(
    from: &Field,
    other: &Field,
    fineness: Fineness,
    cancel: &Cancel,
) -> Result<Vec<[Field; 2]>, Cancelled> {
    let window = from.window();
    let size = Window::sized(window.width() as u32, window.height() as u32);
    let at_origin =
        |field: &Field| Raster::written(size, cancel, |y, row| row.copy_from_slice(field.row(y + window.y0)));
    let mut levels = vec![[at_origin(from)?, at_origin(other)?]];
    while let Some([from, other]) = levels.last() {
        if from.window().width().min(from.window().height()) < LEAST {
            break;
        }
        levels.push([halved(from, fineness, cancel)?, halved(other, fineness, cancel)?]);
    }
    Ok(levels)
}

/// Half as fine. Sought quickly, no finer level puts right what waves too short for the half do that come back as longer
/// ones, so they are kept out.
fn halved(field: &Field, fineness: Fineness, cancel: &Cancel) -> Result<Field, Cancelled> {
    match fineness {
        Fineness::Fine => block_means(field, 2, cancel),
        Fineness::Quick => halved_softly(field, cancel),
    }
}

/// Half as fine by shares of one, three, three and one of the four pixels about each, along and down.
fn halved_softly(field: &Field, cancel: &Cancel) -> Result<Field, Cancelled> {
    let size = field.window();
    let shared = |[a, b, c, d]: [f32; 4]| 0.125 * (a + d) + 0.375 * (b + c);
    let within = |at: usize, length: usize| {
        let (first, last) = (2 * at, length - 1);
        [first.saturating_sub(1), first, (first + 1).min(last), (first + 2).min(last)]
    };
    let begin = || vec![0.0f32; size.width()];
    Raster::written_with(size.scaled_down(2), cancel, begin, |line, y, row: &mut [f32]| {
        let four = within(y as usize, size.height()).map(|y| field.row(y as i32));
        for (x, out) in line.iter_mut().enumerate() {
            *out = shared(four.map(|row| row[x]));
        }
        for (x, out) in row.iter_mut().enumerate() {
            *out = shared(within(x, line.len()).map(|x| line[x]));
        }
    })
}

/// The motion on one level, from what the one before says.
fn on_level(level: &[Field; 2], start: &Map, care: Care, cancel: &Cancel) -> Result<Map, Cancelled> {
    let size = start.window();
    let bordered = |field: &Field| field.extended(size.grow(BORDER, BORDER), size, Edge::Hold);
    let [from, other] = level.each_ref().map(bordered);
    let mut found = patches::search(&from, &other, start, cancel)?;
    for _ in 0..HANDED_ON {
        found = patches::handed_on(&from, &other, &found, size, cancel)?;
    }
    let voted = patches::dense(&from, &other, &found, size, cancel)?;
    care.refined(&from, &other, &voted, cancel)
}

/// Moves of a level on one twice as fine.
fn finer(coarse: &Map, window: Window, cancel: &Cancel) -> Result<Map, Cancelled> {
    let sampler = Sampler::new(coarse, coarse.window(), Edge::Hold);
    Raster::written_with(window, cancel, Scratch::default, |scratch, y, row: &mut [Move]| {
        let places = |start: usize, x: &mut [f32], to_y: &mut [f32]| {
            to_y.fill((y as f32 + 0.5) * 0.5);
            x.iter_mut().enumerate().for_each(|(at, x)| *x = ((start + at) as f32 + 0.5) * 0.5);
        };
        sampler.read_run_with(scratch, Filter::Linear, places, row);
        row.as_flattened_mut().iter_mut().for_each(|way| *way *= 2.0);
    })
}
