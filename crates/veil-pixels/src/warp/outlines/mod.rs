//! A picture moved by outlines: each has places at rest and how far they move, and what lies about them goes along smoothly.
//!
//! - Shape: moves for each pixel; output `p` reads `p − moves(p)`.
//! - Units: places and ways in pixels of the raster.
//! - The outlines land exactly at any quality: a thin plate is bent through some of their places, and what it leaves of all of
//!   them is made up for beside them, ever nearer, until nothing is left that could be seen ([`LEFT`]).
//! - Beyond the window that it is made for nothing moves.
//! - What lies on one straight line says nothing of what lies beside it: that moves as the line does in the mean, the further off
//!   the more.
//! - Inverse and folds: [`super::bent`].
//! - Sources: Bookstein 1989 (`plate`), Floater and Iske 1996 and Wendland 1995 (`near`).

mod fence;
mod ground;
mod near;
mod plate;
mod sheet;

pub use fence::Fence;

use ground::Ground;
use near::Near;
use plate::{Plate, Way};
use sheet::{Sheet, TILE};

use std::collections::HashSet;

use rayon::prelude::*;

use super::bent::{self, Bent, Inverse, Spot};
use crate::{Cancel, Cancelled, Field, Window};

/// No place of an outline is further from where it shall come to lie, in pixels.
const LEFT: f64 = 3e-4;
/// The field is as exact as this beside outlines, half way between what is right.
const BESIDE: f64 = 3e-4;
/// Beside outlines no block is taken that is wider, in pixels: what is made up for there may lie between its corners.
const WIDEST: usize = 8;
/// A plate is bent through no more places of outlines than this.
const MOST: f64 = 1500.0;
/// No places that are made up for are nearer to each other, in pixels.
const FINEST: f64 = 0.05;
/// Each time what is left is made up for, places are so many times nearer.
const FINER: f64 = 4.0;
/// Bumps that make up for it reach over so many of their places.
const REACH: f64 = 5.0;

/// How exact what lies around outlines is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Quality {
    /// For dragging.
    Quick,
    /// For work.
    Normal,
    /// For looking closely.
    Fine,
    /// For the end.
    Exact,
}

impl Quality {
    /// How many places of all outlines together the plate is bent through, where each is followed as it is by itself.
    const fn places(self) -> f64 {
        match self {
            Self::Quick => 100.0,
            Self::Normal => 240.0,
            Self::Fine => 480.0,
            Self::Exact => 900.0,
        }
    }

    /// How far off the field may be where no outline is, in pixels.
    const fn off(self) -> f64 {
        match self {
            Self::Quick => 0.05,
            Self::Normal => 0.01,
            Self::Fine => 0.004,
            Self::Exact => 0.002,
        }
    }

    /// How far off the inverse may be where no outline is, in pixels, half way between what is right.
    const fn inverse_off(self) -> f64 {
        match self {
            // Squares of the field lie beside each other no better than that.
            Self::Quick => self.off(),
            Self::Normal | Self::Fine | Self::Exact => 0.004,
        }
    }
}

/// An outline that moves: places along it, nearer to each other than a pixel or two, and how far each of them moves.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Outline {
    /// Where they are at rest.
    pub places: Vec<[f64; 2]>,
    /// How far each moves.
    pub ways: Vec<[f64; 2]>,
}

/// An outline with more places about its corners.
#[derive(Default)]
struct Line {
    places: Vec<[f64; 2]>,
    ways: Vec<[f64; 2]>,
    /// Which places are corners.
    corners: Vec<bool>,
}

/// Ways everywhere, by outlines.
struct Ways {
    /// None where outlines do not spread over a plane: then all moves as they do in the mean.
    plate: Option<Plate>,
    mean: [f64; 2],
    near: Vec<Near>,
}

