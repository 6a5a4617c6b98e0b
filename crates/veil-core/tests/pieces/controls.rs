//! Checks of the control types that are drawn or placed whole: `controls::lattice`, `pairs` and `space`.

use proptest::prelude::*;
use serde_json::{Value as Json, json};
use veil_core::controls::*;
use veil_core::feed::Feed;

fn lattice(rows: usize, columns: usize) -> Lattice {
    Lattice::over(rows, columns, [10.0, -20.0], [120.0, 80.0], 1001.0)
}

fn after(lattice: &Lattice, deed: Json) -> Result<Lattice, String> {
    LatticeSpec.altered(lattice, &deed)
}

fn bent(rows: usize, columns: usize, ways: &[[f64; 2]]) -> Lattice {
    let mut made = lattice(rows, columns);
    for (point, by) in made.moved.keys[0].points.iter_mut().zip(ways.iter().cycle()) {
        point.at = [point.at[0] + by[0], point.at[1] + by[1]];
    }
    made
}

fn near(a: [f64; 2], b: [f64; 2]) -> bool {
    (a[0] - b[0]).hypot(a[1] - b[1]) < 1e-9
}

proptest! {
    /// A row or a column more leaves every corner where it was, and goes again without a trace.
    #[test]
    fn a_line_more_and_less_gives_the_lattice_back(
        (rows, columns) in (1usize..6, 1usize..6),
        ways in prop::collection::vec(prop::array::uniform2(-30.0f64..30.0), 1..40),
        cell in 0usize..6,
        through in any::<bool>(),
    ) {
        let old = bent(rows, columns, &ways);
        let old = if through { old } else { after(&old, json!({ "surface": "near" })).unwrap() };
        for (add, remove, cells) in [("add_row", "remove_row", rows), ("add_column", "remove_column", columns)] {
            let made = after(&old, json!({ add: cell }));
            if cell >= cells {
                prop_assert!(made.is_err());
                continue;
            }
            let made = made.unwrap();
            prop_assert!(LatticeSpec.fits(&made).is_ok());
            for (place, point) in old.rest.iter().zip(&old.moved.keys[0].points) {
                let at = made.rest.iter().position(|new| near(*new, *place)).unwrap();
                // Corners near a surface draw it otherwise where there are more of them.
                prop_assert!(!through || near(made.moved.keys[0].points[at].at, point.at));
            }
            let back = after(&made, json!({ remove: cell + 1 })).unwrap();
            prop_assert_eq!((back.rows, back.columns, &back.added_rows, &back.added_columns), (old.rows, old.columns, &old.added_rows, &old.added_columns));
            for (new, point) in back.moved.keys[0].points.iter().zip(&old.moved.keys[0].points) {
                prop_assert!(near(new.at, point.at), "{new:?}, not {point:?}");
            }
        }
    }

    /// What a plane stretches and shears stays plane, whichever line is added.
    #[test]
    fn a_sheared_lattice_gets_its_new_corners_on_the_plane(
        matrix in prop::array::uniform4(-2.0f64..2.0),
        (row, column) in (0usize..3, 0usize..4),
    ) {
        let [a, b, c, d] = matrix;
        let sheared = |[x, y]: [f64; 2]| [a * x + b * y, c * x + d * y];
        let mut old = lattice(3, 4);
        old.moved.keys[0].points.iter_mut().for_each(|point| point.at = sheared(point.at));
        let made = after(&after(&old, json!({ "add_row": row })).unwrap(), json!({ "add_column": column })).unwrap();
        for (place, point) in made.rest.iter().zip(&made.moved.keys[0].points) {
            prop_assert!(near(sheared(*place), point.at), "{place:?}: {:?}", point.at);
        }
    }

    /// Laid over a box and back, with what has moved, it is what it was.
    #[test]
    fn a_lattice_laid_over_a_box_and_back_is_the_same(
        ways in prop::collection::vec(prop::array::uniform2(-30.0f64..30.0), 1..9),
        (left, top) in (-90.0f64..90.0, -90.0f64..90.0),
        (wide, high) in (5.0f64..300.0, 5.0f64..300.0),
    ) {
        let old = bent(2, 2, &ways);
        let there = after(&old, json!({ "over": [left, top, left + wide, top + high] })).unwrap();
        prop_assert!(near(there.rest[8], [left + wide, top + high]));
        let back = after(&there, json!({ "over": [10.0, -20.0, 130.0, 60.0] })).unwrap();
        for (new, point) in back.moved.keys[0].points.iter().zip(&old.moved.keys[0].points) {
            prop_assert!((new.at[0] - point.at[0]).hypot(new.at[1] - point.at[1]) < 1e-6);
        }
    }

    /// A turn about an axis that points to the eye is counter-clockwise as seen, and no turn changes a length.
    #[test]
    fn a_place_in_space_turns_as_the_axes_say(
        turn in prop::array::uniform3(-180.0f64..180.0),
        own in prop::array::uniform3(-50.0f64..50.0),
    ) {
        let placed = Space { position: [3.0, -2.0, 7.0], turn, scale: [1.0; 3] }.placed(own);
        let length = |place: [f64; 3]| place.iter().map(|number| number * number).sum::<f64>().sqrt();
        let from = [placed[0] - 3.0, placed[1] + 2.0, placed[2] - 7.0];
        prop_assert!((length(from) - length(own)).abs() < 1e-9);
    }
}

