//! What outlines may not cross: a closed line parts what lies inside it from the rest, any line keeps still what lies on it.

use super::plate::Way;

/// A line that keeps what lies beyond it from moving.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Fence {
    /// Its corners, near enough together that what lies between them is straight.
    pub places: Vec<[f64; 2]>,
    /// Whether it ends where it begins.
    pub closed: bool,
    /// How firm it is, 0–1: at 1 nothing crosses it, at 0 it is as if it were not there.
    pub firmness: f64,
}

/// Which closed fences a place lies inside of, a bit for each.
pub(super) type Inside = u128;

impl Fence {
    fn sides(&self) -> impl Iterator<Item = [[f64; 2]; 2]> + '_ {
        let last = self.places.last().zip(self.places.first()).filter(|_| self.closed);
        let own = self.places.windows(2).map(|pair| [pair[0], pair[1]]);
        own.chain(last.map(|(last, first)| [*last, *first]))
    }

    /// Where a row of places crosses it, if it is closed.
    pub(super) fn crossings(&self, y: f64) -> Vec<f64> {
        let crosses = |[a, b]: [[f64; 2]; 2]| {
            ((a[1] <= y) != (b[1] <= y)).then(|| a[0] + (y - a[1]) / (b[1] - a[1]) * (b[0] - a[0]))
        };
        let mut found: Vec<f64> =
            if self.closed { self.sides().filter_map(crosses).collect() } else { Vec::new() };
        found.sort_by(f64::total_cmp);
        found
    }
}

/// Fences that hold together.
pub(super) struct Fences<'a> {
    all: Vec<&'a Fence>,
}

/// What fences say of a place.
pub(super) struct Told {
    pub(super) inside: Inside,
    /// How far the nearest of them is, and where it is; none where there is none.
    pub(super) nearest: Option<(f64, [f64; 2])>,
}

impl<'a> Fences<'a> {
    pub(super) const fn of(all: Vec<&'a Fence>) -> Self {
        Self { all }
    }

    pub(super) const fn are_none(&self) -> bool {
        self.all.is_empty()
    }

    pub(super) fn told(&self, place: [f64; 2]) -> Told {
        let [x, y] = place;
        let (mut inside, mut least) = (0, None::<(f64, [f64; 2])>);
        for (bit, fence) in self.all.iter().enumerate() {
            let mut odd = false;
            for [a, b] in fence.sides() {
                if fence.closed && (a[1] <= y) != (b[1] <= y) {
                    odd ^= a[0] + (y - a[1]) / (b[1] - a[1]) * (b[0] - a[0]) > x;
                }
                let way = [b[0] - a[0], b[1] - a[1]];
                let long = way[0] * way[0] + way[1] * way[1];
                let along = ((x - a[0]) * way[0] + (y - a[1]) * way[1]) / long.max(1e-300);
                let at = [0, 1].map(|axis| a[axis] + way[axis] * along.clamp(0.0, 1.0));
                let far = (at[0] - x) * (at[0] - x) + (at[1] - y) * (at[1] - y);
                if least.is_none_or(|(nearest, _)| far < nearest) {
                    least = Some((far, at));
                }
            }
            inside |= Inside::from(odd) << bit;
        }
        Told { inside, nearest: least.map(|(far, at)| (far.sqrt(), at)) }
    }

    /// Which of them a row's places lie inside of, from one on to the right, each a pixel further.
    pub(super) fn along(&self, first: [f64; 2], out: &mut [Inside]) {
        out.fill(0);
        for (bit, fence) in self.all.iter().enumerate() {
            let crossings = fence.crossings(first[1]);
            for pair in crossings.chunks_exact(2) {
                let number = |at: f64| (at - first[0]).ceil().clamp(0.0, out.len() as f64) as usize;
                let (from, to) = (number(pair[0]), number(pair[1]));
                out[from..to].iter_mut().for_each(|inside| *inside |= 1 << bit);
            }
        }
    }

    /// Places of them so far apart, or further where those are many, for a plate to be still at.
    pub(super) fn places(&self, apart: f64) -> Vec<[f64; 2]> {
        const MOST: f64 = 400.0;
        let long = |[a, b]: [[f64; 2]; 2]| (b[0] - a[0]).hypot(b[1] - a[1]);
        let all: f64 = self.all.iter().flat_map(|fence| fence.sides()).map(long).sum();
        let apart = apart.max(all / MOST);
        let side = |[a, b]: [[f64; 2]; 2]| {
            let pieces = (long([a, b]) / apart).ceil().max(1.0) as usize;
            let share = move |piece: usize| piece as f64 / pieces as f64;
            (0..pieces).map(move |piece| [0, 1].map(|axis| a[axis] + (b[axis] - a[axis]) * share(piece)))
        };
        self.all.iter().flat_map(|fence| fence.sides()).flat_map(side).collect()
    }
}

/// How much moves so far from a fence as a share of all, and how that changes with the distance: none on it, all from `room` on.
pub(super) fn risen(far: f64, room: f64) -> (f64, f64) {
    let t = (far / room).clamp(0.0, 1.0);
    (t * t * t * (t * (6.0 * t - 15.0) + 10.0), 30.0 * t * t * (t - 1.0) * (t - 1.0) / room)
}

/// A way held back beside a fence.
pub(super) fn held(way: Way, place: [f64; 2], told: &Told, room: f64) -> Way {
    let Some((far, at)) = told.nearest.filter(|(far, _)| *far < room) else { return way };
    let (share, slope) = risen(far, room);
    let outward = [0, 1].map(|axis| if far > 0.0 { (place[axis] - at[axis]) / far } else { 0.0 });
    Way {
        value: way.value.map(|value| value * share),
        by: [0, 1].map(|by: usize| {
            [0, 1].map(|axis: usize| way.by[by][axis] * share + way.value[axis] * slope * outward[by])
        }),
    }
}
