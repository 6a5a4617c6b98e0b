//! Gradients: a run of colours along a line, out from a centre, or around it.
//!
//! - Shape: premultiplied red, green, blue and alpha for each pixel.
//! - Units: places in pixels of the raster; angles are as points give them.
//! - Range: stops at 0–1; colours any finite number, not premultiplied; alpha 0–1.
//! - Between two stops premultiplied values are mixed, so that a clear stop darkens nothing, straight or eased by a
//!   smoothstep. Source: CSS Images Module Level 3, section 3.4.2.
//! - Edge: where the line has no length, or the radius is 0, everything is the last stop, as an SVG 2 radial gradient of
//!   radius 0 has it.

use crate::{Cancel, Cancelled, Picture, Raster, Rgba, Window};

/// A colour on the run.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Stop {
    /// Where, 0–1.
    pub at: f32,
    /// Red, green and blue, not premultiplied.
    pub colour: [f32; 3],
    /// 0–1.
    pub alpha: f32,
    /// Whether the way to the next stop is eased.
    pub smooth: bool,
}

/// What follows beyond both ends of the run.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub enum Spread {
    /// The stops at its ends.
    #[default]
    Hold,
    /// The run back and forth.
    Mirror,
    /// The run again and again.
    Repeat,
    /// Nothing.
    Clear,
}

/// Where the run lies on the picture.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Run {
    /// From one place to another; the same all along the lines across it.
    Linear {
        /// Where the first stop is.
        from: [f32; 2],
        /// Where the last one is.
        to: [f32; 2],
    },
    /// Out from a centre.
    Radial {
        /// Where the first stop is.
        centre: [f32; 2],
        /// How far out the last one is.
        radius: f32,
    },
    /// Around a centre, clockwise as seen.
    Angular {
        /// About where.
        centre: [f32; 2],
        /// A place in the direction that it begins in.
        begins: [f32; 2],
    },
}

/// Colours in the order of their places.
#[derive(Clone, Debug, PartialEq)]
pub struct Gradient {
    stops: Vec<Stop>,
    /// The stops' colours, premultiplied.
    laid: Vec<Rgba>,
    spread: Spread,
}

impl Gradient {
    /// Of stops in any order; of those at one place the later ones lie further along.
    pub fn new(mut stops: Vec<Stop>, spread: Spread) -> Self {
        stops.sort_by(|a, b| a.at.total_cmp(&b.at));
        let laid = |stop: &Stop| {
            let [r, g, b] = stop.colour.map(|value| value * stop.alpha);
            [r, g, b, stop.alpha]
        };
        Self { laid: stops.iter().map(laid).collect(), stops, spread }
    }

    /// Whether there is nothing beyond the end of the run.
    pub fn ends_clear(&self) -> bool {
        let clear = self.stops.last().is_none_or(|stop| stop.alpha <= 0.0);
        self.spread == Spread::Clear || self.spread == Spread::Hold && clear
    }

    /// The premultiplied colour at a place on the run.
    pub fn at(&self, place: f32) -> Rgba {
        self.within(place).map_or([0.0; 4], |place| self.between(self.next(place), place))
    }

    /// The colours at places, as [`Self::at`] gives each of them, but faster.
    pub fn row(&self, places: &[f32], out: &mut [Rgba]) {
        let mut next = 0usize;
        for (out, place) in out.iter_mut().zip(places) {
            *out = match self.within(*place) {
                Some(place) => {
                    // Neighbours mostly lie between the same two stops.
                    let is_after = next.checked_sub(1).is_none_or(|before| self.stops[before].at <= place);
                    if !(is_after && self.stops.get(next).is_none_or(|stop| place < stop.at)) {
                        next = self.next(place);
                    }
                    self.between(next, place)
                }
                None => [0.0; 4],
            };
        }
    }

    /// A place brought onto the run; none where nothing is.
    #[inline(always)]
    fn within(&self, place: f32) -> Option<f32> {
        match self.spread {
            Spread::Hold => Some(place),
            Spread::Clear => (0.0..=1.0).contains(&place).then_some(place),
            Spread::Repeat => Some(place - place.floor()),
            Spread::Mirror => Some(1.0 - ((place * 0.5).fract().abs() * 2.0 - 1.0).abs()),
        }
    }

    /// The number of the first stop beyond a place.
    fn next(&self, place: f32) -> usize {
        self.stops.partition_point(|stop| stop.at <= place)
    }

    /// The colour at a place before a stop and not before the one in front of it.
    #[inline(always)]
    fn between(&self, next: usize, place: f32) -> Rgba {
        let before = next.checked_sub(1);
        match (before, self.laid.get(next)) {
            (None, None) => [0.0; 4],
            (None, Some(only)) => *only,
            (Some(before), None) => self.laid[before],
            (Some(at), Some(after)) => {
                let (stop, before) = (self.stops[at], self.laid[at]);
                let share = (place - stop.at) / (self.stops[next].at - stop.at);
                let share = if stop.smooth { share * share * (3.0 - 2.0 * share) } else { share };
                std::array::from_fn(|channel| before[channel] + (after[channel] - before[channel]) * share)
            }
        }
    }

    /// The picture of a run over a window.
    pub fn over(&self, run: Run, window: Window, cancel: &Cancel) -> Result<Picture, Cancelled> {
        let begin = || vec![0.0; window.width()];
        Raster::written_with(window, cancel, begin, |places, y, row| {
            run.places([window.x0, y], places);
            self.row(places, row);
        })
    }
}

impl Run {
    /// Where on the run a place lies: 0 at its first end, 1 at its last.
    pub fn place(self, at: [f32; 2]) -> f32 {
        let from = |point: [f32; 2]| [at[0] - point[0], at[1] - point[1]];
        match self {
            Self::Linear { from: start, to } => {
                let way = [to[0] - start[0], to[1] - start[1]];
                let length = way[0] * way[0] + way[1] * way[1];
                let off = from(start);
                if length > 0.0 { (off[0] * way[0] + off[1] * way[1]) / length } else { 1.0 }
            }
            Self::Radial { centre, radius } => {
                let [x, y] = from(centre);
                if radius > 0.0 { (x * x + y * y).sqrt() / radius } else { 1.0 }
            }
            Self::Angular { centre, begins } => {
                let ([x, y], zero) = (from(centre), [begins[0] - centre[0], begins[1] - centre[1]]);
                let turned = y.atan2(x) - zero[1].atan2(zero[0]);
                (turned / std::f32::consts::TAU).rem_euclid(1.0)
            }
        }
    }

    /// Where on the run the middles of a row's pixels lie, from a pixel on.
    fn places(self, [x0, y]: [i32; 2], out: &mut [f32]) {
        for (x, out) in (x0..).zip(out) {
            *out = self.place([x as f32 + 0.5, y as f32 + 0.5]);
        }
    }

    /// Where the run is, of one that ends; none where it has no end.
    pub fn window(self) -> Option<Window> {
        let Self::Radial { centre: [x, y], radius } = self else { return None };
        let whole = |value: f32| value.clamp(-1.0e9, 1.0e9) as i32;
        Some(Window::new(
            whole((x - radius).floor()),
            whole((y - radius).floor()),
            whole((x + radius).ceil()),
            whole((y + radius).ceil()),
        ))
    }
}
