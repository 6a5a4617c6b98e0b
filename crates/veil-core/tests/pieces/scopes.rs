//! Checks of `scopes`.

use veil_core::scopes::*;
use veil_core::signal::Pixels;
use veil_core::view::{Screens, View};
use veil_pixels::{Picture, Window};

/// IEC 61966-2-1: a linear 0.5 is byte 188 on the screen. Left half that, right half over 1 in red.
#[test]
fn scopes_count_what_is_on_the_screen_and_where() {
    let picture = Picture::from_fn(Window::sized(192, 4), |x, _| {
        if x < 96 { [0.5, 0.5, 0.5, 1.0] } else { [2.0, -0.1, 0.0, 1.0] }
    });
    let found = scopes(&Pixels::Picture(picture), View::default(), &Screens::new());
    assert_eq!((found.histogram[0][94], found.histogram[0][127]), (384, 384));
    assert_eq!((found.histogram[1][94], found.histogram[1][0]), (384, 384));
    assert_eq!(found.waveform[10 * found.levels + 47], 4);
    // 0.2126 of full red.
    assert_eq!(found.waveform[150 * found.levels + 13], 4);
    assert!((found.above - 1.0 / 6.0).abs() < 1e-9 && (found.below - 1.0 / 6.0).abs() < 1e-9);
}
