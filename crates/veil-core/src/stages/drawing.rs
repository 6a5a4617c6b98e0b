//! What the stages that are drawn by hand share: outlines of a frame, laid one after the other.

use veil_pixels::blur::{Sigma, gaussian};
use veil_pixels::outline::{Knot, Outline};
use veil_pixels::{Cancelled, Edge, Field, Raster, Window};

use super::shutter::Shutter;
use crate::drawn::{Drawn, Joins, ShapePoint};
use crate::engine::Context;

/// Outlines as they are seen: over a shutter, with a softness besides their own.
pub(super) struct Drawing<'a> {
    pub(super) shapes: &'a [Drawn],
    /// Length of a soft edge on every outline.
    pub(super) softness: f64,
    /// How long they are seen while they move.
    pub(super) shutter: Shutter,
}

impl Drawing<'_> {
    fn counting(&self) -> impl Iterator<Item = &Drawn> {
        self.shapes.iter().filter(|drawn| drawn.counts)
    }

    fn changes(&self) -> bool {
        self.counting().any(|drawn| drawn.changes() || drawn.carried.is_some())
    }

    /// What is to be known of outlines that cover nothing though they count.
    pub(super) fn mark(&self) -> Option<String> {
        let few = |drawn: &&Drawn| {
            let points = drawn.keys.first().map_or(0, |key| key.points.len());
            points < if drawn.width.is_some() { 2 } else { 3 }
        };
        let drawn = self.counting().find(few)?;
        let wanted = if drawn.width.is_some() {
            "a line wants two points"
        } else {
            "a closed outline wants three points"
        };
        Some(format!("`{}` covers nothing: {wanted}", drawn.name))
    }

    /// Equal at frames where all is where it was.
    pub(super) fn time_key(&self, context: &Context<'_>) -> u64 {
        if !self.changes() {
            return 0;
        }
        let carried = |moment: f64| {
            let by = self.counting().filter_map(|drawn| drawn.carried.as_ref());
            by.map(|by| by.at(moment, context.tracks())).collect::<Vec<_>>()
        };
        let moments = self.moments(context.frame());
        let all: Vec<_> = moments.into_iter().map(|moment| (moment.to_bits(), carried(moment))).collect();
        context.key_of(&all)
    }

    /// The moments that are seen at a frame: about its middle.
    fn moments(&self, frame: f64) -> Vec<f64> {
        if self.changes() { self.shutter.moments(frame) } else { vec![frame] }
    }

    /// A shape at a moment, in pixels of the proxy scale.
    fn outline(&self, drawn: &Drawn, moment: f64, context: &Context<'_>) -> Outline {
        let scale = |value: f64| f64::from(context.scale().length(value));
        let pair = |pair: [f64; 2]| pair.map(scale);
        let knot = |point: ShapePoint| Knot {
            at: pair(point.at),
            before: pair(point.before),
            after: pair(point.after),
            soft: scale(point.soft + drawn.softness + self.softness),
        };
        Outline {
            knots: drawn.placed(moment, context.tracks()).into_iter().map(knot).collect(),
            width: drawn.width.map(scale),
            side: drawn.side.into(),
        }
    }

    /// Where anything is drawn.
    pub(super) fn window(&self, context: &Context<'_>) -> Window {
        let moments = self.moments(context.frame());
        let windows = self
            .counting()
            .flat_map(|drawn| moments.iter().map(|moment| self.outline(drawn, *moment, context).window()));
        windows.fold(Window::EMPTY, Window::union)
    }

    fn sigma(drawn: &Drawn, context: &Context<'_>) -> Sigma {
        Sigma::round(context.scale().length(drawn.softens))
    }

    /// How far what is beyond a window is brought into it.
    pub(super) fn reach(&self, context: &Context<'_>) -> i32 {
        let softening = self.counting().filter(|drawn| drawn.joins == Joins::Soften);
        softening.map(|drawn| Self::sigma(drawn, context).reach().0).sum()
    }

    /// A matte with all of it drawn over; `base` must cover `wanted` grown by [`Self::reach`].
    pub(super) fn over(
        &self,
        base: &Field,
        wanted: Window,
        context: &Context<'_>,
    ) -> Result<Field, Cancelled> {
        let moments = self.moments(context.frame());
        let share = 1.0 / moments.len() as f32;
        let mut all: Field = Raster::clear(wanted);
        for moment in moments {
            let now = self.drawn_at(moment, base, context)?;
            all.fill_rows(context.cancel(), |y, row| {
                let from = (wanted.x0 - now.window().x0).max(0) as usize;
                row.iter_mut().zip(&now.row(y)[from..]).for_each(|(out, now)| *out += now * share);
            })?;
        }
        Ok(all)
    }

    fn drawn_at(&self, moment: f64, base: &Field, context: &Context<'_>) -> Result<Field, Cancelled> {
        let (mut all, window, cancel) = (base.clone(), base.window(), context.cancel());
        for drawn in self.counting() {
            let this = self.outline(drawn, moment, context).over(window, cancel)?;
            let opacity = drawn.opacity as f32;
            let soft = match drawn.joins.way() {
                Some(_) => None,
                None => {
                    Some(gaussian(&all, window, Edge::Hold, Self::sigma(drawn, context), window, cancel)?)
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
