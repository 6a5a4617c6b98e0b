//! The kernels beside what well-known libraries make of the same small natural picture; `make.py` tells how.
#![expect(clippy::unwrap_used, reason = "a test that cannot go on says where")]

use serde_json::Value;
use veil_pixels::blend::{Mode, blend};
use veil_pixels::colour::hsv::{hsv_from_rgb, rgb_from_hsv};
use veil_pixels::colour::lut::{Entries, Lut};
use veil_pixels::colour::space::{AP0, AP1, BT709, BT2020, Curve, Space};
use veil_pixels::colour::temperature::{black_body, gains};
use veil_pixels::fill::membrane;
use veil_pixels::filter::blur::{Sigma, gaussian};
use veil_pixels::filter::box_blur::{BoxBlur, Profile};
use veil_pixels::filter::distance::{Side, distance};
use veil_pixels::filter::edges::Lines;
use veil_pixels::filter::streak::Streak;
use veil_pixels::measure::histogram;
use veil_pixels::sample::resample::{Filter, Sampler};
use veil_pixels::sample::resize::shrunk;
use veil_pixels::warp::bent::Bent;
use veil_pixels::warp::displace::{Displacement, Moves};
use veil_pixels::warp::lens::Lens;
use veil_pixels::warp::mesh::{Corners, Mesh, Through};
use veil_pixels::warp::outlines::{Outline, Quality, Shaped};
use veil_pixels::warp::perspective::{Carried, Homography};
use veil_pixels::{Cancel, Edge, Field, Raster, Rgba, Window, filter::grow};

fn reference() -> Value {
    serde_json::from_str(include_str!("reference.json")).unwrap()
}

fn floats(value: &Value) -> Vec<f32> {
    value.as_array().unwrap().iter().map(|one| one.as_f64().unwrap() as f32).collect()
}

fn number(value: &Value) -> u32 {
    u32::try_from(value.as_u64().unwrap()).unwrap()
}

fn edge(value: &Value) -> Edge {
    match value.as_str().unwrap() {
        "clear" => Edge::Clear,
        "hold" => Edge::Hold,
        "mirror" => Edge::Mirror,
        "repeat" => Edge::Repeat,
        other => panic!("{other}"),
    }
}

fn picture(reference: &Value) -> Field {
    let window = Window::sized(number(&reference["width"]), number(&reference["height"]));
    Raster::from_pixels(window, floats(&reference["picture"])).unwrap()
}

fn worst(got: &[f32], wanted: &[f32]) -> f32 {
    assert_eq!(got.len(), wanted.len());
    got.iter().zip(wanted).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max)
}

/// `scipy.ndimage.gaussian_filter` 1.17, on every edge mode. A blur within 1e-3 of the true one, as agreed.
#[test]
fn a_gaussian_is_scipys_within_a_thousandth() {
    let reference = reference();
    let picture = picture(&reference);
    let window = picture.window();
    for case in reference["gaussian"].as_array().unwrap() {
        let (sigma, edge) = (case["sigma"].as_f64().unwrap() as f32, edge(&case["edge"]));
        let blurred = gaussian(&picture, window, edge, Sigma::round(sigma), window, &Cancel::new()).unwrap();
        let off = worst(blurred.pixels(), &floats(&case["pixels"]));
        assert!(off < 1e-3, "σ {sigma}, {edge:?}: {off}");
    }
}

/// `scipy.ndimage.map_coordinates` 1.17 of order 1.
#[test]
fn a_straight_move_by_a_map_is_scipys() {
    let reference = reference();
    let picture = picture(&reference);
    let window = picture.window();
    let moves = floats(&reference["moved"]["moves"]);
    let (x, y) = moves.split_at(moves.len() / 2);
    let map = x.iter().zip(y).map(|(x, y)| [*x, *y]).collect();
    let moves = Moves::new(Raster::from_pixels(window, map).unwrap());
    for case in reference["moved"]["by_edge"].as_array().unwrap() {
        let how = Displacement { softness: 0.0, filter: Filter::Linear, edge: edge(&case["edge"]) };
        let moved = how.apply(&picture, window, &moves, &Cancel::new()).unwrap();
        let off = worst(moved.pixels(), &floats(&case["pixels"]));
        assert!(off < 2e-5, "{:?}: {off}", how.edge);
    }
}

