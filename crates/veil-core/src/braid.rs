//! The layout of rows and strands.
//!
//! Rows stand in working order, and a strand is a run of rows along main inputs. The strand that ends in
//! the final row runs in lane 0; every other keeps the lane it had where that is free from its top row to the
//! last row that takes it, and new ones are placed so that lines cross least. Beyond [`LANES`] lanes, strands share
//! the last one as a bundle.

mod lanes;

use std::collections::BTreeSet;

use serde::Serialize;

use crate::bracket;
use crate::folds::{self, Fold, Folds, Shown};
use crate::setup::{Pace, Setup, Source, StageEntry, StageId, Tab};
use crate::shape;
use crate::signal::SignalKind;
use crate::spec::{Belongs, MAIN};

/// How many lanes are drawn.
pub const LANES: usize = 4;

/// The mark of a row on its strand.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Knot {
    /// An open ring.
    Source,
    /// A filled dot.
    Stage,
    /// A ring round a dot: it takes more than one strand.
    Join,
    /// A hexagon.
    Final,
}

/// A slot of a row, as the row and the bench say it.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct RowSlot {
    /// In edits.
    pub id: &'static str,
    /// As shown.
    pub name: String,
    /// What it takes, by name; none where it is empty.
    pub source: Option<String>,
    /// The row it takes, where that is a row.
    pub from: Option<StageId>,
    /// Which float of a picture is taken.
    pub take: Option<crate::signal::Take>,
    /// Which kinds fit.
    pub accepts: crate::spec::Accepts,
    /// What it belongs to.
    pub belongs: Belongs,
}

/// One row.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Row {
    /// Which stage.
    pub id: StageId,
    /// Its name.
    pub name: String,
    /// Its kind of stage.
    pub stage: String,
    /// What it gives.
    pub gives: SignalKind,
    /// Its mark.
    pub knot: Knot,
    /// Where its mark stands.
    pub lane: usize,
    /// What matters most in it.
    pub detail: String,
    /// Whether it works.
    pub on: bool,
    /// How deep inside tools it stands.
    pub depth: usize,
    /// For a tool's row: whether the rows inside are shown.
    pub unfolded: Option<bool>,
    /// For a tool's row inside of which something is keyed: when that happens.
    pub pace: Option<Pace>,
    /// What it takes.
    pub slots: Vec<RowSlot>,
    /// How many slots take it.
    pub taps: usize,
    /// What a person wrote beside it.
    pub note: String,
    /// The colour at its name.
    pub tab: Option<Tab>,
    /// The lowest of the warps that it is sampled together with; none where it is sampled alone.
    pub sampled_in: Option<StageId>,
    /// What folds to this row.
    pub fold: Option<Fold>,
    /// The group that it is in; empty for none.
    pub group: String,
}

/// A line from one row to another.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Strand {
    /// Row of the giver, from the top.
    pub from_row: usize,
    /// Its lane.
    pub from_lane: usize,
    /// Row of the taker, from the top.
    pub to_row: usize,
    /// Its lane.
    pub to_lane: usize,
    /// What runs along it.
    pub kind: SignalKind,
    /// Whether it is the taker's main input.
    pub main: bool,
    /// The row and the slot of it that it ends in; of several that are drawn as one, the first.
    pub join: (StageId, String),
}

/// The whole panel.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Braid {
    /// From the top down.
    pub rows: Vec<Row>,
    /// In no order that matters.
    pub strands: Vec<Strand>,
}

