//! Coverage of outlines drawn by hand: cubic Béziers, closed, or open with a width, with soft edges.
//!
//! - Shape: a field, 1 inside and 0 outside.
//! - Units: lengths in pixels of the raster.
//! - Edge: a hard edge covers the exact share of each pixel of the flattened outline, which is nowhere further than
//!   [`FLAT`] from the curve. A soft edge is a smoothstep over the distance to the outline; its length may change from
//!   point to point, and goes evenly from one to the next.
//! - Inside: where the outline winds round a place. An open one covers what is within half its width of it, round at its
//!   ends; its hard edge is that of a straight line there.
//! - Source: cubic Béziers by de Casteljau's halving; the test for flatness of Sederberg, "Computer Aided Geometric
//!   Design", 2012, section 10.6.

use crate::shape::ellipse::SoftSide;
use crate::shape::polygon::Polygon;
use crate::{Cancel, Cancelled, Field, Raster, Window};

/// A flattened outline is at most this far from its curve, in pixels.
pub const FLAT: f64 = 0.02;
/// A curve is halved no more often than this.
const MOST_HALVINGS: u32 = 10;

/// A point of an outline.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Knot {
    /// Where it is.
    pub at: [f64; 2],
    /// From it to the handle that the curve comes in by; nothing for a corner.
    pub before: [f64; 2],
    /// From it to the handle that the curve leaves by.
    pub after: [f64; 2],
    /// Length of the soft edge here.
    pub soft: f64,
}

/// An outline.
#[derive(Clone, Debug, PartialEq)]
pub struct Outline {
    /// Its points in order.
    pub knots: Vec<Knot>,
    /// The width of an open one; none for one that closes.
    pub width: Option<f64>,
    /// On which side of the outline the soft edge lies.
    pub side: SoftSide,
}

/// A place on the flattened outline with the length of its soft edge.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Place {
    at: [f64; 2],
    soft: f64,
}

fn between(a: [f64; 2], b: [f64; 2], share: f64) -> [f64; 2] {
    [a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share]
}

/// Adds the places of a curve after its first.
fn flatten(curve: [[f64; 2]; 4], soft: [f64; 2], halvings: u32, out: &mut Vec<Place>) {
    let [a, b, c, d] = curve;
    // How far the handles are from where those of a straight line would be.
    let off = |p: [f64; 2], share: f64| {
        let even = between(a, d, share);
        (p[0] - even[0]).hypot(p[1] - even[1])
    };
    if halvings == 0 || off(b, 1.0 / 3.0).max(off(c, 2.0 / 3.0)) * 0.75 <= FLAT {
        return out.push(Place { at: d, soft: soft[1] });
    }
    let (ab, bc, cd) = (between(a, b, 0.5), between(b, c, 0.5), between(c, d, 0.5));
    let (abc, bcd) = (between(ab, bc, 0.5), between(bc, cd, 0.5));
    let middle = between(abc, bcd, 0.5);
    let half = (soft[0] + soft[1]) / 2.0;
    flatten([a, ab, abc, middle], [soft[0], half], halvings - 1, out);
    flatten([middle, bcd, cd, d], [half, soft[1]], halvings - 1, out);
}

impl Outline {
    /// The corners of the flattened outline; a closed one does not come back to its first.
    pub fn corners(&self) -> Vec<[f64; 2]> {
        self.places().into_iter().map(|place| place.at).collect()
    }

    fn places(&self) -> Vec<Place> {
        let Some(first) = self.knots.first() else { return Vec::new() };
        let mut places = vec![Place { at: first.at, soft: first.soft }];
        let closing = self.width.is_none().then_some((self.knots[self.knots.len() - 1], *first));
        let pairs = self.knots.windows(2).map(|pair| (pair[0], pair[1])).chain(closing);
        for (from, to) in pairs {
            let handle = |knot: Knot, by: [f64; 2]| [knot.at[0] + by[0], knot.at[1] + by[1]];
            let curve = [from.at, handle(from, from.after), handle(to, to.before), to.at];
            flatten(curve, [from.soft, to.soft], MOST_HALVINGS, &mut places);
        }
        if self.width.is_none() {
            places.pop();
        }
        places
    }

    /// Where it covers anything.
    pub fn window(&self) -> Window {
        let places = self.places();
        let beyond =
            places.iter().map(|place| f64::from(self.side.beyond(place.soft as f32))).fold(0.0, f64::max);
        let reach = beyond + self.width.unwrap_or(0.0) / 2.0 + 1.0;
        let span = |axis: usize| {
            let all = || places.iter().map(|place| place.at[axis]);
            (all().fold(f64::INFINITY, f64::min) - reach, all().fold(f64::NEG_INFINITY, f64::max) + reach)
        };
        let ((x0, x1), (y0, y1)) = (span(0), span(1));
        let whole = |value: f64| value.clamp(-1.0e9, 1.0e9) as i32;
        if places.len() < 2 {
            Window::EMPTY
        } else {
            Window::new(whole(x0.floor()), whole(y0.floor()), whole(x1.ceil()), whole(y1.ceil()))
        }
    }

