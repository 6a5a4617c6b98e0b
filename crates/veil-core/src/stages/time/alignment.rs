//! How frames come to lie on one of them.

use veil_pixels::filter::grow::grown;
use veil_pixels::flow::go_on::gone_on;
use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::Warp;
use veil_pixels::warp::displace::Moves;
use veil_pixels::warp::perspective::Homography;
use veil_pixels::{Edge, Field, Map, Picture, Raster, Window};

use super::motion::motion;
use crate::choice;
use crate::key::{Key, keyed_by_number};
use crate::signal::{Domain, Pixels};
use crate::stage::{Context, StageError};

/// The slot with what is not of the place.
pub(super) const LEFT_OUT: &str = "left_out";

/// What tells it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Align {
    Still,
    One,
    Two,
    Four,
    Flow,
}

choice! {
    Align {
        Still = "still", "as they are";
        One = "one", "by one place";
        Two = "two", "by two places";
        Four = "four", "by four places of a plane";
        Flow = "flow", "along the flow";
    }
}

keyed_by_number!(Align);

impl Align {
    /// How many of the places it goes by.
    pub(super) const fn places(self) -> usize {
        match self {
            Self::Still | Self::Flow => 0,
            Self::One => 1,
            Self::Two => 2,
            Self::Four => 4,
        }
    }
}

/// Where each frame's things come to lie, in pixels of the proxy scale.
pub(super) struct Alignment {
    align: Align,
    base: f64,
    forth: Vec<(f64, Homography)>,
    /// Where places lie at the base, in full-resolution pixels.
    places: [[f64; 2]; 4],
}

impl Alignment {
    /// Of frames on one of them, by places of each.
    pub(super) fn of(
        context: &Context<'_>,
        align: Align,
        frames: &[f64],
        base: f64,
        places: &dyn Fn(f64) -> Result<[[f64; 2]; 4], StageError>,
    ) -> Result<Self, StageError> {
        let at_base = places(base)?;
        let one = |frame: &f64| {
            let forth = match align {
                _ if *frame == base => Homography::IDENTITY,
                Align::Still | Align::Flow => Homography::IDENTITY,
                Align::One | Align::Two | Align::Four => {
                    let told = carried(align, places(*frame)?, at_base);
                    told.ok_or_else(|| {
                        context.fault(&format!("has three places in a line at frame {frame}"))
                    })?
                }
            };
            Ok((*frame, context.at_scale(forth)))
        };
        let forth = frames.iter().map(one).collect::<Result<_, StageError>>()?;
        Ok(Self { align, base, forth, places: at_base })
    }

    /// Each frame with where its places come to lie.
    pub(super) fn all(&self) -> impl Iterator<Item = (f64, Homography)> {
        self.forth.iter().copied()
    }

    /// Whether the base lies elsewhere at other moments.
    pub(super) const fn moves(&self) -> bool {
        matches!(self.align, Align::One | Align::Two | Align::Four)
    }

    /// From the base to where places lie at another moment.
    pub(super) fn to(&self, context: &Context<'_>, places: [[f64; 2]; 4]) -> Result<Homography, StageError> {
        if places == self.places {
            return Ok(Homography::IDENTITY);
        }
        let forth = carried(self.align, self.places, places);
        Ok(context.at_scale(forth.ok_or_else(|| context.fault("has three places in a line"))?))
    }

    /// All that it is told by.
    pub(super) fn key(&self, key: &mut Key) {
        key.add(&self.align);
        key.add(&self.base);
        for (frame, forth) in &self.forth {
            key.add(frame);
            key.add(&forth.rows());
        }
    }

