//! What is bent by a lattice and by outlines, beside our own reading of the same moves; a picture laid on a lattice; and a
//! surface that is followed.

use std::f64::consts::{PI, TAU};
use std::hint::black_box;

use veil_pixels::light::refraction::{Clear, facing, refracted};
use veil_pixels::noise::{Basis, Fold, Noise};
use veil_pixels::sample::resample::Filter;
use veil_pixels::shape::between::tied;
use veil_pixels::shape::outline::Knot;
use veil_pixels::track::SurfaceTracker;
use veil_pixels::warp::displace::{Displacement, Moves};
use veil_pixels::warp::mesh::{Corners, Front, Mesh, Sheet, Through};
use veil_pixels::warp::outlines::{Outline, Quality, Shaped};
use veil_pixels::warp::skin::{Laid, Reads};
use veil_pixels::{Cancel, Edge, Field, Picture, Raster, Window};

use crate::timed::median;

/// Rows and columns of the lattice's cells.
const CELLS: [usize; 2] = [8, 12];
/// Of each pair: its middle, half its size at rest and as its goal, in pixels of 960x540.
const PAIRS: [[[f64; 2]; 3]; 4] = [
    [[300.0, 250.0], [100.0, 60.0], [120.0, 40.0]],
    [[600.0, 250.0], [80.0, 80.0], [60.0, 100.0]],
    [[450.0, 90.0], [200.0, 40.0], [200.0, 60.0]],
    [[450.0, 450.0], [250.0, 30.0], [240.0, 50.0]],
];

/// Ties of each pair.
const TIES: usize = 10;
/// How far apart places of an outline are, in pixels, as in the stage.
const APART: f64 = 0.35;

/// Frames in which what is followed sways there and back.
const FRAMES: usize = 16;
const SURFACE: &str = "surface_followed";

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

/// An ellipse through ten points.
fn ellipse(middle: [f64; 2], radii: [f64; 2]) -> Vec<Knot> {
    // How long a handle is for a share of a circle, by its radius.
    let handle = 4.0 / 3.0 * (PI / (2.0 * TIES as f64)).tan();
    let knot = |at: usize| {
        let (sine, cosine) = (at as f64 / TIES as f64 * TAU).sin_cos();
        let way = [-sine * radii[0] * handle, cosine * radii[1] * handle];
        let at = [middle[0] + radii[0] * cosine, middle[1] + radii[1] * sine];
        Knot { at, before: way.map(|by| -by), after: way, soft: 0.0 }
    };
    (0..TIES).map(knot).collect()
}

