//! Bakes stand in for what they were made of while they fit, and never pass for it.

use std::collections::HashMap;
use std::sync::{Arc, Mutex};

use veil_core::bakes::{Bake, Baked, Bakes, UseOfBakes};
use veil_core::engine::{ContentHash, Engine, OnFault, Request};
use veil_core::plates::{PlateError, Role};
use veil_core::setup::{Frames, Setting, Setup, StageEntry, StageId};
use veil_core::signal::{Pixels, Scale, Signal};
use veil_core::spec::MAIN;
use veil_pixels::Cancel;

use crate::support::{PLATE, SMOOTH, TESTED, setup_with};

/// Kept in memory; pictures are dimmed by a hundredth, so that what was read can be told from what was worked out.
#[derive(Default)]
struct Shelf(Mutex<HashMap<(ContentHash, Baked), Signal>>);

impl Bakes for Shelf {
    fn has(&self, hash: ContentHash) -> bool {
        self.0.lock().unwrap().keys().any(|(known, _)| *known == hash)
    }
    fn read(&self, hash: ContentHash, what: Baked, _: &Cancel) -> Result<Signal, PlateError> {
        let kept = self.0.lock().unwrap().get(&(hash, what)).cloned();
        kept.ok_or_else(|| PlateError::File("not kept".into()))
    }
    fn keep(&self, hash: ContentHash, result: &Signal, passes: &[(Role, Signal)]) -> Result<(), PlateError> {
        let mut kept = self.0.lock().unwrap();
        let pixels = match &result.pixels {
            Pixels::Picture(picture) => {
                Pixels::Picture(picture.map(&Cancel::new(), |pixel| pixel.map(|value| value * 0.99)).unwrap())
            }
            other => other.clone(),
        };
        kept.insert((hash, Baked::Result(pixels.kind())), Signal { pixels, ..result.clone() });
        for (role, pass) in passes {
            kept.insert((hash, Baked::Pass(*role)), pass.clone());
        }
        Ok(())
    }
}

const BELOW: StageId = StageId(30);

fn request(stage: StageId, scale: u32, bakes: UseOfBakes) -> Request {
    let scale = Scale::one_to(scale).unwrap();
    Request { scale, on_fault: OnFault::Fail, bakes, ..Request::whole(stage, 1004.0) }
}

fn red(engine: &Engine, setup: &Setup, scale: u32, bakes: UseOfBakes) -> f32 {
    let answer = engine.answer(setup, &SMOOTH, request(BELOW, scale, bakes), &Cancel::new()).unwrap();
    match answer.signal.over(answer.window) {
        Pixels::Picture(picture) => picture.get(20, 12).unwrap()[0],
        other => panic!("a picture, not a {:?}", other.kind()),
    }
}

/// A grade that is to be baked, and a plain blend below it.
fn setup() -> Setup {
    let mut setup = setup_with("grade", PLATE);
    let last = setup.stages.len() - 1;
    setup.stages.insert(last, StageEntry::new(BELOW, "blend", "Below").taking(MAIN, TESTED));
    setup.check().unwrap();
    setup
}

#[test]
fn a_bake_is_used_until_something_above_it_changes_and_rows_below_never_mix_it_up_with_the_real_thing() {
    let engine = Engine::new(1 << 26).with_bakes(Arc::new(Shelf::default()));
    let plain = setup();
    let truth = red(&engine, &plain, 1, UseOfBakes::Used);
    engine.bake(&plain, &SMOOTH, TESTED, 1004, &Cancel::new()).unwrap();
    let mut baked = plain;
    let at = baked.stages.iter().position(|row| row.id == TESTED).unwrap();
    baked.stages[at].bake = Some(Bake { frames: Frames { first: 1003, last: 1004 } });
    assert_eq!(red(&engine, &baked, 1, UseOfBakes::Used), truth * 0.99);
    assert_eq!(red(&engine, &baked, 1, UseOfBakes::Ignored), truth);
    assert_eq!(red(&engine, &baked.clone().without_bakes(), 1, UseOfBakes::Used), truth);
    // A proxy is made of the same files.
    let (from_bake, worked_out) =
        (red(&engine, &baked, 2, UseOfBakes::Used), red(&engine, &baked, 2, UseOfBakes::Ignored));
    assert!((from_bake / worked_out - 0.99).abs() < 1e-3, "{from_bake} {worked_out}");
    let state = |setup: &Setup| engine.bake_state(setup, &SMOOTH, TESTED).unwrap();
    assert_eq!((state(&baked).frames, state(&baked).fresh), (2, 1));
    // Something above changes: the bake no longer fits, and nobody sees it.
    let mut changed = baked;
    let plate = changed.stages.iter().position(|row| row.id == PLATE).unwrap();
    changed.stages[plate] = changed.stages[plate].clone().with("shift", Setting::number(1.0));
    assert_eq!(state(&changed).fresh, 0);
    let anew = red(&engine, &changed, 1, UseOfBakes::Ignored);
    assert_eq!(red(&engine, &changed, 1, UseOfBakes::Used), anew);
}

#[test]
fn passes_that_travel_are_kept_with_the_bake() {
    let shelf = Arc::new(Shelf::default());
    let engine = Engine::new(1 << 26).with_bakes(shelf.clone());
    let mut setup = setup();
    let depth = StageEntry::new(StageId(31), "pass", "Depth").taking("picture", BELOW);
    let last = setup.stages.len() - 1;
    setup.stages.insert(last, depth);
    setup.check().unwrap();
    let travelled = |setup: &Setup| {
        let asked = request(StageId(31), 1, UseOfBakes::Used);
        engine.answer(setup, &SMOOTH, asked, &Cancel::new()).unwrap().signal
    };
    let truth = travelled(&setup);
    engine.bake(&setup, &SMOOTH, TESTED, 1004, &Cancel::new()).unwrap();
    let at = setup.stages.iter().position(|row| row.id == TESTED).unwrap();
    setup.stages[at].bake = Some(Bake { frames: Frames { first: 1004, last: 1004 } });
    assert_eq!(travelled(&setup).pixels, truth.pixels);
    assert!(shelf.0.lock().unwrap().keys().any(|(_, what)| *what == Baked::Pass(Role::Depth)));
}