impl Ways {
    fn at(&self, place: [f64; 2]) -> Way {
        let mean = || Way { value: self.mean, by: [[0.0; 2]; 2] };
        let mut way = self.plate.as_ref().map_or_else(mean, |plate| plate.at(place));
        self.near.iter().for_each(|near| near.add(place, &mut way));
        way
    }

    /// Through outlines, and still at what `still` gives for so far apart.
    fn of(
        outlines: &[Line],
        still: impl Fn(f64) -> Vec<[f64; 2]>,
        (quality, density): (Quality, f64),
        cancel: &Cancel,
    ) -> Result<Self, Cancelled> {
        let all: Vec<([f64; 2], [f64; 2])> = outlines
            .iter()
            .flat_map(|one| one.places.iter().copied().zip(one.ways.iter().copied()))
            .collect();
        let length: f64 = outlines.iter().map(length).sum();
        let apart = (length / (quality.places() * density).min(MOST)).max(1.0);
        let still = still(apart).into_iter().map(|place| (place, [0.0; 2]));
        let spread_evenly = |one: &Line| spread(one, &one.ways, apart, |_| true);
        let mut chosen: Vec<_> = outlines.par_iter().flat_map_iter(spread_evenly).collect();
        chosen.extend(still);
        let chosen = beside_a_line(apart_from_each_other(chosen, apart));
        let (places, ways): (Vec<_>, Vec<_>) = chosen.into_iter().unzip();
        let share = 1.0 / all.len().max(1) as f64;
        let mean = [0, 1].map(|axis| all.iter().map(|(_, way)| way[axis] * share).sum());
        let mut made = Self { plate: Plate::through(&places, &ways, cancel)?, mean, near: Vec::new() };
        made.make_up(outlines, &all, apart, cancel)?;
        Ok(made)
    }

    /// Makes up for what is left along outlines, ever nearer.
    fn make_up(
        &mut self,
        outlines: &[Line],
        all: &[([f64; 2], [f64; 2])],
        mut apart: f64,
        cancel: &Cancel,
    ) -> Result<(), Cancelled> {
        let mut left: Vec<[f64; 2]> = all
            .par_iter()
            .map(|(place, way)| {
                let own = self.at(*place).value;
                [way[0] - own[0], way[1] - own[1]]
            })
            .collect();
        loop {
            cancel.check()?;
            let is_left = |left: &[f64; 2]| left[0].abs().max(left[1].abs()) > LEFT;
            apart = (apart / FINER).max(FINEST);
            if !left.iter().any(is_left) {
                return Ok(());
            }
            let mut first = 0;
            let own: Vec<(&Line, &[[f64; 2]])> = outlines
                .iter()
                .map(|outline| {
                    let from = first;
                    first += outline.places.len();
                    (outline, &left[from..first])
                })
                .collect();
            let still_off =
                |(outline, own): (&Line, &[_])| spread(outline, own, apart, |run| run.iter().any(is_left));
            let chosen: Vec<Moved> = own.into_par_iter().flat_map_iter(still_off).collect();
            let chosen = apart_from_each_other(chosen, apart);
            let (places, ways): (Vec<_>, Vec<_>) = chosen.into_iter().unzip();
            let near = Near::through(&places, &ways, apart * REACH);
            left.par_iter_mut().zip(all).for_each(|(left, (place, _))| {
                let mut made = Way::default();
                near.add(*place, &mut made);
                *left = [left[0] - made.value[0], left[1] - made.value[1]];
            });
            self.near.push(near);
            if apart <= FINEST {
                return Ok(());
            }
        }
    }
}

/// A place, and how far it moves.
type Moved = ([f64; 2], [f64; 2]);

/// Without those that lie where another does, as where outlines touch: no more can be asked of one place.
fn apart_from_each_other(places: Vec<Moved>, apart: f64) -> Vec<Moved> {
    const SHARE: f64 = 0.02;
    let mut met = HashSet::new();
    let own = |(place, _): &Moved| place.map(|at| (at / (apart * SHARE)).round() as i64);
    places.into_iter().filter(|one| met.insert(own(one))).collect()
}

