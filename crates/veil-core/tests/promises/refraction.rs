//! Bodies that bend what is behind them.

use veil_core::engine::{Engine, Request};
use veil_core::setup::{Setting, Setup, StageEntry, StageId};
use veil_core::signal::Pixels;
use veil_core::spec::MAIN;
use veil_pixels::{Cancel, Picture};

use crate::support::{PLATE, SHAPE, SMOOTH, TESTED, setup_with};

const RIM: StageId = StageId(40);

fn through(form: bool, set: &[(&str, Setting)]) -> Setup {
    let mut setup = setup_with("refraction", PLATE);
    let row = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
    let mut alone = StageEntry::new(TESTED, "refraction", "Tested").taking(MAIN, PLATE);
    if form {
        alone = alone.taking("form", SHAPE);
    }
    *row = set.iter().fold(alone, |row, (control, setting)| row.with(control, setting.clone()));
    setup.check().unwrap();
    setup
}

fn seen(setup: &Setup, row: StageId) -> Pixels {
    let answer =
        Engine::new(1 << 28).answer(setup, &SMOOTH, Request::whole(row, 1004.0), &Cancel::new()).unwrap();
    answer.signal.over(answer.window)
}

fn picture(setup: &Setup, row: StageId) -> Picture {
    match seen(setup, row) {
        Pixels::Picture(picture) => picture,
        other => panic!("a picture, not {:?}", other.kind()),
    }
}

/// With an index of 1, without a body, or where the amount is 0, the background is what it is, bit for bit.
#[test]
fn nothing_is_bent_by_nothing() {
    let cases = [
        through(true, &[("index", Setting::number(1.0))]),
        through(false, &[("index", Setting::number(1.8)), ("rim", Setting::number(2.0))]),
        through(
            true,
            &[
                ("amount", Setting::number(0.0)),
                ("rim", Setting::number(2.0)),
                ("rough", Setting::number(5.0)),
            ],
        ),
    ];
    for setup in cases {
        assert!(seen(&setup, TESTED) == seen(&setup, PLATE));
    }
}

/// By its matte alone: bent within it, and nowhere else.
#[test]
fn a_matte_alone_is_a_body() {
    let setup = through(true, &[("index", Setting::number(1.5)), ("round", Setting::number(12.0))]);
    let (made, plate) = (picture(&setup, TESTED), picture(&setup, PLATE));
    let Pixels::Field(matte) = seen(&setup, SHAPE) else { panic!("a matte is a field") };
    let mut changed = 0;
    for (own, (before, covers)) in made.pixels().iter().zip(plate.pixels().iter().zip(matte.pixels())) {
        let is_changed = own != before;
        assert!(!is_changed || *covers > 0.0);
        changed += usize::from(is_changed);
    }
    assert!(changed > 100, "{changed}");
}

/// The light of the rim is that of the stage Rim, times its colour.
#[test]
fn the_rim_is_that_of_its_own_stage() {
    let of = |index: f64| {
        [
            ("index", Setting::number(index)),
            ("round", Setting::number(12.0)),
            ("directed", Setting::number(0.3)),
        ]
    };
    let with = |rim: f64| {
        let set: Vec<_> = of(1.5)
            .into_iter()
            .chain([("rim", Setting::number(rim)), ("colour", Setting::numbers(&[1.0, 0.5, 0.0]))])
            .collect();
        through(true, &set)
    };
    let mut lit = with(2.0);
    let row = of(1.5)
        .iter()
        .fold(StageEntry::new(RIM, "rim", "Lit").taking("form", SHAPE), |row, (control, setting)| {
            row.with(control, setting.clone())
        });
    let at = lit.stages.len() - 1;
    lit.stages.insert(at, row);
    lit.check().unwrap();
    let Pixels::Field(rim) = seen(&lit, RIM) else { panic!("a rim is a field") };
    let (lit, unlit) = (picture(&lit, TESTED), picture(&with(0.0), TESTED));
    let most = rim.pixels().iter().copied().fold(0.0, f32::max);
    assert!(most > 0.05, "{most}");
    for ((lit, unlit), rim) in lit.pixels().iter().zip(unlit.pixels()).zip(rim.pixels()) {
        for (channel, colour) in [2.0, 1.0, 0.0].into_iter().enumerate() {
            assert!((lit[channel] - unlit[channel] - rim * colour).abs() < 1e-5);
        }
    }
}
