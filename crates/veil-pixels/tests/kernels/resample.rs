//! Checks of `resample`.

use veil_pixels::sample::resample::*;
use veil_pixels::{Edge, Raster, Window};

fn ramp(data: Window) -> Raster<f32> {
    Raster::from_fn(data, |x, y| 3.0 * (x as f32 + 0.5) - 2.0 * (y as f32 + 0.5))
}

/// Keys 1981: the weights sum to 1 and a linear ramp is reproduced.
#[test]
fn a_ramp_read_between_pixels_is_the_ramp() {
    let data = Window::sized(16, 16);
    let ramp = ramp(data);
    let sampler = Sampler::new(&ramp, data, Edge::Hold);
    for filter in [Filter::Linear, Filter::Cubic, Filter::Mitchell] {
        for step in 0..50 {
            let (x, y) = (4.0 + 0.13 * step as f32, 5.0 + 0.07 * step as f32);
            let got = sampler.at(filter, x, y);
            assert!((got - (3.0 * x - 2.0 * y)).abs() < 1e-4, "{filter:?} at {x}, {y}: {got}");
        }
    }
}

#[test]
fn a_pixel_centre_reads_that_pixel_exactly() {
    let data = Window::new(-3, -3, 9, 9);
    let noisy = Raster::from_fn(data, |x, y| ((x * 31 + y * 17).rem_euclid(97)) as f32 / 7.0);
    let sampler = Sampler::new(&noisy, data, Edge::Mirror);
    for filter in [Filter::Nearest, Filter::Linear, Filter::Cubic, Filter::Lanczos] {
        for (x, y) in [(-3, -3), (0, 0), (8, 8), (4, -1)] {
            assert_eq!(Some(sampler.at(filter, x as f32 + 0.5, y as f32 + 0.5)), noisy.get(x, y));
        }
    }
}

/// The plain way is the reference for what is read many places at a time.
#[test]
fn a_run_of_places_reads_the_same_bits_as_each_of_them_alone() {
    let data = Window::new(-4, 3, 57, 44);
    let value =
        |x: i32, y: i32, c: i32| ((x * 7919 + y * 104_729 + c * 31).rem_euclid(1013)) as f32 / 97.0 - 3.0;
    let picture = Raster::from_fn(data, |x, y| [0, 1, 2, 3].map(|c| value(x, y, c)));
    let field = Raster::from_fn(data, |x, y| value(x, y, 0));
    let places: Vec<[f32; 2]> =
        (0..900).map(|n| [(n * 37 % 701) as f32 * 0.1 - 9.0, (n * 53 % 503) as f32 * 0.1 - 2.0]).collect();
    let fill = |from: usize, x: &mut [f32], y: &mut [f32]| {
        for (index, place) in places[from..from + x.len()].iter().enumerate() {
            (x[index], y[index]) = (place[0], place[1]);
        }
    };
    for filter in [Filter::Nearest, Filter::Linear, Filter::Cubic, Filter::Mitchell, Filter::Lanczos] {
        for edge in [Edge::Clear, Edge::Mirror] {
            let (pictures, fields) = (Sampler::new(&picture, data, edge), Sampler::new(&field, data, edge));
            let (mut many, mut single) = (vec![[0.0; 4]; places.len()], vec![0.0; places.len()]);
            pictures.read_run(filter, fill, &mut many);
            fields.read_run(filter, fill, &mut single);
            for ((place, many), single) in places.iter().zip(many).zip(single) {
                let [x, y] = *place;
                assert_eq!(many, pictures.at(filter, x, y), "{filter:?} {edge:?} at {x}, {y}");
                assert_eq!(single, fields.at(filter, x, y), "{filter:?} {edge:?} at {x}, {y}");
            }
        }
    }
}

#[test]
fn places_that_are_no_place_read_without_a_crash() {
    let data = Window::sized(4, 4);
    let flat = Raster::flat(data, 1.0f32);
    let sampler = Sampler::new(&flat, data, Edge::Clear);
    for place in [f32::NAN, f32::INFINITY, -1e30, 3e9] {
        for filter in [Filter::Nearest, Filter::Linear, Filter::Cubic, Filter::Mitchell, Filter::Lanczos] {
            let got = sampler.at(filter, place, 1.5);
            assert!(got == 0.0 || got.is_nan(), "{got}");
        }
    }
}
