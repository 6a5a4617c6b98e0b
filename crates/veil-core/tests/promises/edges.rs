//! Edges and grain of what stands before another place.

use veil_core::engine::{Engine, Request};
use veil_core::plates::Role;
use veil_core::setup::{Frames, PictureFormat, Setting, Setup, StageEntry, StageId};
use veil_core::signal::{Pixels, SignalKind};
use veil_core::spec::MAIN;
use veil_pixels::{Cancel, Picture, Raster, Window};

use crate::support::{HEIGHT, MadeUp, PLATE, TESTED, WIDTH, setup_with};

const BEHIND: StageId = StageId(40);
/// The edge of what stands in front: to the left of it all is covered.
const EDGE: i32 = 48;

/// Red, and opaque up to the edge.
fn front(role: Role) -> Option<Pixels> {
    let window = Window::sized(WIDTH, HEIGHT);
    (role.kind() == SignalKind::Picture).then(|| {
        Pixels::Picture(Raster::from_fn(
            window,
            |x, _| {
                if x < EDGE { [0.2, 0.0, 0.0, 1.0] } else { [0.0; 4] }
            },
        ))
    })
}

/// Before a background of so much blue.
fn wrapped(blue: f64, set: &[(&str, f64)]) -> Picture {
    let mut setup: Setup = setup_with("light_wrap", PLATE);
    let row = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
    let own =
        StageEntry::new(TESTED, "light_wrap", "Tested").taking(MAIN, PLATE).taking("background", BEHIND);
    *row = set.iter().fold(own, |row, (control, value)| row.with(control, Setting::number(*value)));
    let behind =
        StageEntry::new(BEHIND, "fill", "Behind").with("colour", Setting::numbers(&[0.0, 0.0, blue]));
    let at = setup.stages.iter().position(|row| row.id == TESTED).unwrap();
    setup.stages.insert(at, behind);
    setup.check().unwrap();
    let plates = MadeUp::of(77, front);
    let answer =
        Engine::new(1 << 28).answer(&setup, &plates, Request::whole(TESTED, 1004.0), &Cancel::new()).unwrap();
    match answer.signal.over(answer.window) {
        Pixels::Picture(picture) => picture,
        other => panic!("a picture, not {:?}", other.kind()),
    }
}

/// The normal distribution's table, at a straight edge: half a pixel in, with a standard deviation of six, Φ(−0.0833) = 0.4668 of the
/// light is there, one standard deviation in Φ(−1) = 0.1587, and next to none four in; none of it falls on what is open.
#[test]
fn half_of_the_light_is_at_the_edge() {
    let made = wrapped(0.5, &[("width", 6.0)]);
    let blue = |x: i32| made.get(x, 8).unwrap()[2];
    let at_edge = blue(EDGE - 1);
    assert!((at_edge - 0.5 * 0.4668).abs() < 0.003, "{at_edge}");
    let one_in = f32::midpoint(blue(EDGE - 7), blue(EDGE - 6));
    assert!((one_in - 0.5 * 0.1587).abs() < 0.005, "{one_in}");
    assert!(blue(EDGE - 25) < 1e-3);
    assert_eq!(made.get(EDGE, 8).unwrap(), [0.0; 4]);
    assert_eq!(made.get(EDGE - 1, 8).unwrap()[3], 1.0);
}

#[test]
fn only_what_is_bright_spills_where_that_is_asked_for() {
    // Of blue 0.5 and 2.0 the luma is 0.036 and 0.144.
    let [dim, bright] = [0.5, 2.0]
        .map(|blue| wrapped(blue, &[("width", 4.0), ("threshold", 0.1)]).get(EDGE - 1, 4).unwrap()[2]);
    assert!(dim < 1e-4 && bright > 0.2, "{dim} {bright}");
}

/// What is seen of a soft edge: a figure of one colour before a place of another.
fn soft_edge(role: Role) -> Option<Pixels> {
    let window = Window::sized(WIDTH, HEIGHT);
    let pixel = |x: i32, _| {
        let share = soft(x);
        [0.8 * share, 0.6 * (1.0 - share), 0.1, 1.0]
    };
    (role.kind() == SignalKind::Picture).then(|| Pixels::Picture(Raster::from_fn(window, pixel)))
}

/// Opaque up to a place, and clear twelve pixels on.
fn soft(x: i32) -> f32 {
    1.0 - ((x - EDGE) as f32 / 12.0).clamp(0.0, 1.0)
}

