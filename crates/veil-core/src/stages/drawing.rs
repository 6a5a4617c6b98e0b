//! What the stages that are drawn by hand share: outlines of a frame, laid one after the other.

use veil_pixels::filter::blur::{Sigma, gaussian};
use veil_pixels::shape::outline::{Knot, Outline};
use veil_pixels::{Cancelled, Edge, Field, Raster, Window};

use crate::controls::{Joins, Laid, ShapePoint};
use crate::stage::Context;

/// Outlines at one of the moments that they are seen in, with a softness besides their own.
pub(super) struct Moment {
    pub(super) shapes: Vec<Laid>,
    /// Length of a soft edge on every outline.
    pub(super) softness: f64,
}

/// Outlines as they are seen: the mean over a shutter's moments.
pub(super) struct Drawing(pub(super) Vec<Moment>);

impl Drawing {
    fn all(&self) -> impl Iterator<Item = &Laid> {
        self.0.iter().flat_map(|moment| &moment.shapes)
    }

    /// What is to be known of outlines that cover nothing though they count.
    pub(super) fn mark(&self) -> Option<String> {
        let few = |laid: &&Laid| laid.points.len() < if laid.width.is_some() { 2 } else { 3 };
        let laid = self.all().find(few)?;
        let wanted = if laid.width.is_some() {
            "a line wants two points"
        } else {
            "a closed outline wants three points"
        };
        Some(format!("`{}` covers nothing: {wanted}", laid.name))
    }

    /// A shape in pixels of the proxy scale.
    fn outline(laid: &Laid, softness: f64, context: &Context<'_>) -> Outline {
        let scale = |value: f64| f64::from(context.scale().length(value));
        let pair = |pair: [f64; 2]| pair.map(scale);
        let knot = |point: &ShapePoint| Knot {
            at: pair(point.at),
            before: pair(point.before),
            after: pair(point.after),
            soft: scale(point.soft + laid.softness + softness),
        };
        Outline {
            knots: laid.points.iter().map(knot).collect(),
            width: laid.width.map(scale),
            side: laid.side.into(),
        }
    }

    /// Where anything is drawn.
    pub(super) fn window(&self, context: &Context<'_>) -> Window {
        let of_moment = |moment: &Moment| {
            let outline = |laid: &Laid| Self::outline(laid, moment.softness, context).window();
            moment.shapes.iter().map(outline).fold(Window::EMPTY, Window::union)
        };
        self.0.iter().map(of_moment).fold(Window::EMPTY, Window::union)
    }

    fn sigma(laid: &Laid, context: &Context<'_>) -> Sigma {
        Sigma::round(context.scale().length(laid.softens))
    }

    /// How far what is beyond a window is brought into it.
    pub(super) fn reach(&self, context: &Context<'_>) -> i32 {
        let of_moment = |moment: &Moment| -> i32 {
            let softening = moment.shapes.iter().filter(|laid| laid.joins == Joins::Soften);
            softening.map(|laid| Self::sigma(laid, context).reach().0).sum()
        };
        self.0.iter().map(of_moment).max().unwrap_or(0)
    }

    /// A matte with all of it drawn over; `base` must cover `wanted` grown by [`Self::reach`].
    pub(super) fn over(
        &self,
        base: &Field,
        wanted: Window,
        context: &Context<'_>,
    ) -> Result<Field, Cancelled> {
        let share = 1.0 / self.0.len() as f32;
        let mut all: Field = Raster::clear(wanted);
        for moment in &self.0 {
            let now = moment.drawn(base, context)?;
            all.fill_rows(context.cancel(), |y, row| {
                let from = (wanted.x0 - now.window().x0).max(0) as usize;
                row.iter_mut().zip(&now.row(y)[from..]).for_each(|(out, now)| *out += now * share);
            })?;
        }
        Ok(all)
    }
}

impl Moment {
    fn drawn(&self, base: &Field, context: &Context<'_>) -> Result<Field, Cancelled> {
        let (mut all, window, cancel) = (base.clone(), base.window(), context.cancel());
        for drawn in &self.shapes {
            let this = Drawing::outline(drawn, self.softness, context).over(window, cancel)?;
            let opacity = drawn.opacity as f32;
            let soft = match drawn.joins.way() {
                Some(_) => None,
                None => {
                    Some(gaussian(&all, window, Edge::Hold, Drawing::sigma(drawn, context), window, cancel)?)
                }
            };
            all.fill_rows(cancel, |y, row| {
                let soft = soft.as_ref().map(|soft| soft.row(y));
                for (x, (out, this)) in row.iter_mut().zip(this.row(y)).enumerate() {
                    let this = this * opacity;
                    *out = match (drawn.joins.way(), soft) {
                        (Some(way), _) => way.of(*out, this),
                        (None, Some(soft)) => *out + (soft[x] - *out) * this,
                        (None, None) => *out,
                    };
                }
            })?;
        }
        Ok(all)
    }
}
