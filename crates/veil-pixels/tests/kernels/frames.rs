//! Checks of `frames`.

use proptest::prelude::*;
use veil_pixels::frames::*;
use veil_pixels::{Cancel, Field, Picture, Raster, Window};

proptest! {
    /// By sorting: whatever the number of frames, each float is the median of its own.
    #[test]
    fn the_median_is_that_of_sorted_values(
        values in prop::collection::vec(prop::collection::vec(prop_oneof![-9.0f32..9.0, Just(0.5)], 12), 1..20),
    ) {
        let window = Window::sized(3, 1);
        let frames: Vec<Picture> = values.iter()
            .map(|floats| Raster::from_pixels(window, floats.as_chunks().0.to_vec()).unwrap())
            .collect();
        let made = median(&frames, &Cancel::new()).unwrap().unwrap();
        for (at, own) in made.pixels().as_flattened().iter().enumerate() {
            let mut sorted: Vec<f32> = values.iter().map(|floats| floats[at]).collect();
            sorted.sort_by(f32::total_cmp);
            let wanted = f32::midpoint(sorted[(sorted.len() - 1) / 2], sorted[sorted.len() / 2]);
            prop_assert!((own - wanted).abs() < 1e-6, "{at}: {own} for {wanted}");
        }
    }

    /// Frames that are alike are what each of them is, bit for bit.
    #[test]
    fn equal_frames_are_their_own_median(value in any::<f32>().prop_filter("a number", |value| value.is_finite()), count in 1usize..12) {
        let frame = Field::flat(Window::sized(5, 3), value);
        let made = median(&vec![frame.clone(); count], &Cancel::new()).unwrap().unwrap();
        prop_assert_eq!(made, frame);
    }
}

/// By hand: one bright frame of five lifts the mean, not the median.
#[test]
fn one_that_stands_out_counts_in_the_mean_alone() {
    let frames: Vec<Field> =
        [1.0, 1.0, 11.0, 1.0, 1.0].map(|value| Field::flat(Window::sized(2, 2), value)).to_vec();
    let cancel = Cancel::new();
    assert_eq!(mean(&frames, &cancel).unwrap().unwrap().get(0, 0), Some(3.0));
    assert_eq!(median(&frames, &cancel).unwrap().unwrap().get(0, 0), Some(1.0));
    assert!(median::<f32>(&[], &cancel).unwrap().is_none());
}
