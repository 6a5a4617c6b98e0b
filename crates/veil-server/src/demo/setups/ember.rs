//! SG110: a burst of embers on transparency.

use veil_core::control::Stop;
use veil_core::feed::Ease;
use veil_core::setup::{Setting, StageEntry, StageId};

use super::{Parts, choice, colour, key_feed, keys, like, number, pair, shown, tool};

/// Fast at first, then slow.
const FLUNG: Ease = Ease::Curve([0.05, 0.75, 0.3, 1.0]);

pub(super) fn burst() -> Parts {
    let [ember, rough, steep, torn, burst] = [2, 3, 4, 5, 6].map(StageId);
    let [hot, cooling, lasting, out] = [7, 8, 9, 10].map(StageId);
    let stop = |at: f64, colour: [f64; 3], alpha: f64| Stop { at, colour, alpha, smooth: true };
    let stops = vec![
        stop(0.0, [9.0, 5.5, 2.6], 1.0),
        stop(0.3, [3.4, 1.15, 0.2], 1.0),
        stop(0.62, [0.9, 0.14, 0.02], 0.75),
        stop(0.85, [0.12, 0.02, 0.012], 0.4),
        stop(1.0, [0.03, 0.01, 0.01], 0.0),
    ];
    let far = keys(FLUNG, &[(1001.0, 60.0), (1040.0, 3000.0)]);
    let grain = key_feed(FLUNG, &[(1001.0, 18.0), (1040.0, 120.0)]);
    let cools = |to: f64| key_feed(Ease::Smooth, &[(1026.0, 1.0), (1056.0, to)]);
    let rows = vec![
        StageEntry::new(ember, "gradient", "ember")
            .with("shape", choice("radial"))
            .with("from", pair(480.0, 270.0))
            .with("radius", keys(FLUNG, &[(1001.0, 6.0), (1036.0, 190.0)]))
            .with("stops", Setting::Stops { stops }),
        StageEntry::new(rough, "noise", "rough")
            .with("size", Setting::Axes { axes: vec![grain, like(rough, "size", 0)] })
            .with("octaves", number(5.0))
            .with("gain", number(0.55))
            .with("churn", number(0.05))
            .with("contrast", number(1.7)),
        StageEntry::new(steep, "steepness_map", "how it rises")
            .taking("main", rough)
            .with("distance", number(1.5)),
        StageEntry::new(torn, "strength", "how far it is torn")
            .taking("main", steep)
            .with("x", far)
            .with("y", Setting::Feed(like(torn, "x", 0))),
        StageEntry::new(burst, "displace", "torn ember")
            .taking("main", ember)
            .taking("map", torn)
            .with("outside", choice("clear")),
        StageEntry::new(hot, "glow", "glow of the hot middle")
            .taking("main", burst)
            .with("threshold", number(1.6))
            .with("size", number(22.0))
            .with("strength", number(0.7))
            .with("octaves", number(3.0))
            .with("fall_off", choice("exponential"))
            .with("tint", colour([1.0, 0.68, 0.36])),
        StageEntry::new(cooling, "grade", "cooling")
            .taking("main", hot)
            .with("gain", Setting::Axes { axes: vec![cools(0.8), cools(0.3), cools(0.1)] }),
        StageEntry::new(lasting, "ellipse", "what is left")
            .with("centre", pair(480.0, 270.0))
            .with("radii", pair(470.0, 265.0))
            .with("softness", number(120.0))
            .with("amount", keys(Ease::Smooth, &[(1034.0, 1.0), (1060.0, 0.0)])),
        StageEntry::new(out, "cut_out", "fading").taking("main", cooling).taking("shape", lasting),
    ];
    let make = tool(
        "burst",
        &[ember, rough, steep, torn, burst, hot, cooling, lasting, out],
        &[],
        vec![
            shown("centre", ember, "from"),
            shown("radius", ember, "radius"),
            shown("colours", ember, "stops"),
            shown("seed", rough, "seed"),
            shown("detail", rough, "octaves"),
            shown("grain", rough, "size"),
            shown("torn x", torn, "x"),
            shown("torn y", torn, "y"),
            shown("glow", hot, "strength"),
            shown("hot above", hot, "threshold"),
        ],
    );
    Parts::then(rows, vec![make])
}