/// With two more on either side where all lie along one line, which move as they do in the mean.
fn beside_a_line(mut places: Vec<Moved>) -> Vec<Moved> {
    // As a share of how far they spread along the line.
    const THIN: f64 = 0.03;
    let share = 1.0 / places.len().max(1) as f64;
    let mean = |of: fn(&Moved) -> [f64; 2]| {
        places.iter().fold([0.0; 2], |sum, one| [0, 1].map(|axis| sum[axis] + of(one)[axis] * share))
    };
    let (middle, way) = (mean(|(place, _)| *place), mean(|(_, way)| *way));
    let spread = |a: usize, b: usize| {
        places.iter().map(|(place, _)| (place[a] - middle[a]) * (place[b] - middle[b]) * share).sum::<f64>()
    };
    let (xx, yy, xy) = (spread(0, 0), spread(1, 1), spread(0, 1));
    let (half, turn) = ((xx + yy) / 2.0, ((xx - yy) / 2.0).hypot(xy));
    // The squares of how far they spread along the line and across it.
    let (along, across) = (half + turn, (half - turn).max(0.0));
    if along > 0.0 && across <= THIN * THIN * along {
        let angle = xy.atan2((xx - yy) / 2.0) / 2.0;
        let far = 4.0 * along.sqrt();
        for side in [-far, far] {
            places.push(([middle[0] - side * angle.sin(), middle[1] + side * angle.cos()], way));
        }
    }
    places
}

/// The same outline with more places about its corners, where smooth bumps that are right at places are wrong beside them.
fn finer_at_corners(outline: &Outline) -> Line {
    const ABOUT: f64 = 1.5;
    let Outline { places, ways } = outline;
    let long: Vec<f64> = places.windows(2).map(|pair| step(pair[0], pair[1]).max(1e-9)).collect();
    let is_corner = corners(outline, &long);
    let mut about = vec![false; long.len()];
    for corner in (0..places.len()).filter(|at| is_corner[*at]) {
        for side in [(0..corner).rev().collect::<Vec<_>>(), (corner..long.len()).collect()] {
            let mut gone = 0.0;
            for segment in side {
                if gone > ABOUT {
                    break;
                }
                about[segment] = true;
                gone += long[segment];
            }
        }
    }
    let mut made = Line::default();
    for segment in 0..long.len() {
        let pieces = if about[segment] { (long[segment] / FINEST).ceil().max(1.0) as usize } else { 1 };
        for piece in 0..pieces {
            let t = piece as f64 / pieces as f64;
            let between = |of: &[[f64; 2]]| along(of, &long, &is_corner, segment, t);
            made.places.push(between(places));
            made.ways.push(between(ways));
            made.corners.push(piece == 0 && is_corner[segment]);
        }
    }
    made.places.extend(places.last());
    made.ways.extend(ways.last());
    made.corners.resize(made.places.len(), true);
    made
}

/// Which places are corners, of an outline or of how far it moves. Where all turns evenly, however sharply, is none.
fn corners(outline: &Outline, long: &[f64]) -> Vec<bool> {
    // What a direction turns by from one place to the next, as a share of the way gone, or a way does.
    const TURNS: f64 = 0.1;
    const UNEVEN: f64 = 2.0;
    let Outline { places, ways } = outline;
    let last = places.len().saturating_sub(1);
    let turn = |of: &[[f64; 2]], at: usize| {
        let slope = |from: usize| [0, 1].map(|axis| (of[from + 1][axis] - of[from][axis]) / long[from]);
        if at == 0 || at >= last { 0.0 } else { step(slope(at - 1), slope(at)) }
    };
    // How much it turns to a pixel.
    let bend = |of: &[[f64; 2]], at: usize| {
        if at == 0 || at >= last { 0.0 } else { turn(of, at) * 2.0 / (long[at - 1] + long[at]) }
    };
    let sharp = |of: &[[f64; 2]], at: usize| {
        turn(of, at) > TURNS && bend(of, at) > UNEVEN * bend(of, at - 1).min(bend(of, at + 1))
    };
    // Where it begins and ends others may touch it, and a closed one may turn.
    (0..places.len()).map(|at| at == 0 || at == last || sharp(places, at) || sharp(ways, at)).collect()
}

