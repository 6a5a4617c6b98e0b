//! SG140: the glassworks' crest and its name, crackling.

use veil_core::setup::{MediaId, Setting, StageEntry, StageId};

use super::{Parts, choice, colour, number, pair, shown, tool};

/// A noise whose rise bends what is under it.
struct Bend {
    ids: [StageId; 3],
    name: &'static str,
    size: f64,
    over: f64,
    churn: f64,
    seed: f64,
    far: f64,
}

impl Bend {
    fn map(&self) -> StageId {
        self.ids[2]
    }

    fn rows(&self) -> Vec<StageEntry> {
        let [noise, rise, far] = self.ids;
        vec![
            StageEntry::new(noise, "noise", format!("{} noise", self.name))
                .with("size", pair(self.size, self.size))
                .with("octaves", number(2.0))
                .with("churn", number(self.churn))
                .with("seed", number(self.seed)),
            StageEntry::new(rise, "steepness_map", format!("{} rise", self.name))
                .taking("main", noise)
                .with("distance", number(self.over)),
            StageEntry::new(far, "strength", format!("{} strength", self.name))
                .taking("main", rise)
                .with("x", number(self.far))
                .with("y", number(self.far)),
        ]
    }
}

pub(super) fn crackle() -> Parts {
    let [night, figure, name, shape, brass, crest] = [2, 3, 4, 5, 6, 7].map(StageId);
    let [edges, chunks, broken, lit, once, twice, glow, fine, over] =
        [8, 9, 10, 11, 18, 19, 20, 21, 22].map(StageId);
    let wide = Bend {
        ids: [12, 13, 14].map(StageId),
        name: "wide",
        size: 70.0,
        over: 2.0,
        churn: 0.14,
        seed: 5.0,
        far: 520.0,
    };
    let small = Bend {
        ids: [15, 16, 17].map(StageId),
        name: "fine",
        size: 9.0,
        over: 1.0,
        churn: 0.4,
        seed: 6.0,
        far: 26.0,
    };
    let mut rows = vec![
        StageEntry::new(night, "fill", "night").with("colour", colour([0.006, 0.008, 0.012])),
        StageEntry::new(figure, "figure", "crest")
            .with("gives", choice("field"))
            .with("media", Setting::Media { media: MediaId(1) })
            .with("place", pair(480.0, 225.0))
            .with("high", number(300.0)),
        StageEntry::new(name, "text", "name")
            .with("gives", choice("field"))
            .with("text", choice("Saltglass"))
            .with("face", choice("bold"))
            .with("size", number(86.0))
            .with("place", pair(480.0, 455.0)),
        StageEntry::new(shape, "combine_fields", "crest and name")
            .taking("main", figure)
            .taking("field2", name)
            .with("field2_meet", choice("maximum")),
        StageEntry::new(brass, "fill", "dull brass")
            .taking("covers", shape)
            .with("colour", colour([0.05, 0.036, 0.018])),
        StageEntry::new(crest, "blend", "at night").taking("main", night).taking("layer", brass),
        StageEntry::new(edges, "edges", "thin edges").taking("main", shape).with("width", number(1.6)),
        StageEntry::new(chunks, "noise", "chunks")
            .with("size", pair(54.0, 54.0))
            .with("churn", number(0.16))
            .with("contrast", number(4.5)),
        StageEntry::new(broken, "combine_fields", "broken edges")
            .taking("main", edges)
            .taking("field2", chunks)
            .with("field2_meet", choice("multiply")),
        StageEntry::new(lit, "fill", "lit edges")
            .taking("covers", broken)
            .with("colour", colour([1.1, 2.3, 4.8])),
    ];
    rows.extend(wide.rows());
    rows.extend(small.rows());
    let bent = |id: StageId, name: &str, of: StageId, map: StageId| {
        StageEntry::new(id, "displace", name)
            .taking("main", of)
            .taking("map", map)
            .with("outside", choice("clear"))
    };
    rows.extend([
        bent(once, "bent wide", lit, wide.map()),
        bent(twice, "bent fine", once, small.map()),
        StageEntry::new(glow, "glow", "coloured glow")
            .taking("main", twice)
            .with("threshold", number(0.0))
            .with("size", number(7.0))
            .with("octaves", number(4.0))
            .with("fall_off", choice("exponential"))
            .with("strength", number(2.0))
            .with("tint", colour([0.35, 0.62, 1.0])),
        StageEntry::new(fine, "grade", "colour refined")
            .taking("main", glow)
            .with("saturation", number(1.15)),
        StageEntry::new(over, "blend", "screened over")
            .taking("main", crest)
            .taking("layer", fine)
            .with("layer_mode", choice("screen")),
    ]);
    let inside: Vec<StageId> = rows.iter().map(|row| row.id).filter(|id| *id >= edges).collect();
    let make = tool(
        "crackle along edges",
        &inside,
        &["picture", "figure"],
        vec![
            shown("width", edges, "width"),
            shown("chunks", chunks, "size"),
            shown("evolves", chunks, "churn"),
            shown("seed", chunks, "seed"),
            shown("bent far, x", wide.ids[2], "x"),
            shown("bent far, y", wide.ids[2], "y"),
            shown("bent fine, x", small.ids[2], "x"),
            shown("bent fine, y", small.ids[2], "y"),
            shown("colour", lit, "colour"),
            shown("glow", glow, "strength"),
            shown("size of the glow", glow, "size"),
            shown("tint", glow, "tint"),
            shown("strength", over, "layer_opacity"),
        ],
    );
    Parts::then(rows, vec![make])
}
