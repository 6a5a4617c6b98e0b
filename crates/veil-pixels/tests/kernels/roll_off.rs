//! Checks of `colour::roll_off`.

use proptest::prelude::*;
use veil_pixels::colour::roll_off::RollOff;

proptest! {
    /// Nothing changes up to where it begins; from there it goes on as steep, rises all the way, and stays within its room.
    #[test]
    fn it_goes_on_smoothly_and_stays_within_its_room(begins in 0.0f32..2.0, room in 0.05f32..2.0, value in 0.0f32..50.0) {
        let rolls = RollOff { begins, room, together: 0.0 };
        prop_assert_eq!(rolls.of(begins * 0.7), begins * 0.7);
        let step = 1e-3 * room;
        let slope = (rolls.of(begins + step) - rolls.of(begins)) / step;
        prop_assert!((slope - 1.0).abs() < 0.01, "{}", slope);
        prop_assert!(rolls.of(value) <= rolls.of(value * 1.1) && rolls.of(value) <= begins + room);
    }

    /// Kept, hue and saturation are what they were: the three go on in the same proportion.
    #[test]
    fn kept_a_colour_only_gets_darker(r in 0.0f32..8.0, g in 0.0f32..8.0, b in 0.0f32..8.0) {
        let made = RollOff { begins: 0.6, room: 0.3, together: 1.0 }.of_colour([r, g, b]);
        let [before, after] = [[r, g, b], made].map(|of| of[0].max(of[1]).max(of[2]));
        prop_assert!(after <= 0.9 + 1e-6);
        for (own, was) in made.into_iter().zip([r, g, b]) {
            prop_assert!((own * before - was * after).abs() < 1e-4 * before.max(1.0));
        }
    }
}

#[test]
fn without_room_it_is_cut_off_and_what_is_infinite_reaches_the_greatest() {
    let cut = RollOff { begins: 1.0, room: 0.0, together: 0.5 };
    assert_eq!(cut.of_colour([0.5, 1.0, 7.0])[2], 1.0);
    let rolls = RollOff { begins: 0.8, room: 0.4, together: 1.0 };
    assert!((rolls.of_colour([f32::INFINITY, 0.1, 0.0])[0] - 1.2).abs() < 1e-6);
}
