//! From one picture to another in an order of places.

use proptest::prelude::*;
use veil_core::setup::{Setting, Setup};
use veil_core::signal::Pixels;
use veil_core::spec::MATTE;
use veil_pixels::Picture;

use crate::support::{OTHER, PLATE, SHAPE, TESTED, pair, pixels, setup_with};

/// A wipe from the plate to the softened one, from a small ellipse about 48, 32 on.
fn wipe(controls: &[(&str, f64)]) -> Setup {
    let mut setup = setup_with("wipe", PLATE);
    for entry in &mut setup.stages {
        if entry.id == SHAPE {
            entry.controls.insert("centre".into(), pair(48.0, 32.0));
            entry.controls.insert("radii".into(), pair(4.0, 4.0));
            entry.controls.insert("softness".into(), Setting::number(0.0));
        }
        if entry.id == TESTED {
            entry.links.remove(MATTE);
            let from = entry.links.get_mut("start").unwrap();
            *from = serde_json::from_value(serde_json::json!({ "from": { "stage": SHAPE } })).unwrap();
            for (control, value) in controls {
                entry.controls.insert((*control).into(), Setting::number(*value));
            }
        }
    }
    setup.check().unwrap();
    setup
}

fn picture(setup: &Setup, of: veil_core::setup::StageId) -> Picture {
    match pixels(setup, of, 1) {
        Pixels::Picture(picture) => picture,
        _ => panic!("no picture"),
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    /// Whatever the order, noise, softness and light at the edge are: at both ends it is one of the pictures, bit for bit.
    #[test]
    fn at_both_ends_a_wipe_is_one_of_its_pictures(
        spread in 0.0f64..1.0, reaches in 5.0f64..200.0, noise in 0.0f64..3.0,
        softness in 0.0f64..1.0,
        light in 0.0f64..4.0, wide in 0.01f64..0.4,
    ) {
        for (progress, end) in [(0.0, PLATE), (1.0, OTHER)] {
            let setup = wipe(&[
                ("progress", progress), ("spread", spread), ("reaches", reaches), ("noise", noise),
                ("softness", softness),
                ("glow", light), ("glow_wide", wide),
            ]);
            prop_assert_eq!(picture(&setup, TESTED), picture(&setup, end), "at {}", progress);
        }
    }
}

/// From a start it spreads at an even pace: so far out all has changed, further out nothing has, and the light at its edge lies
/// on what is about to change.
#[test]
fn from_a_start_it_spreads_by_its_distance() {
    let controls = [("progress", 0.5), ("softness", 0.0), ("reaches", 40.0), ("spread", 1.0)];
    let setup = wipe(&controls);
    let lit = wipe(&[&controls[..], &[("glow", 1.0), ("glow_wide", 0.2)]].concat());
    let (plate, other) = (picture(&setup, PLATE), picture(&setup, OTHER));
    let (made, lit) = (picture(&setup, TESTED), picture(&lit, TESTED));
    let mut seen = [0; 3];
    for y in 0..64 {
        for x in 0..96 {
            // From the edge of the ellipse.
            let far = (f64::from(x) + 0.5 - 48.0).hypot(f64::from(y) + 0.5 - 32.0) - 4.0;
            let [made, lit, plate, other] = [&made, &lit, &plate, &other].map(|of| of.get(x, y).unwrap());
            if far < 18.5 {
                assert_eq!((made, lit), (other, other), "{x} {y}");
                seen[0] += 1;
            } else if far > 21.5 {
                assert_eq!(made, plate, "{x} {y}");
                seen[1] += 1;
            }
            if (21.5..24.0).contains(&far) {
                assert!(lit[0] > plate[0] + 0.3 && lit[3] == plate[3], "{x} {y}: {lit:?}");
                seen[2] += 1;
            }
        }
    }
    assert!(seen.iter().all(|count| *count > 100), "{seen:?}");
}
