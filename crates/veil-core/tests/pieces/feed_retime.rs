//! Checks of `feed::retime`.

use proptest::prelude::*;
use veil_core::feed::*;

fn curve() -> impl Strategy<Value = Keys> {
    let ease = prop_oneof![
        Just(Ease::Step),
        Just(Ease::Straight),
        Just(Ease::Smooth),
        Just(Ease::Through),
        Just(Ease::Curve([0.2, -0.3, 0.6, 1.4])),
    ];
    let slopes =
        proptest::option::of((-3.0..3.0, -3.0..3.0).prop_map(|(arrive, leave)| Slopes { arrive, leave }));
    let key = (1_i32..12, -50.0..50.0, ease, slopes);
    (proptest::collection::vec(key, 2..8), -5.0..5.0).prop_map(|(parts, offset)| {
        let mut frame = 1000.0;
        let key = |(gap, value, ease, slopes): (i32, f64, Ease, Option<Slopes>)| {
            frame += f64::from(gap);
            Key { frame, value, ease, slopes }
        };
        Keys::of(parts.into_iter().map(key).collect(), offset)
    })
}

fn frames(keys: &Keys) -> Vec<f64> {
    keys.iter().map(|key| key.frame).collect()
}

proptest! {
    /// Common practice: a whole curve stretched and moved gives at each new time what it gave at the old.
    #[test]
    fn a_stretched_curve_is_the_same_curve_at_another_pace(keys in curve(), stretch in 0.2..4.0_f64, later in -20.0..20.0_f64, scale in -2.0..2.0_f64) {
        let by = KeyMove { about: 1003.0, stretch, later, level: 1.5, scale, higher: 2.0, snap: false };
        let made = keys.moved(&frames(&keys), by).unwrap();
        // A summit stays one whichever way it is scaled, so found slopes follow too.
        for step in 0..300 {
            let frame = 990.0 + f64::from(step) * 0.37;
            let wanted = (keys.at(frame) - 1.5) * scale + 3.5;
            let found = made.at((frame - 1003.0) * stretch + 1003.0 + later);
            // At a step the two sides of a key differ by rounding of its frame.
            let at_key = keys.iter().any(|key| (key.frame - frame).abs() < 1e-6);
            prop_assert!(at_key || (wanted - found).abs() < 1e-6, "{frame}: {wanted} {found}");
        }
    }

    /// Fritsch and Butland 1984: between two keys a smooth curve stays between their values.
    #[test]
    fn smooth_tangents_never_overshoot(keys in curve()) {
        let made = keys.shaped(&frames(&keys), KeyShape::Smooth);
        let all: Vec<Key> = made.iter().copied().collect();
        for pair in all.windows(2) {
            let (low, high) = (pair[0].value.min(pair[1].value), pair[0].value.max(pair[1].value));
            for share in 0..=20 {
                let at = made.at(pair[0].frame + (pair[1].frame - pair[0].frame) * f64::from(share) / 20.0) - made.offset();
                prop_assert!((low - 1e-9..=high + 1e-9).contains(&at), "{at} beyond {low} to {high}");
            }
        }
    }

    /// The slope that a tangent states is the slope that the curve has, on either side.
    #[test]
    fn a_broken_tangent_gives_both_its_slopes(keys in curve(), arrive in -4.0..4.0_f64, leave in -4.0..4.0_f64) {
        prop_assume!(keys.iter().count() > 2);
        let frame = frames(&keys)[1];
        let made = keys.shaped(&[frame], KeyShape::Slopes(Slopes { arrive, leave }));
        let step = 1e-5;
        let slope = |from: f64, to: f64| (made.at(to) - made.at(from)) / (to - from);
        prop_assert!((slope(frame, frame + step) - leave).abs() < 1e-2);
        prop_assert!((slope(frame - step, frame) - arrive).abs() < 1e-2);
    }
}

#[test]
fn a_pace_is_copied_key_by_key_or_from_end_to_end() {
    let key = |frame, value, ease| Key { ease, ..Key::new(frame, value) };
    let theirs = Keys::of(
        vec![key(1.0, 0.0, Ease::Straight), key(4.0, 9.0, Ease::Step), key(9.0, 10.0, Ease::Smooth)],
        0.0,
    );
    let two = Keys::of(vec![Key::new(2.0, 100.0), Key::new(3.0, 200.0)], 0.0);
    let made = two.paced_like(&theirs).unwrap();
    assert_eq!(
        made.iter().map(|k| (k.frame, k.value)).collect::<Vec<_>>(),
        [(1.0, 100.0), (4.0, 190.0), (9.0, 200.0)]
    );
    let three = two.with_value(8.0, -5.0);
    let made = three.paced_like(&theirs).unwrap();
    assert_eq!(
        made.iter().map(|k| (k.frame, k.value)).collect::<Vec<_>>(),
        [(1.0, 100.0), (4.0, 200.0), (9.0, -5.0)]
    );
    assert_eq!(theirs.paced_like(&two).unwrap().at(2.5), 5.0);
    let level = Keys::of(vec![Key::new(1.0, 5.0), Key::new(2.0, 5.0)], 0.0);
    assert_eq!(theirs.paced_like(&level), Err(RetimeError::NoPace));
}

#[test]
fn a_key_that_lands_on_another_takes_its_place_and_two_moved_ones_keep_apart() {
    let keys = Keys::of((1..=4).map(|at| Key::new(f64::from(at), f64::from(at))).collect(), 0.0);
    let made = keys.moved(&[2.0], KeyMove { later: 1.0, ..KeyMove::default() }).unwrap();
    assert_eq!(
        made.iter().map(|k| (k.frame, k.value)).collect::<Vec<_>>(),
        [(1.0, 1.0), (3.0, 2.0), (4.0, 4.0)]
    );
    let squeezed = KeyMove { about: 1.0, stretch: 0.1, snap: true, ..KeyMove::default() };
    assert_eq!(keys.moved(&[1.0, 2.0], squeezed), Err(RetimeError::Crowded));
}
