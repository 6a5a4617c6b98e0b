//! SG010: heat haze above the kiln.

use veil_core::setup::{MediaId, Setting, StageEntry, StageId};

use super::{PLATE, Parts, number, pair, plate};

/// Bent air over the kiln: how steeply a churning noise rises, raised until the eye can see it, within a soft
/// matte of kiln and chimney and an ellipse above the mouth.
pub(super) fn above_the_kiln() -> Parts {
    let (noise, steep, strong) = (StageId(3), StageId(4), StageId(5));
    let (picked, shape, over) = (StageId(6), StageId(7), StageId(8));
    let names = ["kiln", "chimney"].map(String::from).to_vec();
    let rows = vec![
        plate(PLATE, "Plate", MediaId(1)),
        StageEntry::new(noise, "noise", "Noise")
            .with("size", pair(46.0, 34.0))
            .with("churn", number(0.09))
            .with("octaves", number(3.0)),
        StageEntry::new(steep, "steepness_map", "Steepness map").taking("main", noise),
        StageEntry::new(strong, "strength", "Strength")
            .taking("main", steep)
            .with("x", number(60.0))
            .with("y", number(45.0)),
        StageEntry::new(picked, "id_pick", "ID pick")
            .with("media", Setting::Media { media: MediaId(1) })
            .with("names", Setting::Names(names)),
        StageEntry::new(shape, "ellipse", "Ellipse")
            .taking("matte", picked)
            .with("matte_soften", number(16.0))
            .with("centre", pair(620.0, 300.0))
            .with("radii", pair(200.0, 330.0))
            .with("softness", number(160.0)),
        StageEntry::new(over, "displace", "Displace")
            .taking("main", PLATE)
            .taking("map", strong)
            .taking("matte", shape)
            .with("strength_x", number(2.0))
            .with("strength_y", number(2.0))
            .with("softness", number(0.3)),
    ];
    Parts { rows, steps: Vec::new() }
}
