//! What is done to each shot of the demo: rows of its own, and the tools that ship.

use veil_core::controls::{CarriedBy, Fence, KeyedPoints, Lattice, Pair, PairSet, ShapePoint};
use veil_core::feed::{Feed, Keys};
use veil_core::setup::{ColourSpace, Media, MediaId, PictureFormat, Setting, Setup, StageEntry, StageId};
use veil_core::tracks::{
    Along, SurfaceSample, Track, TrackAxis, TrackId, TrackMotion, TrackSample, TrackSurface, middle_of,
};
use veil_demo::{CREST, Element, Shot, ShotPlan, SurfaceTruth, truth};

use super::Subject;
use super::making::{Made, Making, choice, colour, gone_with, number, pair, plate, with};
use crate::error::ServeError;

const PLATE: StageId = StageId(2);
/// A plate of another shot.
const OTHER: MediaId = MediaId(2);

/// How the plate of the masts lies behind the caretaker: its size, and how far it is moved.
const BEHIND: (f64, [f64; 2]) = (0.565, [-50.0, -3.0]);

pub(super) fn made(subject: Subject, plan: &ShotPlan) -> Result<Made, ServeError> {
    let picture = PictureFormat {
        width: plan.width,
        height: plan.height,
        fps: 24.0,
        aspect: 1.0,
        frames: plan.frames,
        working: Default::default(),
    };
    let mut setup = Setup::empty(plan.title, picture);
    let own = medium(MediaId(1), plan);
    match subject {
        Subject::Plate(shot) => {
            setup.media.push(own);
            of_plate(shot, plan, setup)
        }
        Subject::Element(Element::Ember) => burst(setup),
        Subject::Element(Element::Crest) => {
            setup.media.push(Media { path: CREST.into(), frames: None, ..own });
            crackle(setup)
        }
    }
}

fn of_plate(shot: Shot, plan: &ShotPlan, mut setup: Setup) -> Result<Made, ServeError> {
    let tracked = |names: &[&str]| {
        (1..).zip(names).map(|(id, name)| placed(id, name, shot, plan)).collect::<Vec<Track>>()
    };
    match shot {
        Shot::KilnYard => haze_above_the_kiln(setup),
        Shot::LanternBarge => {
            setup.tracks = tracked(&["lantern", "lantern's mirror"]);
            glow_of_the_lantern(setup)
        }
        Shot::Masts => {
            setup.tracks = mast_heads(plan, (1.0, [0.0; 2]));
            arc_between_the_masts(setup)
        }
        Shot::LookOut => {
            setup.media.push(medium(OTHER, &Shot::Masts.plan()));
            setup.tracks = mast_heads(plan, BEHIND);
            arc_behind_the_caretaker(setup)
        }
        Shot::Causeway => {
            setup.media.push(medium(OTHER, &Shot::CausewayClean.plan()));
            setup.tracks = tracked(&[
                "upper left knob",
                "upper right knob",
                "lower right knob",
                "lower left knob",
                "caretaker's head",
            ]);
            caretaker_veiled(setup)
        }
        Shot::CausewayClean => Ok(Making::of(setup, [plate(PLATE, "Plate", MediaId(1))])?.done()),
        Shot::Bell => {
            setup.tracks = tracked(&["bell"]);
            ring_from_the_bell(setup)
        }
        Shot::Float => {
            setup.media.push(medium(OTHER, &Shot::LookOut.plan()));
            setup.tracks = tracked(&["float"]);
            caretaker_in_the_float(setup)
        }
        Shot::SignalGlass => glitches(setup),
        Shot::Porthole => yard_through_the_glass(setup),
        Shot::Kelp => kelp_sways(setup),
        Shot::Sail => sail_bellies_out(setup, plan),
        Shot::Buoy => verdigris_on_the_buoy(setup, plan),
    }
}

