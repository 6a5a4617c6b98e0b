//! Checks of `light::fog` and `light::lamp`.

use proptest::prelude::*;
use veil_pixels::light::fog::{FAR, Fog};
use veil_pixels::light::lamp::{Cone, Lamp, Surface, unit};

/// Beer and Lambert: through a thickness of 1 there is 1/e left, through 2 its square.
#[test]
fn even_fog_is_beer_and_lambert() {
    let fog = Fog { density: 0.1, thins: 0.0, level: 0.0 };
    for (length, left) in [(10.0, 0.367_879_441), (20.0, 0.135_335_283), (0.0, 1.0)] {
        assert!((1.0 - fog.hides(length, [3.0, -7.0]) - left).abs() < 1e-8);
    }
    assert!((fog.hides(f64::INFINITY, [0.0, 0.0]) - 1.0).abs() < 1e-12);
}

proptest! {
    /// Fog that thins is the sum of its density along the way, by Simpson's rule.
    #[test]
    fn fog_that_thins_is_summed_along_the_way(
        thins in 0.0..2.0f64, level in -3.0..3.0f64, length in 0.1..60.0f64, from in -4.0..6.0f64, rises in -8.0..8.0f64,
    ) {
        const STEPS: i32 = 2000;
        let fog = Fog { density: 0.02, thins, level };
        let at = |share: f64| 0.02 * (-thins * (from + rises * share - level)).exp();
        let sum: f64 = (0..=STEPS)
            .map(|step| {
                let weight = if step == 0 || step == STEPS { 1.0 } else { f64::from(2 + 2 * (step % 2)) };
                weight * at(f64::from(step) / f64::from(STEPS))
            })
            .sum();
        let wanted = 1.0 - (-sum / f64::from(STEPS) / 3.0 * length).exp();
        prop_assert!((fog.hides(length, [from, from + rises]) - wanted).abs() < 1e-6);
    }

    /// Whatever the heights, it hides something between nothing and all.
    #[test]
    fn fog_hides_no_more_than_all(
        thins in 0.0..100.0f64, length in 0.0..2e6f64, from in -1e5..1e5f64, to in -1e6..1e6f64,
    ) {
        let hidden = Fog { density: 3.0, thins, level: 0.0 }.hides(length.min(FAR), [from, to]);
        prop_assert!((0.0..=1.0).contains(&hidden), "{hidden}");
    }
}

const MATT: Surface = Surface { matt: 1.0, gloss: 0.0, sharpness: 30.0 };

/// Lambert's cosine: at 60° half of it; and from behind nothing.
#[test]
fn matt_light_is_by_the_cosine() {
    for (degrees, wanted) in [(0.0f32, 1.0), (60.0, 0.5), (90.0, 0.0), (120.0, 0.0)] {
        let (sin, cos) = degrees.to_radians().sin_cos();
        let sun = Lamp::Sun { toward: [sin, 0.0, cos] };
        let [matt, gloss] = sun.on(MATT, [3.0; 3], [0.0, 0.0, 1.0], [0.0, 0.0, 1.0]);
        assert!((matt - wanted).abs() < 1e-6 && gloss == 0.0, "{degrees}: {matt}");
    }
}

/// The inverse square: at twice its reach a quarter is left; in a cone nothing beyond its side.
#[test]
fn a_lamp_falls_off_as_the_square_and_ends_with_its_cone() {
    let lamp = |cone: Option<Cone>| Lamp::Point { place: [0.0, 0.0, 4.0], reach: 2.0, falloff: 2.0, cone };
    let up = [0.0, 0.0, 1.0];
    let [matt, _] = lamp(None).on(MATT, [0.0; 3], up, up);
    assert!((matt - 0.25).abs() < 1e-6, "{matt}");
    let cosines = [20.0f32, 30.0].map(|degrees| degrees.to_radians().cos());
    let spot = lamp(Some(Cone { along: [0.0, 0.0, -1.0], cosines }));
    let beside = |degrees: f32| spot.on(MATT, [4.0 * degrees.to_radians().tan(), 0.0, 0.0], up, up)[0];
    assert!(beside(19.0) > 0.1 && beside(25.0) > 0.01 && beside(31.0) == 0.0);
}

/// The gloss is brightest where the half-way vector is the normal, and falls to half of it where the cosine's power is half.
#[test]
fn gloss_is_by_the_half_way_vector() {
    let surface = Surface { matt: 0.0, gloss: 1.0, sharpness: 40.0 };
    let shine = |degrees: f32| {
        // The eye goes aside by twice the angle that the half-way vector does; the lamp stays square above.
        let (sin, cos) = (2.0 * degrees.to_radians()).sin_cos();
        Lamp::Sun { toward: [0.0, 0.0, 1.0] }.on(surface, [0.0; 3], [0.0, 0.0, 1.0], [sin, 0.0, cos])[1]
    };
    let half = 0.5f32.powf(1.0 / 40.0).acos().to_degrees();
    assert!((shine(0.0) - 6.0).abs() < 1e-5 && (shine(half) / shine(0.0) - 0.5).abs() < 1e-3);
    assert_eq!(unit([0.0; 3]), None);
    assert_eq!(unit([f32::NAN, 1.0, 0.0]), None);
}
