//! Amount and mattes of a row: what of its result is seen, and where.

use veil_pixels::{Edge, Field, Window, filter::blur};

use super::look::{Evaluation, stage_error};
use super::node::{Met, Mixing};
use crate::choice::Choice;
use crate::controls::Value;
use crate::matte_way::{self, MatteWay};
use crate::mattes;
use crate::setup::{StageEntry, StageId};
use crate::shape;
use crate::signal::{Pixels, Take};
use crate::spec::MATTE;
use crate::stage::StageError;

impl Evaluation<'_> {
    /// A row's amount and mattes, of the values of what every row has.
    pub(super) fn mixing(&self, entry: &StageEntry, common: &[Value]) -> Mixing {
        let matte = self.source(entry, MATTE);
        match common {
            [Value::Number(amount), Value::Switch(invert), Value::Number(soften), Value::Switch(counts)] => {
                let mut list = mattes::taken(entry).filter_map(|number| self.met(entry, number));
                let first = matte.filter(|_| *counts).map(|from| (from, *invert, *soften));
                // What is cut out of nothing before it leaves all else.
                let next = || {
                    list.next().map(|met| (met.from, met.invert != (met.way == MatteWay::Cut), met.soften))
                };
                match first.or_else(next) {
                    Some((from, invert, soften)) => {
                        Mixing { amount: *amount, matte: Some(from), invert, soften, more: list.collect() }
                    }
                    None => {
                        Mixing { amount: *amount, matte: None, invert: false, soften: 0.0, more: Vec::new() }
                    }
                }
            }
            _ => Mixing { amount: 1.0, matte: None, invert: false, soften: 0.0, more: Vec::new() },
        }
    }

    /// A matte after the first, where it counts.
    fn met(&self, entry: &StageEntry, number: usize) -> Option<Met> {
        let from = self.source(entry, mattes::MORE[number])?;
        let specs = mattes::controls(number);
        let value = |spec| shape::value(self.setup, entry, spec, self.moment());
        let is = |spec| value(spec) == Value::Switch(true);
        let way = match value(&specs.way) {
            Value::Choice(index) => MatteWay::ALL.get(index).copied().unwrap_or_default(),
            _ => MatteWay::default(),
        };
        let soften = match value(&specs.soften) {
            Value::Number(soften) => soften,
            _ => 0.0,
        };
        is(&specs.counts).then(|| Met { from, way, invert: is(&specs.invert), soften })
    }

    /// A row's matte over a window: each of its list softened, turned inside out, within 0–1, and met with those before.
    pub(super) fn matte(&self, mixing: &Mixing, window: Window) -> Result<Option<Field>, StageError> {
        let Some(first) = mixing.matte else { return Ok(None) };
        let mut coverage = self.coverage(first, mixing.soften, mixing.invert, window)?;
        for met in &mixing.more {
            let this = self.coverage(met.from, met.soften, met.invert, window)?;
            coverage = matte_way::met(coverage, &this, met.way);
        }
        Ok(Some(coverage))
    }

    fn coverage(
        &self,
        (id, take): (StageId, Option<Take>),
        soften: f64,
        invert: bool,
        window: Window,
    ) -> Result<Field, StageError> {
        let sigma = blur::Sigma::round(self.scale.length(soften));
        let (x, y) = sigma.reach();
        let data = self.node(id).map_err(stage_error)?.domain.data;
        let reads = Edge::Clear.reads_window(window.grow(x, y), data);
        let Pixels::Field(field) = self.taken(id, take, reads)? else {
            return Err(StageError::Fault("what is in the matte slot is no field".into()));
        };
        let mut coverage: Field = blur::gaussian(&field, data, Edge::Clear, sigma, window, self.cancel)?;
        coverage.change(self.cancel, |value| {
            let value = value.clamp(0.0, 1.0);
            if invert { 1.0 - value } else { value }
        })?;
        Ok(coverage)
    }
}