/// Pillow 13 enlarging by its bicubic, which is Keys' cubic of a = −1/2, and by its Lanczos of three lobes; Skia 144 by
/// Mitchell's cubic, in single floats.
#[test]
fn filters_read_at_thirds_of_pixels_are_other_libraries_enlargements() {
    let reference = reference();
    let picture = picture(&reference);
    let large = &reference["enlarged"];
    let (times, border) = (number(&large["times"]) as i32, number(&large["border"]) as i32);
    let sampler = Sampler::new(&picture, picture.window(), Edge::Hold);
    let Window { x1, y1, .. } = picture.window();
    for (name, filter) in
        [("cubic", Filter::Cubic), ("lanczos", Filter::Lanczos), ("mitchell", Filter::Mitchell)]
    {
        let mut read = Vec::new();
        for y in border * times..(y1 - border) * times {
            for x in border * times..(x1 - border) * times {
                let place = |at: i32| (at as f32 + 0.5) / times as f32;
                read.push(sampler.at(filter, place(x), place(y)));
            }
        }
        let off = worst(&read, &floats(&large[name]));
        assert!(off < 2e-5, "{name}: {off}");
    }
}

/// `scipy.ndimage.uniform_filter` 1.17, once and twice.
#[test]
fn boxes_and_triangles_are_scipys() {
    let reference = reference();
    let picture = picture(&reference);
    let window = picture.window();
    for (name, profile, times) in [("box", Profile::Box, 1.0), ("triangle", Profile::Triangle, 2.0)] {
        let blur = BoxBlur { profile, x: 7.0 * times, y: 5.0 * times };
        let blurred = blur.apply(&picture, window, Edge::Mirror, window, &Cancel::new()).unwrap();
        let off = worst(blurred.pixels(), &floats(&reference["boxes"][name]));
        assert!(off < 1e-5, "{name}: {off}");
    }
}

/// The mean of `scipy.ndimage.map_coordinates` 1.17 along a line.
#[test]
fn a_streak_is_the_mean_along_its_line() {
    let reference = reference();
    let (picture, case) = (picture(&reference), &reference["streaked"]);
    let streak = Streak {
        length: case["length"].as_f64().unwrap() as f32,
        angle: case["angle"].as_f64().unwrap() as f32,
    };
    let window = picture.window();
    let blurred = streak.apply(&picture, window, Edge::Hold, window, &Cancel::new()).unwrap();
    let off = worst(blurred.pixels(), &floats(&case["pixels"]));
    assert!(off < 1e-5, "{off}");
}

/// `scipy.ndimage` 1.17: grey_dilation, grey_erosion and distance_transform_edt.
#[test]
fn grown_fields_and_distances_are_scipys() {
    let reference = reference();
    let (picture, shapes) = (picture(&reference), &reference["shapes"]);
    let window = picture.window();
    for (name, length) in [("grown", 1.0), ("shrunk", -1.0)] {
        let moved = grow::grown(&picture, window, length, window, &Cancel::new()).unwrap();
        assert_eq!(worst(moved.pixels(), &floats(&shapes[name])), 0.0, "{name}");
    }
    for (name, side) in [("to_matte", Side::Matte), ("to_rest", Side::Rest)] {
        let found = distance(&picture, window, side, 100.0, window, &Cancel::new()).unwrap();
        let inside: Vec<f32> = floats(&shapes[name]);
        // Beyond the frame there is no matte for us and nothing at all for the library.
        let near_border = |index: usize| {
            let (x, y) = (index % window.width(), index / window.width());
            let apart = x.min(y).min(window.width() - 1 - x).min(window.height() - 1 - y);
            side == Side::Rest && inside[index] > apart as f32
        };
        for (index, (got, wanted)) in found.pixels().iter().zip(&inside).enumerate() {
            assert!((got - wanted).abs() < 1e-4 || near_border(index), "{name} at {index}: {got} {wanted}");
        }
    }
}

