//! An outline on its way to another, which need not have as many points.
//!
//! - Shape: two outlines by their points, and ties between places of the one and places of the other.
//! - Units: a place is the number of a point and a share of the curve to the next, even where that is straight; the result's places are in the units of
//!   the outlines.
//! - Between two ties what lies at the same share of the way along each goes to the other. Lines that do not close begin and
//!   end together; outlines without a tie begin at their first points.
//! - A tie that crosses another is kept: what lies between runs backward.
//! - Edge: at 0 the result is nowhere further than [`FLAT`] from the first outline, at 1 from the second; below and beyond
//!   it goes on straight.

use crate::shape::outline::{FLAT, Knot};

/// Straight pieces that stand for a curve whose places are tied are no further from it than this, in pixels: what is bent along
/// them would follow each of their corners.
const FINE: f64 = 1e-4;
/// Between ties that are near to each other there are as many places as this, as the pace may change from the one to the other,
/// but none this many times nearer than asked.
const LEAST_STEPS: f64 = 8.0;
/// A curve is cut into no more pieces than this.
const MOST_PIECES: f64 = 1000.0;

struct Line<'a> {
    knots: &'a [Knot],
    closed: bool,
    /// How far straight pieces may be from it, in pixels.
    flat: f64,
}

impl Line<'_> {
    /// How many places it has along itself.
    fn length(&self) -> f64 {
        let count = self.knots.len();
        (if self.closed { count } else { count.saturating_sub(1) }) as f64
    }

    /// From one point to the next; evenly where it is straight.
    fn curve(&self, from: usize) -> [[f64; 2]; 4] {
        let count = self.knots.len();
        let (a, b) = (self.knots[from % count], self.knots[(from + 1) % count]);
        let share = |share: f64| [0, 1].map(|axis| a.at[axis] + (b.at[axis] - a.at[axis]) * share);
        if a.after == [0.0; 2] && b.before == [0.0; 2] {
            return [a.at, share(1.0 / 3.0), share(2.0 / 3.0), b.at];
        }
        let handle = |knot: Knot, by: [f64; 2]| [knot.at[0] + by[0], knot.at[1] + by[1]];
        [a.at, handle(a, a.after), handle(b, b.before), b.at]
    }

    fn at(&self, place: f64) -> [f64; 2] {
        let from = (place.floor().max(0.0) as usize).min((self.length() as usize * 2).saturating_sub(1));
        let t = place - from as f64;
        let curve = self.curve(from);
        let s = 1.0 - t;
        let by = [s * s * s, 3.0 * s * s * t, 3.0 * s * t * t, t * t * t];
        [0, 1].map(|axis| curve.iter().zip(by).map(|(place, by)| place[axis] * by).sum())
    }

    /// Places from one to another, near enough together that straight pieces between them are the curve.
    fn places(&self, from: f64, to: f64) -> Vec<f64> {
        let (low, high) = (from.min(to), from.max(to));
        let mut places = vec![low];
        for curve in low.floor() as usize..(high.ceil() as usize).max(low.floor() as usize) {
            let [a, b, c, d] = self.curve(curve);
            let bend = |p: [f64; 2], q: [f64; 2], r: [f64; 2]| {
                (p[0] - 2.0 * q[0] + r[0]).hypot(p[1] - 2.0 * q[1] + r[1])
            };
            let bends = 6.0 * bend(a, b, c).max(bend(b, c, d));
            let count =
                (bends / (8.0 * self.flat) - 1e-9).max(0.0).sqrt().ceil().clamp(1.0, MOST_PIECES) as usize;
            let all = (0..=count).map(|piece| curve as f64 + piece as f64 / count as f64);
            places.extend(all.filter(|place| (low..high).contains(place) && *place > low));
        }
        if high > low {
            places.push(high);
        }
        if to < from {
            places.reverse();
        }
        places
    }

    /// From one place to another: where it goes, each with its share of the way.
    fn way(&self, from: f64, to: f64) -> Vec<(f64, [f64; 2])> {
        let places: Vec<[f64; 2]> = self.places(from, to).into_iter().map(|place| self.at(place)).collect();
        let steps = places.windows(2).map(|pair| length([pair[1][0] - pair[0][0], pair[1][1] - pair[0][1]]));
        let lengths: Vec<f64> = std::iter::once(0.0)
            .chain(steps.scan(0.0, |far, step| {
                *far += step;
                Some(*far)
            }))
            .collect();
        let whole = lengths.last().copied().filter(|length| *length > 0.0).unwrap_or(1.0);
        lengths.into_iter().map(|length| length / whole).zip(places).collect()
    }
}

/// The place at a share of a way.
fn along(way: &[(f64, [f64; 2])], share: f64) -> [f64; 2] {
    let next = way.partition_point(|(at, _)| *at < share);
    let (Some((start, a)), Some((end, b))) =
        (way.get(next.saturating_sub(1)), way.get(next.min(way.len() - 1)))
    else {
        return [0.0; 2];
    };
    let t = if end > start { (share - start) / (end - start) } else { 0.0 };
    [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t]
}