/// Bent air over the kiln: how steeply a churning noise rises, raised until the eye can see it, within a soft matte of
/// kiln and chimney and an ellipse above the mouth. Row by row, as it is learned.
fn haze_above_the_kiln(setup: Setup) -> Result<Made, ServeError> {
    let (noise, steep, strong) = (StageId(3), StageId(4), StageId(5));
    let (picked, shape, over) = (StageId(6), StageId(7), StageId(8));
    let names = ["kiln", "chimney"].map(String::from).to_vec();
    let mut making = Making::of(
        setup,
        [
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
        ],
    )?;
    making.shows(over)?;
    Ok(making.done())
}

/// A gentle glow that goes with the lantern, and one with its mirror on the water.
fn glow_of_the_lantern(setup: Setup) -> Result<Made, ServeError> {
    let mut making = Making::of(setup, [plate(PLATE, "Plate", MediaId(1))])?;
    let glow = making.tool("tracked lantern glow", &[PLATE])?;
    making.set(glow, "lantern", with(1))?;
    making.set(glow, "mirror", with(2))?;
    making.shows(glow)?;
    Ok(making.done())
}

fn picked(thing: &str, id: StageId, media: MediaId) -> StageEntry {
    StageEntry::new(id, "id_pick", thing)
        .with("media", Setting::Media { media })
        .with("names", Setting::Names(vec![thing.into()]))
}

/// An arc from one mast head to the other, behind what is nearer.
fn arc(making: &mut Making, behind: StageId, nearer: StageId) -> Result<StageId, ServeError> {
    let arc = making.tool("arc between two tracked points", &[behind, nearer])?;
    making.set(arc, "from", with(1))?;
    making.set(arc, "to", with(2))?;
    Ok(arc)
}

/// The arc leaps between the mast heads and passes behind the rope.
fn arc_between_the_masts(setup: Setup) -> Result<Made, ServeError> {
    let rope = StageId(3);
    let mut making =
        Making::of(setup, [plate(PLATE, "Plate", MediaId(1)), picked("rope", rope, MediaId(1))])?;
    let arc = arc(&mut making, PLATE, rope)?;
    making.shows(arc)?;
    Ok(making.done())
}

/// The caretaker taken off the green sheet and laid over the masts, the arc behind his head.
fn arc_behind_the_caretaker(setup: Setup) -> Result<Made, ServeError> {
    let [masts, masts_placed, far, rope, rope_placed] = [3, 4, 5, 6, 7].map(StageId);
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
    let mut making = Making::of(
        setup,
        [
            plate(masts, "masts", OTHER).with("placed", choice("top_left")),
            sized(masts_placed, "masts, at this size", masts),
            StageEntry::new(far, "blur", "out of focus")
                .taking("main", masts_placed)
                .with("size_x", number(1.4))
                .with("size_y", number(1.4)),
            picked("rope", rope, OTHER),
            sized(rope_placed, "rope, at this size", rope),
            plate(PLATE, "Plate", MediaId(1)),
        ],
    )?;
    let arc = arc(&mut making, far, rope_placed)?;
    // It sags, so that it passes behind his head.
    making.set(arc, "by way of", choice("one"))?;
    making.set(arc, "first place", pair(446.0, 152.0))?;
    making.set(arc, "width", number(1.6))?;
    making.set(arc, "softness", number(1.2))?;
    making.set(arc, "size of the wide glow", number(30.0))?;
    let figure = making.tool("figure before a screen", &[PLATE, arc])?;
    making.set(figure, "screen colour", colour([0.066, 0.46, 0.095]))?;
    // The sheet has deep folds, which would be seen against the sky.
    making.set(figure, "clean up", number(0.2))?;
    making.shows(figure)?;
    Ok(making.done())
}

/// A ring of pressure goes out from the bell that is struck.
fn ring_from_the_bell(setup: Setup) -> Result<Made, ServeError> {
    let mut making = Making::of(setup, [plate(PLATE, "Plate", MediaId(1))])?;
    let ring = making.tool("pressure ring", &[PLATE])?;
    making.set(ring, "centre", with(1))?;
    making.set(ring, "pushes from", with(1))?;
    making.shows(ring)?;
    Ok(making.done())
}