/// colour-science 0.4.7, with Bradford between whites; its cubes are looked up by tetrahedra.
#[test]
fn colours_in_other_spaces_and_looked_up_are_colour_sciences() {
    let reference = reference();
    let spaces = &reference["spaces"];
    let light: Vec<[f32; 3]> = floats(&spaces["light"]).as_chunks::<3>().0.to_vec();
    let from = Space::linear(BT709);
    let check = |name: &str, tolerance: f32, got: &dyn Fn([f32; 3]) -> [f32; 3], wanted: &Value| {
        for (light, wanted) in light.iter().zip(floats(wanted).as_chunks::<3>().0) {
            let off = worst(&got(*light), wanted);
            assert!(off < tolerance, "{name}: {light:?} {:?} {wanted:?}", got(*light));
        }
    };
    let space = |curve, primaries| Space { curve, primaries };
    // The reference is listed with six digits. The library's ACES matrices are the standard's, of seven digits, and its whites have six.
    for (name, tolerance, to) in [
        ("srgb", 6e-6, space(Curve::Srgb, BT709)),
        ("bt709", 2e-5, space(Curve::Bt709, BT709)),
        ("bt1886", 6e-6, space(Curve::Bt1886, BT709)),
        ("gamma22", 6e-6, space(Curve::Gamma22, BT709)),
        ("linear2020", 2e-4, Space::linear(BT2020)),
        ("acescg", 2e-4, Space::linear(AP1)),
        ("aces2065", 2e-4, Space::linear(AP0)),
        ("acescct", 2e-4, space(Curve::AcesCct, AP1)),
    ] {
        check(name, tolerance, &from.change(to), &spaces["in"][name]);
    }
    let colours = floats(&spaces["cube"]).as_chunks::<3>().0.to_vec();
    let high = [spaces["high"].as_f64().unwrap() as f32; 3];
    let side = number(&spaces["side"]) as usize;
    let lut = Lut { low: [0.0; 3], high, entries: Entries::Cube { side, colours } };
    check("cube", 1e-5, &|colour| lut.at(colour), &spaces["looked"]);
}

/// `numpy.histogram` 2.4.
#[test]
fn a_histogram_is_numpys() {
    let reference = reference();
    let counts: Vec<u64> =
        reference["histogram"].as_array().unwrap().iter().map(|count| count.as_u64().unwrap()).collect();
    assert_eq!(histogram(&picture(&reference), [0.125, 0.75], 16), [counts]);
}

/// `skimage.transform.warp` 0.26 of order 1.
#[test]
fn a_picture_through_a_homography_is_scikit_images() {
    let reference = reference();
    let picture = picture(&reference);
    let window = picture.window();
    let rows: Vec<f64> = floats(&reference["tilted"]["matrix"]).into_iter().map(f64::from).collect();
    let forth =
        Homography::from_rows(std::array::from_fn(|row| std::array::from_fn(|at| rows[3 * row + at])));
    let carried = Carried { back: forth.inverse().unwrap(), filter: Filter::Linear, edge: Edge::Hold };
    let seen = carried.apply(&picture, window, window, &Cancel::new()).unwrap();
    let off = worst(seen.pixels(), &floats(&reference["tilted"]["pixels"]));
    assert!(off < 5e-5, "{off}");
}

/// OpenCV 5's resize by INTER_AREA.
#[test]
fn a_shrunk_picture_is_opencvs_mean_of_areas() {
    let reference = reference();
    let small = &reference["shrunk"];
    let (width, height) = (number(&small["width"]), number(&small["height"]));
    let made = shrunk(&picture(&reference), width, height, &Cancel::new()).unwrap();
    let off = worst(made.pixels(), &floats(&small["pixels"]));
    assert!(off < 1e-5, "{off}");
}

