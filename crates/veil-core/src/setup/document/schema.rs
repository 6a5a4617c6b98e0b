//! The JSON Schemas of setup and tool files, so that an editor completes what is written by hand and shows what is wrong.
//!
//! What files are made of follows from the types that are read; what each kind of stage may be told follows from the
//! stages themselves.

use serde_json::{Map, Value, json};

use crate::controls::AnyControl;
use crate::mattes;
use crate::setup::{Setup, StageKind, Tool};
use crate::shape::common_controls;
use crate::spec::{AmountRule, MAIN, MATTE};
use crate::stages;

/// The JSON Schema of setup files.
pub fn setup_schema() -> String {
    with_stages(&schemars::schema_for!(Setup))
}

/// The JSON Schema of tool files.
pub fn tool_schema() -> String {
    with_stages(&schemars::schema_for!(Tool))
}

fn with_stages(schema: &schemars::Schema) -> String {
    let mut schema = schema.clone().to_value();
    let kinds: Vec<&str> = stages::all().map(|stage| stage.spec().id).chain([StageKind::TOOL]).collect();
    if let Some(kind) = schema.pointer_mut("/$defs/StageKind").and_then(Value::as_object_mut) {
        kind.insert("enum".into(), json!(kinds));
    }
    if let Some(entry) = schema.pointer_mut("/$defs/StageEntry").and_then(Value::as_object_mut) {
        entry.insert("allOf".into(), stages::all().map(|stage| of_kind(stage.spec())).collect());
    }
    if let Some(defs) = schema.pointer_mut("/$defs").and_then(Value::as_object_mut) {
        let common = common_controls().iter().map(|spec| (spec.id.to_owned(), of_control(spec)));
        defs.insert("CommonControls".into(), json!({ "properties": Map::from_iter(common) }));
    }
    // Writing a tree of text and numbers to a string cannot fail.
    serde_json::to_string_pretty(&schema).unwrap_or_default()
}

/// What a row of a kind may be told and may take.
fn of_kind(spec: &crate::spec::StageSpec) -> Value {
    let own: Map<String, Value> =
        spec.controls.iter().map(|spec| (spec.id.to_owned(), of_control(spec))).collect();
    let mut names: Vec<&str> = spec.controls.iter().map(|spec| spec.id).collect();
    let mut slots: Vec<&str> =
        spec.main.map(|_| MAIN).into_iter().chain(spec.slots.iter().map(|slot| slot.id)).collect();
    let mut controls = json!({ "properties": own });
    let mut wanted = Vec::new();
    if spec.amount != AmountRule::None {
        names.extend(common_controls().iter().map(|spec| spec.id));
        slots.extend([MATTE].into_iter().chain(mattes::MORE));
        controls["allOf"] = json!([{ "$ref": "#/$defs/CommonControls" }]);
        wanted.push(json!({ "pattern": "^matte[2-6]_" }));
    }
    wanted.extend([json!({ "enum": names }), json!({ "pattern": "^own[0-9]+$" })]);
    controls["propertyNames"] = json!({ "anyOf": wanted });
    json!({
        "if": { "properties": { "kind": { "const": spec.id } }, "required": ["kind"] },
        "then": {
            "description": spec.help,
            "properties": { "controls": controls, "links": { "propertyNames": { "enum": slots } } },
        },
    })
}

fn of_control(spec: &AnyControl) -> Value {
    let mut told = spec.kind.schema();
    if let Some(told) = told.as_object_mut() {
        told.insert("title".into(), json!(spec.name));
        if !spec.help.is_empty() {
            told.insert("description".into(), json!(spec.help));
        }
    }
    told
}