    /// A frame's picture, and what is left out of it, as they lie on the base; no larger than a canvas.
    pub(super) fn laid(
        &self,
        context: &Context<'_>,
        frame: f64,
        (picture, left_out): (&Picture, Option<&Field>),
        canvas: Window,
        filter: Filter,
    ) -> Result<(Picture, Option<Field>), StageError> {
        let forth =
            self.forth.iter().find(|(own, _)| *own == frame).map_or(Homography::IDENTITY, |own| own.1);
        let is_flow = self.align == Align::Flow && frame != self.base;
        if forth == Homography::IDENTITY && !is_flow {
            return Ok((picture.clone(), left_out.cloned()));
        }
        let cancel = context.cancel();
        let window = forth.window(picture.window()).grow(1, 1).intersect(canvas);
        let steps = |filter: Filter| -> Result<Warp, StageError> {
            let mut warp = Warp::new(window, filter, Edge::Clear);
            if is_flow {
                warp.displace(self.along(context, frame, window)?, 0.0);
            } else {
                let back = forth.inverse().ok_or_else(|| context.fault("has three places in a line"))?;
                warp.carry(back);
            }
            Ok(warp)
        };
        let made = steps(filter)?.apply(picture, picture.window(), cancel)?;
        let left_out = match left_out {
            Some(left_out) => Some(steps(Filter::Linear)?.apply(left_out, left_out.window(), cancel)?),
            None => None,
        };
        Ok((made, left_out))
    }

    /// The moves that bring a frame onto the base, which are those of the place also where something stands in front of it in
    /// either.
    fn along(&self, context: &Context<'_>, frame: f64, window: Window) -> Result<Moves, StageError> {
        let cancel = context.cancel();
        let domain = Domain { data: window, ..context.everywhere() };
        let moves = motion(context, [self.base, frame], domain)?;
        let to_base = |moves: &Map| moves.map(cancel, |[x, y]: [f32; 2]| [-x, -y]).map(Moves::new);
        let left_out = |frame: f64| -> Result<Option<Field>, StageError> {
            Ok(match context.signal_at(LEFT_OUT, frame, window)?.map(|signal| signal.over(window)) {
                Some(Pixels::Field(field)) => Some(field),
                _ => None,
            })
        };
        let (Some(here), Some(there)) = (left_out(self.base)?, left_out(frame)?) else {
            return Ok(to_base(&moves)?);
        };
        let mut warp = Warp::new(window, Filter::Linear, Edge::Hold);
        warp.displace(to_base(&moves)?, 0.0);
        let there = warp.apply(&there, window, cancel)?;
        let both = Raster::written(window, cancel, |y, row: &mut [f32]| {
            for ((out, here), there) in row.iter_mut().zip(here.row(y)).zip(there.row(y)) {
                *out = here.max(*there);
            }
        })?;
        let unknown = grown(&both, window, context.scale().length(SPOILT), window, cancel)?;
        Ok(to_base(&gone_on(&moves, &unknown, cancel)?)?)
    }
}

/// Moves are not those of the place so near to what stands in front of it, in full-resolution pixels.
const SPOILT: f64 = 16.0;

/// What carries places of one moment to those of another: by one place moved, by two turned and scaled too, by four as a plane in
/// space is seen.
fn carried(align: Align, from: [[f64; 2]; 4], to: [[f64; 2]; 4]) -> Option<Homography> {
    let less = |a: [f64; 2], b: [f64; 2]| [a[0] - b[0], a[1] - b[1]];
    match align {
        Align::Still | Align::Flow => Some(Homography::IDENTITY),
        Align::One => {
            let [x, y] = less(to[0], from[0]);
            Some(Homography::shift(x, y))
        }
        Align::Two => {
            let ([a, b], [c, d]) = (less(from[1], from[0]), less(to[1], to[0]));
            let whole = a * a + b * b;
            // How the way between both turns and grows, as a complex number.
            let (grow, turn) = ((a * c + b * d) / whole, (a * d - b * c) / whole);
            let turned = Homography::from_rows([[grow, -turn, 0.0], [turn, grow, 0.0], [0.0, 0.0, 1.0]]);
            let made = Homography::shift(-from[0][0], -from[0][1])
                .then(turned)
                .then(Homography::shift(to[0][0], to[0][1]));
            (whole > 0.0 && made.inverse().is_some()).then_some(made)
        }
        Align::Four => Homography::between(from, to),
    }
}
