//! Checks of `channels`.

use veil_pixels::colour::channels::*;
use veil_pixels::{Cancel, Picture, Raster, Window};

fn picture(shift: i32) -> Picture {
    Raster::from_fn(Window::sized(30, 4), move |x, y| {
        if (8 + shift..20 + shift).contains(&x) {
            let value = (x - shift + y) as f32 * 0.137;
            [value, value * 0.3, 1.0 - value, 1.0]
        } else {
            [0.0; 4]
        }
    })
}

/// Common practice: the channels taken apart and added together again give the picture back exactly, alpha once.
#[test]
fn channels_taken_apart_and_added_give_the_picture_back_bit_for_bit() {
    let cancel = Cancel::new();
    let whole = together(&picture(0), &[None, None, None], AlphaOf::Largest, &cancel).unwrap();
    assert_eq!(whole, picture(0));
    let unmoved = || Some(Apart { picture: picture(0), within: None });
    let whole = together(&picture(0), &[unmoved(), unmoved(), unmoved()], AlphaOf::Largest, &cancel).unwrap();
    assert_eq!(whole, picture(0));
    let only = |channel: usize| {
        picture(0).map(&cancel, |pixel| {
            std::array::from_fn(|at| if at == channel || at == 3 { pixel[at] } else { 0.0 })
        })
    };
    let parts: [Picture; 3] = [0, 1, 2].map(|channel| only(channel).unwrap());
    for (at, pixel) in picture(0).pixels().iter().enumerate() {
        let sum: [f32; 3] =
            std::array::from_fn(|channel| parts.iter().map(|part| part.pixels()[at][channel]).sum());
        assert_eq!([sum[0], sum[1], sum[2], parts[0].pixels()[at][3]], *pixel);
    }
}

#[test]
fn a_moved_channel_brings_its_coverage_along_within_its_matte() {
    let (cancel, window) = (Cancel::new(), Window::sized(30, 4));
    let red = || Apart { picture: picture(5), within: None };
    let moved = together(&picture(0), &[Some(red()), None, None], AlphaOf::Largest, &cancel).unwrap();
    // Beyond the old edge there is red alone, and it covers.
    let beyond = moved.get(22, 1).unwrap();
    assert!(beyond[0] > 0.0 && beyond[1] == 0.0 && beyond[3] == 1.0, "{beyond:?}");
    let own = together(&picture(0), &[Some(red()), None, None], AlphaOf::Own, &cancel).unwrap();
    assert_eq!(own.get(22, 1).unwrap()[3], 0.0);
    let upper = Raster::from_fn(window, |_, y| if y < 2 { 1.0 } else { 0.0 });
    let part = Apart { within: Some(upper), ..red() };
    let part = together(&picture(0), &[Some(part), None, None], AlphaOf::Largest, &cancel).unwrap();
    assert_eq!(part.row(1), moved.row(1));
    assert_eq!(part.row(3), picture(0).row(3));
}
