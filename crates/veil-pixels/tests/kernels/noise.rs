//! Checks of `noise`.

use veil_pixels::noise::*;
use veil_pixels::{Cancel, Field, Raster, Window};

pub(crate) fn noise() -> Noise {
    Noise {
        seed: 7,
        basis: Basis::Gradient,
        size: [40.0, 25.0],
        offset: [0.0, 0.0],
        angle: 0.0,
        depth: Some(0.4),
        period: None,
        octaves: 1,
        lacunarity: 2.0,
        gain: 0.5,
        fold: Fold::Plain,
    }
}

/// An octave with eight pixels to a cell.
pub(crate) fn octave(depth: Option<f64>) -> Octave {
    Noise { size: [8.0; 2], depth, ..noise() }.octaves(1.0)[0]
}

fn over(noise: &Noise) -> Field {
    noise.over(Window::sized(400, 300), 1.0, &Cancel::new()).unwrap()
}

fn correlation(a: &Field, b: &Field) -> f64 {
    let pairs = || a.pixels().iter().zip(b.pixels()).map(|(a, b)| (f64::from(*a), f64::from(*b)));
    let (aa, bb, ab) =
        pairs().fold((0.0, 0.0, 0.0), |(aa, bb, ab), (a, b)| (aa + a * a, bb + b * b, ab + a * b));
    ab / (aa * bb).sqrt()
}

/// Less its mean.
fn centred(field: &Field) -> Field {
    let mean = field.pixels().iter().sum::<f32>() / field.pixels().len() as f32;
    field.map(&Cancel::new(), |value: f32| value - mean).unwrap()
}

/// Perlin 2002: the noise is zero at every lattice point.
#[test]
fn noise_is_zero_at_lattice_points_and_stays_within_one() {
    for i in -6..6 {
        for j in -6..6 {
            assert_eq!(gradient_noise(3, [f64::from(i), f64::from(j), 2.0]), 0.0);
            let between = gradient_noise(3, [f64::from(i) + 0.37, f64::from(j) + 0.61, 0.52]);
            assert!(between.abs() <= 1.0 && between != 0.0);
        }
    }
}

#[test]
fn the_mean_is_near_zero() {
    let field =
        Noise { size: [7.0, 7.0], ..noise() }.over(Window::sized(1200, 1200), 1.0, &Cancel::new()).unwrap();
    let mean = field.pixels().iter().map(|v| f64::from(*v)).sum::<f64>() / field.pixels().len() as f64;
    assert!(mean.abs() < 5e-3, "{mean}");
}

/// Common practice: one unit of depth is a wholly new pattern; a small step is nearly the same one.
#[test]
fn one_unit_of_depth_is_a_new_pattern_and_a_hundredth_is_not() {
    for basis in [Basis::Gradient, Basis::Simplex, Basis::Value, Basis::Cells, Basis::Walls] {
        let at =
            |depth: f64| centred(&over(&Noise { basis, depth: Some(depth), size: [9.0, 9.0], ..noise() }));
        assert!(correlation(&at(0.4), &at(1.4)).abs() < 0.1, "{basis:?}");
        assert!(correlation(&at(0.4), &at(0.41)) > 0.99, "{basis:?}");
    }
}

/// A loop: after its period each pattern is the one it began as, and within it is not.
#[test]
fn a_loop_ends_where_it_began() {
    for basis in [Basis::Gradient, Basis::Simplex, Basis::Value, Basis::Cells, Basis::Walls] {
        for (angle, octaves) in [(0.0, 3), (0.5, 1)] {
            let noise = Noise { basis, angle, octaves, period: Some(6), size: [9.0; 2], ..noise() };
            let at = |depth: f64| over(&Noise { depth: Some(depth), ..noise });
            let apart = |a: &Field, b: &Field| {
                a.pixels().iter().zip(b.pixels()).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max)
            };
            let begin = at(0.3);
            assert!(apart(&begin, &at(6.3)) < 1e-4, "{basis:?}");
            assert!(apart(&begin, &at(3.3)) > 0.2, "{basis:?}");
            assert!(apart(&at(5.999), &at(0.001)) < 0.05, "{basis:?}: no step where it meets itself");
        }
    }
}

