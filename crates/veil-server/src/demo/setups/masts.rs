//! SG030 and SG035: an arc between the mast heads, and the caretaker before it.

use veil_core::setup::{Command, MediaId, Setting, StageEntry, StageId};

use super::{OTHER, PLATE, Parts, choice, colour, number, pair, plate, shown, tool, with};

/// The rows of an arc that is laid over a picture.
struct Ids {
    hidden: StageId,
    clear: StageId,
    arc: StageId,
    tight: StageId,
    wide: StageId,
    over: StageId,
}

/// An arc from one track to another, two glows of it, and both added to what lies behind; `hidden` covers what stands
/// before it.
fn arc(ids: &Ids, behind: StageId) -> Vec<StageEntry> {
    vec![
        StageEntry::new(ids.clear, "invert", "clear of what is nearer").taking("main", ids.hidden),
        StageEntry::new(ids.arc, "arc", "arc")
            .with("from", with(1))
            .with("to", with(2))
            .with("width", number(2.4))
            .with("branches", number(8.0))
            .with("roughness", number(0.15))
            .with("every", number(6.0))
            .with("light", number(5.0))
            .with("dims", number(0.12)),
        StageEntry::new(ids.tight, "glow", "tight glow")
            .taking("main", ids.arc)
            .with("threshold", number(0.0))
            .with("size", number(5.0))
            .with("strength", number(1.4))
            .with("tint", colour([0.75, 0.87, 1.0])),
        StageEntry::new(ids.wide, "glow", "wide glow")
            .taking("main", ids.tight)
            .with("threshold", number(0.0))
            .with("size", number(46.0))
            .with("fall_off", choice("exponential"))
            .with("strength", number(1.1))
            .with("tint", colour([0.42, 0.5, 1.0])),
        StageEntry::new(ids.over, "blend", "added")
            .taking("main", behind)
            .taking("layer", ids.wide)
            .taking("layer_matte", ids.clear)
            .with("layer_mode", choice("plus")),
    ]
}

fn arc_tool(ids: &Ids) -> Command {
    tool(
        "arc between two tracked points",
        &[ids.clear, ids.arc, ids.tight, ids.wide, ids.over],
        &["picture", "what is nearer"],
        vec![
            shown("from", ids.arc, "from"),
            shown("to", ids.arc, "to"),
            shown("roughness", ids.arc, "roughness"),
            shown("branches", ids.arc, "branches"),
            shown("width", ids.arc, "width"),
            shown("light", ids.arc, "light"),
            shown("strikes every", ids.arc, "every"),
            shown("seed", ids.arc, "seed"),
            shown("tight glow", ids.tight, "strength"),
            shown("wide glow", ids.wide, "strength"),
            shown("size of the wide glow", ids.wide, "size"),
            shown("tint", ids.wide, "tint"),
        ],
    )
}

fn picked(id: StageId, media: MediaId, name: &str) -> StageEntry {
    StageEntry::new(id, "id_pick", name)
        .with("media", Setting::Media { media })
        .with("names", Setting::Names(vec!["rope".into()]))
}

/// The arc leaps between the mast heads and passes behind the rope.
pub(super) fn between_the_masts() -> Parts {
    let [hidden, clear, arc_row, tight, wide, over] = [3, 4, 5, 6, 7, 8].map(StageId);
    let ids = Ids { hidden, clear, arc: arc_row, tight, wide, over };
    let mut rows = vec![plate(PLATE, "Plate", MediaId(1)), picked(hidden, MediaId(1), "rope")];
    rows.extend(arc(&ids, PLATE));
    Parts::then(rows, vec![arc_tool(&ids)])
}

/// How the plate of the masts lies behind the caretaker: its size, and how far it is moved.
pub(super) const BEHIND: (f64, [f64; 2]) = (0.565, [-50.0, -3.0]);

/// The caretaker taken off the green sheet and laid over the masts, the arc behind his head.
pub(super) fn behind_the_caretaker() -> Parts {
    let [masts, placed, far, rope, rope_placed] = [3, 4, 5, 6, 7].map(StageId);
    let [clear, arc_row, tight, wide, over] = [8, 9, 10, 11, 12].map(StageId);
    let [key, laid] = [13, 14].map(StageId);
    let ids = Ids { hidden: rope_placed, clear, arc: arc_row, tight, wide, over };
    let (scale, [right, down]) = BEHIND;
    let sized = |id: StageId, name: &str, of: StageId| {
        StageEntry::new(id, "transform", name)
            .taking("main", of)
            .with("pivot", pair(0.0, 0.0))
            .with("scale_x", number(scale))
            .with("scale_y", number(scale))
            .with("move_x", number(right))
            .with("move_y", number(down))
    };
    let mut rows = vec![
        plate(masts, "masts", OTHER),
        sized(placed, "masts, at this size", masts),
        StageEntry::new(far, "blur", "out of focus")
            .taking("main", placed)
            .with("size_x", number(1.4))
            .with("size_y", number(1.4)),
        picked(rope, OTHER, "rope"),
        sized(rope_placed, "rope, at this size", rope),
    ];
    rows.extend(arc(&ids, far).into_iter().map(|row| {
        match row.id {
            // It sags, so that it passes behind his head.
            id if id == arc_row => row
                .with("via", choice("one"))
                .with("via1", pair(446.0, 152.0))
                .with("width", number(1.6))
                .with("softness", number(1.2)),
            id if id == wide => row.with("size", number(30.0)),
            _ => row,
        }
    }));
    rows.push(plate(PLATE, "Plate", MediaId(1)));
    rows.push(
        StageEntry::new(key, "screen_key", "caretaker")
            .taking("main", PLATE)
            .taking("background", over)
            .with("colour", colour([0.066, 0.46, 0.095]))
            // The sheet has deep folds, which would be seen against the sky.
            .with("clean", number(0.2))
            .with("toward", choice("background")),
    );
    rows.push(StageEntry::new(laid, "blend", "over the masts").taking("main", over).taking("layer", key));
    let figure = tool(
        "figure before a screen",
        &[key, laid],
        &["background", "figure on its screen"],
        vec![
            shown("screen colour", key, "colour"),
            shown("clean up", key, "clean"),
            shown("edge offset", key, "offset"),
            shown("edge blur", key, "blur"),
            shown("despill", key, "despill"),
        ],
    );
    Parts::then(rows, vec![figure, arc_tool(&ids)])
}
