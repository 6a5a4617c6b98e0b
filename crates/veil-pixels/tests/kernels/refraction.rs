//! Checks of `light::refraction`.

use proptest::prelude::*;
use veil_pixels::light::refraction::*;
use veil_pixels::{Cancel, Field, Picture, Window};

/// Snell's law, worked angles: from air, 30° into 1.5 go on at 19.4712°, 45° into 1.333 at 32.04°, 60° into 1.5 at 35.2644°; straight
/// on at 0°. Seen through a surface that leans by the angle, what is seen lies off by the tangent of what it was bent by.
#[test]
fn light_is_bent_as_snell_has_it() {
    for (angle, index, inside) in
        [(30.0f32, 1.5, 19.4712f32), (45.0, 1.333, 32.037), (60.0, 1.5, 35.2644), (0.0, 1.7, 0.0)]
    {
        let (sin, cos) = angle.to_radians().sin_cos();
        let [x, y] = bend([sin, 0.0, cos], index);
        let wanted = (inside - angle).to_radians().tan();
        assert!((x - wanted).abs() < 2e-4 && y.abs() < 1e-6, "{angle}° into {index}: {x} for {wanted}");
    }
}

/// Schlick 1994: straight on ((n − 1) / (n + 1))², 0.04 of glass and 0.0203 of water; grazing all of it; at 60° of glass
/// 0.04 + 0.96 · 0.5⁵ = 0.07.
#[test]
fn a_surface_throws_back_as_schlick_has_it() {
    for (cosine, index, wanted) in
        [(1.0, 1.5, 0.04), (1.0, 1.333, 0.020_373), (0.0, 1.5, 1.0), (0.5, 1.5, 0.07)]
    {
        assert!((thrown_back(cosine, index) - wanted).abs() < 1e-4, "{cosine} of {index}");
    }
}

/// A common crown glass: 1.51680 at d, F − C 0.00806; its index at 546.07 nm is 1.51872, at 480.0 nm 1.52283 and at 643.8 nm
/// 1.51472 (the maker's data sheet; from memory). Green, blue and red lie beside these.
#[test]
fn blue_is_bent_more_than_red() {
    let [red, green, blue] = Clear::of(1.5168, 0.00806).indices();
    assert!(
        (red - 1.5159).abs() < 5e-4 && (green - 1.5186).abs() < 5e-4 && (blue - 1.5241).abs() < 1e-3,
        "{red} {green} {blue}"
    );
    assert!(Clear::of(1.0, 0.0).is_nothing());
}

const WINDOW: Window = Window::new(-4, -3, 60, 45);

fn scene() -> Picture {
    Picture::from_fn(WINDOW, |x, y| {
        [x as f32 * 0.02 + 0.1, y as f32 * 0.02 + 0.1, ((x + y) % 5) as f32 * 0.1, 1.0]
    })
}

fn body(radius: f32) -> Picture {
    let far = |x: i32, y: i32| 18.0 - (x as f32 - 28.0).hypot(y as f32 - 20.0);
    let heights = Field::from_fn(WINDOW.grow(1, 1), |x, y| rounded(far(x, y).max(0.0), radius));
    let covers = Field::from_fn(WINDOW, |x, y| far(x, y).clamp(0.0, 1.0));
    facing(&heights, &covers, WINDOW, &Cancel::new()).unwrap()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Nothing is bent by an index of 1 or outside of the body, and a region is the crop of the whole, bit for bit.
    #[test]
    fn what_is_not_bent_stays(index in 1.0f64..2.4, fringe in 0.0f64..0.05, thickness in 0.0f32..40.0, radius in 2.0f32..18.0) {
        let (scene, body, cancel) = (scene(), body(radius), Cancel::new());
        let seen = |clear, wanted| refracted((&scene, &scene), &body, clear, thickness, wanted, &cancel).unwrap();
        prop_assert_eq!(&seen(Clear::of(1.0, 0.0), WINDOW), &scene);
        let whole = seen(Clear::of(index, fringe), WINDOW);
        prop_assert_eq!(whole.get(-3, -2), scene.get(-3, -2));
        let part = Window::new(10, 8, 40, 31);
        prop_assert_eq!(seen(Clear::of(index, fringe), part), whole.cropped(part));
    }

    /// A round body gathers: what is seen through it lies nearer to its middle, and no further off than the reach tells.
    #[test]
    fn a_round_body_looks_toward_its_middle(index in 1.05f32..2.4, x in -0.7f32..0.7, y in -0.7f32..0.7) {
        let normal = [x, y, (1.0 - x * x - y * y).max(0.0).sqrt()];
        let [right, down] = bend(normal, index);
        prop_assert!(right * x <= 0.0 && down * y <= 0.0);
        prop_assert!(right.hypot(down) <= Clear::of(f64::from(index), 0.0).reach() + 1e-4);
    }
}
