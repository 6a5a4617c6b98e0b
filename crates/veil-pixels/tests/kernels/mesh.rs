//! Checks of `mesh`.

use proptest::prelude::*;
use veil_pixels::warp::bent::Bent;
use veil_pixels::warp::mesh::*;
use veil_pixels::{Cancel, Map, Window};

type Place = [f64; 2];

/// A lattice of cells of one size.
fn even([rows, columns]: [usize; 2], cell: f64) -> Vec<Place> {
    let corner = |at: usize| [(at % (columns + 1)) as f64 * cell, (at / (columns + 1)) as f64 * cell];
    (0..(rows + 1) * (columns + 1)).map(corner).collect()
}

fn by(rest: &[Place], ways: &[Place]) -> Vec<Place> {
    rest.iter().zip(ways).map(|(at, by)| [at[0] + by[0], at[1] + by[1]]).collect()
}

fn of<'a>(cells: [usize; 2], rest: &'a [Place], moved: &'a [Place], through: Through) -> Corners<'a> {
    Corners { cells, rest, moved, added: [&[]; 2], through }
}

fn over(corners: &Corners<'_>, window: Window) -> Map {
    Mesh::new(corners).unwrap().over(window, &Cancel::new()).unwrap().map(&Cancel::new()).unwrap()
}

const BOTH: [Through; 2] = [Through::Corners, Through::Near];

fn a_kind() -> impl Strategy<Value = Through> {
    prop::sample::select(&BOTH[..])
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Lines more, whichever and however many, leave the surface as it is, but for what the inverse may be off.
    #[test]
    fn lines_more_leave_the_surface_as_it_is(
        ways in prop::collection::vec(prop::array::uniform2(-7.0f64..7.0), 20),
        cuts in prop::collection::vec((any::<bool>(), 0usize..100), 1..4),
        through in a_kind(),
    ) {
        let mut cells = [3, 4];
        let mut rest = even(cells, 40.0);
        let mut moved = by(&rest, &ways);
        let window = Window::sized(160, 120);
        let before = over(&of(cells, &rest, &moved, through), window);
        let mut added = [Vec::new(), Vec::new()];
        for (rows, at) in cuts {
            let (along, way) = if rows { (Along::Rows, 0) } else { (Along::Columns, 1) };
            let corners = Corners { added: [&added[0], &added[1]], ..of(cells, &rest, &moved, through) };
            let made = cut(&corners, along, at % cells[way]).unwrap();
            cells[way] += 1;
            (rest, moved, added[way]) = (made.rest, made.moved, made.added);
        }
        let corners = Corners { added: [&added[0], &added[1]], ..of(cells, &rest, &moved, through) };
        let after = over(&corners, window);
        for (a, b) in before.pixels().iter().zip(after.pixels()) {
            prop_assert!((a[0] - b[0]).hypot(a[1] - b[1]) < 0.005, "{a:?}, then {b:?}");
        }
    }

    /// A region is the crop of the whole, bit for bit, where it folds too.
    #[test]
    fn a_region_of_a_mesh_is_the_crop_of_the_whole(
        ways in prop::collection::vec(prop::array::uniform2(-30.0f64..30.0), 9),
        (x, y) in (-20i32..60, -20i32..60),
        through in a_kind(),
    ) {
        let rest = even([2, 2], 30.0);
        let moved = by(&rest, &ways);
        let corners = of([2, 2], &rest, &moved, through);
        let whole = over(&corners, Window::new(-20, -20, 100, 100));
        let region = Window::new(x, y, x + 23, y + 31);
        let part = over(&corners, region);
        for y in region.y0..region.y1 {
            for x in region.x0..region.x1 {
                prop_assert_eq!(part.get(x, y), whole.get(x, y));
            }
        }
    }

    /// Where nothing folds, each pixel reads the place that has moved onto it, to a hundredth of a pixel.
    #[test]
    fn the_inverse_is_exact_where_nothing_folds(
        ways in prop::collection::vec(prop::array::uniform2(-24.0f64..24.0), 20),
        through in a_kind(),
        shift in -90.0f64..90.0,
    ) {
        let cells = [3, 4];
        let rest: Vec<Place> = even(cells, 70.0).into_iter().map(|[x, y]| [x + shift, y - shift / 2.0]).collect();
        let moved = by(&rest, &ways);
        let corners = of(cells, &rest, &moved, through);
        let window = Window::sized(240, 180);
        let (map, mesh) = (over(&corners, window), Mesh::new(&corners).unwrap());
        let shares = || (0..=8).map(|step| f64::from(step) / 8.0);
        let areas = |piece| shares().flat_map(move |v| shares().map(move |u| [u, v])).map(move |at| (piece, at));
        prop_assume!((0..mesh.pieces()).flat_map(areas).all(|(piece, at)| mesh.at(piece, at).area() > 0.0));
        let bounds = [shift, -shift / 2.0];
        for y in 0..window.y1 {
            for x in 0..window.x1 {
                let at = [f64::from(x) + 0.5, f64::from(y) + 0.5];
                let by = map.get(x, y).unwrap();
                // At rest its cells are alike, so that the place which is read tells the numbers of the surface.
                let numbers = [0, 1].map(|axis| (at[axis] - f64::from(by[axis]) - bounds[axis]) / 70.0);
                let inside = (0.0..=4.0).contains(&numbers[0]) && (0.0..=3.0).contains(&numbers[1]);
                if inside {
                    let [column, row] = [numbers[0].floor().min(3.0), numbers[1].floor().min(2.0)];
                    // Pieces beyond the border count too.
                    let piece = (row as usize + 1) * 6 + column as usize + 1;
                    let spot = mesh.at(piece, [numbers[0] - column, numbers[1] - row]);
                    let moved = spot.moved();
                    let way = [at[0] - moved[0], at[1] - moved[1]];
                    // How far from where it should be read that is, by the surface's slopes.
                    let [u, v] = spot.moved_by();
                    let area = u[0] * v[1] - u[1] * v[0];
                    let step = [(v[1] * way[0] - v[0] * way[1]) / area, (u[0] * way[1] - u[1] * way[0]) / area];
                    let off = (step[0] * 70.0).hypot(step[1] * 70.0);
                    prop_assert!(off < 0.01, "{at:?}: {off}");
                }
            }
        }
    }
}

