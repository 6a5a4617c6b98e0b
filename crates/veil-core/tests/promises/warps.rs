//! Neighbouring warps are sampled once, and passes go where the picture goes.

use proptest::prelude::*;
use veil_core::braid::lay_out;
use veil_core::engine::{Engine, Request, WayTo};
use veil_core::plates::Role;
use veil_core::setup::{Setting, Setup, StageEntry, StageId};
use veil_core::signal::{Pixels, Scale, SignalKind};
use veil_core::spec::{MAIN, MATTE};
use veil_pixels::sample::resample::{Filter, Sampler};
use veil_pixels::{Cancel, Edge, Field, Map, Picture, Raster, Window};

use crate::support::{
    FIELD, HEIGHT, MAP, MadeUp, PLATE, SHAPE, SMOOTH, TESTED, WIDTH, ask, ask_of, pair, pixels, setup_with,
};

const FRAME: Window = Window::sized(WIDTH, HEIGHT);

/// The rows `kinds`, one below the other from the plate on; the last is returned.
fn chain(kinds: &[(&str, &[(&str, f64)])]) -> (Setup, StageId) {
    let mut setup = setup_with("transform", PLATE);
    setup.stages.retain(|row| row.id != TESTED);
    let mut above = PLATE;
    for (number, (kind, values)) in kinds.iter().enumerate() {
        let id = StageId(20 + number as u32);
        let mut row = StageEntry::new(id, kind, format!("Warp {number}")).taking(MAIN, above);
        if *kind == "displace" {
            row = row.taking("map", MAP);
        }
        for (control, value) in *values {
            row = row.with(control, Setting::number(*value));
        }
        let last = setup.stages.len() - 1;
        setup.stages.insert(last, row);
        above = id;
    }
    setup.check().unwrap();
    (setup, above)
}

fn picture(setup: &Setup, stage: StageId) -> Picture {
    match pixels(setup, stage, 1) {
        Pixels::Picture(picture) => picture,
        other => panic!("a picture, not a {:?}", other.kind()),
    }
}

fn worst(a: &Picture, b: &Picture) -> f32 {
    let pairs = a.pixels().as_flattened().iter().zip(b.pixels().as_flattened());
    pairs.map(|(a, b)| (a - b).abs()).fold(0.0, f32::max)
}

/// By mathematics: ten tenths of a turn are none, and nothing of the corners is lost on the way.
#[test]
fn ten_turns_of_36_degrees_give_the_input_back() {
    let (setup, last) = chain(&[("transform", &[("angle", 36.0)] as &[_]); 10]);
    let off = worst(&picture(&setup, last), &picture(&setup, PLATE));
    assert!(off <= 1e-4, "{off}");
}

/// A Siemens star of 36 spokes in place of the plate.
const STAR: MadeUp = MadeUp::of(1, |role| {
    (role == Role::Beauty).then(|| {
        Pixels::Picture(Raster::from_fn(FRAME, |x, y| {
            let (x, y) = (x as f32 + 0.5 - 48.0, y as f32 + 0.5 - 32.0);
            let light = 0.5 + 0.5 * (36.0 * y.atan2(x)).cos();
            [light, light, light, 1.0]
        }))
    })
});

fn request(stage: StageId, window: Option<Window>) -> Request {
    Request { window, ..Request::whole(stage, 1004.0) }
}

/// Root mean square of what differs from the mean on a ring about the star's middle, where spokes are 2.6 pixels wide.
fn contrast(setup: &Setup, stage: StageId, middle: [f32; 2]) -> f64 {
    let answer = Engine::new(1 << 26).answer(setup, &STAR, request(stage, None), &Cancel::new()).unwrap();
    let Pixels::Picture(picture) = answer.signal.over(answer.window) else { panic!("a picture") };
    let ring: Vec<f64> = FRAME
        .rows()
        .flat_map(|y| (FRAME.x0..FRAME.x1).map(move |x| (x, y)))
        .filter(|(x, y)| {
            let from = (*x as f32 + 0.5 - middle[0]).hypot(*y as f32 + 0.5 - middle[1]);
            (13.0..17.0).contains(&from)
        })
        .filter_map(|(x, y)| Some(f64::from(picture.get(x, y)?[0])))
        .collect();
    let mean = ring.iter().sum::<f64>() / ring.len() as f64;
    (ring.iter().map(|value| (value - mean).powi(2)).sum::<f64>() / ring.len() as f64).sqrt()
}