/// Quarter turns about each axis by itself, by the right-hand rule.
#[test]
fn quarter_turns_carry_each_axis_to_the_next() {
    let (x, y, z) = ([1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]);
    for (axis, from, to) in [(0, y, z), (1, z, x), (2, x, y)] {
        let mut turn = [0.0; 3];
        turn[axis] = 90.0;
        let placed = Space { position: [0.0; 3], turn, scale: [1.0; 3] }.placed(from);
        assert!((0..3).all(|at| (placed[at] - to[at]).abs() < 1e-12), "{axis}: {placed:?}");
    }
    let scaled = Space { position: [5.0, 0.0, 0.0], turn: [0.0, 0.0, 90.0], scale: [2.0, 1.0, 1.0] };
    let placed = scaled.placed(x);
    assert!((placed[0] - 5.0).abs() < 1e-12 && (placed[1] - 2.0).abs() < 1e-12, "{placed:?}");
}

/// What does not hold together is refused in words that say what is wanted.
#[test]
fn broken_lattices_and_pairs_are_refused() {
    let mut short = lattice(2, 2);
    short.rest.pop();
    let why = LatticeSpec.fits(&short).unwrap_err();
    assert!(why.contains("9 places"), "{why}");
    assert!(after(&lattice(1, 1), json!({ "remove_row": 1 })).is_err());
    assert!(after(&lattice(40, 1), json!({ "add_row": 0 })).is_err());
    assert!(after(&lattice(2, 2), json!({ "over": [3.0, 0.0, 3.0, 9.0] })).is_err());
    let line = json!({ "keys": [{ "frame": 1001, "points": [{ "at": [0, 0] }, { "at": [9, 0] }] }] });
    let pairs = ControlKind::Pairs(PairsSpec { own: Own::Amount });
    let set = |ties: Json, amounts: Json| -> Setting {
        let pair = json!({ "name": "lip", "closed": false, "rest": line, "goal": line, "ties": ties });
        serde_json::from_value(json!({ "pairs": { "pairs": [pair], "amounts": amounts } })).unwrap()
    };
    assert_eq!(pairs.fits(&set(json!([[0.5, 1.0]]), json!([1]))), Ok(()));
    let beyond = pairs.fits(&set(json!([[0.5, 1.2]]), json!([1]))).unwrap_err();
    assert!(beyond.contains("`lip`"), "{beyond}");
    assert!(pairs.fits(&set(json!([]), json!([]))).is_err());
}

/// Its own amount is fed and named as its pair; no number beyond them is there.
#[test]
fn amounts_of_pairs_are_fed_and_named() {
    let line = json!({ "keys": [{ "frame": 1001, "points": [{ "at": [0, 0] }, { "at": [9, 0] }] }] });
    let pair = json!({ "name": "nose", "rest": line, "goal": line, "own": true });
    let fence = json!({ "name": "chin", "line": line });
    let keys = json!({ "keys": [{ "frame": 1001, "value": 0 }, { "frame": 1011, "value": 1 }] });
    let set = json!({ "pairs": { "pairs": [pair], "fences": [fence], "amounts": [keys, 0.5] } });
    let setting: Setting = serde_json::from_value(set.clone()).unwrap();
    let pairs = ControlKind::Pairs(PairsSpec { own: Own::Amount });
    assert_eq!(pairs.fits(&setting), Ok(()));
    let names: Vec<_> = (0..3).map(|axis| pairs.axis_name(&setting, axis)).collect();
    assert_eq!(names, [Some("nose".to_owned()), Some("chin".to_owned()), None]);
    assert_eq!(setting.drawn().len(), 3);
    let other = setting.with_feed(1, Feed::Fixed(0.25));
    assert_eq!(
        (other.feeds()[0].clone(), other.feeds()[1].clone()),
        (setting.feeds()[0].clone(), Feed::Fixed(0.25))
    );
    assert_eq!(serde_json::from_value::<Setting>(serde_json::to_value(&setting).unwrap()).unwrap(), setting);
}