/// A lattice that moves as one moves all of the picture, far beyond itself too; one at rest moves nothing.
#[test]
fn beyond_its_border_a_lattice_goes_on_as_the_border_does() {
    let rest = even([1, 3], 20.0);
    let moved: Vec<Place> = rest.iter().map(|[x, y]| [x + 5.0, y - 3.5]).collect();
    let window = Window::new(-300, -200, 400, 300);
    for through in BOTH {
        let map = over(&of([1, 3], &rest, &moved, through), window);
        for [x, y] in map.pixels() {
            assert!((x - 5.0).abs() < 1e-4 && (y + 3.5).abs() < 1e-4, "{x} {y}");
        }
        let still = over(&of([1, 3], &rest, &rest, through), window);
        assert!(still.pixels().iter().all(|by| *by == [0.0; 2]));
    }
    assert!(Mesh::new(&of([2, 3], &rest, &rest, Through::Corners)).is_none());
}

/// A corner that is pulled across its neighbours lays the picture over itself, and what is on its back is told.
#[test]
fn what_folds_is_told() {
    let rest = even([4, 4], 40.0);
    let mut moved = rest.clone();
    moved[12] = [230.0, 80.0];
    for through in BOTH {
        let corners = of([4, 4], &rest, &moved, through);
        let mesh = Mesh::new(&corners).unwrap();
        let window = Window::sized(160, 160);
        let folded = mesh.folded(window, &Cancel::new()).unwrap();
        let share = folded.pixels().iter().sum::<f32>() / folded.pixels().len() as f32;
        assert!((0.005..0.4).contains(&share), "{share}");
        assert!(folded.get(20, 20) == Some(0.0));
        assert!(over(&corners, window).pixels().iter().flatten().all(|by| by.is_finite()));
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Single places go where pixels come from, corners where they have moved, and all of them come back.
    #[test]
    fn single_places_go_as_pixels_do_and_come_back(
        ways in prop::collection::vec(prop::array::uniform2(-6.0f64..6.0), 20),
        through in a_kind(),
    ) {
        let rest: Vec<Place> = even([3, 4], 40.0).into_iter().map(|at| [at[0] + 20.0, at[1] + 15.0]).collect();
        let moved = by(&rest, &ways);
        let corners = of([3, 4], &rest, &moved, through);
        let places = Places::new(&corners).unwrap();
        let apart = |a: Place, b: Place| (a[0] - b[0]).hypot(a[1] - b[1]);
        if through == Through::Corners {
            for (from, to) in rest.iter().zip(&moved) {
                prop_assert!(apart(places.carried(*from).unwrap(), *to) < 1e-6);
            }
        }
        let moves = over(&corners, Window::sized(200, 150));
        for (x, y) in (0..150).step_by(11).flat_map(|y| (0..200).step_by(13).map(move |x| (x, y))) {
            let [by_x, by_y] = moves.get(x, y).unwrap();
            let to = [f64::from(x) + 0.5, f64::from(y) + 0.5];
            let from = places.back(to).unwrap();
            // Beside the border, where the surface has a kink, the map is between pixels that are right.
            prop_assert!(apart(from, [to[0] - f64::from(by_x), to[1] - f64::from(by_y)]) < 0.02);
            prop_assert!(apart(places.carried(from).unwrap(), to) < 1e-5);
        }
        // The place that the corner of rows 1 and columns 2 has moved to.
        prop_assert!(apart(places.of_numbers([1.0, 2.0]), places.carried(rest[7]).unwrap()) < 1e-5);
    }
}
