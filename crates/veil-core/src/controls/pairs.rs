//! Outlines as they are and as they shall be, tied to each other place by place, and what is kept still.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::Value as Json;

use super::control_type::{ControlType, holding};
use super::form::Form;
use super::points::{KeyedPoints, ShapePoint};
use super::spec::ControlSpec;
use crate::feed::{Feed, Moment, Others};
use crate::key::keyed_by_fields;
use crate::media::Media;
use crate::picture::PictureFormat;

/// Most pairs, and most fences.
const MOST: usize = 100;
/// Most ties of a pair.
const MOST_TIES: usize = 500;

/// An outline at rest and as its goal.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Pair {
    /// As shown in the list.
    pub name: String,
    /// Whether both close.
    #[serde(default = "yes")]
    pub closed: bool,
    /// As it is.
    pub rest: KeyedPoints,
    /// As it shall be; it need not have as many points.
    pub goal: KeyedPoints,
    /// Which place of the one is tied to which of the other. A place is the number of a point and a share of the way to
    /// the next: 2.5 is half way from the third point to the fourth.
    #[serde(default)]
    pub ties: Vec<[f64; 2]>,
    /// Whether it goes by its own amount.
    #[serde(default)]
    pub own: bool,
    /// Whether it dissolves by its own number, where pairs dissolve.
    #[serde(default)]
    pub own_dissolve: bool,
    /// Whether it counts.
    #[serde(default = "yes")]
    pub counts: bool,
    /// Whether it is kept from being changed by hand.
    #[serde(default)]
    pub locked: bool,
    /// Whether its lines are left out on the picture.
    #[serde(default)]
    pub hidden: bool,
}

/// An outline that is tied to nothing and keeps the rest still.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Fence {
    /// As shown in the list.
    pub name: String,
    /// Whether it closes.
    #[serde(default = "yes")]
    pub closed: bool,
    /// Its points.
    pub line: KeyedPoints,
    /// Whether it counts.
    #[serde(default = "yes")]
    pub counts: bool,
    /// Whether it is kept from being changed by hand.
    #[serde(default)]
    pub locked: bool,
    /// Whether its line is left out on the picture.
    #[serde(default)]
    pub hidden: bool,
}

/// Pairs and fences.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PairSet {
    /// In the order of the list.
    #[serde(default)]
    pub pairs: Vec<Pair>,
    /// In the order of the list.
    #[serde(default)]
    pub fences: Vec<Fence>,
    /// The own amount of each pair, 0 for its rest and 1 for its goal; then the firmness of each fence, 0–1; then, where
    /// pairs dissolve, how much of the other picture is seen at each of them, 0–1.
    #[serde(default)]
    pub amounts: Vec<Feed>,
}

const fn yes() -> bool {
    true
}

/// How many places a line has along itself: past the last there is none.
fn length(points: &KeyedPoints, closed: bool) -> f64 {
    let count = points.count();
    (if closed { count } else { count.saturating_sub(1) }) as f64
}

impl Pair {
    fn check(&self) -> Result<(), String> {
        let whose = |why: &str| format!("has an outline `{}` {why}", self.name);
        self.rest.check().map_err(whose)?;
        self.goal.check().map_err(whose)?;
        if self.ties.len() > MOST_TIES {
            return Err(whose(&format!("with more than {MOST_TIES} ties")));
        }
        let ends = [length(&self.rest, self.closed), length(&self.goal, self.closed)];
        let lies = |tie: &[f64; 2]| (0..2).all(|side| (0.0..=ends[side]).contains(&tie[side]));
        if self.ties.iter().all(lies) { Ok(()) } else { Err(whose("with a tie beyond its end")) }
    }
}

impl Pair {
    /// Whether going along the one outline leads back on the other from a tie to the next.
    pub fn has_crossed_ties(&self) -> bool {
        let [rests, around] = [&self.rest, &self.goal].map(|points| points.count() as f64);
        let mut ties = self.ties.clone();
        // The end of a closed one is where it began.
        ties.iter_mut().filter(|_| self.closed).for_each(|tie| tie[0] = tie[0].rem_euclid(rests));
        ties.sort_by(|a, b| a[0].total_cmp(&b[0]));
        let Some([_, first]) = ties.first().copied() else { return false };
        // Around a closed goal from where the first tie leads.
        let goal = |tie: &[f64; 2]| if self.closed { (tie[1] - first).rem_euclid(around) } else { tie[1] };
        ties.windows(2).any(|pair| goal(&pair[0]) > goal(&pair[1]))
    }
}

impl PairSet {
    fn check(&self, own: Own) -> Result<(), String> {
        if self.pairs.len() > MOST || self.fences.len() > MOST {
            return Err(format!("takes up to {MOST} pairs and as many fences"));
        }
        let (lines, pairs) = (self.pairs.len() + self.fences.len(), self.pairs.len());
        match own {
            Own::Amount if self.amounts.len() != lines => {
                return Err("wants an amount for each pair and each fence".into());
            }
            Own::AmountAndDissolve if self.amounts.len() != lines + pairs => {
                return Err(
                    "wants an amount for each pair and each fence, then a dissolve for each pair".into()
                );
            }
            _ => {}
        }
        self.amounts.iter().try_for_each(Feed::check)?;
        self.pairs.iter().try_for_each(Pair::check)?;
        let line =
            |fence: &Fence| fence.line.check().map_err(|why| format!("has a fence `{}` {why}", fence.name));
        self.fences.iter().try_for_each(line)
    }

