//! Checks of `colour::bare`.

use proptest::prelude::*;
use veil_pixels::colour::bare::OnColour;
use veil_pixels::colour::space::{BT709, Curve, Space};
use veil_pixels::{Cancel, Raster, Window};

/// Common practice: what goes to a log or display space and back is what it was, light without coverage too, and nothing
/// is nothing there as well.
#[test]
fn pictures_go_to_every_space_and_back_with_their_glows() {
    let linear = Space::linear(BT709);
    let pixels = vec![
        [0.0; 4],
        [0.3, 0.1, 0.05, 0.0],
        [4.0, 1.0, 0.2, 0.0],
        [0.2, 0.1, 0.05, 0.25],
        [2.0, 0.6, 0.3, 0.5],
        [0.18, 0.5, 7.0, 1.0],
    ];
    let picture = Raster::from_pixels(Window::sized(6, 1), pixels).unwrap();
    for curve in [Curve::Srgb, Curve::Bt709, Curve::AcesCct] {
        let space = Space { curve, primaries: BT709 };
        let there = linear.converted(space, &picture, &Cancel::new()).unwrap();
        assert_eq!(there.pixels()[0], [0.0; 4], "{curve:?}");
        let back = space.converted(linear, &there, &Cancel::new()).unwrap();
        for (was, is) in picture.pixels().iter().zip(back.pixels()) {
            let off = was.iter().zip(is).map(|(was, is)| (was - is).abs()).fold(0.0, f32::max);
            assert!(off <= 2e-4 * was[0].max(1.0), "{curve:?}: {was:?} comes back as {is:?}");
        }
    }
}

proptest! {
    /// A gain and an offset, worked by hand: the gain is of the light, the offset of what covers.
    #[test]
    fn an_offset_goes_by_coverage_and_a_gain_by_light(light in 0.0f32..8.0, alpha in 0.0f32..=1.0) {
        let graded = OnColour::new(|colour: [f32; 3]| colour.map(|value| 1.5 * value + 0.25));
        let [r, _, _, a] = graded.at([light, light / 2.0, 0.0, alpha]);
        prop_assert!((r - (1.5 * light + 0.25 * alpha)).abs() < 1e-4, "{r}");
        prop_assert_eq!(a, alpha);
    }
}
