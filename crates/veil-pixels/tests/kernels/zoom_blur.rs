//! Checks of `zoom_blur`.

use veil_pixels::filter::zoom_blur::*;
use veil_pixels::{Cancel, Edge, Raster, Window};

/// By hand: a dot 100 to the right of the centre, smeared over a scale of e^0.2, lies evenly between 90.5 and 110.5,
/// in the place where it was in the mean, and no light is lost but what is spread wider far out.
#[test]
fn a_dot_is_smeared_along_its_ray_or_around() {
    let (data, cancel) = (Window::sized(260, 120), Cancel::new());
    let dot = Raster::from_fn(data, |x, y| if (x, y) == (160, 60) { 1.0f32 } else { 0.0 });
    let along = ZoomBlur { centre: [60.5, 60.5], extent: 0.2, smear: Smear::Along };
    let made = along.apply(&dot, data, data, Edge::Clear, data, &cancel).unwrap();
    let lit: Vec<i32> = (0..260).filter(|x| made.get(*x, 60).unwrap() > 0.01).collect();
    assert!((lit[0] - 151).abs() <= 1 && (lit[lit.len() - 1] - 170).abs() <= 1, "{lit:?}");
    let middle: Vec<f32> = (154..168).map(|x| made.get(x, 60).unwrap()).collect();
    let mean = middle.iter().sum::<f32>() / middle.len() as f32;
    assert!(middle.iter().all(|value| (value / mean - 1.0).abs() < 0.35), "{middle:?}");
    assert!(made.get(160, 64).unwrap() < 1e-3);
    let around = ZoomBlur { smear: Smear::Around, ..along };
    let made = around.apply(&dot, data, data, Edge::Clear, data, &cancel).unwrap();
    // 0.1 radians either way at 100 pixels are ten pixels up and down.
    assert!(made.get(160, 52).unwrap() > 0.01 && made.get(160, 68).unwrap() > 0.01);
    assert!(made.get(160, 45).unwrap() < 1e-3 && made.get(150, 60).unwrap() < 1e-3);
    let sum: f32 = made.pixels().iter().sum();
    assert!((sum - 1.0).abs() < 0.02, "{sum}");
}

#[test]
fn an_even_picture_stays_and_a_part_is_the_crop() {
    let (data, cancel) = (Window::sized(90, 70), Cancel::new());
    let blur = ZoomBlur { centre: [30.0, 80.0], extent: 0.5, smear: Smear::Along };
    let grey = Raster::flat(data, 0.37f32);
    let made = blur.apply(&grey, data, data, Edge::Hold, data, &cancel).unwrap();
    assert!(made.pixels().iter().all(|value| (value - 0.37).abs() < 1e-5));
    let noisy = Raster::from_fn(data, |x, y| ((x * 37 + y * 91).rem_euclid(53)) as f32);
    let whole = blur.apply(&noisy, data, data, Edge::Mirror, data, &cancel).unwrap();
    let part = Window::new(20, 11, 60, 33);
    let read = noisy.cropped(blur.reads(part, data, Edge::Mirror, data));
    assert_eq!(blur.apply(&read, data, data, Edge::Mirror, part, &cancel).unwrap(), whole.cropped(part));
}
