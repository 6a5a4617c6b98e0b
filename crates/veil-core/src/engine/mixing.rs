//! Amount and mattes of a row: what of its result is seen, and where.

use veil_pixels::{Edge, Field, Window, filter::blur};

use super::StageError;
use super::look::{Evaluation, stage_error};
use crate::controls::{Choice, Value};
use crate::key::{Key, Keyed};
use crate::mattes::{self, MatteWay};
use crate::setup::{StageEntry, StageId};
use crate::shape;
use crate::signal::{Pixels, Take};
use crate::spec::MATTE;

/// Amount and matte of a row.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Mixing {
    pub(super) amount: f64,
    pub(super) matte: Option<(StageId, Option<Take>)>,
    invert: bool,
    soften: f64,
    more: Vec<Met>,
}

/// A matte after the first.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Met {
    from: (StageId, Option<Take>),
    way: MatteWay,
    invert: bool,
    soften: f64,
}

impl Mixing {
    /// Everything that its coverage is made of.
    pub(super) fn mattes(&self) -> impl Iterator<Item = (StageId, Option<Take>)> {
        self.matte.into_iter().chain(self.more.iter().map(|met| met.from))
    }

    /// Whether amount and matte leave the result as it is.
    pub(super) fn is_full(&self) -> bool {
        self.amount == 1.0 && self.matte.is_none()
    }
}

/// What of it counts besides the mattes' own pixels.
impl Keyed for Mixing {
    fn key(&self, key: &mut Key) {
        let Self { amount, matte, invert, soften, more } = self;
        key.add(amount);
        key.add(&matte.is_some());
        key.add(invert);
        key.add(soften);
        key.add(more);
    }
}

impl Keyed for Met {
    fn key(&self, key: &mut Key) {
        let Self { from: _, way, invert, soften } = self;
        key.add(way);
        key.add(invert);
        key.add(soften);
    }
}

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
            coverage = mattes::met(coverage, &this, met.way);
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