/// Four pairs with ten ties each, followed as the stage does it.
fn pairs(scale: f64) -> Vec<Outline> {
    let ties: Vec<[f64; 2]> = (0..TIES).map(|at| [at as f64; 2]).collect();
    let outline = |pair: &[[f64; 2]; 3]| {
        let [middle, rest, goal] = pair.map(|pair| pair.map(|number| number * scale));
        let both = [ellipse(middle, rest), ellipse(middle, goal)];
        let places = tied(both.each_ref().map(Vec::as_slice), true, &ties, APART);
        let way = |[rest, goal]: &[[f64; 2]; 2]| [goal[0] - rest[0], goal[1] - rest[1]];
        Outline {
            ways: places.iter().map(way).collect(),
            places: places.iter().map(|[rest, _]| *rest).collect(),
        }
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
    note("skin_12x8", &mut || {
        black_box(skin(&corners, picture, &cancel).is_some());
    });
    let outlines = pairs(f64::from(window.x1) / 960.0);
    // The frame and as much about it as half of it, as the stage does it.
    let about = window.grow(window.width() as i32 / 2, window.height() as i32 / 2);
    let solved = || {
        let shaped = Shaped::new(&outlines, &[], Quality::Normal, 1.0, about, &cancel).ok()?;
        shaped.over(window, &cancel).ok()?.map(&cancel).ok()
    };
    note("shape_warp_solved", &mut || {
        black_box(solved());
    });
    // What is solved is kept as a map, so that what follows is what another frame takes.
    if let Some(map) = solved() {
        note("shape_warp_read", &mut || {
            read(&Moves::new(map.clone()));
        });
        let kept = Moves::new(map.clone());
        note("remap_of_shape_warp", &mut || {
            read(&kept);
        });
    }
    // A body all over the picture, as uneven as running water.
    let rises = |x: i32, y: i32| 20.0 * ((x as f32 / 31.0).sin() + (y as f32 / 23.0).cos());
    let heights = Raster::from_fn(window.grow(1, 1), rises);
    if let Ok(body) = facing(&heights, &Raster::flat(window, 1.0), window, &cancel) {
        for (name, fringe) in [("refraction_even", 0.0), ("refraction_fringed", 0.01)] {
            note(name, &mut || {
                let both = (picture, picture);
                black_box(refracted(both, &body, Clear::of(1.33, fringe), 40.0, window, &cancel).is_ok());
            });
        }
    }
    let window = Window::new(0, 0, window.x1 / 2, window.y1 / 2);
    if let Ok(half) =
        Raster::written(window, &cancel, |y, row| row.copy_from_slice(&picture.row(y)[..row.len()]))
    {
        let outlines = pairs(f64::from(window.x1) / 960.0);
        let about = window.grow(window.width() as i32 / 2, window.height() as i32 / 2);
        note("shape_warp_dragged_half", &mut || {
            let shaped = Shaped::new(&outlines, &[], Quality::Quick, 1.0, about, &cancel);
            let map = shaped.and_then(|shaped| shaped.over(window, &cancel)?.map(&cancel));
            black_box(map.is_ok_and(|map| reading.apply(&half, window, &Moves::new(map), &cancel).is_ok()));
        });
    }
    if let (true, Some(ms)) = (SURFACE.contains(only), surface(times, picture)) {
        measured.push((SURFACE.to_owned(), ms));
    }
    measured
}

/// A picture laid on a lattice over a window of its own.
fn skin(corners: &Corners<'_>, picture: &Picture, cancel: &Cancel) -> Option<Picture> {
    let window = picture.window();
    let sides = [window.x0, window.y0, window.x1, window.y1].map(f64::from);
    let about = window.grow(1, 1);
    let moves = Sheet::new(corners, Front::Lower, true)?.over(about, cancel).ok()?.map(cancel).ok()?;
    let places = Raster::written(about, cancel, |y, row: &mut [[f32; 2]]| {
        for ((x, at), by) in (about.x0..).zip(row).zip(moves.row(y)) {
            *at = [x as f32 + 0.5 - by[0], y as f32 + 0.5 - by[1]];
        }
    });
    let places = places.ok()?;
    let reads = Reads::of(sides, window, Edge::Clear, Filter::Cubic)?;
    Laid::new(places, None, Some(sides), cancel).ok()?.apply(picture, reads, cancel).ok()
}

/// Median milliseconds of a frame in which a hundred corners over a quarter of the picture are followed, of a rough pattern that
/// sways by up to twelve pixels.
fn surface(times: usize, picture: &Picture) -> Option<f64> {
    let (window, cancel) = (picture.window(), Cancel::new());
    let pattern = Noise {
        seed: 4,
        basis: Basis::Gradient,
        size: [48.0; 2],
        offset: [0.0; 2],
        angle: 0.0,
        depth: None,
        period: None,
        octaves: 6,
        lacunarity: 2.0,
        gain: 0.7,
        fold: Fold::Plain,
    };
    let mut first = pattern.over(window, 1.0, &cancel).ok()?;
    first.change(&cancel, |value| 0.5 + 0.4 * value).ok()?;
    let [rest, moved] = lattice(picture);
    let corners =
        Corners { cells: CELLS, rest: &rest, moved: &moved, added: [&[]; 2], through: Through::Corners };
    let reading = Displacement { softness: 0.0, filter: Filter::Cubic, edge: Edge::Hold };
    let frame = |turn: usize| {
        let inverse = Mesh::new(&corners)?.over(window, &cancel).ok()?;
        let by = (turn as f64 / FRAMES as f64 * TAU).sin() as f32;
        reading.apply(&first, window, &Moves::bent(inverse, by, None), &cancel).ok()
    };
    let frames: Vec<Field> = (0..FRAMES).map(frame).collect::<Option<_>>()?;
    let of = |at: [f64; 2]| [0.25 + 0.5 * at[0], 0.25 + 0.5 * at[1]];
    let size = [window.x1, window.y1].map(f64::from);
    let place = |row: u32, column: u32| {
        let at = of([column, row].map(|at| f64::from(at) / 9.0));
        [at[0] * size[0], at[1] * size[1]]
    };
    let points: Vec<[f64; 2]> =
        (0..10).flat_map(|row| (0..10).map(move |column| place(row, column))).collect();
    let counts = |_: [f64; 2]| 1.0;
    let mut tracker = SurfaceTracker::new(&first, [9, 9], &points, 0.3, &counts, &cancel).ok()??;
    let mut turn = 0;
    Some(median(times, &mut || {
        turn += 1;
        black_box(tracker.step(&frames[turn % FRAMES], &counts, &cancel).is_ok());
    }))
}