/// The caretaker goes on as bent air: first over a clean plate that is made of the shot itself, by four knobs that lie still; then
/// over the take without him.
fn caretaker_veiled(setup: Setup) -> Result<Made, ServeError> {
    let [caretaker, wide, made, take] = [3, 4, 5, 6].map(StageId);
    let knobs = [1, 2, 3, 4].into_iter().fold(
        StageEntry::new(made, "clean_plate", "made of the shot").with("align", choice("four")),
        |row, knob| row.with(&format!("place_{knob}"), with(knob)),
    );
    let mut making = Making::of(
        setup,
        [
            plate(PLATE, "Plate", MediaId(1)),
            picked("caretaker", caretaker, MediaId(1)),
            StageEntry::new(wide, "grow", "caretaker, wider")
                .taking("main", caretaker)
                .with("length", number(6.0)),
            knobs.taking("main", PLATE).taking("left_out", wide),
            plate(take, "the take without him", OTHER),
        ],
    )?;
    let veil = making.tool("veil", &[PLATE, made, caretaker])?;
    let head = |axis, more| gone_with(5, axis, 1001.0, more);
    let from_head = |down: f64| {
        let Setting::Feed(right) = head(TrackAxis::X, 240.0) else { return pair(0.0, 0.0) };
        let Setting::Feed(down) = head(TrackAxis::Y, down) else { return pair(0.0, 0.0) };
        Setting::Axes { axes: vec![right, down] }
    };
    making.set(veil, "front from", from_head(180.0))?;
    making.set(veil, "front to", from_head(390.0))?;
    let keys = Keys::one(1024.0, 0.0).with_value(1058.0, 1.0);
    making.set(veil, "reveal", Setting::Feed(Feed::Keys(keys)))?;
    making.shows(veil)?;
    making.keeps("clean plate made of the shot");
    making.plugs(veil, 1, take)?;
    Ok(making.done())
}

/// The caretaker, small, mirrored in the float. At first the figure's picture ends within the float; then it is larger and
/// lower, and ends outside.
fn caretaker_in_the_float(setup: Setup) -> Result<Made, ServeError> {
    let figure = StageId(3);
    let since = 1001.0;
    let right = gone_with(1, TrackAxis::X, since, 24.0);
    let down = |more: f64| gone_with(1, TrackAxis::Y, since, more);
    let mut making = Making::of(setup, [plate(PLATE, "Plate", MediaId(1)), plate(figure, "figure", OTHER)])?;
    let mirrored = making.tool("reflection inside a moving shape", &[PLATE, figure])?;
    making.set(mirrored, "shape", with(1))?;
    making.set(mirrored, "figure, right", right)?;
    making.set(mirrored, "figure, down", down(-24.0))?;
    making.set(mirrored, "width", number(0.34))?;
    making.set(mirrored, "height", number(0.34))?;
    making.shows(mirrored)?;
    making.keeps("the figure's edge shows");
    making.set(mirrored, "width", number(0.52))?;
    making.set(mirrored, "height", number(0.52))?;
    making.set(mirrored, "figure, down", down(4.0))?;
    Ok(making.done())
}

/// The signal glass swells by its own light, shears and loses its colours, now and then.
fn glitches(setup: Setup) -> Result<Made, ServeError> {
    let mut making = Making::of(setup, [plate(PLATE, "Plate", MediaId(1))])?;
    let bumped = making.tool("self-bump warp", &[PLATE])?;
    let sheared = making.tool("line-shear glitch", &[bumped])?;
    let split = making.tool("split-colour glitch", &[sheared])?;
    making.shows(split)?;
    Ok(making.done())
}

/// The yard through the thick glass of a porthole.
fn yard_through_the_glass(setup: Setup) -> Result<Made, ServeError> {
    let mut making = Making::of(setup, [plate(PLATE, "Plate", MediaId(1))])?;
    let glass = making.tool("porthole", &[PLATE])?;
    making.shows(glass)?;
    Ok(making.done())
}