/// A pattern through places goes with them, wherever on the frame they are, and a unit of depth is another pattern.
#[test]
fn a_pattern_through_places_goes_with_them() {
    let window = Window::sized(200, 120);
    let places = |shift: i32| {
        Raster::from_fn(window, move |x, y| {
            [(x - shift) as f32 * 0.05, y as f32 * 0.05, (x - shift + y) as f32 * 0.02, 1.0]
        })
    };
    for basis in [Basis::Gradient, Basis::Simplex, Basis::Value, Basis::Cells, Basis::Walls] {
        let noise = Noise { basis, ..noise() };
        let through = |noise: &Noise, shift| noise.through(&places(shift), 0.4, &Cancel::new()).unwrap();
        let (here, there) = (through(&noise, 0), through(&noise, 20));
        for y in 0..120 {
            assert_eq!(here.row(y)[..180], there.row(y)[20..], "{basis:?}");
        }
        let later = through(&Noise { depth: noise.depth.map(|depth| depth + 1.0), ..noise }, 0);
        assert!(correlation(&centred(&here), &centred(&later)).abs() < 0.2, "{basis:?}");
    }
}

#[test]
fn rows_along_and_across_the_lattice_agree_with_the_noise_at_each_place() {
    for (basis, fold, angle) in [
        (Basis::Gradient, Fold::Plain, 0.0),
        (Basis::Value, Fold::Ridged, 0.0),
        (Basis::Gradient, Fold::Billow, 0.7),
        (Basis::Value, Fold::Plain, -2.0),
    ] {
        let noise = Noise { basis, octaves: 3, offset: [3.3, -8.0], fold, angle, ..noise() };
        let by_rows = noise.over(Window::new(-40, -9, 83, 20), 2.0, &Cancel::new()).unwrap();
        let octaves = noise.octaves(2.0);
        for y in -9..20 {
            let mut by_places = vec![0.0; 123];
            for octave in &octaves {
                for (x, out) in (-40..).zip(&mut by_places) {
                    let [u, v] = octave.place(f64::from(x), f64::from(y));
                    let noise = plain(basis, octave.seed, [u, v, octave.depth.unwrap()]);
                    *out += octave.weight * folded(octave.fold, noise);
                }
            }
            for (got, plain) in by_rows.row(y).iter().zip(by_places) {
                assert!((got - plain).abs() < 1e-5, "{got} {plain}");
            }
        }
    }
}

/// Cells down to a hundredth of a pixel, over windows whose shape would favour one way or the other.
#[test]
fn a_pixel_is_the_same_in_every_window() {
    let patterns = |size: f64, angle: f64| {
        [Basis::Gradient, Basis::Simplex, Basis::Value, Basis::Walls].map(|basis| (basis, size, angle))
    };
    let sizes = [(60.0, 0.0), (0.3, 0.0), (0.01, 0.0), (60.0, 0.4), (0.3, 0.4), (0.01, 0.4)];
    for (basis, size, angle) in sizes.into_iter().flat_map(|(size, angle)| patterns(size, angle)) {
        let noise = Noise { basis, size: [size; 2], octaves: 4, angle, ..noise() };
        let over = |window| noise.over(window, 1.0, &Cancel::new()).unwrap();
        let whole = over(Window::new(-20, -30, 60, 70));
        for part in [Window::new(3, 5, 4, 69), Window::new(-20, 8, 60, 9), Window::new(10, 10, 12, 12)] {
            assert_eq!(over(part), whole.cropped(part), "size {size}, angle {angle}");
        }
    }
}

/// Common practice: noise has no steps, stays about within −1 to 1, and fills that range.
#[test]
fn every_kind_of_noise_is_even_and_fills_its_range() {
    for basis in [Basis::Gradient, Basis::Simplex, Basis::Value, Basis::Cells, Basis::Walls] {
        for depth in [None, Some(0.4)] {
            let field = over(&Noise { basis, depth, size: [20.0; 2], ..noise() });
            let steepest = (0..300).flat_map(|y| field.row(y).windows(2)).map(|two| (two[0] - two[1]).abs());
            let steepest = steepest.fold(0.0, f32::max);
            assert!(steepest < 0.35, "{basis:?} {depth:?} steps by {steepest}");
            let (low, high) = field
                .pixels()
                .iter()
                .fold((9.0f32, -9.0f32), |(low, high), value| (low.min(*value), high.max(*value)));
            assert!((-1.05..-0.6).contains(&low) && (0.6..1.8).contains(&high), "{basis:?} {low} {high}");
        }
    }
}

#[test]
fn size_zero_means_no_change_along_that_axis() {
    let field = over(&Noise { size: [0.0, 25.0], ..noise() });
    for y in 0..300 {
        assert!(field.row(y).iter().all(|v| *v == field.row(y)[0]));
    }
    assert!(field.row(3)[0] != field.row(13)[0]);
}
