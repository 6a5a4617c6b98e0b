//! What is told of pairs of outlines and of fences: from the setup alone.

use veil_pixels::shape::ellipse::SoftSide;
use veil_pixels::shape::outline::{Knot, Outline};

use super::FaultKind;
use crate::controls::{Fence, KeyedPoints, Pair, PairSet};
use crate::feed::Feed;

/// The first thing that is wrong with a pair, in the order of how much it harms.
pub(super) fn of_pairs(set: &PairSet) -> Option<(FaultKind, String)> {
    let counted = || set.pairs.iter().filter(|pair| pair.counts);
    counted()
        .find_map(crossed)
        .or_else(|| counted().find_map(crosses_itself))
        .or_else(|| counted().find_map(|pair| across_a_fence(pair, set)))
        .or_else(|| counted().find_map(goes_round_nothing))
        .or_else(|| counted().find_map(untied))
}

/// Ties that cross turn what lies between them inside out.
fn crossed(pair: &Pair) -> Option<(FaultKind, String)> {
    let message = format!("ties of `{}` cross, which turns the picture inside out between them", pair.name);
    pair.has_crossed_ties().then_some((FaultKind::CrossedTies, message))
}

/// Both sides of a pair, and what each is called.
fn sides(pair: &Pair) -> [(&KeyedPoints, &'static str); 2] {
    [(&pair.rest, "as it is"), (&pair.goal, "as it shall be")]
}

fn crosses_itself(pair: &Pair) -> Option<(FaultKind, String)> {
    sides(pair).into_iter().find_map(|(line, side)| {
        let crosses = |frame: &f64| {
            let pieces = pieces(line, pair.closed, *frame, 0);
            let count = pieces.len();
            meet(pieces, |a, b| {
                // Those beside each other share an end.
                let apart = a.number.abs_diff(b.number);
                apart > 1 && !(pair.closed && apart + 1 == count)
            })
        };
        let frame = line.keys.iter().map(|key| key.frame).find(crosses)?;
        let message = format!(
            "`{}` crosses itself {side}, at frame {frame}, which turns the picture inside out there",
            pair.name
        );
        Some((FaultKind::CrossesItself, message))
    })
}

/// Nothing moves on a fence, so that an outline does not land where it crosses one.
fn across_a_fence(pair: &Pair, set: &PairSet) -> Option<(FaultKind, String)> {
    let firm =
        |at: usize| !matches!(set.amounts.get(set.pairs.len() + at), Some(Feed::Fixed(firm)) if *firm <= 0.0);
    let fences = set.fences.iter().enumerate().filter(|(at, fence)| fence.counts && firm(*at));
    fences.map(|(_, fence)| fence).find_map(|fence| {
        let (_, side) = sides(pair).into_iter().find(|(line, _)| crosses(line, pair.closed, fence))?;
        let message = format!(
            "`{}` goes across the fence `{}` {side}: nothing moves on a fence, so that it does not land there",
            pair.name, fence.name
        );
        Some((FaultKind::AcrossFence, message))
    })
}

/// Whether an outline goes across a fence at a key of either. Of those that go with different tracks it is not known.
fn crosses(line: &KeyedPoints, closed: bool, fence: &Fence) -> bool {
    let track = |points: &KeyedPoints| points.carried.as_ref().map(|by| by.track);
    let mut frames = line.keys.iter().chain(&fence.line.keys).map(|key| key.frame);
    track(line) == track(&fence.line)
        && frames.any(|frame| {
            let own = pieces(line, closed, frame, 0);
            let both = own.into_iter().chain(pieces(&fence.line, fence.closed, frame, 1)).collect();
            meet(both, |a, b| a.of != b.of)
        })
}

fn goes_round_nothing(pair: &Pair) -> Option<(FaultKind, String)> {
    let few = pair.closed && sides(pair).iter().any(|(line, _)| line.count() < 3);
    let message = format!("`{}` closes round nothing: it has fewer than three points", pair.name);
    few.then_some((FaultKind::RoundNothing, message))
}

fn untied(pair: &Pair) -> Option<(FaultKind, String)> {
    let moves = pair.rest != pair.goal;
    let message =
        format!("`{}` has no ties: what becomes what goes by the lengths of both outlines alone", pair.name);
    (moves && pair.ties.is_empty()).then_some((FaultKind::Untied, message))
}

/// A straight piece of a line.
#[derive(Clone, Copy)]
struct Piece {
    ends: [[f64; 2]; 2],
    /// Of which line.
    of: usize,
    /// Which along it.
    number: usize,
}

impl Piece {
    fn left(&self) -> f64 {
        self.ends[0][0].min(self.ends[1][0])
    }

    fn right(&self) -> f64 {
        self.ends[0][0].max(self.ends[1][0])
    }

    /// Whether both cross within each other.
    fn crosses(&self, other: &Self) -> bool {
        let side = |[a, b]: [[f64; 2]; 2], c: [f64; 2]| {
            (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
        };
        let parts = |line: [[f64; 2]; 2], [c, d]: [[f64; 2]; 2]| side(line, c) * side(line, d) < 0.0;
        parts(self.ends, other.ends) && parts(other.ends, self.ends)
    }
}

/// The straight pieces of a line at a frame.
fn pieces(line: &KeyedPoints, closed: bool, frame: f64, of: usize) -> Vec<Piece> {
    let points = line.at(frame);
    let straight = |at: usize| {
        let [from, to] = [&points[at], &points[(at + 1) % points.len()]];
        let is_straight = from.after == [0.0; 2] && to.before == [0.0; 2];
        is_straight.then(|| [0, 1].map(|axis| (to.at[axis] - from.at[axis]) / 3.0))
    };
    // What is straight is one piece: where it was cut, another could go across it.
    let knots = points.iter().enumerate().map(|(at, point)| Knot {
        at: point.at,
        before: straight((at + points.len() - 1) % points.len())
            .map_or(point.before, |way| way.map(|by| -by)),
        after: straight(at).unwrap_or(point.after),
        soft: 0.0,
    });
    let width = if closed { None } else { Some(0.0) };
    let corners = Outline { knots: knots.collect(), width, side: SoftSide::Both }.corners();
    let closing = corners.last().zip(corners.first()).filter(|_| closed).map(|(last, first)| [*last, *first]);
    let ends = corners.windows(2).map(|pair| [pair[0], pair[1]]).chain(closing);
    ends.enumerate().map(|(number, ends)| Piece { ends, of, number }).collect()
}

/// Whether two of some pieces cross that may be asked.
fn meet(mut pieces: Vec<Piece>, asked: impl Fn(&Piece, &Piece) -> bool) -> bool {
    pieces.sort_by(|a, b| a.left().total_cmp(&b.left()));
    pieces.iter().enumerate().any(|(at, piece)| {
        let near = pieces[at + 1..].iter().take_while(|other| other.left() <= piece.right());
        near.into_iter().any(|other| asked(piece, other) && piece.crosses(other))
    })
}
