//! Checks of `feed::keys`.

use veil_core::feed::*;

fn keys(ease: Ease) -> Keys {
    let first = Key { ease, ..Key::new(1001.0, 2.0) };
    Keys::of(vec![first, Key::new(1011.0, 12.0)], 0.0)
}

#[test]
fn a_curve_passes_through_its_keys_and_holds_outside_them() {
    for ease in [Ease::Step, Ease::Straight, Ease::Smooth, Ease::Through, Ease::Curve([0.1, 0.9, 0.2, 1.4])] {
        let keys = keys(ease);
        assert_eq!([900.0, 1001.0, 1011.0, 2000.0].map(|f| keys.at(f)), [2.0, 2.0, 12.0, 12.0], "{ease:?}");
    }
    assert_eq!(keys(Ease::Step).at(1010.9), 2.0);
    assert_eq!(keys(Ease::Straight).at(1004.0), 5.0);
    assert!((keys(Ease::Smooth).at(1006.0) - 7.0).abs() < 1e-9);
}

#[test]
fn keys_out_of_order_are_sorted_and_two_at_one_frame_are_refused() {
    let read = |text: &str| serde_json::from_str::<Keys>(text);
    let sorted = read(r#"{"keys":[{"frame":9,"value":1},{"frame":3,"value":0}]}"#).unwrap();
    assert_eq!(sorted.iter().map(|key| key.frame).collect::<Vec<_>>(), [3.0, 9.0]);
    assert!(read(r#"{"keys":[{"frame":3,"value":1},{"frame":3,"value":0}]}"#).is_err());
    assert!(read(r#"{"keys":[]}"#).is_err());
}
