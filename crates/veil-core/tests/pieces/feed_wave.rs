//! Checks of `feed::wave`.

use veil_core::feed::*;

fn wave(wave: WaveForm) -> WaveFeed {
    WaveFeed {
        wave,
        period: 8.0,
        phase: 0.0,
        span: Span { low: 0.0, high: 1.0 },
        seed: 3,
        offset: 0.0.into(),
    }
}

/// Common practice: a wave lies between its ends, and 0.5 + 0.5 sin is half, whole, half, nothing at quarters.
#[test]
fn each_form_stands_where_it_should_at_quarters_of_its_period() {
    let quarters = |form| [0.0, 2.0, 4.0, 6.0].map(|since| wave(form).at(since));
    for (got, wanted) in quarters(WaveForm::Sine).into_iter().zip([0.5, 1.0, 0.5, 0.0]) {
        assert!((got - wanted).abs() < 1e-12);
    }
    assert_eq!(quarters(WaveForm::Triangle), [0.0, 0.5, 1.0, 0.5]);
    assert_eq!(quarters(WaveForm::Saw), [0.0, 0.25, 0.5, 0.75]);
    assert_eq!(quarters(WaveForm::Square), [1.0, 1.0, 0.0, 0.0]);
}

#[test]
fn a_climb_gets_there_each_period_but_slips_back_on_the_way() {
    let climb = wave(WaveForm::Climb);
    for period in 0..6 {
        assert!((climb.at(f64::from(period) * 8.0) - f64::from(period)).abs() < 1e-6);
    }
    let slips = |seed: u32| {
        let climb = WaveFeed { seed, ..climb.clone() };
        (0..480).any(|step| climb.at(f64::from(step + 1) * 0.1) < climb.at(f64::from(step) * 0.1))
    };
    assert!((0..20).all(slips), "every climb slips back somewhere in six periods");
}
