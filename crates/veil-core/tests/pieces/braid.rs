//! Checks of `braid`.

use veil_core::braid::*;
use veil_core::folds::{Fold, Folds};
use veil_core::setup::{Frames, PictureFormat, Setup, StageEntry, StageId};

fn haze() -> Setup {
    let picture = PictureFormat {
        width: 64,
        height: 36,
        fps: 24.0,
        aspect: 1.0,
        frames: Frames { first: 1001, last: 1010 },
        working: Default::default(),
    };
    let mut setup = Setup::empty("haze", picture);
    let id = StageId;
    let rows = vec![
        StageEntry::new(id(10), "plate", "Plate"),
        StageEntry::new(id(11), "noise", "Noise"),
        StageEntry::new(id(12), "steepness_map", "Steepness map").taking("main", id(11)),
        StageEntry::new(id(13), "ellipse", "Ellipse"),
        StageEntry::new(id(14), "displace", "Displace")
            .taking("main", id(10))
            .taking("map", id(12))
            .taking("matte", id(13)),
        StageEntry::new(id(15), "blur", "Blur").taking("main", id(14)).taking("matte", id(13)),
    ];
    setup.stages.splice(0..0, rows);
    let last = setup.stages.len() - 1;
    setup.stages[last] = setup.stages[last].clone().taking("main", id(15));
    setup.check().unwrap();
    setup
}

#[test]
fn the_plates_strand_runs_straight_to_the_final_row_and_side_strands_keep_apart() {
    let braid = lay_out(&haze(), &Folds::default());
    let lanes: Vec<usize> = braid.rows.iter().map(|row| row.lane).collect();
    assert_eq!(lanes, [0, 1, 1, 2, 0, 0, 0]);
    let knots: Vec<Knot> = braid.rows.iter().map(|row| row.knot).collect();
    use Knot::{Final as F, Join as J, Source as S, Stage as T};
    assert_eq!(knots, [S, S, T, S, J, J, F]);
    assert_eq!(braid.rows[3].taps, 2);
}

#[test]
fn a_side_strand_and_a_group_fold_to_their_last_rows() {
    let id = StageId;
    let names = |braid: &Braid| braid.rows.iter().map(|row| row.name.clone()).collect::<Vec<_>>();
    let shut = Folds { shut: [id(12)].into(), ..Folds::default() };
    let braid = lay_out(&haze(), &shut);
    assert_eq!(names(&braid), ["Plate", "Steepness map", "Ellipse", "Displace", "Blur", "Final"]);
    assert_eq!(braid.rows[1].fold, Some(Fold { group: None, rows: 2, shut: true }));
    assert_eq!(braid.strands.iter().filter(|strand| strand.to_row == 3).count(), 3);

    let mut grouped = haze();
    for row in grouped.stages.iter_mut().filter(|row| [13, 14, 15].contains(&row.id.0)) {
        row.group = "shimmer".into();
    }
    let shut = Folds { groups: ["shimmer".to_owned()].into(), ..Folds::default() };
    let braid = lay_out(&grouped, &shut);
    assert_eq!(names(&braid), ["Plate", "Noise", "Steepness map", "Blur", "Final"]);
    let ends = |to: usize| braid.strands.iter().filter(|strand| strand.to_row == to).count();
    assert_eq!((ends(3), ends(4)), (2, 1), "plate and map go into the group, the group into the final row");
}

#[test]
fn every_strand_ends_at_a_row_below_its_start_and_in_that_rows_lane() {
    let braid = lay_out(&haze(), &Folds::default());
    assert_eq!(braid.strands.len(), 7);
    for strand in braid.strands {
        assert!(strand.from_row < strand.to_row);
        assert_eq!(strand.from_lane, braid.rows[strand.from_row].lane);
        assert_eq!(strand.to_lane, braid.rows[strand.to_row].lane);
    }
}
