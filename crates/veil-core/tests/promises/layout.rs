//! The braid lays itself out: lines end where they should, lanes stay, and lines cross as little as they can.

use proptest::prelude::*;
use veil_core::braid::{Braid, LANES, lay_out};
use veil_core::folds::Folds;
use veil_core::setup::{Command, Edit, NewRow, Setup, StageEntry, StageId};
use veil_core::spec::{MAIN, MATTE};

use crate::support::{PLATE, setup_with};

const LONG: usize = 7;

/// A strand of blurs on a plate, and side strands that are taken as mattes along it. Of each: how many rows it has, where
/// it stands, and the blurs that take it.
fn setup_of(sides: &[(usize, usize, Vec<usize>)]) -> Setup {
    let mut setup = setup_with("blur", PLATE);
    let plate = setup.stages[0].clone();
    let last = setup.stages.pop().unwrap();
    let blur = |at: usize| StageId(100 + at as u32);
    let mut rows = vec![plate];
    for at in 0..LONG {
        let above = if at == 0 { PLATE } else { blur(at - 1) };
        rows.push(StageEntry::new(blur(at), "blur", format!("Blur {at}")).taking(MAIN, above));
    }
    for (number, (length, stands, takers)) in sides.iter().enumerate() {
        let id = |row: usize| StageId(200 + 10 * number as u32 + row as u32);
        // A matte that an earlier strand gave goes; a row has one matte.
        let takers: Vec<StageId> = takers.iter().map(|at| blur(*at)).collect();
        for row in rows.iter_mut().filter(|row| takers.contains(&row.id)) {
            *row = row.clone().taking(MATTE, id(length - 1));
        }
        let first = rows.iter().position(|row| takers.contains(&row.id)).unwrap_or(0);
        let at = stands % (first + 1);
        for row in 0..*length {
            let kind = if row == 0 { "noise" } else { "levels" };
            let mut entry = StageEntry::new(id(row), kind, format!("Side {number} {row}"));
            if row > 0 {
                entry = entry.taking(MAIN, id(row - 1));
            }
            rows.insert(at + row, entry);
        }
    }
    rows.push(last.taking(MAIN, blur(LONG - 1)));
    setup.stages = rows.into();
    setup.check().unwrap();
    setup
}

fn sides(most: usize) -> impl Strategy<Value = Vec<(usize, usize, Vec<usize>)>> {
    let takers = prop::collection::vec(0..LONG, 1..3);
    prop::collection::vec((1usize..3, 0usize..30, takers), 1..=most)
}

/// The strands of a braid as runs: first row, last row that takes it, lane, and whether it is the final one.
fn runs(braid: &Braid) -> Vec<(usize, usize, usize, Vec<usize>)> {
    let mut of_row: Vec<usize> = (0..braid.rows.len()).collect();
    for row in 0..braid.rows.len() {
        if let Some(main) = braid.strands.iter().find(|strand| strand.main && strand.to_row == row)
            && of_row[..row].iter().filter(|one| **one == of_row[main.from_row]).count() > 0
        {
            of_row[row] = of_row[main.from_row];
        }
    }
    let mut names = of_row.clone();
    names.sort_unstable();
    names.dedup();
    names
        .into_iter()
        .map(|name| {
            let rows: Vec<usize> = (0..of_row.len()).filter(|row| of_row[*row] == name).collect();
            let ends = braid
                .strands
                .iter()
                .filter(|strand| rows.contains(&strand.from_row))
                .map(|strand| strand.to_row);
            let last = ends.max().unwrap_or(0).max(rows[rows.len() - 1]);
            (rows[0], last, braid.rows[rows[0]].lane, rows)
        })
        .collect()
}

/// Lines that are crossed where others curve into their takers, with these lanes.
fn crossings(braid: &Braid, runs: &[(usize, usize, usize, Vec<usize>)], lanes: &[usize]) -> usize {
    let of = |row: usize| runs.iter().position(|run| run.3.contains(&row)).unwrap();
    let crossed = |strand: &veil_core::braid::Strand| {
        let (from, to) = (of(strand.from_row), of(strand.to_row));
        let (low, high) = (lanes[from].min(lanes[to]), lanes[from].max(lanes[to]));
        let passes = |at: usize| {
            let (top, last, ..) = runs[at];
            at != from
                && at != to
                && lanes[at] > low
                && lanes[at] < high
                && top < strand.to_row
                && last > strand.to_row
        };
        (0..runs.len()).filter(|at| passes(*at)).count()
    };
    braid.strands.iter().map(crossed).sum()
}

/// The fewest crossings of any lanes in which no two strands overlap; none where there are no such lanes.
fn fewest(braid: &Braid, runs: &[(usize, usize, usize, Vec<usize>)]) -> Option<usize> {
    let meets = |a: usize, b: usize| runs[a].1 > runs[b].0 && runs[a].0 < runs[b].1;
    let last = runs.iter().position(|run| run.3.contains(&(braid.rows.len() - 1))).unwrap();
    let sides: Vec<usize> = (0..runs.len()).filter(|at| *at != last).collect();
    let mut best = None;
    for number in 0..(LANES - 1).pow(sides.len() as u32) {
        let mut lanes = vec![0; runs.len()];
        let mut rest = number;
        for at in &sides {
            lanes[*at] = 1 + rest % (LANES - 1);
            rest /= LANES - 1;
        }
        let apart =
            sides.iter().all(|a| sides.iter().all(|b| a == b || lanes[*a] != lanes[*b] || !meets(*a, *b)));
        if apart {
            let found = crossings(braid, runs, &lanes);
            best = Some(best.map_or(found, |least: usize| least.min(found)));
        }
    }
    best
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn lines_end_at_their_rows_and_cross_no_more_than_they_must(sides in sides(7)) {
        let setup = setup_of(&sides);
        let braid = lay_out(&setup, &Folds::default());
        for row in &setup.stages {
            for link in row.links.values() {
                let veil_core::setup::Source::Stage(from) = link.from else { continue };
                let at = |id: StageId| braid.rows.iter().position(|row| row.id == id).unwrap();
                let (from, to) = (at(from), at(row.id));
                let (from_lane, to_lane) = (braid.rows[from].lane, braid.rows[to].lane);
                let drawn = braid.strands.iter().filter(|strand| (strand.from_row, strand.to_row) == (from, to));
                prop_assert!(drawn.clone().count() >= 1);
                prop_assert!(drawn.into_iter().all(|strand| (strand.from_lane, strand.to_lane) == (from_lane, to_lane)));
            }
        }
        let runs = runs(&braid);
        let lanes: Vec<usize> = runs.iter().map(|run| run.2).collect();
        if let Some(fewest) = fewest(&braid, &runs) {
            prop_assert_eq!(crossings(&braid, &runs, &lanes), fewest);
        }
    }

    #[test]
    fn lanes_stay_when_something_else_is_added(sides in sides(6), after in 0usize..20) {
        let setup = setup_of(&sides);
        let before = lay_out(&setup, &Folds::default());
        let lanes = before.rows.iter().map(|row| (row.id, row.lane)).collect();
        let kept = Folds { lanes, ..Folds::default() };
        let after = setup.stages[after % setup.stages.len()].id;
        let add = Command::Add { kind: "ellipse".into(), place: NewRow { after: Some(after), ..NewRow::default() } };
        let (added, edit) = Edit::of(&add, &setup).unwrap();
        let now = lay_out(&added, &kept);
        for row in now.rows.iter().filter(|row| Some(row.id) != edit.row) {
            prop_assert_eq!(Some(&row.lane), kept.lanes.get(&row.id), "{}", row.name);
        }
    }
}