    fn at(&self, moment: Moment, others: &dyn Others) -> LaidPairs {
        let amount = |at: usize| self.amounts.get(at).map_or(1.0, |feed| feed.at(moment, others));
        let points = |points: &KeyedPoints| points.placed(moment.now, others);
        let pairs =
            self.pairs.iter().enumerate().filter(|(_, pair)| pair.counts).map(|(at, pair)| LaidPair {
                closed: pair.closed,
                rest: points(&pair.rest),
                goal: points(&pair.goal),
                ties: pair.ties.clone(),
                amount: pair.own.then(|| amount(at)),
                dissolve: pair.own_dissolve.then(|| amount(self.pairs.len() + self.fences.len() + at)),
            });
        let fences = self.fences.iter().enumerate().filter(|(_, fence)| fence.counts);
        let fences = fences.map(|(at, fence)| LaidFence {
            closed: fence.closed,
            points: points(&fence.line),
            firmness: amount(self.pairs.len() + at).clamp(0.0, 1.0),
        });
        LaidPairs { pairs: pairs.collect(), fences: fences.collect() }
    }
}

impl Form for PairSet {
    fn feeds(&self) -> &[Feed] {
        &self.amounts
    }

    fn feeds_mut(&mut self) -> &mut [Feed] {
        &mut self.amounts
    }

    /// The rest and the goal of each pair in turn, then the fences.
    fn drawn(&self) -> Vec<&KeyedPoints> {
        let pairs = self.pairs.iter().flat_map(|pair| [&pair.rest, &pair.goal]);
        pairs.chain(self.fences.iter().map(|fence| &fence.line)).collect()
    }

    fn drawn_mut(&mut self) -> Vec<&mut KeyedPoints> {
        let pairs = self.pairs.iter_mut().flat_map(|pair| [&mut pair.rest, &mut pair.goal]);
        pairs.chain(self.fences.iter_mut().map(|fence| &mut fence.line)).collect()
    }

    fn words(&self) -> String {
        format!("{} pairs and {} fences", self.pairs.len(), self.fences.len())
    }
}

/// A pair that counts, as it is at a moment.
#[derive(Clone, Debug, PartialEq)]
pub struct LaidPair {
    /// Whether both close.
    pub closed: bool,
    /// As it is.
    pub rest: Vec<ShapePoint>,
    /// As it shall be.
    pub goal: Vec<ShapePoint>,
    /// Which place is tied to which.
    pub ties: Vec<[f64; 2]>,
    /// How far it goes; none where it goes as far as all do.
    pub amount: Option<f64>,
    /// How much of the other picture is seen at it; none where it is as much as everywhere.
    pub dissolve: Option<f64>,
}

/// A fence that counts, as it is at a moment.
#[derive(Clone, Debug, PartialEq)]
pub struct LaidFence {
    /// Whether it closes.
    pub closed: bool,
    /// Its points.
    pub points: Vec<ShapePoint>,
    /// How still it keeps what it goes through, 0–1.
    pub firmness: f64,
}

/// Pairs and fences that count, as they are at a moment.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct LaidPairs {
    /// In the order of the list.
    pub pairs: Vec<LaidPair>,
    /// In the order of the list.
    pub fences: Vec<LaidFence>,
}

keyed_by_fields! {
    LaidPair { closed, rest, goal, ties, amount, dissolve }
    LaidFence { closed, points, firmness }
    LaidPairs { pairs, fences }
}

/// What a pair may have of its own.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Own {
    /// How far it goes.
    Amount,
    /// That, and how much of another picture is seen at it.
    AmountAndDissolve,
}

/// Pairs of outlines.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct PairsSpec {
    /// What each may have of its own.
    pub own: Own,
}

impl ControlSpec<PairsSpec> {
    /// Outlines as they are and as they shall be.
    pub const fn pairs(name: &'static str) -> Self {
        Self::of(name, PairsSpec { own: Own::Amount })
    }

    /// The same of two pictures, which dissolve at each pair as it says.
    pub const fn dissolving_pairs(name: &'static str) -> Self {
        Self::of(name, PairsSpec { own: Own::AmountAndDissolve })
    }
}

impl ControlType for PairsSpec {
    type Value = LaidPairs;
    type Set = PairSet;

    fn start(&self, _picture: PictureFormat) -> LaidPairs {
        LaidPairs::default()
    }

    fn start_set(&self, _picture: PictureFormat) -> PairSet {
        PairSet::default()
    }

    fn wanted(&self) -> String {
        "wants pairs of outlines".into()
    }

    fn fits(&self, set: &PairSet) -> Result<(), String> {
        set.check(self.own)
    }

    fn at(&self, set: &PairSet, moment: Moment, others: &dyn Others) -> Option<LaidPairs> {
        Some(set.at(moment, others))
    }

    /// By the name of its pair or fence.
    fn axis_name(&self, set: &PairSet, axis: usize) -> Option<String> {
        let names = set.pairs.iter().map(|pair| &pair.name).chain(set.fences.iter().map(|fence| &fence.name));
        let dissolving = self.own == Own::AmountAndDissolve;
        let dissolves = set.pairs.iter().filter(|_| dissolving).map(|pair| format!("{} dissolve", pair.name));
        names.cloned().chain(dissolves).nth(axis)
    }

    fn line(&self, _name: &str, value: &LaidPairs, _media: &[Media]) -> String {
        let LaidPairs { pairs, fences } = value;
        let told = |count: usize, word: &str| format!("{count} {word}{}", if count == 1 { "" } else { "s" });
        let fences = (!fences.is_empty()).then(|| told(fences.len(), "fence"));
        std::iter::once(told(pairs.len(), "pair")).chain(fences).collect::<Vec<_>>().join(", ")
    }

    fn schema(&self) -> Json {
        holding("pairs")
    }

    fn told(&self) -> String {
        "pairs of outlines with ties, and fences".into()
    }
}
