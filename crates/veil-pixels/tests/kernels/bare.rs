//! Checks of `colour::bare`.

use proptest::prelude::*;
use veil_pixels::colour::bare::OnColour;
use veil_pixels::colour::grade::{Grade, Grader, Levels, grade_row, levels_row};
use veil_pixels::colour::space::{BT709, Curve, Space};
use veil_pixels::colour::tone::{Tone, tone_row};
use veil_pixels::{Cancel, Raster, Rgba, Window};

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

proptest! {
    /// A row graded or put through curves gives, of each pixel, what it gives alone, bit for bit, whatever stands beside it.
    #[test]
    fn a_row_gives_what_each_pixel_gives_alone(
        pixels in prop::collection::vec((prop::array::uniform3(-1.0f32..6.0), prop::bool::weighted(0.1), 0.0f32..1.0), 1..200),
        contrast in 0.5f32..2.0,
        gamma in 0.5f32..2.0,
        saturation in 0.0f32..2.0,
        points in prop::collection::vec(prop::array::uniform2(-0.5f64..2.0), 0..12),
    ) {
        let pixel = |(colour, clear, alpha): &([f32; 3], bool, f32)| {
            let [r, g, b] = *colour;
            [r, g, b, if *clear { *alpha } else { 1.0 }]
        };
        let row: Vec<Rgba> = pixels.iter().map(pixel).collect();
        let grade = Grade { exposure: 0.3, lift: [0.0, 0.02, 0.0], contrast, gamma: [gamma, 1.0, gamma], saturation, ..Grade::NONE };
        let grader = Grader::new(grade);
        let graded = OnColour::new(|colour: [f32; 3]| grader.apply(colour));
        let mut whole = row.clone();
        grade_row(&grader, &mut whole);
        for (made, pixel) in whole.iter().zip(&row) {
            prop_assert_eq!(*made, graded.at(*pixel));
        }
        let levels = Levels { in_low: 0.1, in_high: 0.9, gamma, out_low: 0.05, out_high: 1.1, clamp: contrast > 1.0 };
        let levelled = OnColour::new(|colour: [f32; 3]| colour.map(|value| levels.apply(value)));
        let mut whole = row.clone();
        levels_row(&levels, &mut whole);
        for (made, pixel) in whole.iter().zip(&row) {
            prop_assert_eq!(*made, levelled.at(*pixel));
        }
        let (all, own) = (Tone::through(&points), Tone::through(&[[0.0, 0.1], [1.0, 0.8]]));
        let plain = Tone::through(&[]);
        let toned = OnColour::new(|[r, g, b]: [f32; 3]| [own.at(all.at(r)), all.at(g), all.at(b)]);
        let mut whole = row.clone();
        tone_row(&all, [&own, &plain, &plain], &mut whole);
        for (made, pixel) in whole.iter().zip(&row) {
            prop_assert_eq!(*made, toned.at(*pixel));
        }
    }
}
