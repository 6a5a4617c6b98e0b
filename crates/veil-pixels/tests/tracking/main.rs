//! Points and regions of natural pictures, followed over moves that are known; `make.py` tells how they were made.
#![expect(clippy::unwrap_used, reason = "a test that cannot go on says where")]

mod surface;

use serde_json::Value;
use veil_pixels::track::{Known, Motion, PlaneSettings, PlaneTracker, PointSettings, PointTracker, corners};
use veil_pixels::warp::perspective::Homography;
use veil_pixels::{Cancel, Field, Raster, Window};

/// A pair of frames and where places of the first went in the second.
struct Pair {
    name: String,
    motion: Motion,
    first: Field,
    moved: Field,
    went: Homography,
}

fn pairs() -> Vec<Pair> {
    let listed: Value = serde_json::from_str(include_str!("frames.json")).unwrap();
    let side = listed["side"].as_u64().unwrap() as usize;
    let bytes = include_bytes!("frames.bin");
    let frame = |number: &Value| {
        let from = number.as_u64().unwrap() as usize * side * side;
        let values = bytes[from..from + side * side].iter().map(|byte| f32::from(*byte) / 255.0).collect();
        Raster::from_pixels(Window::sized(side as u32, side as u32), values).unwrap()
    };
    let pair = |pair: &Value| {
        let entry = |row: usize, column: usize| pair["matrix"][row][column].as_f64().unwrap();
        let matrix = Homography::from_rows(std::array::from_fn(|row| {
            std::array::from_fn(|column| entry(row, column))
        }));
        let middle = side as f64 / 2.0;
        Pair {
            name: format!("{} to {}", pair["picture"].as_str().unwrap(), pair["moved"]),
            motion: if pair["motion"] == "shift" { Motion::Shift } else { Motion::Similarity },
            first: frame(&pair["first"]),
            moved: frame(&pair["moved"]),
            went: Homography::shift(-middle, -middle).then(matrix).then(Homography::shift(middle, middle)),
        }
    };
    listed["pairs"].as_array().unwrap().iter().map(pair).collect()
}

const fn everything(_: [f64; 2], _: [f64; 2]) -> bool {
    true
}

fn apart(a: [f64; 2], b: [f64; 2]) -> f64 {
    (a[0] - b[0]).hypot(a[1] - b[1])
}

/// Lucas and Kanade 1981, Baker and Matthews 2004: half of the points within 0.05 pixels, 99 of 100 within 0.25.
#[test]
fn points_of_natural_pictures_are_followed_to_a_twentieth_of_a_pixel() {
    let mut off = Vec::new();
    for pair in pairs() {
        let places = corners(&pair.first, 40, 9.0, |_, _| true, &Cancel::new()).unwrap();
        let side = f64::from(pair.first.window().x1);
        let within = |at: [f64; 2]| at.iter().all(|v| (17.0..side - 17.0).contains(v));
        // What turns about the middle moves farther at the border than the search box lets it.
        let searched = |at: [f64; 2], to: [f64; 2]| (0..2).all(|axis| (to[axis] - at[axis]).abs() <= 15.0);
        let seen = |at: &[f64; 2]| {
            let to = pair.went.at(*at).unwrap();
            within(*at) && within(to) && searched(*at, to)
        };
        for at in places.into_iter().filter(seen) {
            let settings = PointSettings { motion: pair.motion, ..PointSettings::default() };
            let mut tracker = PointTracker::new(&pair.first, at, settings).unwrap();
            let found = tracker.step(&pair.moved);
            let miss = if found.known == Known::Lost {
                f64::INFINITY
            } else {
                apart(found.at, pair.went.at(at).unwrap())
            };
            off.push((miss, pair.name.clone(), at));
        }
    }
    off.sort_by(|a, b| a.0.total_cmp(&b.0));
    let share = |share: f64| off[((off.len() - 1) as f64 * share) as usize].0;
    let worst: Vec<String> =
        off.iter().rev().take(12).map(|(off, name, at)| format!("{off:.3} {name} {at:?}")).collect();
    assert!(off.len() > 400, "{}", off.len());
    assert!(
        share(0.5) <= 0.05 && share(0.99) <= 0.25,
        "of {}: median {:.4}, 99 of 100 {:.4}; {worst:#?}",
        off.len(),
        share(0.5),
        share(0.99)
    );
}

/// The corners of a plane, three tenths of it covered by another picture.
#[test]
fn a_plane_is_followed_to_a_quarter_of_a_pixel_with_a_third_of_it_covered() {
    let all = pairs();
    let mut off = Vec::new();
    for (number, pair) in all.iter().enumerate() {
        let other = &all[(number + 5) % all.len()].first;
        let region = Window::new(40, 45, 140, 135);
        let cancel = Cancel::new();
        let mut tracker =
            PlaneTracker::new(&pair.first, region, PlaneSettings::default(), everything, &cancel)
                .unwrap()
                .unwrap();
        let covered = Raster::from_fn(pair.moved.window(), |x, y| {
            let from = if (75..125).contains(&x) && (60..114).contains(&y) { other } else { &pair.moved };
            from.get(x, y).unwrap()
        });
        let found = tracker.step(&covered, everything, &cancel).unwrap();
        for corner in [[40.0, 45.0], [140.0, 45.0], [140.0, 135.0], [40.0, 135.0]] {
            let at = found.map_or([f64::INFINITY; 2], |fit| fit.placed.at(corner).unwrap());
            off.push((apart(at, pair.went.at(corner).unwrap()), pair.name.clone()));
        }
    }
    off.sort_by(|a, b| a.0.total_cmp(&b.0));
    let median = off[off.len() / 2].0;
    assert!(median <= 0.25, "median {median:.3}; {:?}", off.iter().rev().take(16).collect::<Vec<_>>());
}
