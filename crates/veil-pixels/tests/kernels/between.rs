//! Checks of `between`.

use proptest::prelude::*;
use veil_pixels::shape::between::*;
use veil_pixels::shape::outline::{FLAT, Knot, Outline};

fn corner(at: [f64; 2]) -> Knot {
    Knot { at, before: [0.0; 2], after: [0.0; 2], soft: 0.0 }
}

/// How far a place is from an outline by its corners.
fn off(corners: &[[f64; 2]], closed: bool, [x, y]: [f64; 2]) -> f64 {
    let count = if closed { corners.len() } else { corners.len() - 1 };
    let to_piece = |at: usize| {
        let ([ax, ay], [bx, by]) = (corners[at], corners[(at + 1) % corners.len()]);
        let long = (bx - ax).powi(2) + (by - ay).powi(2);
        let t = if long > 0.0 {
            (((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / long).clamp(0.0, 1.0)
        } else {
            0.0
        };
        (x - ax - t * (bx - ax)).hypot(y - ay - t * (by - ay))
    };
    (0..count).map(to_piece).fold(f64::MAX, f64::min)
}

proptest! {
    /// Whatever is tied to what, at either end it lies on the outline itself.
    #[test]
    fn at_its_ends_it_is_the_outline_and_its_goal(
        rest in prop::collection::vec((prop::array::uniform2(-99.0f64..99.0), prop::array::uniform2(-40.0f64..40.0)), 3..7),
        goal in prop::collection::vec(prop::array::uniform2(-99.0f64..99.0), 3..9),
        ties in prop::collection::vec(prop::array::uniform2(0.0f64..1.0), 0..5),
        closed in any::<bool>(),
    ) {
        let rest: Vec<Knot> = rest.iter()
            .map(|(at, way)| Knot { at: *at, before: way.map(|by| -by), after: *way, soft: 0.0 })
            .collect();
        let goal: Vec<Knot> = goal.into_iter().map(corner).collect();
        let ends = [&rest, &goal].map(|knots| (knots.len() - usize::from(!closed)) as f64);
        let ties: Vec<[f64; 2]> = ties.iter().map(|tie| [tie[0] * ends[0], tie[1] * ends[1]]).collect();
        for (way, knots) in [(0.0, &rest), (1.0, &goal)] {
            let outline = Outline { knots: knots.clone(), width: (!closed).then_some(1.0), side: veil_pixels::shape::ellipse::SoftSide::Both };
            let corners = outline.corners();
            for place in between([&rest, &goal], closed, &ties, way) {
                prop_assert!(off(&corners, closed, place) < 2.0 * FLAT, "{way}: {place:?}");
            }
        }
    }
}

/// By hand: a square and one twice as large, half way with a tie between the first corner of each; turned by a corner, each
/// corner goes to the next.
#[test]
fn a_square_grows_evenly_and_ties_turn_it() {
    let square = |half: f64| [[-half, -half], [half, -half], [half, half], [-half, half]].map(corner);
    let (small, large) = (square(10.0), square(20.0));
    let near = |made: Vec<[f64; 2]>, wanted: &[[f64; 2]]| {
        let same = |a: [f64; 2], b: &[f64; 2]| (a[0] - b[0]).hypot(a[1] - b[1]) < 1e-9;
        assert!(
            wanted.iter().all(|place| made.iter().any(|one| same(*one, place))),
            "{made:?} lacks some of {wanted:?}"
        );
        assert!(
            made.iter().all(|place| off(wanted, wanted.len() > 3, *place) < 1e-9),
            "{made:?} leaves {wanted:?}"
        );
    };
    let straight = between([&small, &large], true, &[[0.0, 0.0]], 0.5);
    near(straight, &[[-15.0, -15.0], [15.0, -15.0], [15.0, 15.0], [-15.0, 15.0]]);
    let turned = between([&small, &large], true, &[[0.0, 1.0]], 0.5);
    near(turned, &[[5.0, -15.0], [15.0, 5.0], [-5.0, 15.0], [-15.0, -5.0]]);
    // A line of two points to one of three: what is half along goes to what is half along.
    let two = [[0.0, 0.0], [40.0, 0.0]].map(corner);
    let three = [[0.0, 10.0], [10.0, 10.0], [40.0, 10.0]].map(corner);
    near(between([&two, &three], false, &[], 0.5), &[[0.0, 5.0], [10.0, 5.0], [40.0, 5.0]]);
    near(between([&two, &three], false, &[[0.5, 1.0]], 1.0), &[[0.0, 10.0], [10.0, 10.0], [40.0, 10.0]]);
    near(between([&two, &three], false, &[[0.5, 1.0]], 0.5), &[[0.0, 5.0], [15.0, 5.0], [40.0, 5.0]]);
}

/// Between ties the second outline is gone along smoothly: ties land, nothing runs backward, and no pace jumps.
#[test]
fn places_go_along_smoothly_from_tie_to_tie() {
    let line = |long: f64| [[0.0, 0.0], [long, 0.0]].map(corner);
    let (rest, goal) = (line(100.0), line(200.0));
    let places = tied([&rest, &goal], false, &[[0.3, 0.5]], 0.5);
    assert_eq!((places[0], places[places.len() - 1]), ([[0.0; 2]; 2], [[100.0, 0.0], [200.0, 0.0]]));
    let tie = places.iter().find(|[rest, _]| (rest[0] - 30.0).abs() < 1e-9).unwrap();
    assert!((tie[1][0] - 100.0).abs() < 1e-9, "{tie:?}");
    let paces: Vec<f64> = places
        .windows(2)
        .map(|pair| (pair[1][1][0] - pair[0][1][0]) / (pair[1][0][0] - pair[0][0][0]))
        .collect();
    assert!(paces.iter().all(|pace| *pace > 0.0));
    assert!(paces.windows(2).all(|pair| (pair[1] - pair[0]).abs() < 0.1 * pair[0]), "{paces:?}");
}
