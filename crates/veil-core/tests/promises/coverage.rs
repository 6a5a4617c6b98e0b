//! What works on colour makes no light where nothing is, and does not jump where coverage ends.

use proptest::prelude::*;
use veil_core::controls::{AnyControl, ColourSpec, ControlKind};
use veil_core::plates::Role;
use veil_core::setup::{Setting, Setup};
use veil_core::signal::{Pixels, SignalKind};
use veil_core::spec::{Accepts, MAIN};
use veil_core::stages;
use veil_pixels::{Picture, Raster, Window};

use crate::support::{HEIGHT, MadeUp, PLATE, TESTED, WIDTH, ask_of, setup_with};

/// Stages that bring light from elsewhere, or whose very work is coverage; all others must leave nothing as it is.
const BRING_LIGHT: [&str; 27] = [
    "alpha",
    "arc",
    "blur",
    "bulge",
    "channel_shift",
    "corner_pin",
    "defocus",
    "directional_blur",
    "displace",
    "fill_hole",
    "formula",
    "fringe",
    "glow",
    "grow",
    "lens",
    "line_stretch",
    "morph",
    "mosaic",
    "polar",
    "rays",
    "remap",
    "screen_key",
    "sharpen",
    "soften",
    "swirl",
    "transform",
    "zoom_blur",
];

/// Every stage that changes a picture where it is.
fn in_place() -> Vec<&'static str> {
    stages::all()
        .map(|stage| stage.spec())
        .filter(|spec| {
            let takes = matches!(spec.main, Some(Accepts::Picture | Accepts::Any | Accepts::PictureOrField));
            takes && !BRING_LIGHT.contains(&spec.id) && spec.id != "final"
        })
        .map(|spec| spec.id)
        .collect()
}

fn colour(x: i32, y: i32) -> [f32; 3] {
    [0.9 - x as f32 / 120.0, 0.1 + y as f32 / 80.0, 0.5 + 0.4 * (x as f32 * 0.3).sin()]
}

fn picture(role: Role, f: impl Fn(i32, i32) -> [f32; 4] + Sync) -> Option<Pixels> {
    (role.kind() == SignalKind::Picture)
        .then(|| Pixels::Picture(Raster::from_fn(Window::sized(WIDTH, HEIGHT), f)))
}

fn in_disc(x: i32, y: i32) -> f32 {
    (20.0 - (x as f32 - 48.0).hypot(y as f32 - 32.0)).clamp(0.0, 1.0)
}

/// A disc with a soft edge, and nothing about it.
const DISC: MadeUp = MadeUp::of(1, |role| {
    picture(role, |x, y| {
        let alpha = in_disc(x, y);
        let [r, g, b] = colour(x, y);
        [r * alpha, g * alpha, b * alpha, alpha]
    })
});

/// Light that covers nothing.
const GLOW: MadeUp = MadeUp::of(2, |role| {
    picture(role, |x, y| {
        let [r, g, b] = colour(x, y);
        [r, g, b, 0.0]
    })
});

/// The same, with next to no coverage.
const SCARCELY: MadeUp = MadeUp::of(3, |role| {
    picture(role, |x, y| {
        let [r, g, b] = colour(x, y);
        [r, g, b, 1e-5]
    })
});

/// White that covers, and what is hardly brighter.
const WHITE: [MadeUp; 2] = [
    MadeUp::of(4, |role| picture(role, |_, _| [1.0; 4])),
    MadeUp::of(5, |role| picture(role, |_, _| [1.001, 1.001, 1.001, 1.0])),
];

/// A stage with nothing but its main input.
fn alone(kind: &str) -> Setup {
    let mut setup = setup_with(kind, PLATE);
    let entry = setup.stages.iter_mut().find(|entry| entry.id == TESTED).unwrap();
    entry.links.retain(|slot, _| slot == MAIN);
    setup
}

/// A setting somewhere within what the control's slider spans; of switches and the like their own.
fn somewhere(spec: &AnyControl, share: f64) -> Option<Setting> {
    let within = |(from, to): (f64, f64), share: f64| from + (to - from) * share;
    match &spec.kind {
        ControlKind::Number(bounds) => Some(Setting::number(within(bounds.slider, share))),
        ControlKind::Colour(ColourSpec { slider, .. }) => Some(Setting::numbers(
            &[share, (share * 7.0).fract(), (share * 13.0).fract()].map(|at| within(*slider, at)),
        )),
        _ => None,
    }
}