/// Lays out a setup as a person has folded it.
pub fn lay_out(setup: &Setup, folds: &Folds) -> Braid {
    let shown = Shown::of(setup, folds);
    let edges: Vec<Edge> = folds::links(setup, &shown, &folds.open)
        .into_iter()
        .map(|link| Edge { from: link.from, to: link.to, main: link.main, join: link.join })
        .collect();
    let kept: Vec<Option<usize>> =
        shown.rows.iter().map(|row| folds.lanes.get(&row.id).copied().filter(|lane| *lane < LANES)).collect();
    let lanes = lanes::assign(&edges, &kept);
    let brackets = bracket::lowest_of_each(setup);
    let mut taken = vec![0; shown.rows.len()];
    edges.iter().for_each(|edge| taken[edge.to] += 1);
    let rows = shown.rows.iter().enumerate().map(|(row, entry)| Row {
        sampled_in: brackets.get(&entry.id).copied(),
        fold: shown.fold_at(entry.id),
        ..row_of(setup, entry, lanes[row], taken[row], &folds.open)
    });
    let kind = |row: usize| shape::kind_of(setup, shown.rows[row].id);
    let strands = edges.iter().map(|edge| Strand {
        from_row: edge.from,
        from_lane: lanes[edge.from],
        to_row: edge.to,
        to_lane: lanes[edge.to],
        kind: kind(edge.from),
        main: edge.main,
        join: edge.join.clone(),
    });
    Braid { rows: rows.collect(), strands: strands.collect() }
}

/// A line, by the rows of its ends.
struct Edge {
    from: usize,
    to: usize,
    main: bool,
    join: (StageId, String),
}

fn row_of(setup: &Setup, entry: &StageEntry, lane: usize, takes: usize, unfolded: &BTreeSet<StageId>) -> Row {
    let knot = match takes {
        _ if entry.kind.is_final() => Knot::Final,
        0 if shape::slots(entry).iter().all(|slot| slot.id != MAIN) => Knot::Source,
        0 | 1 => Knot::Stage,
        _ => Knot::Join,
    };
    let slots = shape::slots(entry).into_iter().map(|slot| {
        let link = entry.links.get(slot.id);
        RowSlot {
            id: slot.id,
            name: slot.name,
            source: link.and_then(|link| setup.link_name(*link, entry)),
            from: link.and_then(|link| match link.from {
                Source::Stage(id) => Some(id),
                Source::Input(_) => None,
            }),
            take: link.and_then(|link| link.take),
            accepts: slot.accepts,
            belongs: slot.belongs,
        }
    });
    let mut depth = 0;
    let mut inside = entry.inside;
    while let Some(tool) = inside {
        depth += 1;
        inside = setup.stage(tool).and_then(|row| row.inside);
    }
    Row {
        id: entry.id,
        name: entry.name.clone(),
        stage: entry.kind.0.clone(),
        gives: shape::kind_of(setup, entry.id),
        knot,
        lane,
        detail: detail(setup, entry),
        on: entry.on,
        depth,
        unfolded: entry.tool.as_ref().map(|_| unfolded.contains(&entry.id)),
        pace: entry.tool.as_ref().and_then(|_| setup.pace(entry.id)),
        slots: slots.collect(),
        taps: setup.takers(entry.id).len(),
        note: entry.note.clone(),
        tab: entry.tab,
        sampled_in: None,
        fold: None,
        group: entry.group.clone(),
    }
}

/// How many changed controls a row names.
const DETAILS: usize = 3;

/// A row's second line: its plate and things first, then the controls that were changed.
fn detail(setup: &Setup, entry: &StageEntry) -> String {
    if !entry.on {
        return "off".into();
    }
    let mut parts: Vec<String> = Vec::new();
    if let Some(original) = entry.copy_of.and_then(|id| setup.stage(id)) {
        parts.push(format!("follows {}", original.name));
    }
    if let Some(tool) = &entry.tool {
        let of = if tool.own { "own copy of" } else { "tool" };
        parts.push(format!("{of} {} {}", tool.name, tool.number));
    }
    let moment = setup.moment(f64::from(setup.picture.frames.first));
    for spec in shape::controls(entry) {
        let Some(setting) = setup.setting(entry, spec.id) else { continue };
        let value = shape::value(setup, entry, spec, moment);
        let word = setting.feeds().iter().find_map(|feed| feed.word());
        let text = match word {
            Some(word) => format!("{} {word}", spec.name),
            None => spec.kind.line(spec.name, &value, &setup.media),
        };
        if !text.is_empty() {
            parts.push(text);
        }
    }
    parts.truncate(DETAILS);
    parts.join(" · ")
}