/// What lies at a share of the way from one place to the next: smoothly, but for corners.
fn along(of: &[[f64; 2]], long: &[f64], is_corner: &[bool], from: usize, t: f64) -> [f64; 2] {
    [0, 1].map(|axis| {
        let steep = |from: usize| (of[from + 1][axis] - of[from][axis]) / long[from];
        let own = steep(from);
        // How much steeper it is at an end than on the way.
        let more = |at: usize| {
            if is_corner[at] {
                return 0.0;
            }
            let [before, after] = [long[at - 1], long[at]];
            (steep(at - 1) * after + steep(at) * before) / (before + after) - own
        };
        let bow = t * (1.0 - t) * ((1.0 - t) * more(from) - t * more(from + 1));
        of[from][axis] + (own * t + bow) * long[from]
    })
}

/// Unlike by `hypot`, in a few steps.
fn step(a: [f64; 2], b: [f64; 2]) -> f64 {
    let [x, y] = [b[0] - a[0], b[1] - a[1]];
    (x * x + y * y).sqrt()
}

fn length(outline: &Line) -> f64 {
    outline.places.windows(2).map(|pair| step(pair[0], pair[1])).sum()
}

/// Places of an outline that are so far apart, its corners and the last, each with one of the values; only those in the middle of a
/// run, of what comes to lie between those beside it, that `wanted` takes.
fn spread(
    outline: &Line,
    values: &[[f64; 2]],
    apart: f64,
    wanted: impl Fn(&[[f64; 2]]) -> bool,
) -> Vec<Moved> {
    let count = outline.places.len();
    let mut chosen: Vec<usize> = Vec::new();
    let mut since = f64::MAX;
    for at in 0..count {
        if at > 0 {
            since += step(outline.places[at - 1], outline.places[at]);
        }
        if since >= apart || outline.corners[at] {
            chosen.push(at);
            since = 0.0;
        }
    }
    // An open one ends where its last place lies; a closed one where it began.
    if let (Some(last), true) = (chosen.last().copied(), since > apart / 4.0)
        && last + 1 < count
        && step(outline.places[0], outline.places[count - 1]) > apart / 4.0
    {
        chosen.push(count - 1);
    }
    let about = |at: usize| {
        let from = at.checked_sub(2).map_or(0, |at| chosen[at]);
        from..=chosen.get(at + 2).copied().unwrap_or(count - 1)
    };
    let numbers = (0..chosen.len()).filter(|at| wanted(&values[about(*at)]));
    numbers.map(|at| (outline.places[chosen[at]], values[chosen[at]])).collect()
}

/// A picture moved by outlines, ready to be asked.
pub struct Shaped {
    sheet: Sheet,
    quality: Quality,
    loose: Option<Field>,
    /// Where outlines come to lie.
    goal: Marks,
}

impl Shaped {
    /// What `outlines` do to places at rest within a window, held back by `fences`. `density` says how closely each is followed, 1 as
    /// the quality has it.
    pub fn new(
        outlines: &[Outline],
        fences: &[Fence],
        quality: Quality,
        density: f64,
        window: Window,
        cancel: &Cancel,
    ) -> Result<Self, Cancelled> {
        let lines: Vec<Line> = outlines.par_iter().map(finer_at_corners).collect();
        let ways = Ground::of(&lines, fences, (quality, density), cancel)?;
        let all = || outlines.iter().flat_map(|one| one.places.iter().zip(&one.ways));
        let rest = Marks::of(all().map(|(place, _)| *place), window);
        let goal = Marks::of(all().map(|(place, way)| [place[0] + way[0], place[1] + way[1]]), window);
        let exact = |block: Window| match rest.beside(block) {
            true if block.width() > WIDEST => None,
            true => Some(BESIDE),
            false => Some(quality.off()),
        };
        let sheet = Sheet::over(window, &|place| ways.at(place), &exact, cancel)?;
        Ok(Self { loose: ways.loose(window, cancel)?, quality, goal, sheet })
    }

