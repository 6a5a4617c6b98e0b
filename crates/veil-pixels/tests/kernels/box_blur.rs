//! Checks of `box_blur`.

use veil_pixels::filter::box_blur::*;
use veil_pixels::{Cancel, Edge, Raster, Window};

#[test]
fn a_dot_becomes_the_box_and_the_triangle() {
    let data = Window::new(-12, 0, 13, 1);
    let mut dot = Raster::clear(data);
    dot.set(0, 0, 1.0f32);
    let blurred = |profile, x| {
        let blur = BoxBlur { profile, x, y: 1.0 };
        blur.apply(&dot, data, Edge::Clear, data, &Cancel::new()).unwrap()
    };
    for width in [1.0f32, 3.0, 4.5, 8.0, 15.0] {
        let row = blurred(Profile::Box, width);
        for x in -12..13 {
            let inside = (width / 2.0 - (x as f32).abs() + 0.5).clamp(0.0, 1.0);
            let got = row.get(x, 0).unwrap();
            assert!((got - inside / width).abs() < 1e-6, "width {width} at {x}: {got}");
        }
    }
    let triangle: Vec<f32> = blurred(Profile::Triangle, 6.0).row(0)[9..16].to_vec();
    let ninths = [0.0, 1.0, 2.0, 3.0, 2.0, 1.0, 0.0].map(|count| count / 9.0);
    assert!(triangle.iter().zip(ninths).all(|(a, b)| (a - b).abs() < 1e-6), "{triangle:?}");
}

#[test]
fn a_region_is_the_crop_of_the_whole_bit_for_bit() {
    let data = Window::new(-5, -3, 90, 71);
    let noisy = Raster::from_fn(data, |x, y| ((x * 7919 + y * 104_729) % 1013) as f32 / 1013.0);
    for profile in [Profile::Box, Profile::Triangle] {
        let blur = BoxBlur { profile, x: 23.4, y: 11.0 };
        let whole = blur.apply(&noisy, data, Edge::Mirror, data, &Cancel::new()).unwrap();
        let part = Window::new(13, 20, 50, 41);
        let region = blur.apply(&noisy, data, Edge::Mirror, part, &Cancel::new()).unwrap();
        assert_eq!(region, whole.cropped(part));
    }
}
