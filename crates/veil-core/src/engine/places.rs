//! Where what is seen at a pixel stood further up.
//!
//! - Shape: a map whose two floats are a place, x and y in pixels of the proxy scale, not a move.
//! - Places beyond the border go on outwards; where warps spread a frame over more than 67 million pixels, to a frame's
//!   size on each side. A place behind the eye is no number.

use std::collections::BTreeSet;
use std::sync::Arc;

use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::Warp;
use veil_pixels::{Edge, Field, Map, Window};

use super::look::{Evaluation, Shared, failure, stage_error};
use super::machine::Engine;
use super::node::{StageWork, Work};
use super::request::Request;
use super::warp::Member;
use crate::deep::deep;
use crate::plates::Plates;
use crate::setup::{Setup, StageEntry, StageId};
use crate::spec::MAIN;
use crate::stage::{EngineError, StageError};
use veil_pixels::Cancel;

/// Where the way back ends.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum WayTo {
    /// At a row, wherever it is taken.
    Row(StageId),
    /// At the head of the strand, along main inputs.
    Head,
}

impl Engine {
    /// The places of a request's window further up; none where no way leads there.
    pub fn places(
        &self,
        setup: &Setup,
        plates: &dyn Plates,
        request: Request,
        to: WayTo,
        cancel: &Cancel,
    ) -> Result<Option<Map>, EngineError> {
        Shared::new(self, setup, plates, cancel).answer(request, |looks| {
            let entry = looks.entry(request.stage)?;
            let window = request.window.unwrap_or(looks.domain(request.stage)?.display);
            if !looks.leads(request.stage, to)? {
                return Ok(None);
            }
            let places = looks.places(request.stage, to, window);
            places.map(Some).map_err(|error| failure(entry, error))
        })
    }

    /// 1 where a row lays what it bends on its back, else 0; none where it is no warp, or one that cannot tell.
    pub fn folds(
        &self,
        setup: &Setup,
        plates: &dyn Plates,
        request: Request,
        cancel: &Cancel,
    ) -> Result<Option<Field>, EngineError> {
        Shared::new(self, setup, plates, cancel).answer(request, |looks| {
            let entry = looks.entry(request.stage)?;
            let window = request.window.unwrap_or(looks.domain(request.stage)?.display);
            let Work::Stage(work) = looks.node(request.stage)?.work else { return Ok(None) };
            let Some(warp) = work.stage.as_warp() else { return Ok(None) };
            let members = looks.bracket(entry, &work).map_err(|error| failure(entry, error))?;
            let Some(own) = members.first() else { return Ok(None) };
            warp.folds(&looks.member(own).context(), window).map_err(|error| failure(entry, error))
        })
    }

    /// How far all warps on the way together move each place of a request's window, in full-resolution pixels, x to the
    /// right and y down; none where no way leads there.
    pub fn moves(
        &self,
        setup: &Setup,
        plates: &dyn Plates,
        request: Request,
        to: WayTo,
        cancel: &Cancel,
    ) -> Result<Option<Map>, EngineError> {
        let full = request.scale.divisor() as f32;
        let places = self.places(setup, plates, request, to, cancel)?;
        Ok(places.map(|places| {
            Map::from_fn(places.window(), |x, y| {
                let here = [x as f32 + 0.5, y as f32 + 0.5];
                let from = places.get(x, y).unwrap_or(here);
                [(here[0] - from[0]) * full, (here[1] - from[1]) * full]
            })
        }))
    }
}

impl<'a> Evaluation<'a> {
    /// Whether a row takes, along some way, what is looked for.
    fn leads(&self, id: StageId, to: WayTo) -> Result<bool, EngineError> {
        let (mut met, mut next) = (BTreeSet::from([id]), vec![id]);
        while let Some(id) = next.pop() {
            if to == WayTo::Row(id) || to == WayTo::Head {
                return Ok(true);
            }
            let taken = self.all_taken(id)?.into_iter().map(|(taken, _)| taken);
            next.extend(taken.filter(|taken| met.insert(*taken)));
        }
        Ok(false)
    }