/// Skia 144 on premultiplied floats; its plus stops at 1 where ours goes on.
#[test]
fn blends_are_skias_on_any_alphas() {
    let reference = reference();
    let blends = &reference["blends"];
    let pixels = |name: &str| -> Vec<Rgba> { floats(&blends[name]).as_chunks::<4>().0.to_vec() };
    let (below, layer) = (pixels("below"), pixels("layer"));
    let modes = [
        ("Src", Mode::Copy),
        ("SrcOver", Mode::Over),
        ("SrcIn", Mode::In),
        ("SrcOut", Mode::Out),
        ("SrcATop", Mode::Atop),
        ("Xor", Mode::Xor),
        ("DstOver", Mode::DestinationOver),
        ("DstIn", Mode::DestinationIn),
        ("DstOut", Mode::DestinationOut),
        ("DstATop", Mode::DestinationAtop),
        ("Plus", Mode::Plus),
        ("Multiply", Mode::Multiply),
        ("Screen", Mode::Screen),
        ("Overlay", Mode::Overlay),
        ("Darken", Mode::Darken),
        ("Lighten", Mode::Lighten),
        ("ColorDodge", Mode::ColourDodge),
        ("ColorBurn", Mode::ColourBurn),
        ("HardLight", Mode::HardLight),
        ("SoftLight", Mode::SoftLight),
        ("Difference", Mode::Difference),
        ("Exclusion", Mode::Exclusion),
        ("Hue", Mode::Hue),
        ("Saturation", Mode::Saturation),
        ("Color", Mode::Colour),
        ("Luminosity", Mode::Luminosity),
    ];
    for (name, mode) in modes {
        let wanted = floats(&blends["modes"][name]);
        for ((below, layer), wanted) in below.iter().zip(&layer).zip(wanted.as_chunks::<4>().0) {
            let got = blend(mode, *below, *layer, 1.0).map(|value| value.min(1.0));
            assert!(worst(&got, wanted) < 1e-5, "{name}: {below:?} {layer:?} {got:?} {wanted:?}");
        }
    }
}

/// scikit-image 0.26's `canny`; `edges.py` tells how. It leaves the outermost pixels out and breaks ties its own way.
#[test]
fn lines_are_scikit_images() {
    let reference = reference();
    let picture = picture(&reference);
    let window = picture.window();
    let cases: Value = serde_json::from_str(include_str!("edges.json")).unwrap();
    for case in cases.as_array().unwrap() {
        let number = |name: &str| case[name].as_f64().unwrap() as f32;
        let lines = Lines { sigma: number("sigma"), low: number("low"), high: number("high") };
        let found = lines.of(&picture, window, &Cancel::new()).unwrap();
        let theirs: Vec<Vec<u8>> = case["lines"]
            .as_array()
            .unwrap()
            .iter()
            .map(|row| row.as_str().unwrap().bytes().collect())
            .collect();
        let inner = Window::new(2, 2, window.x1 - 2, window.y1 - 2);
        let (mut both, mut either) = (0, 0);
        for (y, x) in (inner.y0..inner.y1).flat_map(|y| (inner.x0..inner.x1).map(move |x| (y, x))) {
            let (ours, theirs) = (found.get(x, y) == Some(1.0), theirs[y as usize][x as usize] == b'#');
            both += usize::from(ours && theirs);
            either += usize::from(ours || theirs);
        }
        assert!(both as f64 >= 0.97 * either as f64, "σ {}: {both} of {either}", lines.sigma);
    }
}

/// Planck's law and the CIE 1931 observer by colour-science 0.4.7; `temperature.py` tells how.
#[test]
fn black_bodies_have_the_colours_of_plancks_law() {
    let cases: Value = serde_json::from_str(include_str!("temperature.json")).unwrap();
    for case in cases.as_array().unwrap() {
        let got = black_body(case["kelvin"].as_f64().unwrap());
        let off =
            (0..2).map(|axis| (got[axis] - case["xy"][axis].as_f64().unwrap()).abs()).fold(0.0, f64::max);
        assert!(off < 1e-3, "{case}: {got:?}");
    }
    // IEC 61966-2-1's white is D65, near to a black body of 6504 K; a lamp of 3200 K is warm.
    assert_eq!(gains(6504.0, BT709), [1.0; 3]);
    let [red, green, blue] = gains(3200.0, BT709);
    assert!(red > green && green > blue);
    assert!((0.2126 * red + 0.7152 * green + 0.0722 * blue - 1.0).abs() < 1e-4);
}

/// Python's `colorsys`; `hsv.py` tells how.
#[test]
fn hues_are_colorsys_and_lead_back() {
    let cases: Value = serde_json::from_str(include_str!("hsv.json")).unwrap();
    for case in cases.as_array().unwrap() {
        let colour: [f32; 3] = floats(&case["rgb"]).try_into().unwrap();
        let made = hsv_from_rgb(colour);
        let near = |a: &[f32], b: &[f32]| a.iter().zip(b).all(|(a, b)| (a - b).abs() < 2e-6);
        assert!(near(&made, &floats(&case["hsv"])), "{case}: {made:?}");
        assert!(near(&rgb_from_hsv(made), &colour), "{case}: {:?}", rgb_from_hsv(made));
    }
}

