//! The openings of a lens, as rows of pixels.
//!
//! - Shape: for a radius in pixels the spans of each row that light falls on, about the place that it comes from.
//! - Units: pixels; ends of spans in quarters of one. Turns in radians, counter-clockwise as seen.
//! - Sum: light is spread evenly; what all spans together hold is 1.
//! - Blades: a regular polygon whose corners lie on the circle, its sides bulged toward that by the roundness.

/// The form of an opening.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Opening {
    /// A circle.
    Disc,
    /// A polygon of at least three blades.
    Blades {
        /// How many.
        count: u32,
        /// How it is turned.
        turn: f32,
        /// From 0, straight sides, to 1, a circle.
        round: f32,
    },
    /// A circle with a circle left out, as mirrors have it.
    Ring {
        /// The radius that is left out, as a share of the whole.
        inner: f32,
    },
}

/// A run of a row that light falls on, in quarters of a pixel from the middle of the place that it comes from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Span {
    /// Rows down.
    pub down: i32,
    /// Where it begins.
    pub begin: i32,
    /// Where it ends.
    pub end: i32,
}

/// An opening at one radius.
#[derive(Clone, Debug)]
pub struct Spread {
    /// Row by row, from left to right.
    pub spans: Vec<Span>,
    /// How much of the light a whole pixel gets.
    pub per_pixel: f64,
}

/// Parts of a pixel.
const PARTS: f32 = 4.0;

impl Opening {
    /// The light at a radius of a point that lies so far below a pixel's middle; turned over, as it is before the focus. A row is
    /// the mean of so many lines of it.
    pub fn spread(self, radius: f32, below: f32, turned_over: bool, lines: u32) -> Spread {
        let rows = (radius + below.abs() + 0.5).ceil() as i32;
        let middles = (0..lines).map(|line| (line as f32 + 0.5) / lines as f32 - 0.5);
        let mut spans = Vec::new();
        for (down, middle) in
            (-rows..=rows).flat_map(|down| middles.clone().map(move |middle| (down, middle)))
        {
            let from = down as f32 + middle - below;
            for [left, right] in self.row(if turned_over { -from } else { from }, radius) {
                let [left, right] = if turned_over { [-right, -left] } else { [left, right] };
                let (begin, end) = ((left * PARTS).round() as i32, (right * PARTS).round() as i32);
                if end > begin {
                    spans.push(Span { down, begin, end });
                }
            }
        }
        // However small, something of it falls on its own pixel.
        if spans.is_empty() {
            spans.push(Span { down: 0, begin: -2, end: 2 });
        }
        spans.sort_by_key(|span| (span.down, span.begin));
        let all: i64 = spans.iter().map(|span| i64::from(span.end - span.begin)).sum();
        Spread { spans, per_pixel: f64::from(PARTS) / all as f64 }
    }

    /// Where a row so far down lies within it.
    fn row(self, down: f32, radius: f32) -> Vec<[f32; 2]> {
        let half = |radius: f32| (radius * radius - down * down).max(0.0).sqrt();
        match self {
            Self::Disc => {
                Some(half(radius)).filter(|half| *half > 0.0).map(|half| [-half, half]).into_iter().collect()
            }
            Self::Ring { inner } => {
                let (outer, inner) = (half(radius), half(radius * inner.clamp(0.0, 0.99)));
                match (outer > 0.0, inner > 0.0) {
                    (false, _) => Vec::new(),
                    (true, false) => vec![[-outer, outer]],
                    (true, true) => vec![[-outer, -inner], [inner, outer]],
                }
            }
            Self::Blades { count, turn, round } => {
                let within =
                    |right: f32| right.hypot(down) <= radius * bladed(right.atan2(-down), count, turn, round);
                let edge = |from: f32, to: f32| {
                    let (mut out, mut inside) = (to, from);
                    for _ in 0..12 {
                        let middle = (out + inside) / 2.0;
                        if within(middle) { inside = middle } else { out = middle }
                    }
                    inside
                };
                // The opening has no dents, so a row meets it in one run; its middle is looked for along the row.
                let steps = (radius * 2.0).ceil() as i32;
                let found = (-steps..=steps).map(|step| step as f32 / 2.0).filter(|right| within(*right));
                let ends = found.fold(None, |ends: Option<[f32; 2]>, right| {
                    Some(ends.map_or([right, right], |[first, _]| [first, right]))
                });
                ends.map(|[first, last]| [edge(first, first - 0.5), edge(last, last + 0.5)])
                    .into_iter()
                    .collect()
            }
        }
    }
}

/// How far an opening of blades reaches in a direction, as a share of its corners' radius.
fn bladed(toward: f32, count: u32, turn: f32, round: f32) -> f32 {
    let wedge = std::f32::consts::TAU / count.max(3) as f32;
    let within = (toward - turn).rem_euclid(wedge) - wedge / 2.0;
    let straight = (wedge / 2.0).cos() / within.cos();
    straight + (1.0 - straight) * round.clamp(0.0, 1.0)
}
