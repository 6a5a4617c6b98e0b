//! Warps of one bracket, sampled once.

use std::sync::Arc;

use veil_pixels::blend::mix::mix;
use veil_pixels::warp::Warp;
use veil_pixels::warp::perspective::Homography;
use veil_pixels::{Edge, Field, Window};

use super::asking::Asking;
use super::look::{Evaluation, stage_error};
use super::node::{StageWork, Work};
use super::places::Softened;
use crate::setup::{StageEntry, StageId};
use crate::signal::{Domain, Pixels};
use crate::spec::MAIN;
use crate::stage::Ride;
use crate::stage::StageError;
use crate::stage::{Bend, Reading};
use crate::{bracket, each_kind};

/// A warp of a bracket with its values.
pub(super) struct Member<'a> {
    entry: &'a StageEntry,
    work: Arc<StageWork>,
}

impl Member<'_> {
    pub(super) const fn id(&self) -> StageId {
        self.entry.id
    }

    /// The row that it takes.
    pub(super) fn takes(&self) -> Option<StageId> {
        self.work.inputs.get(MAIN).map(|(id, _)| *id)
    }
}

impl<'a> Evaluation<'a> {
    /// A warp and those that are sampled with it, from the lowest up. At amount 0 a warp moves nothing.
    pub(super) fn bracket(
        &self,
        entry: &'a StageEntry,
        work: &Arc<StageWork>,
    ) -> Result<Vec<Member<'a>>, StageError> {
        let mut members = vec![Member { entry, work: Arc::clone(work) }];
        for above in bracket::members(self.setup, entry).into_iter().skip(1) {
            if let Work::Stage(work) = self.node(above.id).map_err(stage_error)?.work {
                members.push(Member { entry: above, work });
            }
        }
        Ok(members)
    }

    pub(super) fn member<'m>(&self, member: &'m Member<'a>) -> Asking<'m>
    where
        'a: 'm,
    {
        Asking::new(self, member.entry, &member.work)
    }

    /// How a warp moves; none where it is none. Its fault is its own, not that of what is sampled with it.
    fn bend(&self, member: &Member<'_>) -> Result<Option<Bend>, StageError> {
        let Some(warp) = member.work.stage.as_warp() else { return Ok(None) };
        let bend =
            warp.bend(&self.member(member).context()).map_err(|error| self.of_member(member, error))?;
        Ok(Some(bend))
    }

    fn of_member(&self, member: &Member<'_>, error: StageError) -> StageError {
        stage_error(self.gave_up(member.entry, error))
    }

    /// What the topmost of a bracket takes, and where that exists.
    fn bracket_source(&self, members: &[Member<'_>]) -> Option<Domain> {
        let (id, _) = members.last()?.work.inputs.get(MAIN)?;
        self.domain(*id).ok()
    }

    /// Where the result of a bracket exists.
    pub(super) fn warped_domain(
        &self,
        entry: &'a StageEntry,
        work: &Arc<StageWork>,
    ) -> Result<Domain, StageError> {
        let mut seen = self.over_shutter(entry, work).into_iter();
        let first = self.domain_at(entry, &seen.next().unwrap_or_else(|| Arc::clone(work)))?;
        seen.try_fold(first, |all, work| {
            let this = self.domain_at(entry, &work)?;
            Ok(Domain { data: all.data.union(this.data), ..all })
        })
    }

    fn domain_at(&self, entry: &'a StageEntry, work: &Arc<StageWork>) -> Result<Domain, StageError> {
        let members = self.bracket(entry, work)?;
        let display = self.display();
        let source = self.bracket_source(&members).unwrap_or(Domain { display, data: display });
        let Some(warp) = work.stage.as_warp() else { return Ok(source) };
        let Reading { filter, edge, .. } = warp.reading(&self.member(&members[0]).context())?;
        if source.data.is_empty() {
            return Ok(source);
        }
        if edge != Edge::Clear {
            return Ok(Domain { data: source.display.union(source.data), ..source });
        }
        let (mut data, mut pending) = (source.data, None::<Homography>);
        let reach = filter.reach() + 1;
        let carried =
            |data: Window, by: Option<Homography>| by.map_or(data, |by| by.window(data).grow(reach, reach));
        for member in members.iter().rev() {
            match self.bend(member)? {
                Some(Bend::Matrix(forth)) => {
                    pending = Some(pending.map_or(forth, |before: Homography| before.then(forth)));
                }
                Some(Bend::Map { .. }) => {
                    data = carried(data, pending.take()).union(display);
                }
                None => {}
            }
        }
        Ok(Domain { data: carried(data, pending), ..source })
    }

    /// The pixels of a bracket's result: of its signal, or of a pass that travels with it.
    pub(super) fn warped(
        &self,
        entry: &'a StageEntry,
        work: &Arc<StageWork>,
        wanted: Window,
        ride: Option<&Ride>,
    ) -> Result<Pixels, StageError> {
        let seen = self.over_shutter(entry, work);
        match (seen.as_slice(), ride) {
            // What must not be averaged is where it is at the frame.
            (_, Some(ride)) if ride.is_data() => self.warped_at(entry, work, wanted, Some(ride)),
            ([], _) => self.warped_at(entry, work, wanted, ride),
            ([first, rest @ ..], _) => {
                let mut mean = self.warped_at(entry, first, wanted, ride)?;
                for (count, work) in rest.iter().enumerate() {
                    let next = self.warped_at(entry, work, wanted, ride)?;
                    mean = self.between(&mean, &next, 1.0 / (count as f32 + 2.0))?;
                }
                Ok(mean)
            }
        }
    }

    fn between(&self, from: &Pixels, to: &Pixels, share: f32) -> Result<Pixels, StageError> {
        Ok(match (from, to) {
            (Pixels::Picture(a), Pixels::Picture(b)) => Pixels::Picture(mix(a, b, share, None, self.cancel)?),
            (Pixels::Field(a), Pixels::Field(b)) => Pixels::Field(mix(a, b, share, None, self.cancel)?),
            (Pixels::Map(a), Pixels::Map(b)) => Pixels::Map(mix(a, b, share, None, self.cancel)?),
            _ => return Err(StageError::Fault("it changes its kind while it moves".into())),
        })
    }

    fn warped_at(
        &self,
        entry: &'a StageEntry,
        work: &Arc<StageWork>,
        wanted: Window,
        ride: Option<&Ride>,
    ) -> Result<Pixels, StageError> {
        let members = self.bracket(entry, work)?;
        let lowest = work.stage.as_warp().ok_or_else(|| StageError::Fault("it moves nothing".into()))?;
        let Reading { filter, edge, rings } = lowest.reading(&self.member(&members[0]).context())?;
        let way = match ride {
            Some(ride) if ride.is_data() => Warp::of_points(wanted, edge),
            _ => Warp::new(wanted, filter, edge),
        };
        let way = self.gone_back(&members, way, Softened::AsSet)?;
        let topmost = members.last().unwrap_or(&members[0]);
        let data = self.bracket_source(&members).map_or(Window::EMPTY, |domain| domain.data);
        let reads = way.reads(data);
        let cancel = self.cancel;
        let taken = match (ride, topmost.work.inputs.get(MAIN)) {
            (Some(ride), Some((source, _))) => self.ride(*source, ride, reads)?,
            _ => self.member(topmost).context().main(reads)?,
        };
        let moved = each_kind!(&taken.pixels, raster => way.apply(raster, data, cancel)?);
        let moved = match (moved, &taken.pixels) {
            (Pixels::Picture(moved), Pixels::Picture(source)) if !rings => {
                Pixels::Picture(way.covered(moved, source, data, cancel)?)
            }
            (moved, _) => moved,
        };
        match lowest.shows(&self.member(&members[0]).context(), wanted)? {
            Some(shown) if ride.is_none() => self.held_out(moved, &shown),
            _ => Ok(moved),
        }
    }

    fn held_out(&self, mut moved: Pixels, shown: &Field) -> Result<Pixels, StageError> {
        match &mut moved {
            Pixels::Picture(picture) => picture.fill_rows(self.cancel, |y, row| {
                let row = row.iter_mut().zip(shown.row(y));
                row.for_each(|(pixel, shown)| *pixel = pixel.map(|part| part * shown));
            })?,
            Pixels::Field(field) => field.fill_rows(self.cancel, |y, row| {
                row.iter_mut().zip(shown.row(y)).for_each(|(value, shown)| *value *= shown);
            })?,
            Pixels::Map(map) => map.fill_rows(self.cancel, |y, row| {
                let row = row.iter_mut().zip(shown.row(y));
                row.for_each(|(way, shown)| *way = way.map(|part| part * shown));
            })?,
        }
        Ok(moved)
    }

    /// A way from which each move of a bracket has been gone back.
    pub(super) fn gone_back(
        &self,
        members: &[Member<'_>],
        mut way: Warp,
        softened: Softened,
    ) -> Result<Warp, StageError> {
        for (number, member) in members.iter().enumerate() {
            let (Some(warp), Some(bend)) = (member.work.stage.as_warp(), self.bend(member)?) else {
                continue;
            };
            match bend {
                Bend::Matrix(forth) => match forth.inverse() {
                    Some(back) => way.carry(back),
                    None => {
                        let error = StageError::Fault("scale and shear leave nothing of the picture".into());
                        return Err(self.of_member(member, error));
                    }
                },
                Bend::Map { softness, within } => {
                    let window =
                        if number == 0 { way.window() } else { way.window().intersect(within.grow(1, 1)) };
                    let softness = if softened == Softened::AsSet { softness } else { 0.0 };
                    let moves = warp.moves(&self.member(member).context(), window);
                    way.displace(moves.map_err(|error| self.of_member(member, error))?, softness);
                }
            }
        }
        Ok(way)
    }
}
