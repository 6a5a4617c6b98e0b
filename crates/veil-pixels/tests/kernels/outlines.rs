//! Checks of `outlines`.

use std::f64::consts::TAU;

use proptest::prelude::*;
use veil_pixels::shape::between::tied;
use veil_pixels::shape::outline::Knot;
use veil_pixels::warp::bent::Bent;
use veil_pixels::warp::outlines::*;
use veil_pixels::{Cancel, Window};

const ALL: [Quality; 4] = [Quality::Quick, Quality::Normal, Quality::Fine, Quality::Exact];
const FRAME: Window = Window::sized(448, 320);

/// An ellipse that becomes another, its places half a pixel apart.
fn ellipse(middle: [f64; 2], rest: [f64; 2], goal: [f64; 2], shift: [f64; 2]) -> Outline {
    let count = (TAU * rest[0].max(rest[1]) * 2.0) as usize;
    let turn = |at: usize| (at as f64 / count as f64 * TAU).sin_cos();
    let places: Vec<[f64; 2]> = (0..count)
        .map(|at| {
            let (sine, cosine) = turn(at);
            [middle[0] + rest[0] * cosine, middle[1] + rest[1] * sine]
        })
        .collect();
    let ways = (0..count)
        .map(|at| {
            let (sine, cosine) = turn(at);
            [(goal[0] - rest[0]) * cosine + shift[0], (goal[1] - rest[1]) * sine + shift[1]]
        })
        .collect();
    Outline { places, ways }
}

fn shaped(outlines: &[Outline], quality: Quality) -> Shaped {
    Shaped::new(outlines, &[], quality, 1.0, FRAME, &Cancel::new()).unwrap()
}

/// What a surface has for a place at rest.
fn way_at(shaped: &Shaped, place: [f64; 2]) -> veil_pixels::warp::bent::Spot {
    const SIDE: f64 = 64.0;
    let tile = place.map(|at| (at / SIDE).floor());
    let wide = f64::from(FRAME.x1) / SIDE;
    let numbers = [0, 1].map(|axis| place[axis] / SIDE - tile[axis]);
    shaped.at((tile[1] * wide + tile[0]) as usize, numbers)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(6))]

    /// Whatever the quality, each place of an outline lands where it shall, to a thousandth of a pixel; and each pixel reads
    /// the place that has moved onto it.
    #[test]
    fn outlines_land_at_any_quality(
        goals in prop::array::uniform2((40.0f64..70.0, 25.0f64..60.0)),
        shift in prop::array::uniform2(-12.0f64..12.0),
        quality in prop::sample::select(&ALL[..]),
    ) {
        let [a, b] = goals.map(|(x, y)| [x, y]);
        let outlines = [ellipse([130.0, 150.0], [55.0, 40.0], a, shift), ellipse([310.0, 170.0], [50.0, 50.0], b, [0.0; 2])];
        let shaped = shaped(&outlines, quality);
        for outline in &outlines {
            for (place, way) in outline.places.iter().zip(&outline.ways) {
                let own = way_at(&shaped, *place).way;
                let off = (own[0] - way[0]).hypot(own[1] - way[1]);
                prop_assert!(off < 1e-3, "{place:?}: {off}");
            }
        }
        let map = shaped.over(FRAME, &Cancel::new()).unwrap().map(&Cancel::new()).unwrap();
        for outline in &outlines {
            for (place, way) in outline.places.iter().zip(&outline.ways).step_by(7) {
                let (x, y) = ((place[0] + way[0]).floor(), (place[1] + way[1]).floor());
                let by = map.get(x as i32, y as i32).unwrap().map(f64::from);
                let moved = way_at(&shaped, [x + 0.5 - by[0], y + 0.5 - by[1]]).moved();
                let off = (moved[0] - x - 0.5).hypot(moved[1] - y - 0.5);
                prop_assert!(off < 1e-3, "{x} {y}: {off}");
            }
        }
    }
}