/// OpenCV 5.0's `projectPoints`; `lens.py` tells how. The way back brings each place home.
#[test]
fn lenses_are_opencvs() {
    let lenses: Value = serde_json::from_str(include_str!("lens.json")).unwrap();
    let numbers = |value: &Value| -> Vec<f64> {
        value.as_array().unwrap().iter().map(|one| one.as_f64().unwrap()).collect()
    };
    for case in lenses.as_array().unwrap() {
        let lens = Lens {
            centre: numbers(&case["centre"]).try_into().unwrap(),
            focal: case["focal"].as_f64().unwrap(),
            radial: numbers(&case["radial"]).try_into().unwrap(),
            tangential: numbers(&case["tangential"]).try_into().unwrap(),
        };
        let (places, shown) = (case["places"].as_array().unwrap(), case["shown"].as_array().unwrap());
        for (place, wanted) in places.iter().zip(shown) {
            let place: [f64; 2] = numbers(place).try_into().unwrap();
            let (got, wanted) = (lens.bent(place), numbers(wanted));
            assert!((got[0] - wanted[0]).abs().max((got[1] - wanted[1]).abs()) < 1e-6, "{place:?}: {got:?}");
            let back = lens.straight(got).unwrap();
            assert!((back[0] - place[0]).abs().max((back[1] - place[1]).abs()) < 1e-5, "{place:?}: {back:?}");
        }
    }
}

/// scipy 1.17's splines in both directions, inverted by `fsolve`; `mesh.py` tells how.
#[test]
fn a_lattice_reads_where_scipys_splines_say() {
    let reference: Value = serde_json::from_str(include_str!("mesh.json")).unwrap();
    let place = |value: &Value| [0, 1].map(|axis| value[axis].as_f64().unwrap());
    let places = |name: &str| reference[name].as_array().unwrap().iter().map(place).collect::<Vec<_>>();
    let cells = ["rows", "columns"].map(|name| number(&reference[name]) as usize);
    let (rest, moved) = (places("rest"), places("moved"));
    for (through, name) in [(Through::Corners, "corners"), (Through::Near, "near")] {
        let corners = Corners { cells, rest: &rest, moved: &moved, added: [&[]; 2], through };
        let map = Mesh::new(&corners).unwrap().over(Window::sized(160, 120), &Cancel::new()).unwrap();
        let map = map.map(&Cancel::new()).unwrap();
        for read in reference[name].as_array().unwrap() {
            let [x, y] = place(&read["pixel"]);
            let by = map.get(x as i32, y as i32).unwrap();
            let from = [x + 0.5 - f64::from(by[0]), y + 0.5 - f64::from(by[1])];
            let wanted = place(&read["source"]);
            let off = (from[0] - wanted[0]).hypot(from[1] - wanted[1]);
            assert!(off < 0.01, "{through:?} {x} {y}: {from:?}, not {wanted:?}");
        }
    }
}

