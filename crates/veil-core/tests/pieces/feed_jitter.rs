//! Checks of `feed::jitter`.

use veil_core::feed::*;

#[test]
fn a_wandering_value_keeps_to_its_span_and_never_leaps_while_a_jumping_one_does() {
    let span = Span { low: -2.0, high: 6.0 };
    let smooth = JitterFeed { jitter: JitterForm::Smooth, every: 5.0, span, seed: 9, offset: 0.0.into() };
    let jumps = JitterFeed { jitter: JitterForm::Jumps, every: 1.0, ..smooth.clone() };
    let run = |feed: &JitterFeed| (0..2000).map(|step| feed.at(f64::from(step) * 0.25)).collect::<Vec<_>>();
    let leap = |run: &[f64]| run.windows(2).map(|pair| (pair[1] - pair[0]).abs()).fold(0.0, f64::max);
    for run in [run(&smooth), run(&jumps)] {
        assert!(run.iter().all(|value| (-2.0..=6.0).contains(value)));
    }
    // Smoothstep rises by at most 1.5 of its way in its time: 8 · 1.5 · 0.25 / 5.
    assert!(leap(&run(&smooth)) <= 0.6 + 1e-9);
    assert!(leap(&run(&jumps)) > 4.0);
    let each: Vec<f64> = (0..100).map(|frame| jumps.at(f64::from(frame))).collect();
    assert!(each.windows(2).all(|pair| pair[0] != pair[1]), "a new value every frame");
}