/// Common practice: a Siemens star shows what sampling takes away. A tap in between makes it be sampled twice.
#[test]
fn ten_moves_keep_the_contrast_that_one_keeps_and_a_tap_in_between_does_not() {
    let by = [("move_x", 0.45), ("move_y", 0.35)];
    let (ten, last) = chain(&[("transform", &by as &[_]); 10]);
    let whole = [("move_x", 4.5), ("move_y", 3.5)];
    let (one, only) = chain(&[("transform", &whole as &[_])]);
    let middle = [48.0 + 4.5, 32.0 + 3.5];
    let (many, single) = (contrast(&ten, last, middle), contrast(&one, only, middle));
    assert!((many / single - 1.0).abs() < 0.01, "{many} {single}");
    let mut tapped = ten;
    let final_row = tapped.stages.len() - 1;
    for number in [3, 6] {
        let row = StageEntry::new(StageId(40 + number), "blend", format!("Tap {number}"))
            .taking(MAIN, StageId(20 + number));
        tapped.stages.insert(final_row, row);
    }
    tapped.check().unwrap();
    let thrice = contrast(&tapped, last, middle);
    assert!(thrice / single < 0.97, "{thrice} {single}");
}

#[test]
fn the_braid_tells_which_rows_are_sampled_together() {
    let (mut setup, last) = chain(&[
        ("transform", &[]),
        ("displace", &[]),
        ("transform", &[]),
        ("blur", &[]),
        ("transform", &[]),
    ]);
    let told = |setup: &Setup, id: StageId| {
        let rows = lay_out(setup, &Default::default()).rows;
        rows.into_iter().find(|row| row.id == id).unwrap().sampled_in
    };
    let [first, second, third] = [20, 21, 22].map(StageId);
    assert_eq!([first, second, third].map(|id| told(&setup, id)), [Some(third); 3]);
    assert_eq!(told(&setup, last), None);
    // A row that is off is passed over; a matte that mixes pictures ends the bracket.
    let row = |setup: &mut Setup, id: StageId| setup.stages.iter().position(|row| row.id == id).unwrap();
    let at = row(&mut setup, second);
    setup.stages[at].on = false;
    assert_eq!([first, second, third].map(|id| told(&setup, id)), [Some(third), None, Some(third)]);
    let at = row(&mut setup, third);
    setup.stages[at] = setup.stages[at].clone().taking(MATTE, SHAPE);
    assert_eq!([first, second, third].map(|id| told(&setup, id)), [None; 3]);
}

const NEAR: f32 = 2.0;
const FAR: f32 = 7.0;

fn is_near(x: i32, y: i32) -> bool {
    2 * x + y < 110
}

/// Two things at two depths; the picture's red says the depth. A slanted border runs between them.
const DEPTHS: MadeUp = MadeUp::of(2, |role| {
    let depth = |x, y| if is_near(x, y) { NEAR } else { FAR };
    match role {
        Role::Beauty => Some(Pixels::Picture(Raster::from_fn(FRAME, |x, y| [depth(x, y), 0.0, 0.0, 1.0]))),
        Role::Depth => Some(Pixels::Field(Raster::from_fn(FRAME, depth))),
        _ => None,
    }
})
.with_kiln(is_near);

fn field_of(setup: &Setup, stage: StageId) -> Field {
    let answer = Engine::new(1 << 26).answer(setup, &DEPTHS, request(stage, None), &Cancel::new()).unwrap();
    match answer.signal.over(answer.window) {
        Pixels::Field(field) => field,
        other => panic!("a field, not a {:?}", other.kind()),
    }
}

#[test]
fn depth_and_ids_are_found_where_the_picture_went_and_depth_is_never_averaged() {
    let turned: &[(&str, f64)] = &[("angle", 17.0), ("move_x", 6.3), ("scale_x", 1.2)];
    let (mut setup, last) =
        chain(&[("transform", turned), ("displace", &[]), ("grade", &[("exposure", 0.0)])]);
    let at = setup.stages.len() - 1;
    let depth = StageEntry::new(StageId(50), "pass", "Depth").taking("picture", last);
    let kiln = StageEntry::new(StageId(51), "id_pick", "Kiln")
        .taking("picture", last)
        .with("names", Setting::Names(vec!["kiln".into()]));
    setup.stages.splice(at..at, [depth, kiln]);
    setup.check().unwrap();
    let answer = Engine::new(1 << 26).answer(&setup, &DEPTHS, request(last, None), &Cancel::new()).unwrap();
    let Pixels::Picture(picture) = answer.signal.over(FRAME) else { panic!("a picture") };
    let (depth, kiln) = (field_of(&setup, StageId(50)), field_of(&setup, StageId(51)));
    let (mut near, mut far) = (0, 0);
    for (x, y) in FRAME.rows().flat_map(|y| (0..WIDTH as i32).map(move |x| (x, y))) {
        let (red, found, covered) =
            (picture.get(x, y).unwrap()[0], depth.get(x, y).unwrap(), kiln.get(x, y).unwrap());
        assert!([0.0, NEAR, FAR].contains(&found), "{found} at {x}, {y}");
        // Away from borders all three agree; on them, the picture is a mixture.
        if (red - NEAR).abs() < 1e-3 {
            near += 1;
            assert!(found == NEAR && (covered - 1.0).abs() < 1e-3, "{found} {covered} at {x}, {y}");
        } else if (red - FAR).abs() < 1e-3 {
            far += 1;
            assert!(found == FAR && covered.abs() < 1e-3, "{found} {covered} at {x}, {y}");
        }
    }
    assert!(near > 1000 && far > 1000, "{near} {far}");
}

