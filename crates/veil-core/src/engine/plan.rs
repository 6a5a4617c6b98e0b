//! What each row does at a moment, where its result exists, and what that is found by.

use std::sync::Arc;

use super::asking::Asking;
use super::look::{Evaluation, failure, of_row, stage_error};
use super::node::{Mixing, Node, StageWork, ToolWork, Work};
use crate::bracket;
use crate::controls::Value;
use crate::deep::deep;
use crate::key::Key;
use crate::mattes;
use crate::setup::{StageEntry, StageId};
use crate::shape;
use crate::signal::{Domain, SignalKind, Take};
use crate::spec::{AmountRule, MAIN, MATTE};
use crate::stage::{EngineError, StageError};
use crate::stages;

/// Part of every hash of a row: raised when what all rows go through gives other pixels than before.
const ENGINE_REVISION: u32 = 1;

/// More pixels at full scale than this a row's signal has only where they are in the frame or near it: a picture of 16,384
/// by 16,384 with four floats a pixel takes 4 GB.
const MOST_PIXELS: u64 = 1 << 28;

impl<'a> Evaluation<'a> {
    /// The planned row.
    pub(super) fn node(&self, id: StageId) -> Result<Node, EngineError> {
        let node = match self.planned(id) {
            Some(node) => node,
            None => {
                self.cancel.check()?;
                let node = deep(|| self.plan(self.entry(id)?))?;
                self.note_planned(id, &node);
                node
            }
        };
        match &node.fault {
            Some(message) if self.fails() => Err(of_row(self.entry(id)?, message.to_string())),
            _ => Ok(node),
        }
    }

    fn plan(&self, entry: &'a StageEntry) -> Result<Node, EngineError> {
        if let Some(message) = self.why_failed(entry.id) {
            return self.without(entry, message);
        }
        match self.finish(entry, self.work(entry)) {
            Ok(node) => self.with_bake(entry, node),
            Err(StageError::Fault(message)) => self.without(entry, message.into()),
            Err(error) => Err(failure(entry, error)),
        }
    }

    /// The bypass of a row that cannot work.
    fn without(&self, entry: &'a StageEntry, message: Arc<str>) -> Result<Node, EngineError> {
        if self.fails() {
            return Err(of_row(entry, message.to_string()));
        }
        let node = self.finish(entry, self.bypass(entry)).map_err(|error| failure(entry, error))?;
        Ok(Node { fault: Some(message), ..node })
    }

    /// The main input as it is, as a field where a field is given, or nothing where it is of another kind.
    fn bypass(&self, entry: &StageEntry) -> Work {
        let kind = shape::kind_of(self.setup, entry.id);
        let taken = self.source(entry, MAIN).and_then(|(id, take)| {
            let comes = if take.is_some() { SignalKind::Field } else { shape::kind_of(self.setup, id) };
            match (comes, kind) {
                (comes, kind) if comes == kind => Some((id, take)),
                (SignalKind::Picture, SignalKind::Field) => Some((id, Some(Take::Luma))),
                _ => None,
            }
        });
        Work::Pass(taken, kind)
    }

    /// What a slot takes, inputs of tools followed outwards.
    pub(super) fn source(&self, entry: &StageEntry, slot: &str) -> Option<(StageId, Option<Take>)> {
        let link = entry.links.get(slot)?;
        self.setup.outer_source(*link, entry.inside)
    }

    fn work(&self, entry: &StageEntry) -> Work {
        if !entry.on || entry.kind.is_final() {
            return self.bypass(entry);
        }
        if let Some(tool) = &entry.tool {
            let mixing = self.mixing(entry, &shape::values(self.setup, entry, self.moment()));
            if mixing.amount == 0.0 {
                return self.bypass(entry);
            }
            let main = tool.main_input().and_then(|_| self.source(entry, MAIN));
            return Work::Tool(Arc::new(ToolWork { main, result: tool.result, mixing }));
        }
        match self.stage_work(entry) {
            Some(work) if work.mixing.amount > 0.0 => Work::Stage(Arc::new(work)),
            _ => self.bypass(entry),
        }
    }

    /// What a row's stage does, whatever its amount; none for a tool and for an unknown kind.
    pub(super) fn stage_work(&self, entry: &StageEntry) -> Option<StageWork> {
        let stage = stages::find(&entry.kind)?;
        let mut values = shape::values(self.setup, entry, self.moment());
        let own = values.split_off(shape::common_count(entry));
        let inputs = shape::slots(entry)
            .iter()
            .filter(|slot| slot.id != MATTE && !mattes::MORE.contains(&slot.id))
            .filter_map(|slot| Some((slot.id, self.source(entry, slot.id)?)))
            .collect();
        let (mixing, rule) = (self.mixing(entry, &values), shape::amount_rule(entry));
        Some(StageWork { stage, values: own, inputs, mixing, rule })
    }

    /// What a stage does at each moment that it is seen in, about the middle of the frame; only what it does at the frame
    /// where it is seen sharp or does not change meanwhile.
    pub(super) fn over_shutter(&self, entry: &StageEntry, work: &Arc<StageWork>) -> Vec<Arc<StageWork>> {
        let shutter = work.stage.shutter(&Asking::new(self, entry, work).context()).ok().flatten();
        let moments = shutter.map_or_else(Vec::new, |shutter| shutter.moments(self.frame));
        let works =
            moments.into_iter().filter_map(|moment| self.at_frame(moment).stage_work(entry).map(Arc::new));
        let works: Vec<_> = works.collect();
        let changes = works.iter().any(|other| other.values != work.values || other.mixing != work.mixing);
        if changes && works.len() > 1 { works } else { vec![Arc::clone(work)] }
    }

