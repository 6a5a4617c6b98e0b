//! Checks of `mesh`.

use proptest::prelude::*;
use veil_pixels::warp::mesh::*;
use veil_pixels::{Cancel, Window};

type Place = [f64; 2];

/// A lattice of cells of one size.
fn even(rows: usize, columns: usize, cell: f64) -> Vec<Place> {
    let corner = |at: usize| [(at % (columns + 1)) as f64 * cell, (at / (columns + 1)) as f64 * cell];
    (0..(rows + 1) * (columns + 1)).map(corner).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// A line more, with its corners where `half_way` has them, leaves the surface as it is, but for what triangles are off.
    #[test]
    fn a_line_more_leaves_the_surface_as_it_is(
        ways in prop::collection::vec(prop::array::uniform2(-7.0f64..7.0), 20),
        cut in 0usize..4,
    ) {
        let (rows, columns) = (3, 4);
        let rest = even(rows, columns, 40.0);
        let moved: Vec<Place> = rest.iter().zip(&ways).map(|(at, by)| [at[0] + by[0], at[1] + by[1]]).collect();
        let whole: Vec<(Place, Place)> = rest.iter().copied().zip(moved.iter().copied()).collect();
        let lines: Vec<Vec<(Place, Place)>> = whole.chunks(columns + 1).map(<[_]>::to_vec).collect();
        let more: Vec<(Place, Place)> = lines.iter().zip(half_way(&lines, cut)).flat_map(|(line, made)| {
            let mut line = line.clone();
            line.insert(cut + 1, made);
            line
        }).collect();
        let (more_rest, more_moved): (Vec<_>, Vec<_>) = more.into_iter().unzip();
        let over = |mesh: Option<Mesh>| mesh.unwrap().over(Window::sized(160, 120), &Cancel::new()).unwrap();
        let before = over(Mesh::new(rows, columns, &rest, &moved));
        let after = over(Mesh::new(rows, columns + 1, &more_rest, &more_moved));
        for (a, b) in before.pixels().iter().zip(after.pixels()) {
            prop_assert!((a[0] - b[0]).hypot(a[1] - b[1]) < 0.02, "{a:?}, then {b:?}");
        }
    }

    /// A region is the crop of the whole, bit for bit.
    #[test]
    fn a_region_of_a_mesh_is_the_crop_of_the_whole(
        ways in prop::collection::vec(prop::array::uniform2(-30.0f64..30.0), 9),
        (x, y) in (-20i32..60, -20i32..60),
    ) {
        let rest = even(2, 2, 30.0);
        let moved: Vec<Place> = rest.iter().zip(&ways).map(|(at, by)| [at[0] + by[0], at[1] + by[1]]).collect();
        let mesh = Mesh::new(2, 2, &rest, &moved).unwrap();
        let whole = mesh.over(Window::new(-20, -20, 100, 100), &Cancel::new()).unwrap();
        let region = Window::new(x, y, x + 23, y + 31);
        let part = mesh.over(region, &Cancel::new()).unwrap();
        for y in region.y0..region.y1 {
            for x in region.x0..region.x1 {
                prop_assert_eq!(part.get(x, y), whole.get(x, y));
            }
        }
    }
}

/// A lattice that moves as one moves all of the picture, far beyond itself too; one at rest moves nothing.
#[test]
fn beyond_its_border_a_lattice_goes_on_as_the_border_does() {
    let rest = even(1, 3, 20.0);
    let moved: Vec<Place> = rest.iter().map(|[x, y]| [x + 5.0, y - 3.5]).collect();
    let window = Window::new(-300, -200, 400, 300);
    let map = Mesh::new(1, 3, &rest, &moved).unwrap().over(window, &Cancel::new()).unwrap();
    for [x, y] in map.pixels() {
        assert!((x - 5.0).abs() < 1e-4 && (y + 3.5).abs() < 1e-4, "{x} {y}");
    }
    let still = Mesh::new(1, 3, &rest, &rest).unwrap().over(window, &Cancel::new()).unwrap();
    assert!(still.pixels().iter().all(|by| *by == [0.0; 2]));
    assert!(Mesh::new(2, 3, &rest, &rest).is_none());
}
