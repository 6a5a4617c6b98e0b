//! SG090: the signal glass swells by its own light, shears and loses its colours, now and then.

use veil_core::feed::{Ease, Feed, Formula, FormulaFeed, GateFeed, Lengths, Span};
use veil_core::setup::{Command, Link, MediaId, Setting, StageEntry, StageId};
use veil_core::signal::Take;

use super::{PLATE, Parts, choice, keys, like, number, pair, plate, shown, tool};

/// So many each frame, from the shot's start.
fn each_frame(number: f64) -> Setting {
    let formula = Formula::parse(&format!("since * {number}"));
    formula.map_or(Setting::number(0.0), |formula| Setting::Feed(Feed::Formula(FormulaFeed::new(formula))))
}

/// Irregular bursts up to a value.
fn bursts(high: f64, seed: u32) -> Setting {
    Setting::Feed(Feed::Gate(GateFeed {
        burst: Lengths { shortest: 3.0, longest: 8.0 },
        pause: Lengths { shortest: 3.0, longest: 9.0 },
        chance: 0.9,
        attack: 1.0,
        release: 3.0,
        span: Span { low: 0.0, high },
        seed,
        offset: Default::default(),
    }))
}

pub(super) fn glitches() -> Parts {
    let (mut rows, bump) = self_bump(PLATE);
    let (sheared, shear) = line_shear(StageId(8));
    let (split, apart) = split_colour(StageId(13));
    rows.insert(0, plate(PLATE, "Plate", MediaId(1)));
    rows.extend(sheared);
    rows.extend(split);
    Parts::then(rows, vec![bump, shear, apart])
}

/// The picture's own light as a height, how steeply it rises as a move.
fn self_bump(of: StageId) -> (Vec<StageEntry>, Command) {
    let [steep, spread, still, linked, bumped] = [3, 4, 5, 6, 8].map(StageId);
    let swell = keys(Ease::Smooth, &[(1001.0, 0.0), (1010.0, 190.0), (1020.0, 0.0)]);
    let mut rise = StageEntry::new(steep, "steepness_map", "rise of its light").with("distance", number(2.5));
    rise.links.insert("main".into(), Link { take: Some(Take::Luma), ..Link::stage(of) });
    let rows = vec![
        rise,
        StageEntry::new(spread, "soften", "spread").taking("main", steep).with("length", number(5.0)),
        StageEntry::new(still, "neutral", "without drift").taking("main", spread),
        StageEntry::new(linked, "strength", "how far")
            .taking("main", still)
            .with("x", swell)
            .with("y", Setting::Feed(like(linked, "x", 0))),
        StageEntry::new(bumped, "displace", "bumped").taking("main", of).taking("map", linked),
    ];
    let make = tool(
        "self-bump warp",
        &[steep, spread, still, linked, bumped],
        &["picture"],
        vec![
            shown("strength x", linked, "x"),
            shown("strength y", linked, "y"),
            shown("over", steep, "distance"),
            shown("spread", spread, "length"),
        ],
    );
    (rows, make)
}

/// A noise stretched along one axis, cut into cells, as a move outward.
fn line_shear(of: StageId) -> (Vec<StageEntry>, Command) {
    let [long, cells, push, sheared] = [9, 10, 11, 13].map(StageId);
    let rows = vec![
        StageEntry::new(long, "noise", "long noise")
            .with("size", pair(1400.0, 9.0))
            .with("angle", number(6.0))
            .with("octaves", number(2.0))
            .with("churn", number(0.22))
            .with("offset_y", each_frame(3.0))
            .with("contrast", number(2.4)),
        StageEntry::new(cells, "mosaic", "cells")
            .taking("main", long)
            .with("wide", number(96.0))
            .with("high", number(7.0)),
        StageEntry::new(push, "push_map", "outward")
            .taking("main", cells)
            .with("way", choice("outward"))
            .with("centre", pair(480.0, 270.0))
            .with("still", choice("half"))
            .with("strength", bursts(70.0, 9)),
        StageEntry::new(sheared, "displace", "sheared").taking("main", of).taking("map", push),
    ];
    let make = tool(
        "line-shear glitch",
        &[long, cells, push, sheared],
        &["picture"],
        vec![
            shown("strength", push, "strength"),
            shown("centre", push, "centre"),
            shown("lines", long, "size"),
            shown("angle", long, "angle"),
            shown("detail", long, "octaves"),
            shown("evolves", long, "churn"),
            shown("slides", long, "offset_y"),
            shown("cell width", cells, "wide"),
            shown("cell height", cells, "high"),
            shown("seed", long, "seed"),
        ],
    );
    (rows, make)
}

/// Each channel moved within a wandering matte of its own, made of the picture's light and a hard noise.
fn split_colour(of: StageId) -> (Vec<StageEntry>, Command) {
    let [light, apart, over] = [14, 30, 31].map(StageId);
    let mut rows = vec![
        StageEntry::new(light, "channel", "light").taking("main", of),
        StageEntry::new(apart, "channel_shift", "colours apart")
            .taking("main", of)
            .with("red_x", number(44.0))
            .with("green_y", number(-9.0))
            .with("blue_x", number(-38.0))
            .with("blue_scale", number(1.02)),
        StageEntry::new(over, "blend", "laid over")
            .taking("main", of)
            .taking("layer", apart)
            .with("layer_mode", choice("screen"))
            .with("layer_opacity", bursts(1.0, 4)),
    ];
    let mut seeds = Vec::new();
    for (at, (name, seed, wander)) in
        [("red", 3.0, 9.0), ("green", 14.0, -7.0), ("blue", 25.0, 5.0)].into_iter().enumerate()
    {
        let first = 15 + 3 * at as u32;
        let [places, matte, soft] = [first, first + 1, first + 2].map(StageId);
        seeds.push(shown(&format!("{name} seed"), places, "seed"));
        let made = vec![
            StageEntry::new(places, "noise", format!("places of {name}"))
                .with("size", pair(210.0, 26.0))
                .with("octaves", number(3.0))
                .with("churn", number(0.35))
                .with("contrast", number(6.0))
                .with("level", number(0.62))
                .with("offset_x", each_frame(wander))
                .with("seed", number(seed)),
            StageEntry::new(matte, "combine_fields", format!("matte of {name}"))
                .taking("main", light)
                .taking("field2", places)
                .with("field2_meet", choice("multiply")),
            StageEntry::new(soft, "soften", format!("soft matte of {name}"))
                .taking("main", matte)
                .with("length", number(2.0)),
        ];
        let before = rows.len() - 2;
        rows.splice(before..before, made);
        let shift = rows.len() - 2;
        rows[shift] = rows[shift].clone().taking(&format!("{name}_within"), soft);
    }
    let ids: Vec<StageId> = rows.iter().map(|row| row.id).collect();
    let mut faceplate = vec![
        shown("strength", over, "layer_opacity"),
        shown("mode", over, "layer_mode"),
        shown("red x", apart, "red_x"),
        shown("red y", apart, "red_y"),
        shown("green x", apart, "green_x"),
        shown("green y", apart, "green_y"),
        shown("blue x", apart, "blue_x"),
        shown("blue y", apart, "blue_y"),
    ];
    faceplate.extend(seeds);
    (rows, tool("split-colour glitch", &ids, &["picture"], faceplate))
}