/// The outline that has come `way` of the way from the first to the second, as places in order; a closed one does not come
/// back to its first. Nothing where either has no points.
pub fn between([rest, goal]: [&[Knot]; 2], closed: bool, ties: &[[f64; 2]], way: f64) -> Vec<[f64; 2]> {
    if rest.is_empty() || goal.is_empty() {
        return Vec::new();
    }
    let [rest, goal] = [rest, goal].map(|knots| Line { knots, closed, flat: FLAT });
    let cuts = cuts([rest.length(), goal.length()], closed, ties);
    let mut places = Vec::new();
    for pair in cuts.windows(2) {
        let ([from, goal_from], [to, goal_to]) = (pair[0], pair[1]);
        let ways = [rest.way(from, to), goal.way(goal_from, goal_to)];
        let mut shares: Vec<f64> = ways.iter().flatten().map(|(share, _)| *share).collect();
        shares.sort_by(f64::total_cmp);
        shares.dedup();
        places.extend(shares.into_iter().map(|share| {
            let [a, b] = ways.each_ref().map(|way| along(way, share));
            [a[0] + (b[0] - a[0]) * way, a[1] + (b[1] - a[1]) * way]
        }));
    }
    places.dedup();
    if closed && places.len() > 1 && places.first() == places.last() {
        places.pop();
    }
    places
}

/// Places along the first outline, no further than `apart` from each other, each with the place of the second that it goes to; a
/// closed one ends beside where it began. Between ties both go along smoothly, and never backward but where ties cross. Nothing
/// where either outline has no points.
///
/// Source: Fritsch and Butland, "A method for constructing local monotone piecewise cubic interpolants", 1984.
pub fn tied([rest, goal]: [&[Knot]; 2], closed: bool, ties: &[[f64; 2]], apart: f64) -> Vec<[[f64; 2]; 2]> {
    if rest.is_empty() || goal.is_empty() {
        return Vec::new();
    }
    let [rest, goal] = [rest, goal].map(|knots| Line { knots, closed, flat: FINE });
    let cuts = cuts([rest.length(), goal.length()], closed, ties);
    let parts: Vec<[Way; 2]> = cuts
        .windows(2)
        .map(|pair| [rest.way(pair[0][0], pair[1][0]), goal.way(pair[0][1], pair[1][1])])
        .collect();
    let lengths: Vec<[f64; 2]> = parts.iter().map(|part| part.each_ref().map(long)).collect();
    let slopes = slopes(&lengths, closed);
    let mut places = Vec::new();
    for (number, ([from, to], [a, b])) in parts.iter().zip(&lengths).enumerate() {
        let share = a.max(*b) / apart;
        let steps = share.max((share * LEAST_STEPS).min(LEAST_STEPS)).ceil().clamp(1.0, 1e5) as usize;
        let last = usize::from(number + 1 == parts.len() && !closed);
        for step in 0..steps + last {
            let t = step as f64 / steps as f64;
            // The cubic from 0 to 1 with both slopes, as shares of the way.
            let [starts, ends] =
                [slopes[number], slopes[number + 1]].map(|slope| if *b > 0.0 { slope * a / b } else { 1.0 });
            let gone = t * (starts + t * (3.0 - 2.0 * starts - ends + t * (starts + ends - 2.0)));
            places.push([along(from, t), along(to, gone.clamp(0.0, 1.0))]);
        }
    }
    places
}

/// Where a line goes, each with its share of the way.
type Way = Vec<(f64, [f64; 2])>;

fn long(way: &Way) -> f64 {
    way.windows(2).map(|pair| length([pair[1].1[0] - pair[0].1[0], pair[1].1[1] - pair[0].1[1]])).sum()
}

/// Unlike by `hypot`, in a few steps.
fn length([x, y]: [f64; 2]) -> f64 {
    (x * x + y * y).sqrt()
}

/// How fast the second outline is gone along where parts of both meet, as the first is: between the paces of both parts.
fn slopes(lengths: &[[f64; 2]], closed: bool) -> Vec<f64> {
    let pace = |part: usize| if lengths[part][0] > 0.0 { lengths[part][1] / lengths[part][0] } else { 0.0 };
    let count = lengths.len();
    let between = |before: usize, after: usize| {
        let ([a, b], [p, q]) = ([lengths[before][0], lengths[after][0]], [pace(before), pace(after)]);
        if p <= 0.0 || q <= 0.0 {
            return 0.0;
        }
        let (first, second) = (2.0 * b + a, b + 2.0 * a);
        (first + second) / (first / p + second / q)
    };
    (0..=count)
        .map(|at| match (at, closed) {
            (0, false) => pace(0),
            (at, false) if at == count => pace(count - 1),
            (at, _) => between((at + count - 1) % count, at % count),
        })
        .collect()
}

/// Pairs of places between which the outlines are taken piece by piece, from the first to the last.
fn cuts([rest, goal]: [f64; 2], closed: bool, ties: &[[f64; 2]]) -> Vec<[f64; 2]> {
    let mut cuts = ties.to_vec();
    cuts.sort_by(|a, b| a[0].total_cmp(&b[0]));
    cuts.dedup_by(|a, b| a[0] == b[0]);
    if !closed {
        if cuts.first().is_none_or(|tie| tie[0] > 0.0) {
            cuts.insert(0, [0.0; 2]);
        }
        if cuts.last().is_none_or(|tie| tie[0] < rest) {
            cuts.push([rest, goal]);
        }
        return cuts;
    }
    let first = cuts.first().copied().unwrap_or([0.0; 2]);
    cuts.retain(|tie| tie[0] < first[0] + rest);
    for tie in &mut cuts {
        tie[1] = first[1] + (tie[1] - first[1]).rem_euclid(goal.max(1.0));
    }
    if cuts.is_empty() {
        cuts.push(first);
    }
    cuts.push([first[0] + rest, first[1] + goal]);
    cuts
}
