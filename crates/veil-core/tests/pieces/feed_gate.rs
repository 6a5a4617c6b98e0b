//! Checks of `feed::gate`.

use veil_core::feed::*;

fn gate() -> GateFeed {
    GateFeed {
        burst: Lengths { shortest: 2.0, longest: 5.0 },
        pause: Lengths { shortest: 4.0, longest: 9.0 },
        chance: 1.0,
        attack: 0.0,
        release: 0.0,
        span: Span { low: 0.0, high: 1.0 },
        seed: 12,
        offset: 0.0.into(),
    }
}

/// The lengths of the runs of equal values, without the last one.
fn runs(gate: &GateFeed) -> Vec<(f64, f64)> {
    const STEP: f64 = 1.0 / 64.0;
    let mut runs: Vec<(f64, f64)> = Vec::new();
    for step in 0..64 * 600 {
        let value = gate.at(f64::from(step) * STEP);
        match runs.last_mut() {
            Some((last, length)) if *last == value => *length += STEP,
            _ => runs.push((value, STEP)),
        }
    }
    runs.pop();
    runs
}

#[test]
fn bursts_and_pauses_last_as_long_as_they_may_and_differ() {
    let runs = runs(&gate());
    assert!(runs.len() > 40);
    for (value, length) in &runs {
        let (least, most) = if *value == 1.0 { (2.0, 5.0) } else { (4.0, 9.0) };
        assert!((least - 0.02..=most + 0.02).contains(length), "{value}: {length}");
    }
    let bursts: Vec<f64> = runs.iter().filter(|run| run.0 == 1.0).map(|run| run.1).collect();
    assert!(bursts.iter().any(|one| (one - bursts[0]).abs() > 1.0), "irregular");
}

#[test]
fn chance_leaves_bursts_out_and_a_slow_edge_neither_leaps_nor_overshoots() {
    let count = |gate: &GateFeed| runs(gate).iter().filter(|run| run.0 == 1.0).count();
    let seldom = GateFeed { chance: 0.3, ..gate() };
    assert!(count(&seldom) > 3 && count(&seldom) < count(&gate()) * 6 / 10);
    assert_eq!(count(&GateFeed { chance: 0.0, ..gate() }), 0);
    let soft = GateFeed { attack: 2.0, release: 4.0, ..gate() };
    let values: Vec<f64> = (0..6000).map(|step| soft.at(f64::from(step) * 0.1)).collect();
    assert!(values.iter().all(|value| (0.0..=1.0).contains(value)));
    assert!(values.windows(2).all(|pair| pair[1] - pair[0] <= 0.051 && pair[0] - pair[1] <= 0.026));
}
