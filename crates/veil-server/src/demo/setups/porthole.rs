//! SG100: the yard through the thick glass of a porthole.

use veil_core::setup::{MediaId, StageEntry, StageId};

use super::{PLATE, Parts, choice, colour, follows, number, pair, plate, shown, switch, tool};

pub(super) fn through_the_glass() -> Parts {
    let [glass, rim, soft, coloured, hole, wall, dark, over] = [3, 4, 5, 6, 7, 8, 9, 10].map(StageId);
    let rows = vec![
        plate(PLATE, "Plate", MediaId(1)),
        StageEntry::new(glass, "bulge", "thick glass")
            .taking("main", PLATE)
            .with("centre", pair(480.0, 270.0))
            .with("radii", pair(262.0, 250.0))
            .with("strength", number(0.62))
            .with("law", choice("equisolid")),
        StageEntry::new(rim, "ellipse", "within the rim")
            .with("centre", follows(glass, "centre"))
            .with("radii", pair(190.0, 180.0))
            .with("softness", number(80.0)),
        StageEntry::new(soft, "blur", "soft at the rim")
            .taking("main", glass)
            .taking("matte", rim)
            .with("matte_invert", switch(true))
            .with("size_x", number(2.2))
            .with("size_y", number(2.2)),
        StageEntry::new(coloured, "fringe", "coloured at the rim")
            .taking("main", soft)
            .taking("matte", rim)
            .with("matte_invert", switch(true))
            .with("centre", follows(glass, "centre"))
            .with("red", number(5.0))
            .with("blue", number(-5.0)),
        StageEntry::new(hole, "ellipse", "opening")
            .with("centre", follows(glass, "centre"))
            .with("radii", pair(248.0, 236.0))
            .with("softness", number(10.0)),
        StageEntry::new(wall, "invert", "beside the opening").taking("main", hole),
        StageEntry::new(dark, "fill", "dark").with("colour", colour([0.004, 0.0035, 0.003])),
        StageEntry::new(over, "blend", "dark beside it")
            .taking("main", coloured)
            .taking("layer", dark)
            .taking("layer_matte", wall),
    ];
    let make = tool(
        "porthole",
        &[glass, rim, soft, coloured, hole, wall, dark, over],
        &["picture"],
        vec![
            shown("centre", glass, "centre"),
            shown("strength", glass, "strength"),
            shown("law", glass, "law"),
            shown("reach of the glass", glass, "radii"),
            shown("opening", hole, "radii"),
            shown("soft edge", hole, "softness"),
            shown("clear within", rim, "radii"),
            shown("blur across", soft, "size_x"),
            shown("blur down", soft, "size_y"),
            shown("red", coloured, "red"),
            shown("blue", coloured, "blue"),
            shown("dark", dark, "colour"),
        ],
    );
    Parts::then(rows, vec![make])
}