/// By the equation of compositing (Porter and Duff, "Compositing Digital Images", 1984), a pixel is `αF + (1 − α)B`; what is cut out has
/// to be `αF`, with nothing left of `B`.
#[test]
fn nothing_of_the_place_is_left_under_a_soft_edge() {
    let mut setup: Setup = setup_with("edge_extend", PLATE);
    let at = setup.stages.iter().position(|row| row.id == TESTED).unwrap();
    setup.stages[at] =
        StageEntry::new(TESTED, "edge_extend", "Tested").taking(MAIN, PLATE).taking("edge", BEHIND);
    let matte = StageEntry::new(BEHIND, "gradient", "Matte")
        .with("gives", Setting::Choice("field".into()))
        .with("from", Setting::numbers(&[f64::from(EDGE) + 12.5, 0.0]))
        .with("to", Setting::numbers(&[f64::from(EDGE) + 0.5, 0.0]));
    setup.stages.insert(at, matte);
    setup.check().unwrap();
    let plates = MadeUp::of(78, soft_edge);
    let engine = Engine::new(1 << 28);
    let asked = |row| {
        let answer = engine.answer(&setup, &plates, Request::whole(row, 1004.0), &Cancel::new()).unwrap();
        answer.signal.over(answer.window)
    };
    let Pixels::Picture(made) = asked(TESTED) else { panic!("a picture") };
    let matte = match asked(BEHIND) {
        Pixels::Picture(picture) => picture.map(&Cancel::new(), |pixel: [f32; 4]| pixel[0]).unwrap(),
        Pixels::Field(field) => field,
        Pixels::Map(_) => panic!("a field"),
    };
    for x in 0..WIDTH as i32 {
        let (pixel, alpha) = (made.get(x, 30).unwrap(), matte.get(x, 30).unwrap());
        assert!((pixel[3] - alpha).abs() < 1e-5, "{x}: {pixel:?}");
        let wanted = [0.8 * alpha, 0.0, 0.1 * alpha];
        (0..3).for_each(|at| assert!((pixel[at] - wanted[at]).abs() < 2e-3, "{x}: {pixel:?} for {wanted:?}"));
    }
}

/// The standard deviation of a row's red, 240 by 168, at a frame.
fn spread(setup: &Setup, row: StageId, frame: f64) -> f64 {
    let answer = Engine::new(1 << 28).answer(
        setup,
        &MadeUp::of(0, |_| None),
        Request::whole(row, frame),
        &Cancel::new(),
    );
    let answer = answer.unwrap();
    let Pixels::Picture(picture) = answer.signal.over(answer.window) else { panic!("a picture") };
    let values = picture.pixels().iter().map(|pixel| f64::from(pixel[0]));
    let count = picture.pixels().len() as f64;
    let mean = values.clone().sum::<f64>() / count;
    (values.map(|value| (value - mean).powi(2)).sum::<f64>() / count).sqrt()
}

/// An element gets the grain of what it is laid on, and of what has some already only what it lacks; each frame has its own.
#[test]
fn an_element_gets_the_grain_of_a_plate() {
    let picture = PictureFormat::plain(240, 168, Frames { first: 1001, last: 1010 });
    let mut setup = Setup::empty("grain", picture);
    let [place, grainy, element, matched, dirty, filled_up] = [11, 12, 13, 14, 15, 16].map(StageId);
    let grey =
        |id, name: &str| StageEntry::new(id, "fill", name).with("colour", Setting::numbers(&[0.18; 3]));
    let set = |id, from, strength: f64| {
        StageEntry::new(id, "grain", format!("Set {}", id.0))
            .taking(MAIN, from)
            .with("grey", Setting::number(strength))
            .with("seed", Setting::number(f64::from(id.0)))
    };
    let like = |id, from| {
        StageEntry::new(id, "grain", format!("Like {}", id.0))
            .taking(MAIN, from)
            .taking("like", grainy)
            .with("after", Setting::Choice("two_frames".into()))
            .with("seed", Setting::number(f64::from(id.0)))
    };
    let rows = [
        grey(place, "Place"),
        set(grainy, place, 0.02),
        grey(element, "Element"),
        like(matched, element),
        set(dirty, element, 0.012),
        like(filled_up, dirty).with("missing", Setting::Switch(true)),
    ];
    let last = setup.stages.len() - 1;
    setup.stages.splice(last..last, rows);
    setup.check().unwrap();
    let wanted = spread(&setup, grainy, 1004.0);
    assert!((wanted - 0.02).abs() < 0.001, "{wanted}");
    for row in [matched, filled_up] {
        let seen = spread(&setup, row, 1004.0);
        assert!((seen / wanted - 1.0).abs() < 0.1, "row {}: {seen} for {wanted}", row.0);
    }
    let half = [grainy, matched].map(|row| {
        let stopped = |frame| {
            let answer = Engine::new(1 << 28)
                .answer(&setup, &MadeUp::of(0, |_| None), Request::whole(row, frame), &Cancel::new())
                .unwrap();
            answer.signal.over(answer.window)
        };
        stopped(1004.0) == stopped(1005.0)
    });
    assert_eq!(half, [false, false], "grain stands still");
}
