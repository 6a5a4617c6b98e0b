//! SG020: a glow that goes with the lantern.

use veil_core::feed::{Feed, JitterFeed, JitterForm, Span};
use veil_core::setup::{MediaId, Setting, StageEntry, StageId};

use super::{PLATE, Parts, colour, number, pair, plate, shown, tool, with};

/// A gentle glow that goes with the lantern, and one with its mirror on the water; it trembles as a flame does.
pub(super) fn glow() -> Parts {
    let (lantern, glow, mirror, wide) = (StageId(3), StageId(4), StageId(5), StageId(6));
    let flame = |low: f64, high: f64| {
        Setting::Feed(Feed::Jitter(JitterFeed {
            jitter: JitterForm::Smooth,
            every: 3.0,
            span: Span { low, high },
            seed: 20,
            offset: Default::default(),
        }))
    };
    let rows = vec![
        plate(PLATE, "Plate", MediaId(1)),
        StageEntry::new(lantern, "ellipse", "lantern")
            .with("centre", with(1))
            .with("radii", pair(22.0, 22.0))
            .with("softness", number(14.0)),
        StageEntry::new(glow, "glow", "lantern's glow")
            .taking("main", PLATE)
            .taking("source", lantern)
            .with("threshold", number(0.9))
            .with("size", number(30.0))
            .with("strength", flame(0.6, 0.95))
            .with("tint", colour([1.0, 0.72, 0.42])),
        StageEntry::new(mirror, "ellipse", "mirror")
            .with("centre", with(2))
            .with("radii", pair(30.0, 70.0))
            .with("softness", number(50.0)),
        StageEntry::new(wide, "glow", "glow on the water")
            .taking("main", glow)
            .taking("source", mirror)
            .with("threshold", number(0.35))
            .with("size", number(22.0))
            .with("strength", flame(0.7, 1.1))
            .with("tint", colour([1.0, 0.7, 0.4])),
    ];
    let make = tool(
        "tracked lantern glow",
        &[lantern, glow, mirror, wide],
        &["picture"],
        vec![
            shown("lantern", lantern, "centre"),
            shown("mirror", mirror, "centre"),
            shown("size", glow, "size"),
            shown("strength", glow, "strength"),
            shown("tint", glow, "tint"),
            shown("size on the water", wide, "size"),
            shown("strength on the water", wide, "strength"),
        ],
    );
    Parts::then(rows, vec![make])
}
