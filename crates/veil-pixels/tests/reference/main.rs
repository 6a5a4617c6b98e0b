//! The kernels beside what well-known libraries make of the same small natural picture; `make.py` tells how.
#![expect(clippy::unwrap_used, reason = "a test that cannot go on says where")]

use serde_json::Value;
use veil_pixels::blend::{Mode, blend};
use veil_pixels::blur::{Sigma, gaussian};
use veil_pixels::displace::{Displacement, Moves};
use veil_pixels::perspective::{Carried, Homography};
use veil_pixels::resample::{Filter, Sampler};
use veil_pixels::resize::shrunk;
use veil_pixels::{Cancel, Edge, Field, Raster, Rgba, Window};

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

/// Pillow 13 enlarging by its bicubic, which is Keys' cubic of a = −1/2.
#[test]
fn the_cubic_read_at_thirds_of_pixels_is_pillows_enlargement() {
    let reference = reference();
    let picture = picture(&reference);
    let large = &reference["enlarged"];
    let (times, border) = (number(&large["times"]) as i32, number(&large["border"]) as i32);
    let sampler = Sampler::new(&picture, picture.window(), Edge::Hold);
    let Window { x1, y1, .. } = picture.window();
    let mut read = Vec::new();
    for y in border * times..(y1 - border) * times {
        for x in border * times..(x1 - border) * times {
            let place = |at: i32| (at as f32 + 0.5) / times as f32;
            read.push(sampler.at(Filter::Cubic, place(x), place(y)));
        }
    }
    let off = worst(&read, &floats(&large["pixels"]));
    assert!(off < 2e-5, "{off}");
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
    let modes =
        [("over", Mode::Over), ("plus", Mode::Plus), ("multiply", Mode::Multiply), ("screen", Mode::Screen)];
    for (name, mode) in modes {
        for ((below, layer), wanted) in below.iter().zip(&layer).zip(pixels(name)) {
            let got = blend(mode, *below, *layer, 1.0).map(|value| value.min(1.0));
            assert!(worst(&got, &wanted) < 1e-5, "{name}: {got:?} {wanted:?}");
        }
    }
}