#[test]
fn where_passes_end_is_told_by_the_row_that_drops_them() {
    let (mut setup, last) = chain(&[("transform", &[]), ("grade", &[])]);
    let at = setup.stages.len() - 1;
    let slope = StageEntry::new(StageId(50), "steepness_map", "Slope2").taking(MAIN, last);
    setup.stages.insert(at, slope);
    setup.check().unwrap();
    let travelled =
        |stage: StageId| Engine::new(1 << 20).travelled(&setup, &SMOOTH, request(stage, None)).unwrap();
    let on_grade = travelled(last).unwrap();
    assert_eq!((on_grade.moved_by, on_grade.dropped_by), (vec![StageId(20)], None));
    assert_eq!(travelled(StageId(50)).unwrap().dropped_by, Some(StageId(50)));
    assert_eq!(travelled(FIELD), None);
}

/// A closer view costs what it covers: no row makes more pixels than the window with what later rows reach beyond it.
#[test]
fn a_small_window_costs_only_what_it_covers() {
    let (setup, last) = chain(&[
        ("grade", &[("exposure", 1.0)]),
        ("transform", &[("move_x", 3.5)]),
        ("grade", &[("exposure", -1.0)]),
        ("soften", &[("length", 2.0)]),
    ]);
    let window = Window::new(40, 30, 48, 36);
    let answer = ask(&setup, last, 1, Some(window));
    let most = window.grow(20, 20).area();
    for spent in &answer.spent {
        assert!(spent.pixels <= most, "{spent:?} of {most}");
    }
    assert!(answer.spent.iter().any(|spent| spent.stage == StageId(20)), "{:?}", answer.spent);
}

fn a_chain() -> impl Strategy<Value = Vec<(bool, [f64; 4])>> {
    prop::collection::vec((any::<bool>(), [-40.0..40.0, -9.0..9.0, 0.4..2.0, 0.0..1.5]), 2..5)
}

fn built(steps: &[(bool, [f64; 4])]) -> (Setup, StageId) {
    let named: Vec<(&str, Vec<(&str, f64)>)> = steps
        .iter()
        .map(|(carried, [angle, right, scale, softness])| {
            if *carried {
                ("transform", vec![("angle", *angle), ("move_x", *right), ("scale_y", *scale)])
            } else {
                ("displace", vec![("strength_x", *scale), ("strength_y", *right), ("softness", *softness)])
            }
        })
        .collect();
    let steps: Vec<(&str, &[(&str, f64)])> =
        named.iter().map(|(kind, values)| (*kind, &values[..])).collect();
    chain(&steps)
}

/// Tiles, some clear and some that cover more than the whole, between which every filter of four taps rings.
const TILES: MadeUp = MadeUp::of(6, |role| {
    (role == Role::Beauty).then(|| {
        Pixels::Picture(Raster::from_fn(FRAME, |x, y| {
            let covers = [0.0, 1.0, 0.4, 1.0, 1.3][((x / 7 + 3 * (y / 5)) % 5) as usize];
            [0.8 * covers, 0.1 * covers, 0.5, covers]
        }))
    })
});

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn a_region_of_any_bracket_is_the_crop_of_the_whole(
        steps in a_chain(), x in 0i32..80, y in 0i32..50, w in 1i32..40, h in 1i32..30
    ) {
        let (setup, last) = built(&steps);
        let window = Window::new(x, y, x + w, y + h).intersect(FRAME);
        for plates in [&SMOOTH, &TILES] {
            let seen = |window| match ask_of(plates, &setup, last, 1, window).signal.over(window.unwrap_or(FRAME)) {
                Pixels::Picture(picture) => picture,
                other => panic!("a picture, not a {:?}", other.kind()),
            };
            prop_assert_eq!(seen(Some(window)), seen(None).cropped(window));
        }
    }
}

