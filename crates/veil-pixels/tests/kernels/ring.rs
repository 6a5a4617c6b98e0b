//! Checks of `ring`.

use veil_pixels::shape::ring::*;

const RINGS: Rings = Rings {
    centre: [0.0; 2],
    front: 100.0,
    wavelength: 20.0,
    phase: 0.0,
    count: None,
    shape: RingShape::Sine,
    range: RingRange::Signed,
    fades_over: 0.0,
    loss: 0.0,
};

/// By hand: a quarter of a wavelength behind the front a sine is at its highest, three quarters behind at its lowest.
#[test]
fn values_are_those_of_the_sine_of_the_distance() {
    for (radius, wanted) in [(100.0, 0.0), (95.0, 1.0), (90.0, 0.0), (85.0, -1.0), (80.0, 0.0), (135.0, 1.0)]
    {
        assert!((RINGS.at(radius) - wanted).abs() < 1e-5, "{radius}");
    }
    let eighth = Rings { phase: 0.125, ..RINGS };
    assert!((eighth.at(100.0) - std::f32::consts::FRAC_1_SQRT_2).abs() < 1e-5);
    let triangle = Rings { shape: RingShape::Triangle, ..RINGS };
    for (radius, wanted) in [(97.5, 0.5), (95.0, 1.0), (90.0, 0.0), (82.5, -0.5)] {
        assert!((triangle.at(radius) - wanted).abs() < 1e-5, "{radius}");
    }
    let faded = Rings { fades_over: 95.0, ..RINGS };
    assert!((faded.at(95.0) - (-1.0f32).exp()).abs() < 1e-5);
}

/// Common practice: a wave of 0.5 + 0.5 sin lies in 0–1.
#[test]
fn positive_rings_lie_within_nought_and_one_and_counted_rings_end() {
    for shape in [RingShape::Sine, RingShape::Triangle, RingShape::Pulse] {
        let rings = Rings { shape, range: RingRange::Positive, count: Some(2.0), loss: 0.5, ..RINGS };
        let values: Vec<f32> = (0..1500).map(|step| rings.at(step as f32 * 0.1)).collect();
        assert!(values.iter().all(|value| (0.0..=1.0).contains(value)), "{shape:?}");
        let still = if shape == RingShape::Pulse { 0.0 } else { 0.5 };
        assert!(values[..590].iter().chain(&values[1010..]).all(|value| *value == still), "{shape:?}");
    }
    // By hand: at three quarters of the first ring the loss of a half has had three quarters of its way.
    let lossy = Rings { count: Some(3.0), loss: 0.5, ..RINGS };
    assert!((lossy.at(85.0) + 0.5f32.powf(0.75)).abs() < 1e-5);
}