/// scipy 1.17's `RBFInterpolator`, Bookstein's thin plate, through the ties alone; `outlines.py` tells how. What goes through all of
/// the outlines bends no more than half as much again.
#[test]
fn at_its_best_a_shape_warp_bends_little_more_than_scipys_thin_plate() {
    let reference: Value = serde_json::from_str(include_str!("outlines.json")).unwrap();
    let two = |value: &Value| [0, 1].map(|axis| value[axis].as_f64().unwrap());
    let [wide, high] = two(&reference["size"]).map(|size| size as usize);
    let outline = |ellipse: &Value| {
        let [middle, rest, goal] = ["middle", "rest", "goal"].map(|name| two(&ellipse[name]));
        let turn = |at: i32| (f64::from(at) / 2000.0 * std::f64::consts::TAU).sin_cos();
        Outline {
            places: (0..2000)
                .map(turn)
                .map(|(s, c)| [middle[0] + rest[0] * c, middle[1] + rest[1] * s])
                .collect(),
            ways: (0..2000)
                .map(turn)
                .map(|(s, c)| [(goal[0] - rest[0]) * c, (goal[1] - rest[1]) * s])
                .collect(),
        }
    };
    let outlines: Vec<Outline> = reference["ellipses"].as_array().unwrap().iter().map(outline).collect();
    let frame = Window::sized(960, 640);
    let shaped = Shaped::new(&outlines, &[], Quality::Exact, 1.0, frame, &Cancel::new()).unwrap();
    let step = reference["step"].as_u64().unwrap() as usize;
    let (columns, rows) = (wide / step + 1, high / step + 1);
    let way = |row: usize, column: usize| {
        let place = [column, row].map(|at| (at * step) as f64 / 64.0);
        let tile = place.map(f64::floor);
        shaped.at((tile[1] * 15.0 + tile[0]) as usize, [place[0] - tile[0], place[1] - tile[1]]).way
    };
    let ways: Vec<Vec<[f64; 2]>> =
        (0..rows).map(|row| (0..columns).map(|column| way(row, column)).collect()).collect();
    let mut energy = 0.0;
    for row in 1..rows - 1 {
        for column in 1..columns - 1 {
            let at = |down: usize, across: usize| ways[row + down - 1][column + across - 1];
            let sum = |parts: &[([usize; 2], f64)]| {
                parts.iter().fold([0.0; 2], |[x, y], ([down, across], by)| {
                    let way = at(*down, *across);
                    [x + way[0] * by, y + way[1] * by]
                })
            };
            let xx = sum(&[([1, 2], 1.0), ([1, 1], -2.0), ([1, 0], 1.0)]);
            let yy = sum(&[([2, 1], 1.0), ([1, 1], -2.0), ([0, 1], 1.0)]);
            let xy = sum(&[([2, 2], 0.25), ([2, 0], -0.25), ([0, 2], -0.25), ([0, 0], 0.25)]);
            let square = |[x, y]: [f64; 2]| x * x + y * y;
            energy += square(xx) + square(yy) + 2.0 * square(xy);
        }
    }
    let ratio = energy / reference["energy"].as_f64().unwrap();
    assert!((0.8..1.5).contains(&ratio), "{ratio}");
}

/// A hole of the picture, and what others make of it; `fill.py` tells how.
fn hole() -> (Field, Field, Value) {
    let told: Value = serde_json::from_str(include_str!("fill.json")).unwrap();
    let picture = picture(&reference());
    let marks = told["hole"].as_array().unwrap().iter().flat_map(|row| row.as_str().unwrap().chars());
    let marks = marks.map(|mark| f32::from(mark == '#')).collect();
    let hole = Raster::from_pixels(picture.window(), marks).unwrap();
    (picture, hole, told)
}

fn in_hole(field: &Field, hole: &Field) -> Vec<f32> {
    let both = field.pixels().iter().zip(hole.pixels());
    both.filter(|(_, hole)| **hole > 0.0).map(|(value, _)| *value).collect()
}

/// Laplace's equation as `scipy.sparse.linalg.spsolve` 1.17 solves it directly.
#[test]
fn a_membrane_over_a_hole_is_scipys() {
    let (picture, hole, told) = hole();
    let made = membrane(&picture, &hole, &Cancel::new()).unwrap();
    let off = worst(&in_hole(&made, &hole), &floats(&told["laplace"]));
    assert!(off < 2e-4, "{off}");
}

/// Poisson's equation as Pérez, Gangnet and Blake, "Poisson image editing", 2003, put it, solved directly by scipy: what is
/// brought, and a membrane over what it is off at the rim.
#[test]
fn gradients_that_are_kept_are_scipys_of_poissons_equation() {
    let (picture, hole, told) = hole();
    let window = picture.window();
    let [down, right] = [0, 1].map(|at| number(&told["rolled"][at]) as i32);
    let [wide, high] = [window.width() as i32, window.height() as i32];
    let brought: Field = Raster::from_fn(window, |x, y| {
        picture.get((x - right).rem_euclid(wide), (y - down).rem_euclid(high)).unwrap()
    });
    let off_by: Field =
        Raster::from_fn(window, |x, y| picture.get(x, y).unwrap() - brought.get(x, y).unwrap());
    let membrane = membrane(&off_by, &hole, &Cancel::new()).unwrap();
    let made: Field =
        Raster::from_fn(window, |x, y| brought.get(x, y).unwrap() + membrane.get(x, y).unwrap());
    let off = worst(&in_hole(&made, &hole), &floats(&told["poisson"]));
    assert!(off < 4e-4, "{off}");
}