/// A still comes to life for 120 frames: each part of the kelp goes its own way, the further the higher, and comes back.
fn kelp_sways(mut setup: Setup) -> Result<Made, ServeError> {
    const ROWS: usize = 6;
    const COLUMNS: usize = 10;
    setup.picture.frames.last = setup.picture.frames.first + 119;
    let frames = setup.picture.frames;
    let (first, last) = (f64::from(frames.first), f64::from(frames.last));
    let even = Lattice::over(ROWS, COLUMNS, [0.0; 2], [960.0, 540.0], first);
    // How far each corner goes, in turns of its own.
    let swayed = |turn: f64| -> Vec<ShapePoint> {
        let corner = |(number, at): (usize, &[f64; 2])| {
            let (row, column) = (number / (COLUMNS + 1), number % (COLUMNS + 1));
            let up = 1.0 - row as f64 / ROWS as f64;
            let phase = turn + column as f64 * 0.55 + row as f64 * 0.35;
            let far = 26.0 * up.powf(1.4) * (0.7 + 0.3 * (column as f64 * 1.9).sin());
            ShapePoint::corner([at[0] + far * phase.sin(), at[1] + 0.2 * far * phase.cos()])
        };
        even.rest.iter().enumerate().map(corner).collect()
    };
    let ends = KeyedPoints::still(first, swayed(0.0));
    let keys = [0.25, 0.5, 0.75, 1.0];
    let moved = keys.into_iter().fold(ends, |made, share| {
        made.with_key((first + share * (last - first)).round(), swayed(share * 4.4))
    });
    let mut making = Making::of(setup, [plate(PLATE, "Plate", MediaId(1))])?;
    let drifting = making.tool("drifting still", &[PLATE])?;
    making.set(drifting, "lattice", Setting::Lattice { lattice: Lattice { moved, ..even } })?;
    making.shows(drifting)?;
    Ok(making.done())
}

/// The slack sail bellies out and goes with the boat; its patch keeps its own amount, and beyond a fence nothing moves.
fn sail_bellies_out(mut setup: Setup, plan: &ShotPlan) -> Result<Made, ServeError> {
    let frame = f64::from(plan.frames.first);
    setup.tracks = vec![planar(1, "sail", Shot::Sail, plan)];
    let carried = Some(CarriedBy { track: TrackId(1), since: frame, along: Along::Whole });
    let at = |name: &str| {
        let known = truth(Shot::Sail, plan.frames.first).planes.into_iter().find(|(known, _)| *known == name);
        known.map(|(_, corners)| corners).unwrap_or_default()
    };
    let line = |points: Vec<ShapePoint>| KeyedPoints {
        carried: carried.clone(),
        ..KeyedPoints::still(frame, points)
    };
    let pair = |name: &str, corners: [[f64; 2]; 4], bulge: [[f64; 2]; 4]| {
        let drawn = |share: f64| line(bulging(corners, bulge.map(|by| by.map(|along| along * share))));
        Pair {
            name: name.into(),
            closed: true,
            rest: drawn(0.0),
            goal: drawn(1.0),
            ties: (0..8).map(|at| [f64::from(at); 2]).collect(),
            own: name == "patch",
            own_dissolve: false,
            counts: true,
            locked: false,
            hidden: false,
        }
    };
    let sail = at("sail");
    let about = |[x, y]: [f64; 2]| {
        let middle = middle_of(sail);
        ShapePoint::corner([middle[0] + (x - middle[0]) * 3.2, middle[1] + (y - middle[1]) * 1.5])
    };
    let fence = Fence {
        name: "fence".into(),
        closed: true,
        line: line(sail.into_iter().map(about).collect()),
        counts: true,
        locked: false,
        hidden: false,
    };
    let way = |most: f64| {
        Keys::one(frame + 8.0, 0.0).with_value(frame + 44.0, most).with_value(frame + 71.0, 0.86 * most)
    };
    let pairs = PairSet {
        pairs: vec![
            pair("sail", sail, [[0.0, 0.0], [50.0, 10.0], [0.0, 2.0], [-20.0, 6.0]]),
            pair("patch", at("patch"), [[30.0, 4.0], [38.0, 10.0], [30.0, 18.0], [22.0, 10.0]]),
        ],
        fences: vec![fence],
        amounts: vec![Feed::Fixed(1.0), Feed::Keys(way(0.45)), Feed::Fixed(1.0)],
    };
    let mut making = Making::of(setup, [plate(PLATE, "Plate", MediaId(1))])?;
    let reshaped = making.tool("reshaped part", &[PLATE])?;
    making.set(reshaped, "outlines", Setting::Pairs { pairs })?;
    making.set(reshaped, "way", Setting::Feed(Feed::Keys(way(1.0))))?;
    making.shows(reshaped)?;
    Ok(making.done())
}

