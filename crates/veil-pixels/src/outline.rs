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

use crate::ellipse::SoftSide;
use crate::polygon::Polygon;
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::polygon::exact::clipped;
    use proptest::prelude::*;

    fn corner(x: f64, y: f64) -> Knot {
        Knot { at: [x, y], before: [0.0; 2], after: [0.0; 2], soft: 0.0 }
    }

    fn sum(outline: &Outline) -> f64 {
        let field = outline.over(Window::sized(100, 100), &Cancel::new()).unwrap();
        field.pixels().iter().map(|v| f64::from(*v)).sum()
    }

    /// Four cubic arcs with the usual handles stand for a circle within 3 in 10000 of its radius.
    #[test]
    fn curves_cover_what_they_enclose() {
        let (r, k) = (30.0, 30.0 * 0.552_284_75);
        let knot = |x: f64, y: f64, dx: f64, dy: f64| Knot {
            at: [50.0 + x * r, 50.0 + y * r],
            before: [-dx * k, -dy * k],
            after: [dx * k, dy * k],
            soft: 0.0,
        };
        let knots = vec![
            knot(1.0, 0.0, 0.0, 1.0),
            knot(0.0, 1.0, -1.0, 0.0),
            knot(-1.0, 0.0, 0.0, -1.0),
            knot(0.0, -1.0, 1.0, 0.0),
        ];
        let circle = Outline { knots, width: None, side: SoftSide::Both };
        let area = std::f64::consts::PI * r * r;
        assert!((sum(&circle) / area - 1.0).abs() < 6e-4, "{}", sum(&circle) / area);

        // A straight line with a width is a box with round ends.
        let line = Outline {
            knots: vec![corner(20.0, 50.0), corner(80.0, 50.0)],
            width: Some(10.0),
            side: SoftSide::Both,
        };
        let wanted = 600.0 + std::f64::consts::PI * 25.0;
        assert!((sum(&line) / wanted - 1.0).abs() < 3e-3, "{} {wanted}", sum(&line));
    }

    proptest! {
        /// Curves about a middle wind once; each pixel is the share of it that the flattened outline takes up.
        #[test]
        fn drawn_curves_cover_what_exact_clipping_gives(
            points in prop::collection::vec((6.0f64..24.0, -0.3f64..0.3, 0.0f64..0.45), 3..9),
        ) {
            let count = points.len() as f64;
            let knot = |(number, (reach, lean, bend)): (usize, &(f64, f64, f64))| {
                let turn = number as f64 / count * std::f64::consts::TAU;
                // Handles along the way round, short enough that no curve meets another.
                let way = [-(turn + lean).sin(), (turn + lean).cos()];
                let length = bend * reach * std::f64::consts::TAU / count / 2.0;
                let handle = way.map(|way| way * length);
                let at = [30.0 + reach * turn.cos(), 29.0 + reach * turn.sin()];
                Knot { at, before: handle.map(|way| -way), after: handle, soft: 0.0 }
            };
            let knots = points.iter().enumerate().map(knot).collect();
            let outline = Outline { knots, width: None, side: SoftSide::Both };
            let (window, corners) = (Window::sized(60, 58), outline.corners());
            let field = outline.over(window, &Cancel::new()).unwrap();
            for (x, y) in (0..60).flat_map(|x| (0..58).map(move |y| (x, y))) {
                let truth = clipped(&corners, f64::from(x), f64::from(y));
                let got = f64::from(field.get(x, y).unwrap());
                prop_assert!((got - truth).abs() < 1e-3, "{x}, {y}: {got}, not {truth}");
            }
        }
    }

    #[test]
    fn a_soft_edge_is_as_long_as_its_points_say() {
        let mut knots = vec![corner(20.0, 20.0), corner(80.0, 20.0), corner(80.0, 80.0), corner(20.0, 80.0)];
        (knots[0].soft, knots[3].soft) = (16.0, 16.0);
        let soft = Outline { knots, width: None, side: SoftSide::Outward };
        let field = soft.over(Window::sized(100, 100), &Cancel::new()).unwrap();
        // Half the length beyond the left side it is half; the right side is hard.
        let left = field.get(11, 50).unwrap();
        assert!((left - 0.5).abs() < 0.1, "{left}");
        assert_eq!((field.get(30, 50), field.get(81, 50)), (Some(1.0), Some(0.0)));
        let all = soft.window();
        let beyond = (0..100).flat_map(|y| (0..100).map(move |x| (x, y))).filter(|(x, y)| !all.holds(*x, *y));
        assert!(beyond.into_iter().all(|(x, y)| field.get(x, y) == Some(0.0)));
    }
}
