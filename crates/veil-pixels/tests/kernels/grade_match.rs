//! Checks of `grade_match`.

use proptest::prelude::*;
use veil_pixels::colour::grade::Grade;
use veil_pixels::colour::grade_match::*;

proptest! {
    /// The element's picks, graded, are the plate's, for any grade that led from one to the other.
    #[test]
    fn picks_land_on_the_plates_for_whatever_grade_lies_between(
        picks in prop::array::uniform3((0.001f32..0.1, 0.1f32..0.4, 0.45f32..4.0)),
        lift in -0.004f32..0.2,
        gamma in 0.4f32..2.5,
        gain in 0.3f32..3.0,
    ) {
        let element: Picks = [
            picks.map(|pick| pick.0),
            picks.map(|pick| pick.1),
            picks.map(|pick| pick.2),
        ];
        let between = Grade { lift: [lift.max(0.0); 3], gamma: [gamma; 3], gain: [gain; 3], ..Grade::NONE };
        let through = |grade: &Grade, [r, g, b]: [f32; 3]| {
            let [r, g, b] = grade.apply([r, g, b]);
            [r, g, b]
        };
        let plate = element.map(|pick| through(&between, pick));
        let found = matched(&element, &plate).unwrap();
        let grade = Grade { lift: found.lift, gamma: found.gamma, gain: found.gain, ..Grade::NONE };
        for (pick, wanted) in element.iter().zip(plate) {
            for (got, wanted) in through(&grade, *pick).iter().zip(wanted) {
                prop_assert!((got - wanted).abs() < 2e-3 * wanted.max(0.05), "{got} for {wanted}");
            }
        }
    }
}

#[test]
fn picks_without_a_way_from_dark_to_bright_match_nothing() {
    let flat = [[0.2; 3]; 3];
    let rising = [[0.1; 3], [0.2; 3], [0.9; 3]];
    assert_eq!(matched(&flat, &rising), None);
    assert_eq!(matched(&rising, &flat), None);
}