/// An outline through four corners and the middles of its sides, each side moved out by so much in its middle.
fn bulging(corners: [[f64; 2]; 4], bulge: [[f64; 2]; 4]) -> Vec<ShapePoint> {
    (0..4)
        .flat_map(|side| {
            let (a, b) = (corners[side], corners[(side + 1) % 4]);
            let quarter = [0, 1].map(|axis| (b[axis] - a[axis]) / 4.0);
            let middle = [0, 1].map(|axis| (a[axis] + b[axis]) / 2.0 + bulge[side][axis]);
            let bent =
                ShapePoint { at: middle, before: quarter.map(|along| -along), after: quarter, soft: 0.0 };
            [ShapePoint::corner(a), bent]
        })
        .collect()
}

/// A plane of a shot as a region of the plate.
fn planar(id: u32, name: &str, shot: Shot, plan: &ShotPlan) -> Track {
    let corners = |frame: i32| {
        let known = truth(shot, frame).planes.into_iter().find(|(known, _)| *known == name);
        known.map(|(_, corners)| corners).unwrap_or_default()
    };
    let sample = |frame: i32| {
        let corners = corners(frame);
        TrackSample {
            at: middle_of(corners),
            scale: 1.0,
            turn: 0.0,
            likeness: 1.0,
            corners: Some(corners),
            surface: None,
        }
    };
    let first = corners(plan.frames.first);
    Track {
        at: middle_of(first),
        region: Some(first),
        motion: TrackMotion::Perspective,
        samples: (plan.frames.first..=plan.frames.last).map(|frame| (frame, sample(frame))).collect(),
        ..Track::new(TrackId(id), name, PLATE, plan.frames.first)
    }
}

/// Verdigris spreads over the side of the buoy as it turns, within the buoy's own matte.
fn verdigris_on_the_buoy(mut setup: Setup, plan: &ShotPlan) -> Result<Made, ServeError> {
    setup.tracks = vec![surface(1, Shot::Buoy, plan)];
    let lattice = lattice_on(&setup.tracks[0], f64::from(plan.frames.first));
    let buoy = StageId(3);
    let picked = picked("buoy", buoy, MediaId(1));
    let mut making = Making::of(setup, [plate(PLATE, "Plate", MediaId(1)), picked])?;
    let spreading = making.tool("spreading surface", &[PLATE, buoy])?;
    making.set(spreading, "lattice", lattice)?;
    // It ends before the corners of the lattice, which would be seen.
    let keys = Keys::one(1003.0, 0.0).with_value(1070.0, 0.62);
    making.set(spreading, "spread", Setting::Feed(Feed::Keys(keys)))?;
    making.shows(spreading)?;
    Ok(making.done())
}

