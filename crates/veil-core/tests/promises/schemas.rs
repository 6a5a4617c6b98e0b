//! The published schemas and the reader agree.

use serde_json::{Value, json};
use veil_core::listing::stages_page;
use veil_core::setup::{Setting, setup_schema};
use veil_core::stages;

use crate::support::{PLATE, every_stage, setup_with};

/// The published schema and the reader agree on what a setup is.
#[test]
fn the_json_schema_accepts_what_is_written_and_refuses_an_unknown_field() {
    let schema: Value = serde_json::from_str(&setup_schema()).unwrap();
    let validator = jsonschema::validator_for(&schema).unwrap();
    let mut written = serde_json::to_value(setup_with("displace", PLATE)).unwrap();
    assert!(validator.is_valid(&written), "{:?}", validator.iter_errors(&written).next());
    written["colour_of_the_sea"] = json!(7);
    assert!(!validator.is_valid(&written));
    let kept = include_str!("../../../../docs/setup.schema.json");
    let kept: Value = serde_json::from_str(kept).unwrap();
    assert!(kept == schema, "docs/setup.schema.json is out of date: write it with `brazen-veil schema`");
}

/// The page of all stages is what they declare.
#[test]
fn the_page_of_stages_is_written_from_them() {
    let kept = include_str!("../../../../docs/stages.md");
    assert!(
        kept == stages_page(),
        "docs/stages.md is out of date: write it with `brazen-veil stages --page`"
    );
}

/// An editor shows what a kind of stage may not be told as the reader refuses it.
#[test]
fn the_json_schema_knows_what_each_kind_of_stage_may_be_told() {
    let schema: Value = serde_json::from_str(&setup_schema()).unwrap();
    let validator = jsonschema::validator_for(&schema).unwrap();
    for (kind, main) in every_stage() {
        let written = serde_json::to_value(setup_with(kind, main)).unwrap();
        let first = validator.iter_errors(&written).next().map(|error| error.to_string());
        assert_eq!(first, None, "{kind}");
    }
    let graded = |control: &str, setting: Value| {
        let mut setup = setup_with("grade", PLATE);
        let row = setup.stages.iter_mut().find(|row| row.id == crate::support::TESTED).unwrap();
        row.controls.insert("exposure".into(), Setting::number(0.5));
        let mut written = serde_json::to_value(&setup).unwrap();
        let rows = written["stages"].as_array_mut().unwrap();
        let row = rows.iter_mut().find(|row| row["kind"] == "grade").unwrap();
        row["controls"][control] = setting;
        validator.is_valid(&written)
    };
    assert!(
        graded("exposure", json!(1.5)) && graded("matte_soften", json!(3)) && graded("red", json!(false))
    );
    assert!(graded("lift", json!({ "axes": [0.1, 0.0, { "formula": "since * 0.01" }] })));
    assert!(!graded("exposure", json!(500)), "beyond its bounds");
    assert!(!graded("red", json!("no")), "of another type");
    assert!(!graded("lift", json!({ "axes": [0.1, 0.0] })), "of too few axes");
    assert!(!graded("brilliance", json!(1)), "of no name that it has");
    let mut unknown = serde_json::to_value(setup_with("grade", PLATE)).unwrap();
    unknown["stages"][0]["kind"] = json!("wobble");
    assert!(!validator.is_valid(&unknown));
}

/// What counts only while a choice is one of some is seen while it is: the choice is there, and has these entries.
#[test]
fn what_depends_on_a_choice_names_one_that_its_stage_has() {
    let mut depend = 0;
    for stage in stages::all() {
        let spec = stage.spec();
        let controls = serde_json::to_value(&spec.controls).unwrap();
        let controls = controls.as_array().unwrap();
        for control in controls.iter().filter(|control| !control["when"].is_null()) {
            let (id, when) = (&control["id"], &control["when"]);
            let choice = controls.iter().find(|other| other["id"] == when["control"]);
            let options = choice.and_then(|choice| choice["kind"]["options"].as_array());
            let options = options.unwrap_or_else(|| panic!("`{id}` of {}: no choice {when}", spec.id));
            for is in when["is"].as_array().unwrap() {
                let there = options.iter().any(|option| option["id"] == *is);
                assert!(there, "`{id}` of {}: {is} is none of {options:?}", spec.id);
            }
            depend += 1;
        }
    }
    assert!(depend > 20, "{depend} controls depend on a choice");
}
