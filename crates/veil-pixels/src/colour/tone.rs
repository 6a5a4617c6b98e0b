//! A free curve from values to values.
//!
//! - Shape: a number in, a number out; any run of points with rising places.
//! - Between points it is a cubic that never swings beyond them; beyond the first and last it goes on straight, so that
//!   values above 1 keep their differences.
//! - Source: Fritsch and Carlson, "Monotone Piecewise Cubic Interpolation", 1980.

/// Points nearer to each other than this are one.
const LEAST_STEP: f64 = 1e-3;

/// A curve through some points.
#[derive(Clone, Debug, PartialEq)]
pub struct Tone {
    points: Vec<[f32; 2]>,
    slopes: Vec<f32>,
    /// It leaves everything as it is.
    straight: bool,
}

impl Tone {
    /// Through points in any order; of those at one place the last one counts. No points leave everything as it is.
    pub fn through(points: &[[f64; 2]]) -> Self {
        let mut sorted: Vec<[f64; 2]> = points.to_vec();
        sorted.sort_by(|a, b| a[0].total_cmp(&b[0]));
        let mut kept: Vec<[f64; 2]> = Vec::with_capacity(sorted.len());
        for point in sorted {
            match kept.last_mut() {
                Some(last) if point[0] - last[0] < LEAST_STEP => *last = point,
                _ => kept.push(point),
            }
        }
        let slopes = slopes(&kept);
        let points: Vec<[f32; 2]> = kept.iter().map(|point| point.map(|value| value as f32)).collect();
        let slopes: Vec<f32> = slopes.into_iter().map(|slope| slope as f32).collect();
        let straight =
            points.iter().all(|[place, value]| place == value) && slopes.iter().all(|slope| *slope == 1.0);
        Self { points, slopes, straight }
    }

    /// Whether it leaves everything as it is.
    pub const fn is_straight(&self) -> bool {
        self.straight
    }

    /// What a value becomes.
    pub fn at(&self, value: f32) -> f32 {
        if self.straight {
            return value;
        }
        let next = self.points.partition_point(|point| point[0] <= value);
        match (next.checked_sub(1), self.points.get(next)) {
            (None, None) => value,
            (None, Some([place, first])) => first + (value - place) * self.slopes[0],
            (Some(last), None) => {
                let [place, end] = self.points[last];
                end + (value - place) * self.slopes[last]
            }
            (Some(before), Some([to, after])) => {
                let [from, start] = self.points[before];
                let wide = to - from;
                let t = (value - from) / wide;
                let (leave, arrive) = (self.slopes[before] * wide, self.slopes[next] * wide);
                // Hermite's cubic.
                let (u, v) = (1.0 - t, t);
                u * u * (1.0 + 2.0 * v) * start + v * v * (1.0 + 2.0 * u) * after + u * u * v * leave
                    - v * v * u * arrive
            }
        }
    }
}

/// The slope at each point.
fn slopes(points: &[[f64; 2]]) -> Vec<f64> {
    let secants: Vec<f64> =
        points.windows(2).map(|pair| (pair[1][1] - pair[0][1]) / (pair[1][0] - pair[0][0])).collect();
    let (Some(first), Some(last)) = (secants.first(), secants.last()) else { return vec![1.0; points.len()] };
    let mut slopes = vec![*first];
    slopes.extend(
        secants.windows(2).map(|pair| if pair[0] * pair[1] <= 0.0 { 0.0 } else { (pair[0] + pair[1]) / 2.0 }),
    );
    slopes.push(*last);
    for (number, secant) in secants.iter().enumerate() {
        if *secant == 0.0 {
            (slopes[number], slopes[number + 1]) = (0.0, 0.0);
            continue;
        }
        let (a, b) = (slopes[number] / secant, slopes[number + 1] / secant);
        let far = a.hypot(b);
        if far > 3.0 {
            (slopes[number], slopes[number + 1]) = (3.0 * a / far * secant, 3.0 * b / far * secant);
        }
    }
    slopes
}