fn given(plates: &MadeUp, setup: &Setup) -> Option<Picture> {
    let answer = ask_of(plates, setup, TESTED, 1, None);
    match answer.signal.over(Window::sized(WIDTH, HEIGHT)) {
        Pixels::Picture(picture) => Some(picture),
        _ => None,
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]
    #[test]
    fn nothing_stays_nothing_and_coverage_ends_evenly(shares in proptest::collection::vec(0.0..1.0, 24)) {
        let mut tried = 0;
        for kind in in_place() {
            let mut setup = alone(kind);
            let spec = stages::all().find(|stage| stage.spec().id == kind).unwrap().spec();
            let entry = setup.stages.iter_mut().find(|entry| entry.id == TESTED).unwrap();
            for (control, share) in spec.controls.iter().zip(&shares) {
                if let Some(setting) = somewhere(control, *share) {
                    entry.controls.insert(control.id.into(), setting);
                }
            }
            let (Some(disc), Some(glow), Some(scarcely)) =
                (given(&DISC, &setup), given(&GLOW, &setup), given(&SCARCELY, &setup))
            else {
                continue;
            };
            tried += 1;
            for y in 0..HEIGHT as i32 {
                for x in 0..WIDTH as i32 {
                    let got = disc.get(x, y).unwrap();
                    prop_assert!(
                        in_disc(x, y) > 0.0 || got[..3] == [0.0; 3],
                        "{kind} makes {got:?} of nothing at {x}, {y}: {:?}", setup.stages[6].controls
                    );
                }
            }
            let largest = glow.pixels().as_flattened().iter().fold(1.0f32, |most, value| most.max(value.abs()));
            let jumps = |(without, with): &(&[f32; 4], &[f32; 4])| {
                (0..3).any(|at| (without[at] - with[at]).abs() > 0.02 * largest)
            };
            // All of such light goes with white: where a threshold lies at white itself, all of it lies at the threshold.
            let [white, brighter] = WHITE.map(|white| given(&white, &setup).unwrap());
            if white.pixels().iter().zip(brighter.pixels()).any(|pixels| jumps(&pixels)) {
                continue;
            }
            let found: Vec<_> = glow.pixels().iter().zip(scarcely.pixels()).filter(jumps).collect();
            // A hard threshold is a jump by itself, for the few pixels that lie at it.
            prop_assert!(
                found.len() < glow.pixels().len() / 20,
                "{kind} jumps from {:?}: {:?}", found[0], setup.stages[6].controls
            );
        }
        prop_assert!(tried >= 10, "only {tried} stages give a picture");
    }
}

/// Light without coverage: what is linear changes it as it changes all else, and what is not goes with white.
#[test]
fn light_that_covers_nothing_is_graded_as_what_covers_is() {
    let with = |kind: &str, controls: &[(&str, Setting)]| {
        let mut setup = alone(kind);
        let entry = setup.stages.iter_mut().find(|entry| entry.id == TESTED).unwrap();
        controls.iter().for_each(|(control, setting)| {
            entry.controls.insert((*control).into(), setting.clone());
        });
        given(&GLOW, &setup).unwrap()
    };
    let expect = |found: &Picture, of: fn(f32, f32) -> f32| {
        for (x, y) in [(3, 3), (40, 30), (90, 60)] {
            let (got, before) = (found.get(x, y).unwrap(), colour(x, y));
            let brightest = before.into_iter().fold(0.0, f32::max);
            for (got, value) in got.iter().zip(before) {
                assert!((got - of(value, brightest)).abs() < 1e-5, "{got} of {value}");
            }
            assert_eq!(got[3], 0.0);
        }
    };
    let grey = |value: f64| Setting::numbers(&[value; 3]);
    expect(&with("grade", &[("gain", grey(2.0)), ("offset", grey(0.1))]), |value, _| 2.0 * value);
    expect(&with("clamp", &[]), |value, _| value);
    // A colour whose brightest channel is white, as much of it as there is.
    expect(&with("grade", &[("gamma", grey(2.0))]), |value, brightest| {
        brightest * (value / brightest).sqrt()
    });
}

/// Catmull-Rom's weights at half a pixel are −1/16, 9/16, 9/16, −1/16: beside a sharp edge they take the whole to 17/16 and
/// nothing to −1/16.
#[test]
fn a_sharp_filter_keeps_coverage_and_its_colour_within_what_they_were() {
    const HALF: MadeUp =
        MadeUp::of(4, |role| picture(role, |x, _| if x < 48 { [0.2, 0.4, 0.6, 1.0] } else { [0.0; 4] }));
    let moved = |rings: bool| {
        let mut setup = alone("transform");
        let entry = setup.stages.iter_mut().find(|entry| entry.id == TESTED).unwrap();
        entry.controls.insert("move_x".into(), Setting::number(0.5));
        entry.controls.insert("rings".into(), Setting::Switch(rings));
        given(&HALF, &setup).unwrap()
    };
    let (held, free) = (moved(false), moved(true));
    let row = |of: &Picture| [46, 47, 48, 49, 50].map(|x| of.get(x, 20).unwrap());
    let alphas = |of: &Picture| row(of).map(|pixel| pixel[3]);
    assert_eq!(alphas(&free), [1.0, 1.0625, 0.5, -0.0625, 0.0]);
    assert_eq!(alphas(&held), [1.0, 1.0, 0.5, 0.0, 0.0]);
    for [r, g, b, a] in row(&held) {
        let off = (r - 0.2 * a).abs().max((g - 0.4 * a).abs()).max((b - 0.6 * a).abs());
        assert!(off < 1e-6, "{r} {g} {b} {a}");
    }
}
