//! Checks of `screen_key`.

use veil_pixels::screen_key::*;
use veil_pixels::{Cancel, Field, Raster, Rgba, Window};

const SCREEN: [f32; 3] = [0.06, 0.42, 0.09];

/// A screen that is a third darker at its right border.
fn lit(x: i32) -> Rgba {
    let light = 1.0 - x as f32 / 720.0;
    [SCREEN[0] * light, SCREEN[1] * light, SCREEN[2] * light, 1.0]
}

/// A disc with an edge six pixels wide, of two colours, before the screen.
fn truth(x: i32, y: i32) -> (f32, Rgba) {
    let (dx, dy) = (x as f32 - 120.0, y as f32 - 80.0);
    let alpha = ((52.0 - dx.hypot(dy)) / 6.0 + 0.5).clamp(0.0, 1.0);
    let figure = if dy < 0.0 { [0.31, 0.2, 0.14, 1.0] } else { [0.05, 0.055, 0.08, 1.0] };
    (alpha, figure)
}

fn seen(x: i32, y: i32) -> Rgba {
    let (alpha, figure) = truth(x, y);
    let noise = (((x * 7919 + y * 104_729) % 1000) as f32 / 1000.0 - 0.5) * 0.01;
    std::array::from_fn(|at| {
        figure[at] * alpha + lit(x)[at] * (1.0 - alpha) + if at < 3 { noise } else { 0.0 }
    })
}

/// Coverage and colour of a figure that is known, before a screen that is not even.
#[test]
fn a_known_figure_comes_off_an_uneven_screen() {
    let (window, cancel) = (Window::sized(240, 160), Cancel::new());
    let picture = Raster::from_fn(window, seen);
    let behind = grown(&picture, SCREEN, Screen::Green, &cancel).unwrap();
    let rough = matte(&picture, &behind, Screen::Green, Method::Difference, &cancel).unwrap();
    let fine = refined(&picture, &behind, &rough, 6.0, &cancel).unwrap();
    let off = |field: &Field| {
        let all = (0..160).flat_map(|y| (0..240).map(move |x| (x, y)));
        all.map(|(x, y)| (field.get(x, y).unwrap() - truth(x, y).0).abs()).sum::<f32>() / (240.0 * 160.0)
    };
    assert!(off(&fine) < 0.006 && off(&fine) <= off(&rough), "{} of {}", off(&fine), off(&rough));
    // Far from the figure nothing is left of the noise; at its edge all is as it was.
    let clean = cleaned(&fine, 0.08, 6.0, &cancel).unwrap();
    let left = |x: i32, y: i32| clean.get(x, y).unwrap();
    assert!((0..40).flat_map(|x| (0..40).map(move |y| (x, y))).all(|(x, y)| left(x, y) == 0.0));
    assert!((60..75).all(|x| left(x, 80) == fine.get(x, 80).unwrap()));
    let toward = |_, _| [0.0; 3];
    let despill = Despill { amount: 0.0, back: 0.0, tight: 0.0, width: 6.0 };
    let alone = figure(&picture, &behind, &fine, Screen::Green, despill, toward, &cancel).unwrap();
    let mut worst = 0.0f32;
    for (x, y) in (20..220).flat_map(|x| (20..140).map(move |y| (x, y))) {
        let (alpha, colour) = truth(x, y);
        // Between the two colours the figure itself is a mixture.
        if alpha > 0.1 && (y - 80).abs() > 12 {
            let got = alone.get(x, y).unwrap();
            let error = (0..3).map(|at| (got[at] - colour[at] * alpha).abs()).fold(0.0, f32::max);
            worst = worst.max(error);
        }
    }
    assert!(worst < 0.02, "{worst}");
}

#[test]
fn spill_is_taken_off_and_what_takes_its_place_is_as_bright_as_asked() {
    let (window, cancel) = (Window::sized(30, 1), Cancel::new());
    let picture = Raster::flat(window, [0.2, 0.5, 0.3, 1.0]);
    let behind = Raster::flat(window, [SCREEN[0], SCREEN[1], SCREEN[2], 1.0]);
    let solid = Raster::from_fn(window, |x, _| f32::from(u8::from(x >= 10)));
    let at = |x: i32, amount, back, tight| {
        let despill = Despill { amount, back, tight, width: 4.0 };
        let made = figure(&picture, &behind, &solid, Screen::Green, despill, |_, _| [1.0, 0.5, 0.0], &cancel);
        made.unwrap().get(x, 0).unwrap().map(|value| (value * 1000.0).round() / 1000.0)
    };
    let of = |amount, back| at(25, amount, back, 1.0);
    assert_eq!(of(0.0, 0.0), [0.2, 0.5, 0.3, 1.0]);
    assert_eq!(of(1.0, 0.0), [0.2, 0.3, 0.3, 1.0]);
    assert_eq!(of(1.0, 1.0), [0.4, 0.4, 0.3, 1.0]);
    // Along the edge it is held to the mean of the others, where that is asked for.
    assert_eq!(at(11, 1.0, 0.0, 1.0), [0.2, 0.25, 0.3, 1.0]);
    assert_eq!(at(11, 1.0, 0.0, 0.0), [0.2, 0.3, 0.3, 1.0]);
}