    fn finish(&self, entry: &'a StageEntry, work: Work) -> Result<Node, StageError> {
        match &work {
            Work::Pass(None, kind) => {
                let domain = self.nowhere();
                let hash = Key::of("nothing").with(kind).with(&domain).hash();
                Ok(Node::new(work, hash, domain))
            }
            Work::Pass(Some((from, take)), _) => {
                let Node { hash, domain, .. } = self.node(*from).map_err(stage_error)?;
                let hash = match take {
                    None => hash,
                    Some(take) => {
                        Key::of("one float").with(&hash).with(take).with(&self.setup.picture.working).hash()
                    }
                };
                Ok(Node::new(work, hash, domain))
            }
            Work::Tool(tool) => {
                let mut key = Key::of("tool");
                let main = self.add_input(&mut key, tool.main)?;
                let result = self.node(tool.result).map_err(stage_error)?;
                key.add(&result.hash);
                self.add_mixing(&mut key, &tool.mixing)?;
                let domain = main.map_or(result.domain, |main| union(main, result.domain));
                Ok(Node::new(work, key.hash(), domain))
            }
            Work::Stage(stage) => {
                let stage = Arc::clone(stage);
                self.finish_stage(entry, work, &stage)
            }
        }
    }

    fn finish_stage(
        &self,
        entry: &'a StageEntry,
        work: Work,
        stage: &Arc<StageWork>,
    ) -> Result<Node, StageError> {
        let asking = Asking::new(self, entry, stage);
        let context = asking.context();
        let mut key = Key::of("stage").with(&ENGINE_REVISION);
        key.add(stage.stage.spec().id);
        key.add(&stage.stage.revision());
        key.add(&shape::kind_of(self.setup, entry.id));
        // Sampled together with the row above, it gives other pixels than alone.
        key.add(&bracket::above(self.setup, entry).is_some());
        key.add(&self.scale);
        key.add(&self.setup.picture);
        let seen = self.over_shutter(entry, stage);
        key.add(&seen.len());
        for work in &seen {
            work.values.iter().for_each(|value| self.add_value(&mut key, value));
            key.add(&work.mixing);
        }
        let mut slots: Vec<_> = stage.inputs.iter().collect();
        slots.sort_by_key(|(slot, _)| **slot);
        key.add(&slots.len());
        for (slot, from) in slots {
            key.add(*slot);
            let looks = context.looks(slot)?;
            key.add(&looks.len());
            for look in looks {
                self.at_frame(look).add_input(&mut key, Some(*from))?;
            }
        }
        self.add_mixing(&mut key, &stage.mixing)?;
        stage.stage.key(&context, &mut key)?;
        let own = self.own_domain(entry, stage)?;
        let mixes = stage.rule != AmountRule::Opacity && stage.share().is_some();
        let domain = match stage.inputs.get(MAIN).filter(|_| mixes) {
            // It is laid on what its main input is now, whichever moments it looks at.
            Some(main) => self.add_input(&mut key, Some(*main))?.map_or(own, |main| union(own, main)),
            None => own,
        };
        let bounded = self.bounded(domain);
        let cut_from = (bounded != domain).then_some(domain.data);
        Ok(Node { cut_from, ..Node::new(work, key.hash(), bounded) })
    }

    /// Where a signal exists, cut to the frame and as much again on each side where it would have more pixels than can be
    /// used. The same at every scale.
    fn bounded(&self, domain: Domain) -> Domain {
        let full = u64::from(self.scale.divisor()).pow(2);
        let area = domain.data.width() as u64 * domain.data.height() as u64;
        if area.saturating_mul(full) <= MOST_PIXELS {
            return domain;
        }
        let frame = domain.display;
        let near = frame.grow(frame.width() as i32, frame.height() as i32);
        Domain { data: domain.data.intersect(near), ..domain }
    }

    /// What a row takes, as it counts for the row's hash; where it exists.
    fn add_input(
        &self,
        key: &mut Key,
        source: Option<(StageId, Option<Take>)>,
    ) -> Result<Option<Domain>, StageError> {
        key.add(&source.is_some());
        let Some((id, take)) = source else { return Ok(None) };
        let node = self.node(id).map_err(stage_error)?;
        key.add(&node.hash);
        key.add(&take);
        key.add(&node.domain);
        Ok(Some(node.domain))
    }

    fn add_mixing(&self, key: &mut Key, mixing: &Mixing) -> Result<(), StageError> {
        key.add(mixing);
        for from in mixing.mattes() {
            self.add_input(key, Some(from))?;
        }
        Ok(())
    }

    /// A value, as it counts for the hash of the row that it is of. Of a medium, what its colours mean counts here.
    fn add_value(&self, key: &mut Key, value: &Value) {
        key.add(value);
        if let Value::Media(id) = value {
            key.add(&id.and_then(|id| self.setup.medium(id)).map(|media| media.colour));
        }
    }
}

fn union(a: Domain, b: Domain) -> Domain {
    Domain { display: a.display, data: a.data.union(b.data) }
}