/// A closed curve through places about a middle, each so far from it; a handle is a sixth of the way between its neighbours
/// (Catmull and Rom 1974).
fn curve(middle: [f64; 2], far: &[f64]) -> Vec<Knot> {
    let count = far.len();
    let place = |at: usize| {
        let (sine, cosine) = (at as f64 / count as f64 * TAU).sin_cos();
        [middle[0] + far[at % count] * cosine, middle[1] + far[at % count] * sine]
    };
    let knot = |at: usize| {
        let (before, after) = (place(at + count - 1), place(at + 1));
        let way = [0, 1].map(|axis| (after[axis] - before[axis]) / 6.0);
        Knot { at: place(at), before: way.map(|by| -by), after: way, soft: 0.0 }
    };
    (0..count).map(knot).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(4))]

    /// Curves as people draw them, with other numbers of points, tied here and there: what lies between the places that a stage
    /// tells lands at each quality too.
    #[test]
    fn tied_curves_land_all_along(
        rest in prop::collection::vec(60.0f64..80.0, 4..8),
        goal in prop::collection::vec(55.0f64..95.0, 4..8),
        ties in prop::collection::vec(0.0f64..1.0, 1..5),
    ) {
        let knots = [&rest, &goal].map(|far| curve([224.0, 160.0], far));
        // What is tied lies at the same share of both, so that nothing turns inside out; no two ties are less than a pixel apart.
        let mut ties = ties;
        ties.sort_by(f64::total_cmp);
        ties.dedup_by(|after, before| *after - *before < 0.003);
        let ties: Vec<[f64; 2]> = ties.iter().map(|at| [at * rest.len() as f64, at * goal.len() as f64]).collect();
        let drawn = |apart: f64| {
            let places = tied(knots.each_ref().map(Vec::as_slice), true, &ties, apart);
            let way = |[rest, goal]: &[[f64; 2]; 2]| [goal[0] - rest[0], goal[1] - rest[1]];
            Outline { ways: places.iter().map(way).collect(), places: places.iter().map(|[rest, _]| *rest).collect() }
        };
        let fine = drawn(0.1);
        for quality in ALL {
            let shaped = shaped(&[drawn(0.35)], quality);
            for (place, way) in fine.places.iter().zip(&fine.ways) {
                let own = way_at(&shaped, *place).way;
                let off = (own[0] - way[0]).hypot(own[1] - way[1]);
                prop_assert!(off < 1e-3, "{quality:?} {place:?}: {off}");
            }
        }
    }
}

/// A line through corners, its places so far apart, that goes to other corners.
fn through(corners: &[[f64; 2]], goals: &[[f64; 2]], apart: f64) -> Outline {
    let mut made = Outline::default();
    for (from, to) in corners.windows(2).zip(goals.windows(2)) {
        let count = ((from[1][0] - from[0][0]).hypot(from[1][1] - from[0][1]) / apart).ceil() as usize;
        for at in 0..=count {
            let between = |ends: &[[f64; 2]]| {
                [0, 1].map(|axis| ends[0][axis] + (ends[1][axis] - ends[0][axis]) * at as f64 / count as f64)
            };
            let (rest, goal) = (between(from), between(to));
            made.places.push(rest);
            made.ways.push([goal[0] - rest[0], goal[1] - rest[1]]);
        }
    }
    made
}

