//! No stage gives other pixels than before without saying so: bakes and caches outlive an update only if they fit.

use std::collections::BTreeMap;
use std::path::PathBuf;

use serde::{Deserialize, Serialize};
use veil_core::setup::StageKind;
use veil_core::signal::Pixels;
use veil_core::stages;

use crate::support::{FIELD, PLATE, TESTED, WIDTH, every_stage, pixels, setup_with};

/// A revision and a few of the floats that it gave.
#[derive(Debug, Serialize, Deserialize)]
struct Kept {
    revision: u32,
    floats: Vec<f32>,
}

fn file() -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("tests/promises/revisions.json")
}

/// What every stage gives of the made-up plate: floats on a grid over the frame.
fn given() -> BTreeMap<String, Kept> {
    let mut all = BTreeMap::new();
    for (kind, main) in every_stage() {
        let stage = stages::find(&StageKind(kind.into())).unwrap();
        let over = pixels(&setup_with(kind, main), TESTED, 1);
        let (floats, channels) = match &over {
            Pixels::Picture(picture) => (picture.pixels().as_flattened(), 4),
            Pixels::Field(field) => (field.pixels(), 1),
            Pixels::Map(map) => (map.pixels().as_flattened(), 2),
        };
        let at = |x: usize, y: usize| (y * WIDTH as usize + x) * channels;
        let grid = (0..3).flat_map(|row| (0..4).map(move |column| (13 + 23 * column, 9 + 21 * row)));
        let floats = grid.flat_map(|(x, y)| floats[at(x, y)..][..channels].to_vec()).collect();
        let takes = match main {
            PLATE => "picture",
            FIELD => "field",
            _ => "map",
        };
        all.insert(format!("{kind} of a {takes}"), Kept { revision: stage.revision(), floats });
    }
    all
}

#[test]
fn a_stage_that_gives_other_pixels_has_another_revision() {
    let kept: BTreeMap<String, Kept> = serde_json::from_slice(&std::fs::read(file()).unwrap()).unwrap();
    let given = given();
    for (what, now) in &given {
        let before = kept.get(what);
        let before = before.unwrap_or_else(|| panic!("{what} is new: run `keep_what_stages_give`"));
        let same = before.floats.len() == now.floats.len()
            && before.floats.iter().zip(&now.floats).all(|(a, b)| (a - b).abs() <= 1e-4 * a.abs().max(1.0));
        if before.revision == now.revision {
            assert!(
                same,
                "{what} gives other pixels than before: raise its revision, then run `keep_what_stages_give`"
            );
        } else {
            assert!(same, "{what} has a new revision: run `keep_what_stages_give`");
        }
    }
    assert_eq!(kept.len(), given.len(), "a stage is gone: run `keep_what_stages_give`");
}

#[test]
#[ignore = "writes what stages give now; run it when a revision was raised or a stage is new"]
fn keep_what_stages_give() {
    let text = serde_json::to_string(&given()).unwrap().replace("\"},\"", "\"},\n\"").replace("]},", "]},\n");
    std::fs::write(file(), text + "\n").unwrap();
}
