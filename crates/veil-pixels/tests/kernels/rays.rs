//! Checks of `light::rays`.

use proptest::prelude::*;
use veil_pixels::light::rays::Rays;
use veil_pixels::sample::resample::{Filter, Sampler};
use veil_pixels::{Cancel, Edge, Picture, Raster, Rgba, Window};

const FRAME: Window = Window::new(-7, 3, 90, 67);

fn shining() -> Picture {
    Raster::from_fn(FRAME, |x, y| {
        let (u, v) = (x as f32 * 0.37, y as f32 * 0.29);
        let bright = (u.sin() * v.cos() + 0.2).max(0.0);
        [bright, bright * 0.5, (v * 1.3).sin().max(0.0), 0.0]
    })
}

fn drawn(rays: Rays, from: &Picture, wanted: Window) -> Picture {
    let source = from.cropped(rays.reads(wanted, FRAME));
    rays.apply(&source, FRAME, FRAME, wanted, &Cancel::new()).unwrap()
}

/// The weighted light of a pixel's ray, in steps of a quarter of a pixel.
fn summed(rays: Rays, from: &Picture, x: i32, y: i32) -> Rgba {
    const STEP: f64 = 0.25;
    let sampler = Sampler::new(from, FRAME, Edge::Clear);
    let at = [f64::from(x) + 0.5, f64::from(y) + 0.5];
    let way = [0, 1].map(|axis| at[axis] - rays.centre[axis]);
    let far = way[0].hypot(way[1]);
    let (mut light, mut whole) = ([0.0f64; 4], 0.0);
    for step in 0..(rays.length / STEP) as usize {
        let gone = (step as f64 + 0.5) * STEP;
        let weight = (1.0 - gone / rays.length) * (-rays.fade * gone / rays.length).exp();
        whole += weight;
        if gone < far {
            let [px, py] = [0, 1].map(|axis| (at[axis] - way[axis] / far * gone) as f32);
            let pixel = sampler.at(Filter::Linear, px, py);
            (0..4).for_each(|channel| light[channel] += weight * f64::from(pixel[channel]));
        }
    }
    light.map(|part| (part / whole) as f32)
}

/// Against brute force: centres within, at the side and far beyond, short and long, straight and fading.
#[test]
fn shafts_are_the_sums_of_their_rays() {
    let from = shining();
    for (centre, length, fade) in [
        ([40.3, 30.8], 30.0, 0.0),
        ([40.0, 30.0], 200.0, 3.0),
        ([-7.0, 30.2], 60.0, 1.0),
        ([300.0, -900.0], 45.0, 2.0),
    ] {
        let rays = Rays { centre, length, fade };
        let got = drawn(rays, &from, FRAME);
        let apart = |x: i32, y: i32| {
            let (got, wanted) = (got.get(x, y).unwrap(), summed(rays, &from, x, y));
            (0..3).map(|channel| (got[channel] - wanted[channel]).abs()).fold(0.0, f32::max)
        };
        let all: Vec<f32> = (FRAME.y0..FRAME.y1)
            .flat_map(|y| (FRAME.x0..FRAME.x1).map(move |x| (x, y)))
            // Nearer to the centre a ray has too few pixels to be a sum.
            .filter(|(x, y)| (f64::from(*x) - centre[0]).hypot(f64::from(*y) - centre[1]) > 4.0)
            .map(|(x, y)| apart(x, y))
            .collect();
        let (mean, most) =
            (all.iter().sum::<f32>() / all.len() as f32, all.iter().fold(0.0f32, |a, b| a.max(*b)));
        assert!(mean < 0.004 && most < 0.05, "{centre:?} {length} {fade}: {mean} {most}");
    }
}

/// An even surface stays as bright as it is, as far from the centre as a shaft is long.
#[test]
fn an_even_surface_keeps_its_light() {
    let even = Raster::from_fn(FRAME, |_, _| [0.7, 0.2, 3.0, 0.0]);
    for fade in [0.0, 0.5, 4.0] {
        let got = drawn(Rays { centre: [40.0, 30.0], length: 12.0, fade }, &even, FRAME);
        let pixel = got.get(40, 60).unwrap();
        (0..3).for_each(|at| assert!((pixel[at] / [0.7, 0.2, 3.0][at] - 1.0).abs() < 1e-3, "{pixel:?}"));
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// A region is the crop of the whole, bit for bit, wherever the centre is.
    #[test]
    fn a_region_is_the_crop(
        centre in prop::array::uniform2(-300.0..300.0f64), length in 0.5..400.0f64, fade in 0.0..5.0f64,
        x in -7..80i32, y in 3..60i32, wide in 1..20i32, high in 1..20i32,
    ) {
        let (from, rays) = (shining(), Rays { centre, length, fade });
        let part = Window::new(x, y, x + wide, y + high).intersect(FRAME);
        prop_assert!(drawn(rays, &from, part) == drawn(rays, &from, FRAME).cropped(part));
    }
}

/// What cannot be is nothing, and does not last: centres without end, and lengths.
#[test]
fn no_centre_and_no_length_breaks_it() {
    let from = shining();
    for (centre, length) in [([1e9, -1e9], 600.0), ([40.5, 30.5], 1e12), ([40.5, 30.5], 0.0)] {
        let got = drawn(Rays { centre, length, fade: 1.0 }, &from, FRAME);
        assert!(got.pixels().iter().flatten().all(|part| part.is_finite()));
    }
}
