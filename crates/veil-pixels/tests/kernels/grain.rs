//! Checks of `grain`.

use veil_pixels::grain::measured::measured;
use veil_pixels::grain::{Grain, KNOTS, lay, light_at};
use veil_pixels::{Cancel, Picture, Window};

const WINDOW: Window = Window::new(-30, 11, 930, 731);

/// As photons have it: the variance goes with the light; other channels other grain.
fn film(size: f32) -> Grain {
    let strength = |times: f32| std::array::from_fn(|knot| times * (0.002 + 0.02 * light_at(knot).sqrt()));
    Grain { strength: [strength(1.0), strength(0.5), strength(2.0)], size: [size, size * 0.7, size * 1.2] }
}

/// Made up: a slow ramp from dark to bright, and on half of it much structure.
fn place(x: i32, y: i32) -> [f32; 4] {
    let light = 0.05 + 0.9 * (x - WINDOW.x0) as f32 / WINDOW.width() as f32;
    let structure =
        if y > 371 { 0.1 * ((x as f32 * 1.7).sin() + (y as f32 * 1.3 + x as f32 * 0.4).cos()) } else { 0.0 };
    let light = (light + structure).max(0.02);
    [light, light * 0.8, light * 0.6, 1.0]
}

fn grainy(grain: &Grain, seed: u32) -> Picture {
    let mut picture = Picture::from_fn(WINDOW, place);
    lay(&mut picture, grain, seed, &Cancel::new()).unwrap();
    picture
}

/// What was measured beside what it is: the largest share that a strength is off between lights of 0.1 and 0.5, and a size.
fn off(told: &Grain, true_one: &Grain) -> (f32, f32) {
    let knots = (0..KNOTS).filter(|knot| (0.1..0.5).contains(&light_at(*knot)));
    let strengths = knots.flat_map(|knot| (0..3).map(move |channel| (channel, knot)));
    let off = strengths
        .map(|(channel, knot)| (told.strength[channel][knot] / true_one.strength[channel][knot] - 1.0).abs());
    let sizes = told.size.iter().zip(true_one.size).map(|(told, size)| (told - size).abs());
    (off.fold(0.0, f32::max), sizes.fold(0.0, f32::max))
}

/// Grain is what it was laid on as, told from flat parts of one picture and from two with structure in them.
#[test]
fn grain_is_told_as_strong_and_as_wide_as_it_is() {
    for size in [0.45, 0.8, 1.4] {
        let grain = film(size);
        let [first, next] = [1, 2].map(|seed| grainy(&grain, seed));
        for other in [None, Some(&next)].into_iter().filter(|other| other.is_some() || size < 1.0) {
            let told = measured(&first, other, &Cancel::new()).unwrap().unwrap();
            let (strength, wide) = off(&told, &grain);
            let (most, widest) = if other.is_some() { (0.08, 0.1) } else { (0.15, 0.15) };
            assert!(
                strength < most && wide < widest,
                "{size}, of two: {}: {strength} {wide}",
                other.is_some()
            );
        }
    }
}

/// The variance and the correlation of blurred white noise, by their definitions: at a distance d as exp(−d² / 4σ²)
/// (Papoulis, "Probability, Random Variables, and Stochastic Processes", 1965), and no two frames have anything in common.
#[test]
fn grain_has_its_standard_deviation_and_its_width() {
    let (strength, size) = (0.05f32, 1.5f32);
    let grain = Grain { strength: [[strength; KNOTS]; 3], size: [size; 3] };
    let of = |seed: u32| {
        let mut picture = Picture::flat(WINDOW, [0.4, 0.4, 0.4, 1.0]);
        lay(&mut picture, &grain, seed, &Cancel::new()).unwrap();
        picture
    };
    let (one, other) = (of(7), of(8));
    let value = |picture: &Picture, x: i32, y: i32, channel: usize| {
        f64::from(picture.get(x, y).unwrap()[channel]) - 0.4
    };
    let mean = |term: &dyn Fn(i32, i32) -> f64| {
        let places = (WINDOW.y0..WINDOW.y1 - 4).flat_map(|y| (WINDOW.x0..WINDOW.x1 - 4).map(move |x| (x, y)));
        places.map(|(x, y)| term(x, y)).sum::<f64>() / ((WINDOW.width() - 4) * (WINDOW.height() - 4)) as f64
    };
    let variance = mean(&|x, y| value(&one, x, y, 0).powi(2));
    assert!((variance.sqrt() / f64::from(strength) - 1.0).abs() < 0.01, "{}", variance.sqrt());
    for apart in 1..4 {
        let wanted = (-f64::from(apart * apart) / (4.0 * f64::from(size * size))).exp();
        let seen = mean(&|x, y| value(&one, x, y, 0) * value(&one, x + apart, y, 0)) / variance;
        assert!((seen - wanted).abs() < 0.02, "{apart}: {seen} for {wanted}");
    }
    for together in [
        mean(&|x, y| value(&one, x, y, 0) * value(&other, x, y, 0)),
        mean(&|x, y| value(&one, x, y, 0) * value(&one, x, y, 1)),
    ] {
        assert!((together / variance).abs() < 0.02, "{together}");
    }
}

/// The means of two by two of it vary as much as is said.
#[test]
fn smaller_scales_have_as_much_as_is_left() {
    for size in [0.0, 0.7, 1.3] {
        let grain = Grain { strength: [[0.1; KNOTS]; 3], size: [size; 3] };
        let mut picture = Picture::flat(WINDOW, [0.5, 0.5, 0.5, 1.0]);
        lay(&mut picture, &grain, 3, &Cancel::new()).unwrap();
        let smaller = veil_pixels::sample::resize::block_means(&picture, 2, &Cancel::new()).unwrap();
        let squares = smaller.pixels().iter().map(|pixel| f64::from(pixel[0] - 0.5).powi(2));
        let seen = (squares.sum::<f64>() / smaller.pixels().len() as f64).sqrt();
        let said = f64::from(grain.in_blocks_of(2).strength[0][0]);
        assert!((seen / said - 1.0).abs() < 0.02, "{size}: {seen} for {said}");
    }
}

/// A pattern belongs to places, not to what was asked for; what is clear gets none, what is half there half.
#[test]
fn grain_lies_where_it_lies() {
    let grain = film(0.8);
    let whole = grainy(&grain, 5);
    let part = Window::new(100, 200, 220, 260);
    let mut alone = Picture::from_fn(part, place);
    lay(&mut alone, &grain, 5, &Cancel::new()).unwrap();
    assert_eq!(alone.pixels(), whole.cropped(part).pixels());
    let with_alpha = |alpha: f32| {
        let mut picture = Picture::flat(part, [0.3, 0.3, 0.3, 1.0].map(|value: f32| value * alpha));
        lay(&mut picture, &grain, 5, &Cancel::new()).unwrap();
        picture.get(150, 230).unwrap()
    };
    let (clear, half, opaque) = (with_alpha(0.0), with_alpha(0.5), with_alpha(1.0));
    assert_eq!(clear, [0.0; 4]);
    (0..4).for_each(|at| assert!((half[at] - opaque[at] / 2.0).abs() < 1e-6));
}

/// Of a flat picture without any there is none to be told, nor of two that are the same.
#[test]
fn what_has_no_grain_tells_none() {
    let flat = Picture::flat(WINDOW, [0.3, 0.2, 0.1, 1.0]);
    assert_eq!(measured(&flat, None, &Cancel::new()).unwrap(), None);
    let held = grainy(&film(0.8), 1);
    assert_eq!(measured(&held, Some(&held), &Cancel::new()).unwrap(), None);
}