    /// The coverage over a window.
    pub fn over(&self, window: Window, cancel: &Cancel) -> Result<Field, Cancelled> {
        let places = self.places();
        let softest = places.iter().map(|place| place.soft).fold(0.0, f64::max);
        let reach = softest + self.width.unwrap_or(0.0) / 2.0;
        let pieces = Pieces::of(&places, self.width.is_none(), reach);
        match self.width {
            None => self.closed(&places, &pieces, softest, window, cancel),
            Some(width) => self.open(width as f32 / 2.0, &pieces, window, cancel),
        }
    }

    fn closed(
        &self,
        places: &[Place],
        pieces: &Pieces,
        softest: f64,
        window: Window,
        cancel: &Cancel,
    ) -> Result<Field, Cancelled> {
        let hard = Polygon::new([places.iter().map(|place| place.at).collect()]).over(window, cancel)?;
        if softest < 1.0 {
            return Ok(hard);
        }
        pieces.each_row(window, cancel, |y, nearest, row| {
            for ((out, (away, soft)), hard) in row.iter_mut().zip(nearest).zip(hard.row(y)) {
                *out = match (*soft < 1.0, away.is_infinite()) {
                    (true, _) => *hard,
                    // Far from every piece it is whole or nothing.
                    (false, true) => hard.round(),
                    (false, false) => self.side.fall_off(if *hard >= 0.5 { -away } else { *away }, *soft),
                };
            }
        })
    }

    fn open(&self, half: f32, pieces: &Pieces, window: Window, cancel: &Cancel) -> Result<Field, Cancelled> {
        pieces.each_row(window, cancel, |_, nearest, row| {
            for (out, (away, soft)) in row.iter_mut().zip(nearest) {
                *out = match (away.is_infinite(), *soft < 1.0) {
                    (true, _) => 0.0,
                    // The share of a pixel across the line.
                    (false, true) => ((away + 0.5).min(half) - (away - 0.5).max(-half)).clamp(0.0, 1.0),
                    (false, false) => self.side.fall_off(away - half, *soft),
                };
            }
        })
    }
}

/// Straight pieces of an outline that distances are measured to.
struct Pieces {
    pieces: Vec<(Place, Place)>,
    reach: f64,
}

impl Pieces {
    fn of(places: &[Place], closed: bool, reach: f64) -> Self {
        let closing = match places {
            [first, .., last] if closed => Some((*last, *first)),
            _ => None,
        };
        let pieces = places.windows(2).map(|pair| (pair[0], pair[1])).chain(closing).collect();
        Self { pieces, reach: reach + 1.0 }
    }

    /// A field whose rows are made of how far each pixel is from the nearest piece, and the length of the soft edge there.
    fn each_row(
        &self,
        window: Window,
        cancel: &Cancel,
        make: impl Fn(i32, &[(f32, f32)], &mut [f32]) + Sync,
    ) -> Result<Field, Cancelled> {
        let scratch = || vec![(f32::INFINITY, f32::INFINITY); window.width()];
        Raster::written_with(window, cancel, scratch, |nearest, y, row| {
            self.nearest(window, y, nearest);
            make(y, nearest, row);
        })
    }

    /// For each pixel of a row how far the nearest piece is, and the length of the soft edge there.
    fn nearest(&self, window: Window, y: i32, nearest: &mut [(f32, f32)]) {
        nearest.fill((f32::INFINITY, f32::INFINITY));
        let py = f64::from(y) + 0.5;
        for (from, to) in &self.pieces {
            let (top, bottom) =
                (from.at[1].min(to.at[1]) - self.reach, from.at[1].max(to.at[1]) + self.reach);
            if py < top || py > bottom {
                continue;
            }
            let column = |x: f64| (x - f64::from(window.x0)).clamp(0.0, window.width() as f64) as usize;
            let left = column(from.at[0].min(to.at[0]) - self.reach);
            let right = column((from.at[0].max(to.at[0]) + self.reach).ceil());
            let (dx, dy) = (to.at[0] - from.at[0], to.at[1] - from.at[1]);
            let square = dx * dx + dy * dy;
            for (at, near) in nearest[left..right].iter_mut().enumerate() {
                let px = f64::from(window.x0) + (left + at) as f64 + 0.5;
                let (ox, oy) = (px - from.at[0], py - from.at[1]);
                let share = if square > 0.0 { ((ox * dx + oy * dy) / square).clamp(0.0, 1.0) } else { 0.0 };
                let away = (ox - dx * share).hypot(oy - dy * share) as f32;
                if away < near.0 {
                    *near = (away, (from.soft + (to.soft - from.soft) * share) as f32);
                }
            }
        }
    }
}
