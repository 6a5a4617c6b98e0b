//! SG060: the caretaker mirrored in the float.

use veil_core::setup::{Command, MediaId, Setting, StageEntry, StageId};
use veil_core::tracks::TrackAxis;

use super::{OTHER, PLATE, Parts, Step, choice, colour, gone_with, number, pair, plate, shown, tool, with};

/// The caretaker, small, mirrored in the float. At first the figure's picture ends within the float; then it is larger and
/// lower, and ends outside.
pub(super) fn in_the_float() -> Parts {
    let (figure, key, place) = (StageId(3), StageId(4), StageId(5));
    let (soft, shape, mirrored, lit) = (StageId(6), StageId(7), StageId(8), StageId(9));
    let since = 1001.0;
    let rows = vec![
        plate(PLATE, "Plate", MediaId(1)),
        plate(figure, "figure", OTHER),
        StageEntry::new(key, "screen_key", "caretaker")
            .taking("main", figure)
            .with("colour", colour([0.066, 0.46, 0.095]))
            .with("clean", number(0.2)),
        StageEntry::new(lit, "grade", "lit by the lamp").taking("main", key).with("exposure", number(2.6)),
        StageEntry::new(place, "transform", "in the float")
            .taking("main", lit)
            .with("pivot", pair(445.0, 300.0))
            .with("move_x", gone_with(1, TrackAxis::X, since, 24.0))
            .with("move_y", gone_with(1, TrackAxis::Y, since, -24.0))
            .with("scale_x", number(0.34))
            .with("scale_y", number(0.34)),
        StageEntry::new(soft, "blur", "soft")
            .taking("main", place)
            .with("size_x", number(1.5))
            .with("size_y", number(1.5)),
        StageEntry::new(shape, "ellipse", "float")
            .with("centre", with(1))
            .with("radii", pair(96.0, 96.0))
            .with("softness", number(34.0)),
        StageEntry::new(mirrored, "blend", "mirrored")
            .taking("main", PLATE)
            .taking("layer", soft)
            .taking("layer_matte", shape)
            .with("layer_mode", choice("screen"))
            .with("layer_opacity", number(0.2)),
    ];
    let set = |control: &str, setting: Setting| Command::Set {
        stage: place,
        control: control.into(),
        setting: Some(setting),
    };
    let cure = vec![
        set("scale_x", number(0.52)),
        set("scale_y", number(0.52)),
        set("move_y", gone_with(1, TrackAxis::Y, since, 4.0)),
    ];
    let make = tool(
        "reflection inside a moving shape",
        &[key, lit, place, soft, shape, mirrored],
        &["figure before a screen", "picture"],
        vec![
            shown("shape", shape, "centre"),
            shown("size of the shape", shape, "radii"),
            shown("soft edge", shape, "softness"),
            shown("figure, right", place, "move_x"),
            shown("figure, down", place, "move_y"),
            shown("width", place, "scale_x"),
            shown("height", place, "scale_y"),
            shown("brightness", lit, "exposure"),
            shown("strength", mirrored, "layer_opacity"),
        ],
    );
    let steps = vec![
        Step { version: "the figure's edge shows", commands: cure },
        Step { version: "", commands: vec![make] },
    ];
    Parts { rows, steps }
}
