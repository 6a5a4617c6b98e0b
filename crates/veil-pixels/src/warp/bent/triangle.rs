//! A triangle over a grid of whole numbers, with two values that change evenly over it.

use std::ops::RangeInclusive;

/// Values at each place of a triangle: sums of the place and a constant.
pub(super) struct Triangle {
    corners: [[f64; 2]; 3],
    /// Of each value: by x, by y and at nothing.
    values: [[f64; 3]; 2],
}

impl Triangle {
    /// Of places and their values. None where it has no area.
    pub(super) fn of(corners: [([f64; 2], [f64; 2]); 3]) -> Option<Self> {
        let [a, b, c] = corners.map(|(at, _)| at);
        let (along, across) = ([b[0] - a[0], b[1] - a[1]], [c[0] - a[0], c[1] - a[1]]);
        let area = along[0] * across[1] - along[1] * across[0];
        if area == 0.0 || !area.is_finite() {
            return None;
        }
        let values = [0, 1].map(|axis| {
            let [at, by, to] = corners.map(|(_, value)| value[axis]);
            let x = ((by - at) * across[1] - (to - at) * along[1]) / area;
            let y = ((to - at) * along[0] - (by - at) * across[0]) / area;
            [x, y, at - x * a[0] - y * a[1]]
        });
        Some(Self { corners: [a, b, c], values })
    }

    /// Rows that it may touch.
    pub(super) fn rows(&self, within: RangeInclusive<i32>) -> RangeInclusive<i32> {
        whole(self.corners.map(|corner| corner[1]), within)
    }

    /// Columns of a row that it covers.
    pub(super) fn columns(&self, row: i32, within: RangeInclusive<i32>) -> RangeInclusive<i32> {
        let y = f64::from(row);
        let mut ends = [f64::MAX, f64::MIN];
        for side in 0..3 {
            let (from, to) = (self.corners[side], self.corners[(side + 1) % 3]);
            let (low, high) = (from[1].min(to[1]), from[1].max(to[1]));
            if !(low - SLACK..=high + SLACK).contains(&y) {
                continue;
            }
            let met = if high > low {
                let share = ((y - from[1]) / (to[1] - from[1])).clamp(0.0, 1.0);
                [from[0] + (to[0] - from[0]) * share; 2]
            } else {
                [from[0], to[0]]
            };
            ends = [ends[0].min(met[0]).min(met[1]), ends[1].max(met[0]).max(met[1])];
        }
        whole(ends, within)
    }

    pub(super) fn at(&self, [x, y]: [i32; 2]) -> [f64; 2] {
        self.values.map(|[by_x, by_y, still]| by_x * f64::from(x) + by_y * f64::from(y) + still)
    }
}

/// What two triangles share is covered by both, whichever way it was rounded.
const SLACK: f64 = 1e-6;

/// The whole numbers between the least and the most of some, inside others.
fn whole<const N: usize>(numbers: [f64; N], within: RangeInclusive<i32>) -> RangeInclusive<i32> {
    let least = numbers.into_iter().fold(f64::MAX, f64::min);
    let most = numbers.into_iter().fold(f64::MIN, f64::max);
    // Numbers beyond all whole ones become the last of those.
    let (first, last) = ((least - SLACK).ceil() as i32, (most + SLACK).floor() as i32);
    first.max(*within.start())..=last.min(*within.end())
}
