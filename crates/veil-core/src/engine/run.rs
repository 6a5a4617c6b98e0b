//! Rows that work on each pixel alone, worked out together.
//!
//! A row joins the one above it on its strand when both do nothing but change each pixel by itself, nothing else takes the
//! upper one, it is not baked, and what it gives is not held. One pass then reads what the topmost takes and goes through
//! all of them, a row of pixels at a time, so that no whole frame lies between them. Each gives what it gives alone, bit
//! for bit, amount and mattes included.

use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::{Duration, Instant};

use veil_pixels::blend::mix::mix_row;
use veil_pixels::{Field, Pixel, Raster, Window};

use super::asking::Asking;
use super::look::{Evaluation, stage_error};
use super::node::{StageWork, Work};
use crate::setup::{StageEntry, StageId};
use crate::shape;
use crate::signal::{Pixels, SignalKind, Take};
use crate::spec::{AmountRule, MAIN};
use crate::stage::EachPixel;
use crate::stage::StageError;

/// A row of a run.
struct Member {
    id: StageId,
    each: EachPixel,
    /// Amount and matte, where not all of it is given as it is.
    mixed: Option<(f32, Option<Field>)>,
    /// Nanoseconds that all workers spent on it.
    spent: AtomicU64,
}

/// What the topmost of a run takes.
type Source = Option<(StageId, Option<Take>)>;

impl<'a> Evaluation<'a> {
    /// The pixels of a row that changes each pixel by itself, and of those above that join it; none for any other row.
    pub(super) fn run(
        &self,
        entry: &'a StageEntry,
        work: &Arc<StageWork>,
        wanted: Window,
    ) -> Result<Option<Pixels>, StageError> {
        let kind = shape::kind_of(self.setup, entry.id);
        let Some(lowest) = self.joins(entry, work, kind, wanted)? else { return Ok(None) };
        let (mut members, mut work) = (vec![lowest], Arc::clone(work));
        while let Some((above, next)) = self.above(members[members.len() - 1].id, &work, wanted)? {
            let member = self.joins(above, &next, kind, wanted).map_err(|error| self.of_row(above, error))?;
            let Some(member) = member else { break };
            members.push(member);
            work = next;
        }
        members.reverse();
        let from = self.run_source(work.inputs.get(MAIN).copied(), kind, wanted)?;
        let begun = Instant::now();
        let pixels = match &from {
            Pixels::Picture(picture) => {
                Pixels::Picture(self.passed(picture, &members, EachPixel::on_pictures)?)
            }
            Pixels::Field(field) => Pixels::Field(self.passed(field, &members, EachPixel::on_fields)?),
            Pixels::Map(map) => Pixels::Map(self.passed(map, &members, EachPixel::on_maps)?),
        };
        self.share_time(&members, begun.elapsed(), wanted);
        Ok(Some(pixels))
    }

    fn run_source(&self, from: Source, kind: SignalKind, wanted: Window) -> Result<Pixels, StageError> {
        match from {
            Some((id, take)) => self.taken(id, take, wanted),
            None => Ok(Pixels::clear(kind, wanted)),
        }
    }

    fn of_row(&self, entry: &StageEntry, error: StageError) -> StageError {
        stage_error(self.gave_up(entry, error))
    }

    /// A row as one of a run; none where it is none.
    fn joins(
        &self,
        entry: &'a StageEntry,
        work: &Arc<StageWork>,
        kind: SignalKind,
        wanted: Window,
    ) -> Result<Option<Member>, StageError> {
        if !matches!(work.rule, AmountRule::Mixes | AmountRule::OwnUse) {
            return Ok(None);
        }
        let asking = Asking::new(self, entry, work);
        let Some(each) = work.stage.each_pixel(&asking.context(), kind, wanted)? else { return Ok(None) };
        let mixed = match work.share() {
            // A main input of another kind, or none, is mixed with as whole frames are.
            Some(_) if !self.takes_its_kind(work, kind) => return Ok(None),
            Some(share) => Some((share as f32, self.matte(&work.mixing, wanted)?)),
            None => None,
        };
        Ok(Some(Member { id: entry.id, each, mixed, spent: AtomicU64::new(0) }))
    }

    fn takes_its_kind(&self, work: &StageWork, kind: SignalKind) -> bool {
        work.inputs.get(MAIN).is_some_and(|(id, take)| match take {
            Some(_) => kind == SignalKind::Field,
            None => shape::kind_of(self.setup, *id) == kind,
        })
    }

    /// The row above one of a run, where it may join it; rows between them that are off do not count.
    fn above(
        &self,
        id: StageId,
        work: &StageWork,
        wanted: Window,
    ) -> Result<Option<(&'a StageEntry, Arc<StageWork>)>, StageError> {
        let (mut below, mut main) = (id, work.inputs.get(MAIN).copied());
        while let Some((above, None)) = main {
            let takers = self.setup.takers(above);
            if takers.len() != 1 || takers[0].0 != below {
                return Ok(None);
            }
            let node = self.node(above).map_err(stage_error)?;
            match node.work {
                Work::Pass(from, _) => (below, main) = (above, from),
                // Beyond where it exists it is nothing, whatever it would make of that.
                Work::Stage(work)
                    if node.baked.is_none()
                        && node.domain.data.contains(wanted)
                        && self.held(node.hash, wanted).is_none() =>
                {
                    return Ok(Some((self.entry(above).map_err(stage_error)?, work)));
                }
                Work::Stage(_) | Work::Tool(_) => return Ok(None),
            }
        }
        Ok(None)
    }

    /// One pass through all members, from the topmost down.
    fn passed<P: Pixel>(
        &self,
        from: &Raster<P>,
        members: &[Member],
        each: fn(&EachPixel, [i32; 2], &mut [P]),
    ) -> Result<Raster<P>, StageError> {
        let told = members.len() > 1;
        let before = Vec::new;
        Ok(Raster::written_with(from.window(), self.cancel, before, |before: &mut Vec<P>, y, row| {
            row.copy_from_slice(from.row(y));
            let at = [from.window().x0, y];
            for member in members {
                let begun = told.then(Instant::now);
                match &member.mixed {
                    None => each(&member.each, at, row),
                    Some((amount, matte)) => {
                        before.clear();
                        before.extend_from_slice(row);
                        each(&member.each, at, row);
                        mix_row(before, row, *amount, matte.as_ref().map(|matte| matte.row(y)));
                    }
                }
                if let Some(begun) = begun {
                    member.spent.fetch_add(begun.elapsed().as_nanos() as u64, Ordering::Relaxed);
                }
            }
        })?)
    }

    /// What a pass took is told of each member by its part; what is left is the lowest's.
    fn share_time(&self, members: &[Member], took: Duration, wanted: Window) {
        let spent = |member: &Member| member.spent.load(Ordering::Relaxed) as f64;
        let all: f64 = members.iter().map(spent).sum();
        let Some((_, upper)) = members.split_last().filter(|_| all > 0.0) else { return };
        for member in upper {
            self.clock().credit(member.id, took.mul_f64(spent(member) / all), wanted.area());
        }
    }
}
