//! Points of photographs, moved by known fractions of a pixel under noise, and followed.

use std::path::PathBuf;

use veil_pixels::sample::resample::{Filter, Sampler};
use veil_pixels::track::{Known, PointSettings, PointTracker, corners};
use veil_pixels::{Cancel, Edge, Field, Raster, Window};

use super::composites::{TEXTURES, codes};

const FRAMES: usize = 16;
/// Noise of a hundredth, as a standard deviation of the codes.
const NOISE: f32 = 0.01;

/// Where a sequence is after so many frames.
fn moved(seed: u64, frame: usize) -> [f64; 2] {
    let t = frame as f64 / FRAMES as f64 * std::f64::consts::TAU;
    let (a, b) = (seed as f64 * 0.7, seed as f64 * 1.3);
    [5.3 * ((t + a).sin() - a.sin()), 4.1 * ((t * 0.7 + b).sin() - b.sin())]
}

/// So many normal numbers: the sums of twelve even ones, less 6.
fn normal(seed: u64, count: usize) -> Vec<f32> {
    let mut state = seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1;
    let mut even = || {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        (state >> 40) as f32 / (1u64 << 24) as f32
    };
    (0..count).map(|_| (0..12).map(|_| even()).sum::<f32>() - 6.0).collect()
}

#[test]
fn under_noise_of_a_hundredth_points_are_followed_within_a_quarter_of_a_pixel() {
    let folder = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("tests/truth/composites/green");
    let mut worst = Vec::new();
    for texture in TEXTURES {
        let seen = codes(&folder.join(format!("{texture}_clean.png")));
        let window = seen.window();
        let grey: Field = Raster::from_fn(window, |x, y| {
            let [r, g, b, _] = seen.get(x, y).unwrap();
            0.3 * r + 0.59 * g + 0.11 * b
        });
        // Room for the pattern and for how far it moves.
        let room = Window::new(30, 30, window.x1 - 30, window.y1 - 30);
        let points = corners(&grey, 13, 6.0, |x, y| room.holds(x, y), &Cancel::new()).unwrap();
        for (seed, point) in points.iter().enumerate() {
            let frame = |number: usize| -> Field {
                let [dx, dy] = moved(seed as u64, number).map(|by| by as f32);
                let sampler = Sampler::new(&grey, window, Edge::Mirror);
                let noise = normal((seed * FRAMES + number) as u64, window.area());
                Raster::from_fn(window, |x, y| {
                    let at = (x as f32 + 0.5 - dx, y as f32 + 0.5 - dy);
                    sampler.at(Filter::Lanczos, at.0, at.1)
                        + NOISE * noise[y as usize * window.width() + x as usize]
                })
            };
            let mut tracker = PointTracker::new(&frame(0), *point, PointSettings::default()).unwrap();
            let mut most = 0.0f64;
            for number in 1..FRAMES {
                let found = tracker.step(&frame(number));
                let [dx, dy] = moved(seed as u64, number);
                let off = (found.at[0] - point[0] - dx).hypot(found.at[1] - point[1] - dy);
                most = most.max(if found.known == Known::Lost { f64::INFINITY } else { off });
            }
            worst.push(most);
        }
    }
    worst.sort_by(f64::total_cmp);
    let (count, within) = (worst.len(), worst.iter().filter(|off| **off <= 0.25).count());
    println!(
        "{within} of {count} within a quarter, median {:.3}, worst {:.3}",
        worst[count / 2],
        worst[count - 1]
    );
    assert!(count >= 90 && within * 100 >= count * 99, "{within} of {count}: {:?}", &worst[count - 5..]);
}