/// The first surface of a shot as a track of the plate.
fn surface(id: u32, shot: Shot, plan: &ShotPlan) -> Track {
    let round = |value: f64| (value * 100.0).round() / 100.0;
    let known = |frame: i32| truth(shot, frame).surfaces.into_iter().next();
    let mut track = Track::new(TrackId(id), "", PLATE, plan.frames.first);
    for frame in plan.frames.first..=plan.frames.last {
        let Some(SurfaceTruth { name, cells: [rows, columns], corners, .. }) = known(frame) else { continue };
        let corners: Vec<[f64; 2]> = corners.into_iter().map(|at| at.map(round)).collect();
        let middle = [0, 1].map(|axis| corners.iter().map(|at| at[axis]).sum::<f64>() / corners.len() as f64);
        let begins = track.surface.is_none();
        if begins {
            track.name = name.into();
            track.at = middle;
            track.surface = Some(TrackSurface { rows, columns, corners: corners.clone(), stiffness: 0.3 });
        }
        let surface = Some(SurfaceSample { corners, likeness: vec![1.0; rows * columns], by_hand: begins });
        let sample = TrackSample { at: middle, scale: 1.0, turn: 0.0, likeness: 1.0, corners: None, surface };
        track.samples.insert(frame, sample);
    }
    track
}

/// A lattice that lies on a followed surface from a frame on, its window at rest the whole frame.
fn lattice_on(track: &Track, frame: f64) -> Setting {
    let of = track.surface.clone().unwrap_or(TrackSurface {
        rows: 1,
        columns: 1,
        corners: Vec::new(),
        stiffness: 0.0,
    });
    let even = Lattice::over(of.rows, of.columns, [0.0; 2], [960.0, 540.0], frame);
    let points = of.corners.into_iter().map(ShapePoint::corner).collect();
    let carried = Some(CarriedBy { track: track.id, since: frame, along: Along::Whole });
    Setting::Lattice {
        lattice: Lattice { moved: KeyedPoints { carried, ..KeyedPoints::still(frame, points) }, ..even },
    }
}

/// A burst of embers on transparency.
fn burst(setup: Setup) -> Result<Made, ServeError> {
    let mut making = Making::of(setup, [])?;
    let burst = making.tool("burst", &[])?;
    making.shows(burst)?;
    Ok(making.done())
}

/// The glassworks' crest and its name, crackling.
fn crackle(setup: Setup) -> Result<Made, ServeError> {
    let [night, figure, name, shape, brass, crest] = [2, 3, 4, 5, 6, 7].map(StageId);
    let mut making = Making::of(
        setup,
        [
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
        ],
    )?;
    let crackling = making.tool("crackle along edges", &[crest, shape])?;
    making.shows(crackling)?;
    Ok(making.done())
}

/// Both heads as they lie on a plate that is scaled and then moved.
fn mast_heads(plan: &ShotPlan, (scale, moved): (f64, [f64; 2])) -> Vec<Track> {
    let on_plate = [(1, "left mast head"), (2, "right mast head")];
    let mut tracks = on_plate.map(|(id, name)| placed(id, name, Shot::Masts, plan));
    let lies = |[x, y]: [f64; 2]| [x * scale + moved[0], y * scale + moved[1]];
    for track in &mut tracks {
        track.at = lies(track.at);
        track.samples.values_mut().for_each(|sample| sample.at = lies(sample.at));
    }
    tracks.into()
}

fn medium(id: MediaId, plan: &ShotPlan) -> Media {
    Media {
        id,
        name: plan.title.into(),
        path: plan.pattern(),
        frames: Some(plan.frames),
        colour: ColourSpace::Linear,
        content: None,
    }
}

/// A named place of a shot as a track of the plate.
fn placed(id: u32, name: &str, shot: Shot, plan: &ShotPlan) -> Track {
    let round = |value: f64| (value * 100.0).round() / 100.0;
    let at = |frame: i32| {
        let known = truth(shot, frame).places.into_iter().find(|(known, _)| *known == name);
        known.map(|(_, place)| place.map(round)).unwrap_or_default()
    };
    let sample = |frame: i32| TrackSample {
        at: at(frame),
        scale: 1.0,
        turn: 0.0,
        likeness: 1.0,
        corners: None,
        surface: None,
    };
    Track {
        at: at(plan.frames.first),
        samples: (plan.frames.first..=plan.frames.last).map(|frame| (frame, sample(frame))).collect(),
        ..Track::new(TrackId(id), name, PLATE, plan.frames.first)
    }
}