    fn places(&self, id: StageId, to: WayTo, window: Window) -> Result<Map, StageError> {
        let standing = || Map::from_fn(window, |x, y| [x as f32 + 0.5, y as f32 + 0.5]);
        if to == WayTo::Row(id) {
            return Ok(standing());
        }
        let entry = self.entry(id).map_err(stage_error)?;
        if let Work::Stage(work) = self.node(id).map_err(stage_error)?.work
            && work.stage.as_warp().is_some()
            && let Some((from, way)) = self.way(entry, &work, to, window)?
        {
            let reads = near(way.window().grow(2, 2), self.domain(id).map_err(stage_error)?.display);
            let above = deep(|| self.places(from, to, reads))?;
            return Ok(way.apply(&above, reads, self.cancel)?);
        }
        for (taken, frame) in self.all_taken(id).map_err(stage_error)? {
            let follows = match to {
                WayTo::Head => self.is_main(id, taken)?,
                WayTo::Row(_) => self.leads(taken, to).map_err(stage_error)?,
            };
            if follows {
                return deep(|| self.at_frame(frame).places(taken, to, window));
            }
        }
        Ok(standing())
    }

    /// Whether the strand goes on upwards from a row to another.
    fn is_main(&self, id: StageId, taken: StageId) -> Result<bool, StageError> {
        Ok(match self.node(id).map_err(stage_error)?.work {
            Work::Pass(..) => true,
            Work::Tool(tool) => tool.result == taken,
            Work::Stage(work) => work.inputs.get(MAIN).is_some_and(|(main, _)| *main == taken),
        })
    }

    /// How a bracket goes back, without softness, to the row that it goes on from: what its topmost takes, one of
    /// it, or what one of it takes at the side, which lies where that one's result does.
    fn way(
        &self,
        entry: &'a StageEntry,
        work: &Arc<StageWork>,
        to: WayTo,
        window: Window,
    ) -> Result<Option<(StageId, Warp)>, StageError> {
        let members = self.bracket(entry, work)?;
        let Some((gone, from)) = self.leaves(&members, to)? else { return Ok(None) };
        let way = Warp::new(window, Filter::Linear, Edge::Hold);
        Ok(Some((from, self.gone_back(&members[..gone], way, Softened::Not)?)))
    }

    /// How many of a bracket's moves are gone back, and from which row on.
    fn leaves(&self, members: &[Member<'_>], to: WayTo) -> Result<Option<(usize, StageId)>, StageError> {
        if let Some(at) = members.iter().position(|member| WayTo::Row(member.id()) == to) {
            return Ok(Some((at, members[at].id())));
        }
        let leads = |id: StageId| self.leads(id, to).map_err(stage_error);
        if let Some(main) = members.last().and_then(Member::takes)
            && leads(main)?
        {
            return Ok(Some((members.len(), main)));
        }
        for (at, member) in members.iter().enumerate() {
            for (side, _) in self.all_taken(member.id()).map_err(stage_error)? {
                if Some(side) != member.takes() && leads(side)? {
                    return Ok(Some((at, side)));
                }
            }
        }
        Ok(None)
    }
}

/// The largest window that places are worked out over, in pixels: a frame of 16,384 by 4,096.
const MOST_PLACES: usize = 1 << 26;

/// A window, or what of it lies within a frame's size of the frame where it is larger than anybody could use: a warp may
/// look any distance away, where there is nothing.
fn near(window: Window, frame: Window) -> Window {
    if window.area() <= MOST_PLACES {
        return window;
    }
    let all = frame.grow(frame.width() as i32, frame.height() as i32);
    let within = window.intersect(all);
    if within.is_empty() { all } else { within }
}

/// Whether a way back softens what it reads.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Softened {
    /// As its stages say.
    AsSet,
    /// Places are read sharp.
    Not,
}
