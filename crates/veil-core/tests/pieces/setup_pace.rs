//! Checks of `setup::pace`.

use veil_core::feed::{Feed, Keys};
use veil_core::setup::*;
use veil_core::setup::{
    Command, CommandError, Edit, Frames, PictureFormat, Setting, Setup, StageEntry, StageId,
};

fn keyed(value: f64) -> Setting {
    Setting::Feed(Feed::Keys(Keys::one(1012.0, 0.0).with_value(1020.0, value).with_value(1032.0, 0.0)))
}

fn setup() -> (Setup, StageId) {
    let picture = PictureFormat {
        width: 64,
        height: 36,
        fps: 24.0,
        aspect: 1.0,
        frames: Frames { first: 1001, last: 1048 },
        working: Default::default(),
    };
    let mut setup = Setup::empty("bell", picture);
    let ring = StageEntry::new(StageId(2), "ring_wave", "ring").with("radius", keyed(200.0));
    let push = StageEntry::new(StageId(3), "push_map", "push")
        .taking("main", StageId(2))
        .with("strength", Setting::Feed(Feed::Keys(Keys::one(1010.0, 1.0).with_value(1030.0, 0.0))));
    setup.stages.splice(0..0, [ring, push]);
    let make = Command::MakeTool {
        rows: vec![StageId(2), StageId(3)],
        name: "pressure ring".into(),
        inputs: Vec::new(),
        otherwise: Vec::new(),
        faceplate: Vec::new(),
    };
    let (setup, edit) = Edit::of(&make, &setup).unwrap();
    (setup, edit.row.unwrap())
}

fn value(setup: &Setup, stage: u32, control: &str, frame: f64) -> f64 {
    let feeds = setup.stage(StageId(stage)).unwrap().controls[control].feeds()[0].clone();
    feeds.keys().unwrap().at(frame)
}

#[test]
fn all_keys_inside_a_tool_are_stretched_together_and_it_stays_the_tool_of_the_rack() {
    let (setup, tool) = setup();
    assert_eq!(setup.pace(tool), Some(Pace { starts: 1010.0, lasts: 22.0 }));
    let slower = Command::Pace { stage: tool, starts: Some(1005.0), lasts: Some(44.0) };
    let (slow, _) = Edit::of(&slower, &setup).unwrap();
    assert_eq!(slow.pace(tool), Some(Pace { starts: 1005.0, lasts: 44.0 }));
    for step in 0..=22 {
        let (was, is) = (1010.0 + f64::from(step), 1005.0 + 2.0 * f64::from(step));
        for (stage, control) in [(2, "radius"), (3, "strength")] {
            let off = value(&setup, stage, control, was) - value(&slow, stage, control, is);
            assert!(off.abs() < 1e-9, "{control} at {was}: {off}");
        }
    }
    assert!(!slow.stage(tool).unwrap().tool.as_ref().unwrap().own);
}

#[test]
fn a_tool_without_keys_and_one_that_is_to_last_nothing_are_refused() {
    let (setup, tool) = setup();
    let pace = |stage, lasts| Edit::of(&Command::Pace { stage, starts: None, lasts: Some(lasts) }, &setup);
    assert!(matches!(pace(tool, 0.0), Err(CommandError::Pace { .. })));
    assert!(matches!(pace(tool, f64::NAN), Err(CommandError::Pace { .. })));
    assert!(matches!(pace(StageId(2), 5.0), Err(CommandError::NothingKeyed(_))));
}