/// Sampled alone, a warp is what it was before it could be sampled with others.
#[test]
fn a_kind_that_is_no_picture_is_warped_too() {
    let mut setup = setup_with("transform", FIELD);
    setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap().links.remove(MATTE);
    let row = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
    *row = row.clone().with("move_x", Setting::number(8.0)).with("pivot", pair(0.0, 0.0));
    setup.check().unwrap();
    let (Pixels::Field(field), Pixels::Field(moved)) = (pixels(&setup, FIELD, 1), pixels(&setup, TESTED, 1))
    else {
        panic!("{:?}", SignalKind::Field)
    };
    assert_eq!(moved.get(48, 20), field.get(40, 20));
}

fn places(setup: &Setup, stage: StageId, to: StageId) -> Option<Map> {
    Engine::new(1 << 28).places(setup, &SMOOTH, request(stage, None), WayTo::Row(to), &Cancel::new()).unwrap()
}

/// What is seen at a pixel is what stands at its place further up: at the plate, and at each row of the bracket.
#[test]
fn a_place_is_where_its_pixel_came_from() {
    let turn: &[(&str, f64)] = &[("angle", 11.0), ("move_x", 4.5), ("scale_x", 1.2)];
    let (setup, last) = chain(&[("transform", turn), ("displace", &[]), ("transform", turn)]);
    let seen = picture(&setup, last);
    let inner = FRAME.grow(-24, -16);
    for to in [PLATE, StageId(20), StageId(21), last] {
        let (above, way) = (picture(&setup, to), places(&setup, last, to).unwrap());
        let sampler = Sampler::new(&above, above.window(), Edge::Clear);
        for y in inner.rows() {
            for x in inner.x0..inner.x1 {
                let [from_x, from_y] = way.get(x, y).unwrap();
                let stood: [f32; 4] = sampler.at(Filter::Cubic, from_x, from_y);
                let off = seen.get(x, y).unwrap()[0] - stood[0];
                assert!(off.abs() < 0.01, "{to:?} {x},{y}: {off}");
            }
        }
    }
    assert!(places(&setup, PLATE, last).is_none());
    // What one of the bracket takes at the side lies where that one's result does.
    assert_eq!(places(&setup, last, MAP), places(&setup, last, StageId(21)));
}

fn a_gentle_warp() -> impl Strategy<Value = (&'static str, Vec<(&'static str, f64)>)> {
    prop_oneof![
        (-0.2f64..0.2).prop_map(|strength| ("bulge", vec![("strength", strength)])),
        (-15.0f64..15.0).prop_map(|angle| ("swirl", vec![("angle", angle), ("radius", 26.0)])),
        (-4.0f64..4.0, -2.0f64..2.0)
            .prop_map(|(angle, right)| ("transform", vec![("angle", angle), ("move_x", right)])),
        (0.0f64..1.0, 0.0f64..1.0)
            .prop_map(|(x, y)| ("displace", vec![("strength_x", x), ("strength_y", y)])),
        (-0.6f64..0.6).prop_map(|k1| ("lens", vec![("k1", k1), ("focal", 120.0)])),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// One map, one resample: what a chain of warps shows is what it would show sampled row by row, of a picture
    /// without detail finer than a few pixels and away from the borders.
    #[test]
    fn a_chain_of_warps_is_the_chain_sampled_step_by_step(steps in prop::collection::vec(a_gentle_warp(), 2..5)) {
        let named: Vec<(&str, &[(&str, f64)])> = steps.iter().map(|(kind, values)| (*kind, &values[..])).collect();
        let apart: Vec<(&str, &[(&str, f64)])> =
            named.iter().flat_map(|step| [*step, ("grade", &[][..])]).collect();
        let ((together, last), (apart, end)) = (chain(&named), chain(&apart));
        prop_assert_eq!(ask(&together, last, 1, None).spent.iter().filter(|spent| spent.stage.0 >= 20).count(), 1);
        let inner = FRAME.grow(-18, -14);
        let off = worst(&picture(&together, last).cropped(inner), &picture(&apart, end).cropped(inner));
        prop_assert!(off < 1e-3, "{off}");
    }
}

/// By mathematics: moves add up, at any proxy scale in full-resolution pixels.
#[test]
fn the_moves_of_a_strand_are_those_of_its_warps_together() {
    let (setup, last) =
        chain(&[("transform", &[("move_x", 3.0)]), ("transform", &[("move_x", 4.0), ("move_y", -2.0)])]);
    for scale in [1, 2] {
        let request = Request { scale: Scale::one_to(scale).unwrap(), ..request(last, None) };
        let engine = Engine::new(1 << 28);
        let moves = engine.moves(&setup, &SMOOTH, request, WayTo::Head, &Cancel::new()).unwrap().unwrap();
        let off =
            moves.pixels().iter().map(|[x, y]| (x - 7.0).abs().max((y + 2.0).abs())).fold(0.0, f32::max);
        assert!(off < 1e-4, "{off} at one to {scale}");
    }
}
