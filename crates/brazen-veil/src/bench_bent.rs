//! What is bent by a lattice and by outlines, beside our own reading of the same moves.

use std::f64::consts::TAU;
use std::hint::black_box;

use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::displace::{Displacement, Moves};
use veil_pixels::warp::mesh::{Corners, Mesh, Through};
use veil_pixels::warp::outlines::{Outline, Quality, Shaped};
use veil_pixels::{Cancel, Edge, Picture};

use crate::bench::median;

/// Rows and columns of the lattice's cells.
const CELLS: [usize; 2] = [8, 12];
/// Of each pair: its middle, half its size at rest and as its goal, in pixels of 960x540.
const PAIRS: [[[f64; 2]; 3]; 4] = [
    [[300.0, 250.0], [100.0, 60.0], [120.0, 40.0]],
    [[600.0, 250.0], [80.0, 80.0], [60.0, 100.0]],
    [[450.0, 90.0], [200.0, 40.0], [200.0, 60.0]],
    [[450.0, 450.0], [250.0, 30.0], [240.0, 50.0]],
];

/// Corners at rest over the frame, and how they have moved: as slow waves, by up to twelve pixels.
fn lattice(picture: &Picture) -> [Vec<[f64; 2]>; 2] {
    let size = [picture.window().x1, picture.window().y1].map(f64::from);
    let [rows, columns] = CELLS;
    let corner = |row: usize, column: usize| {
        [column as f64 / columns as f64 * size[0], row as f64 / rows as f64 * size[1]]
    };
    let rest: Vec<[f64; 2]> =
        (0..=rows).flat_map(|row| (0..=columns).map(move |column| corner(row, column))).collect();
    let moved = rest
        .iter()
        .map(|[x, y]| [x + 12.0 * (x / 310.0 + y / 170.0).sin(), y + 12.0 * (x / 230.0 - y / 290.0).cos()]);
    [rest.clone(), moved.collect()]
}

/// Four pairs, followed pixel by pixel.
fn pairs(scale: f64) -> Vec<Outline> {
    let count = (1500.0 * scale) as usize;
    let outline = |[middle, rest, goal]: &[[f64; 2]; 3]| {
        let turns = || (0..count).map(|at| (at as f64 / count as f64 * TAU).sin_cos());
        let place = |(sine, cosine): (f64, f64)| {
            [(middle[0] + rest[0] * cosine) * scale, (middle[1] + rest[1] * sine) * scale]
        };
        let way = |(sine, cosine): (f64, f64)| {
            [(goal[0] - rest[0]) * cosine * scale, (goal[1] - rest[1]) * sine * scale]
        };
        Outline { places: turns().map(place).collect(), ways: turns().map(way).collect() }
    };
    PAIRS.iter().map(outline).collect()
}

/// Median milliseconds of each whose name has a part.
pub(crate) fn measure(times: usize, picture: &Picture, only: &str) -> Vec<(String, f64)> {
    let (window, cancel) = (picture.window(), Cancel::new());
    let mut measured: Vec<(String, f64)> = Vec::new();
    let mut note = |name: &str, work: &mut dyn FnMut()| {
        if name.contains(only) {
            measured.push((name.to_owned(), median(times, work)));
        }
    };
    let reading = Displacement { softness: 0.0, filter: Filter::Linear, edge: Edge::Hold };
    let read = |moves: &Moves| black_box(reading.apply(picture, window, moves, &cancel).is_ok());
    let [rest, moved] = lattice(picture);
    let corners =
        Corners { cells: CELLS, rest: &rest, moved: &moved, added: [&[]; 2], through: Through::Corners };
    let bent = || Mesh::new(&corners).and_then(|mesh| mesh.over(window, &cancel).ok());
    note("lattice_12x8", &mut || {
        bent().map(|inverse| read(&Moves::bent(inverse, 1.0, None)));
    });
    if let Some(map) = bent().and_then(|inverse| inverse.map(&cancel).ok()) {
        let moves = Moves::new(map);
        note("remap_of_lattice", &mut || {
            read(&moves);
        });
    }
    let outlines = pairs(f64::from(window.x1) / 960.0);
    let shaped = || {
        Shaped::new(&outlines, &[], Quality::Normal, 1.0, window, &cancel)
            .and_then(|shaped| shaped.over(window, &cancel))
    };
    note("shape_warp_solved", &mut || {
        black_box(shaped().is_ok());
    });
    let solved = || shaped().ok();
    if let (Some(inverse), Some(map)) = (solved(), solved().and_then(|inverse| inverse.map(&cancel).ok())) {
        let (moves, kept) = (Moves::bent(inverse, 1.0, None), Moves::new(map));
        note("shape_warp_read", &mut || {
            read(&moves);
        });
        note("remap_of_shape_warp", &mut || {
            read(&kept);
        });
    }
    measured
}
