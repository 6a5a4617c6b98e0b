//! Checks of `softness`.

use veil_pixels::filter::blur::{Sigma, gaussian};
use veil_pixels::sample::resample::{Filter, Sampler};
use veil_pixels::sample::softness::{SoftScratch, Softness, sigma_of};
use veil_pixels::{Cancel, Edge, Raster, Window};

/// A blurred border is the border of the blurred signal: each level agrees with the plain Gaussian of the
/// signal continued by hand.
#[test]
fn every_level_agrees_with_a_gaussian_of_the_signal_carried_on_past_its_border() {
    let data = Window::new(3, -5, 61, 40);
    let picture = Raster::from_fn(data, |x, y| 0.5 + 0.5 * (x as f32 * 0.37).sin() * (y as f32 * 0.29).cos());
    let around = data.grow(120, 120);
    for edge in [Edge::Clear, Edge::Hold, Edge::Mirror, Edge::Repeat] {
        let carried_on = picture.extended(around, data, edge);
        let softness = Softness::new(&picture, data, edge, data.grow(30, 30), 12.0, &Cancel::new()).unwrap();
        let reader = softness.reader(Sampler::new(&picture, data, edge));
        for level in 0..softness.count() {
            let sigma = sigma_of(level as i32);
            let wanted = data.grow(30, 30);
            let true_blur =
                gaussian(&carried_on, around, edge, Sigma::round(sigma), wanted, &Cancel::new()).unwrap();
            let mut worst = 0.0f32;
            for y in (wanted.y0..wanted.y1).step_by(3) {
                for x in wanted.x0..wanted.x1 {
                    let got = reader.at(Filter::Cubic, sigma * sigma, x as f32 + 0.5, y as f32 + 0.5);
                    worst = worst.max((got - true_blur.get(x, y).unwrap()).abs());
                }
            }
            assert!(worst < 6e-3, "{edge:?}, level {level}: {worst}");
        }
    }
}

/// A run of places gives what each of them gives alone, bit for bit, inside and beyond the border, softened alike or not.
#[test]
fn a_run_of_softened_places_gives_what_each_gives_alone() {
    let data = Window::new(3, -5, 61, 40);
    let picture =
        Raster::from_fn(data, |x, y| [(x as f32 * 0.37).sin(), (y as f32 * 0.29).cos(), x as f32 * 0.1, 1.0]);
    for edge in [Edge::Clear, Edge::Hold, Edge::Mirror, Edge::Repeat] {
        let softness = Softness::new(&picture, data, edge, data.grow(30, 30), 12.0, &Cancel::new()).unwrap();
        let reader = softness.reader(Sampler::new(&picture, data, edge));
        let line = |from: f32, step: f32| (0..90).map(|at| from + step * at as f32).collect::<Vec<f32>>();
        let strewn = (0..90).map(|at| (at * 37 % 90) as f32 * 1.8).collect();
        let mut scratch = SoftScratch::default();
        for (x, y, variances) in [
            (line(8.1, 0.43), line(2.7, 0.21), line(0.9, 0.01)),
            (line(8.1, 0.43), line(2.7, 0.21), line(0.0, 0.002)),
            (line(-40.0, 1.3), line(60.0, -1.1), line(30.0, 0.2)),
            (line(10.0, 0.3), line(9.0, 0.3), line(0.0, 1.4)),
            (line(-6.0, 0.9), line(12.0, 0.3), strewn),
        ] {
            for filter in [Filter::Linear, Filter::Cubic] {
                let mut out = vec![[0.0f32; 4]; x.len()];
                reader.read_run(&mut scratch, filter, [&x, &y], &variances, &mut out);
                for (at, out) in out.iter().enumerate() {
                    assert_eq!(*out, reader.at(filter, variances[at], x[at], y[at]), "{edge:?} {at}");
                }
            }
        }
    }
}
