//! What rows can be told: what their controls are, which is told once, and what they are set to.

use crate::json::Json;
use serde::Serialize;
use serde_json::{Value, json};
use veil_core::controls::AnyControl;
use veil_core::lists;
use veil_core::mattes::{self, MORE};
use veil_core::setup::{OwnControl, OwnKind, Setting, Setup, StageEntry, StageId};
use veil_core::{shape, stages};

/// What a row's controls are set to.
#[derive(Serialize)]
pub(crate) struct RowControls {
    id: StageId,
    controls: Vec<ControlState>,
}

#[derive(Serialize)]
#[serde(untagged)]
enum ControlState {
    Declared {
        id: &'static str,
        setting: Setting,
        #[serde(skip_serializing_if = "std::ops::Not::not")]
        changed: bool,
    },
    /// One that a person added, in the same words.
    Own {
        id: String,
        name: String,
        word: String,
        group: &'static str,
        help: String,
        kind: Value,
        grip: &'static str,
        axes: &'static [&'static str],
        setting: Setting,
        own: OwnKind,
    },
}

impl ControlState {
    fn own(own: &OwnControl) -> Self {
        let kind = match own.kind {
            OwnKind::Point => json!({ "type": "point" }),
            OwnKind::Colour => json!({ "type": "colour", "slider": [0.0, 2.0] }),
            OwnKind::Number => {
                json!({ "type": "number", "slider": [0.0, 10.0], "unit": "none", "whole": false })
            }
            OwnKind::Switch => {
                json!({ "type": "number", "slider": [0.0, 1.0], "unit": "none", "whole": true })
            }
        };
        Self::Own {
            id: own.id.clone(),
            name: own.name.clone(),
            word: own.word.clone(),
            group: "",
            help: format!("Formulas call it {}.", own.word),
            kind,
            grip: if own.kind == OwnKind::Point { "point" } else { "none" },
            axes: own.kind.axes(),
            setting: own.setting.clone(),
            own: own.kind,
        }
    }
}

/// The controls of every row, and those that a person added to the setup, as of a row without a number; without those that
/// are what they were in a setup that was `seen`.
pub(crate) fn row_controls(setup: &Setup, seen: Option<&Setup>) -> Vec<RowControls> {
    let own = |id: StageId| setup.own_of(id).iter().map(ControlState::own);
    let of_row = |entry: &StageEntry| {
        let state = |spec: &'static AnyControl| ControlState::Declared {
            id: spec.id,
            setting: shape::setting(setup, entry, spec),
            changed: entry.controls.contains_key(spec.id),
        };
        let counting = shape::all_controls(entry).into_iter().filter(|spec| !lists::is_idle(entry, spec.id));
        let declared = counting.map(state);
        RowControls { id: entry.id, controls: declared.chain(own(entry.id)).collect() }
    };
    let seen = seen.filter(|seen| seen.picture == setup.picture);
    // A copy has what its original has.
    let is_same = |entry: &StageEntry| {
        entry.copy_of.is_none() && seen.is_some_and(|seen| seen.stage(entry.id) == Some(entry))
    };
    let whole = RowControls { id: StageId::WHOLE, controls: own(StageId::WHOLE).collect() };
    let rows = setup.stages.iter().filter(|entry| !is_same(entry)).map(of_row);
    std::iter::once(whole).chain(rows).collect()
}

/// A control as a stage declares it, with the names of its numbers.
#[derive(Serialize)]
struct Declared {
    #[serde(flatten)]
    spec: &'static AnyControl,
    axes: &'static [&'static str],
    /// Those that others may follow.
    follows: &'static [&'static str],
}

impl Declared {
    fn of(spec: &'static AnyControl) -> Self {
        Self { spec, axes: spec.kind.axes(), follows: spec.kind.follow_names() }
    }
}

/// The registry, for the find list, the bench and programs.
pub(crate) async fn stages() -> Json<Value> {
    let listed = stages::all().map(|stage| {
        let spec = stage.spec();
        json!({
            "id": spec.id,
            "name": spec.name,
            "family": spec.family,
            "help": spec.help,
            "main": spec.main,
            "slots": spec.slots,
            "controls": spec.controls.iter().map(Declared::of).collect::<Vec<_>>(),
            "presets": stage.presets(),
            "places": stage.as_placing().is_some(),
        })
    });
    Json(listed.collect())
}

/// The controls that every row with an amount can have.
pub(crate) async fn common() -> Json<Value> {
    let of_mattes = (0..MORE.len()).flat_map(|number| mattes::controls(number).all());
    Json(json!(shape::common_controls().iter().chain(of_mattes).map(Declared::of).collect::<Vec<_>>()))
}
