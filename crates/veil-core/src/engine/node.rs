//! A planned row: what it does, where its result exists, and what that is found by.

use std::collections::HashMap;
use std::sync::Arc;

use veil_pixels::Window;

use crate::controls::Value;
use crate::ids::StageId;
use crate::key::{ContentHash, Key, Keyed};
use crate::matte_way::MatteWay;
use crate::signal::{Domain, SignalKind, Take};
use crate::spec::AmountRule;
use crate::stage::Stage;

/// What a row does at the frame, once its controls are known.
#[derive(Clone)]
pub(super) enum Work {
    /// It hands on another row's signal, or nothing of its kind.
    Pass(Option<(StageId, Option<Take>)>, SignalKind),
    /// A stage works.
    Stage(Arc<StageWork>),
    /// A tool's row mixes from its main input to its result.
    Tool(Arc<ToolWork>),
}

pub(super) struct StageWork {
    pub(super) stage: &'static dyn Stage,
    pub(super) values: Vec<Value>,
    pub(super) inputs: HashMap<&'static str, (StageId, Option<Take>)>,
    pub(super) mixing: Mixing,
    pub(super) rule: AmountRule,
}

impl StageWork {
    /// How much of the result, besides its matte, is laid on the bypass; none where all of it is given as it is.
    pub(super) fn share(&self) -> Option<f64> {
        match self.rule {
            AmountRule::OwnUse | AmountRule::None => None,
            AmountRule::OwnAmount => self.mixing.matte.map(|_| 1.0),
            AmountRule::Mixes | AmountRule::Opacity => (!self.mixing.is_full()).then_some(self.mixing.amount),
        }
    }
}

pub(super) struct ToolWork {
    pub(super) main: Option<(StageId, Option<Take>)>,
    pub(super) result: StageId,
    pub(super) mixing: Mixing,
}

#[derive(Clone)]
pub(super) struct Node {
    pub(super) work: Work,
    pub(super) hash: ContentHash,
    pub(super) domain: Domain,
    /// Where a bake stands in for it: the file that it is found by.
    pub(super) baked: Option<ContentHash>,
    /// Why it is only its bypass.
    pub(super) fault: Option<Arc<str>>,
    /// Where its signal would exist, if that were not more than anybody could use.
    pub(super) cut_from: Option<Window>,
}

impl Node {
    pub(super) const fn new(work: Work, hash: ContentHash, domain: Domain) -> Self {
        Self { work, hash, domain, baked: None, fault: None, cut_from: None }
    }
}

/// Amount and matte of a row.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Mixing {
    pub(super) amount: f64,
    pub(super) matte: Option<(StageId, Option<Take>)>,
    pub(super) invert: bool,
    pub(super) soften: f64,
    pub(super) more: Vec<Met>,
}

/// A matte after the first.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Met {
    pub(super) from: (StageId, Option<Take>),
    pub(super) way: MatteWay,
    pub(super) invert: bool,
    pub(super) soften: f64,
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