    /// The moves over a window.
    pub fn over(&self, window: Window, cancel: &Cancel) -> Result<Inverse, Cancelled> {
        Inverse::over(self, window, cancel)
    }

    /// 1 where something may move, 0 where fences keep all still, over the window that it was made for; none where they keep nothing.
    pub const fn loose(&self) -> Option<&Field> {
        self.loose.as_ref()
    }

    /// 1 where it is folded over.
    pub fn folded(&self, window: Window, cancel: &Cancel) -> Result<Field, Cancelled> {
        bent::folded(self, window, cancel)
    }
}

/// Squares of a window that places lie in.
struct Marks {
    /// Of squares.
    window: Window,
    marked: Vec<bool>,
}

impl Marks {
    /// The side of a square, in pixels.
    const SIDE: i32 = 2;

    fn of(places: impl Iterator<Item = [f64; 2]>, window: Window) -> Self {
        let square = |at: i32| at.div_euclid(Self::SIDE);
        let window =
            Window::new(square(window.x0), square(window.y0), square(window.x1) + 1, square(window.y1) + 1);
        let mut made = Self { marked: vec![false; window.area()], window };
        for [x, y] in places {
            // What is no number lies in no square.
            let [x, y] = [x, y].map(|at| (at / f64::from(Self::SIDE)).floor());
            if let Some(at) = made.at(x as i32, y as i32) {
                made.marked[at] = true;
            }
        }
        made
    }

    fn at(&self, x: i32, y: i32) -> Option<usize> {
        let Window { x0, y0, x1, y1 } = self.window;
        let inside = (x0..x1).contains(&x) && (y0..y1).contains(&y);
        inside.then(|| (y - y0) as usize * self.window.width() + (x - x0) as usize)
    }

    /// Whether a place lies in a block or beside it.
    fn beside(&self, block: Window) -> bool {
        let square = |at: i32| at.div_euclid(Self::SIDE);
        let near = Window::new(
            square(block.x0 - 1),
            square(block.y0 - 1),
            square(block.x1) + 1,
            square(block.y1) + 1,
        );
        let near = near.intersect(self.window);
        (near.y0..near.y1).any(|y| {
            let first = (y - self.window.y0) as usize * self.window.width();
            let column = |x: i32| first + (x - self.window.x0) as usize;
            self.marked[column(near.x0)..column(near.x1)].contains(&true)
        })
    }
}

impl Bent for Shaped {
    fn pieces(&self) -> usize {
        self.sheet.count()
    }

    fn at(&self, piece: usize, numbers: [f64; 2]) -> Spot {
        let side = f64::from(TILE);
        let corner = self.sheet.corner(piece);
        let rest = [0, 1].map(|axis| corner[axis] + numbers[axis] * side);
        let way = self.sheet.at(rest);
        Spot {
            rest,
            way: way.value,
            rest_by: [[side, 0.0], [0.0, side]],
            way_by: way.by.map(|by| by.map(|by| by * side)),
        }
    }

    fn bounds(&self, piece: usize) -> [f64; 4] {
        let ([left, top], [x, y]) = (self.sheet.corner(piece), self.sheet.ways(piece));
        let side = f64::from(TILE);
        [left + x[0], top + y[0], left + side + x[1], top + side + y[1]]
    }

    fn exactness(&self, block: Window) -> f64 {
        match self.goal.beside(block) {
            // Nothing but what is still is as exact as that.
            true if block.width() > WIDEST => 0.0,
            true => LEFT,
            false => self.quality.inverse_off(),
        }
    }
}