/// Drawn as people draw: with corners, as one straight line, with a point that two share. What lies between the places that are
/// told lands too.
#[test]
fn corners_straight_lines_and_shared_points_land() {
    let (corners, goals) = (
        [[100.3, 80.2], [250.7, 90.1], [240.2, 220.4], [110.6, 210.9], [100.3, 80.2]],
        [[100.3, 80.2], [290.7, 90.1], [280.2, 220.4], [110.6, 210.9], [100.3, 80.2]],
    );
    let straight = ([[60.0, 100.0], [320.0, 130.0]], [[60.0, 100.0], [320.0, 150.0]]);
    let beside = ([corners[0], [60.0, 60.0], [50.0, 100.0]], [corners[0], [45.0, 60.0], [50.0, 100.0]]);
    type Drawn<'a> = (&'a [[f64; 2]], &'a [[f64; 2]]);
    let all: [&[Drawn<'_>]; 3] =
        [&[(&corners, &goals)], &[(&straight.0, &straight.1)], &[(&corners, &goals), (&beside.0, &beside.1)]];
    for lines in all {
        let drawn = |apart: f64| lines.iter().map(|(from, to)| through(from, to, apart)).collect::<Vec<_>>();
        for quality in ALL {
            let shaped = shaped(&drawn(0.35), quality);
            for outline in drawn(0.1) {
                for (place, way) in outline.places.iter().zip(&outline.ways) {
                    let own = way_at(&shaped, *place).way;
                    let off = (own[0] - way[0]).hypot(own[1] - way[1]);
                    assert!(off < 1e-3, "{quality:?} {place:?}: {off}");
                }
            }
        }
    }
}

/// Outlines that stay where they are move nothing, bit for bit.
#[test]
fn outlines_at_rest_move_nothing() {
    let still = ellipse([200.0, 150.0], [80.0, 60.0], [80.0, 60.0], [0.0; 2]);
    for quality in ALL {
        let map = shaped(std::slice::from_ref(&still), quality).over(FRAME, &Cancel::new()).unwrap();
        let map = map.map(&Cancel::new()).unwrap();
        assert!(map.pixels().iter().all(|by| *by == [0.0; 2]), "{quality:?}");
    }
    let none = shaped(&[], Quality::Normal).over(FRAME, &Cancel::new()).unwrap();
    assert!(none.longest() == 0.0);
}

/// A fence around an outline keeps what lies beyond it as it is, bit for bit; the outline lands all the same. Half as firm, it lets
/// half of it through.
#[test]
fn nothing_crosses_a_firm_fence_and_half_of_it_one_that_is_half_as_firm() {
    let outline = ellipse([180.0, 150.0], [50.0, 40.0], [62.0, 30.0], [9.0, -6.0]);
    let around = ellipse([185.0, 150.0], [110.0, 90.0], [110.0, 90.0], [0.0; 2]).places;
    let fenced = |firmness: f64| {
        let fence = Fence { places: around.clone(), closed: true, firmness };
        Shaped::new(std::slice::from_ref(&outline), &[fence], Quality::Normal, 1.0, FRAME, &Cancel::new())
            .unwrap()
    };
    let firm = fenced(1.0);
    for (place, way) in outline.places.iter().zip(&outline.ways) {
        let own = way_at(&firm, *place).way;
        assert!((own[0] - way[0]).hypot(own[1] - way[1]) < 1e-3, "{place:?}");
    }
    let loose = firm.loose().unwrap();
    let map = firm.over(FRAME, &Cancel::new()).unwrap().map(&Cancel::new()).unwrap();
    for y in FRAME.y0..FRAME.y1 {
        for x in FRAME.x0..FRAME.x1 {
            let (across, down) = ((f64::from(x) + 0.5 - 185.0) / 110.0, (f64::from(y) + 0.5 - 150.0) / 90.0);
            let far = across.hypot(down);
            let by = map.get(x, y).unwrap();
            if far > 1.001 {
                assert_eq!(loose.get(x, y), Some(0.0), "{x} {y}");
                // What is masked is next to nothing, so that no step can be seen.
                assert!(by[0].abs().max(by[1].abs()) < 0.02, "{x} {y}: {by:?}");
            } else if far < 0.999 {
                assert_eq!(loose.get(x, y), Some(1.0), "{x} {y}");
            }
        }
    }
    let (none, half) = (fenced(0.0), fenced(0.5));
    assert!(none.loose().is_none() && half.loose().is_none());
    for place in [[20.0, 20.0], [400.0, 160.0], [330.0, 280.0]] {
        let [free, halved] = [&none, &half].map(|shaped| way_at(shaped, place).way);
        assert!(
            (0..2).all(|axis| (free[axis] / 2.0 - halved[axis]).abs() < 0.03),
            "{place:?}: {free:?}, {halved:?}"
        );
        assert!(free[0].hypot(free[1]) > 1.0);
    }
}
