//! Checks of `blur`.

use veil_pixels::filter::blur::*;
use veil_pixels::{Cancel, Edge, Raster, Window};

fn blurred_dot(sigma: f32, at: i32) -> Raster<f32> {
    let reach = (sigma * 5.0) as i32 + 8;
    let data = Window::new(at - reach, at - 2, at + reach, at + 3);
    let mut dot = Raster::clear(data);
    for y in data.y0..data.y1 {
        dot.set(at, y, 1.0);
    }
    let sigma = Sigma { x: sigma, y: 0.0 };
    gaussian(&dot, data, Edge::Clear, sigma, data, &Cancel::new()).unwrap()
}

/// The true kernel is the Gaussian of the given σ, sampled; 1e-3 of its peak, at every phase of the halved grids.
#[test]
fn a_blurred_dot_is_the_true_gaussian_within_a_thousandth_of_its_peak() {
    for sigma in [0.7f32, 2.0, 3.9, 4.0, 6.0, 10.0, 30.0, 100.0] {
        for at in 0..8 {
            let row = blurred_dot(sigma, at);
            let s = f64::from(sigma);
            let sum: f64 = (-2000..2000).map(|x| (-0.5 * (f64::from(x) / s).powi(2)).exp()).sum();
            let worst = row
                .row(at)
                .iter()
                .zip(row.window().x0..)
                .map(|(got, x)| {
                    let truth = (-0.5 * (f64::from(x - at) / s).powi(2)).exp() / sum;
                    (f64::from(*got) - truth).abs() * sum
                })
                .fold(0.0, f64::max);
            assert!(worst < 1e-3, "σ {sigma} at {at}: {worst}");
        }
    }
}

#[test]
fn a_flat_picture_stays_flat_up_to_a_held_border() {
    let data = Window::sized(37, 23);
    let flat = Raster::flat(data, [0.25f32, 0.5, 0.75, 1.0]);
    for sigma in [0.6, 5.0, 40.0] {
        let blurred = gaussian(&flat, data, Edge::Hold, Sigma::round(sigma), data, &Cancel::new()).unwrap();
        for pixel in blurred.pixels() {
            assert!(pixel.iter().zip([0.25, 0.5, 0.75, 1.0]).all(|(a, b)| (a - b).abs() < 1e-5), "{pixel:?}");
        }
    }
}

#[test]
fn a_region_is_the_crop_of_the_whole_bit_for_bit() {
    let data = Window::new(-5, -3, 90, 71);
    let noisy = Raster::from_fn(data, |x, y| ((x * 7919 + y * 104_729) % 1013) as f32 / 1013.0);
    let sigma = Sigma { x: 11.0, y: 3.0 };
    let whole = gaussian(&noisy, data, Edge::Mirror, sigma, data, &Cancel::new()).unwrap();
    let part = Window::new(13, 20, 50, 41);
    let region = gaussian(&noisy, data, Edge::Mirror, sigma, part, &Cancel::new()).unwrap();
    assert_eq!(region, whole.cropped(part));
}

#[test]
fn the_fast_sums_agree_with_the_plain_ones_on_odd_sizes() {
    let source: Vec<f32> = (0..400).map(|i| ((i * 37) % 101) as f32).collect();
    let weights = gaussian_weights(2.3);
    for length in [1, 31, 32, 33, 200] {
        let mut fast = vec![0.0; length];
        weigh_neighbours(&source, 4, &weights, &mut fast);
        for (i, got) in fast.iter().enumerate() {
            let plain: f32 = weights.iter().enumerate().map(|(k, w)| w * source[i + 4 * k]).sum();
            assert!((got - plain).abs() < 1e-4);
        }
    }
}
