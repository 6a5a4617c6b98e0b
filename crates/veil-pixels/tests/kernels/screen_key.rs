//! Checks of `screen_key`.

use veil_pixels::key::screen_key::*;
use veil_pixels::{Cancel, Field, Picture, Raster, Rgba, Window};

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

/// As the stage does it by itself, with edges as wide as `WIDTH`.
fn keyed(picture: &Picture, clean: f32) -> (Picture, Field, Places) {
    let cancel = Cancel::new();
    let behind = fitted(picture, SCREEN, Screen::Green, &cancel).unwrap();
    let before = Before { picture, behind: &behind, screen: Screen::Green };
    let alone = matte(before, Method::Difference, &cancel).unwrap();
    let noise = Noise::of(before, &alone);
    let places = Places::of(&alone, noise, clean, WIDTH, &cancel).unwrap();
    let edges = Edges { refine: 1.0, solid: 0.5 };
    let found = unmixed(before, &alone, &places, noise, edges, &cancel).unwrap();
    let matte =
        if clean > 0.0 { cleaned(&found, &places, noise, clean, WIDTH, &cancel).unwrap() } else { found };
    (behind, matte, places)
}

const WIDTH: f32 = 6.0;

/// Coverage and colour of a figure that is known, before a screen that is not even.
#[test]
fn a_known_figure_comes_off_an_uneven_screen() {
    let (window, cancel) = (Window::sized(240, 160), Cancel::new());
    let picture = Raster::from_fn(window, seen);
    let (behind, fine, places) = keyed(&picture, 0.0);
    let all = || (0..160).flat_map(|y| (0..240).map(move |x| (x, y)));
    let off = all().map(|(x, y)| (fine.get(x, y).unwrap() - truth(x, y).0).abs()).sum::<f32>();
    assert!(off / (240.0 * 160.0) < 0.006, "{off}");
    let behind_off = |(x, y)| (behind.get(x, y).unwrap()[1] - lit(x)[1]).abs();
    let worst = all().map(behind_off).fold(0.0, f32::max);
    assert!(worst < 0.004, "the screen is off by {worst}, behind the figure too");
    // Far from the figure nothing is left of the noise; in the middle of its edge all is as it was.
    let clean = keyed(&picture, 0.08).1;
    assert!(all().filter(|(x, y)| *x < 40 && *y < 40).all(|(x, y)| clean.get(x, y).unwrap() == 0.0));
    let middle = |(x, y): &(i32, i32)| (0.1..0.9).contains(&fine.get(*x, *y).unwrap());
    assert!(
        all().filter(middle).all(|(x, y)| (clean.get(x, y).unwrap() - fine.get(x, y).unwrap()).abs() < 1e-6)
    );
    let despill = Despill { amount: 0.0, back: 0.0, tight: 0.0, width: WIDTH };
    let before = Before { picture: &picture, behind: &behind, screen: Screen::Green };
    let alone = figure(before, &fine, &places, despill, None, |_, _| [0.0; 3], &cancel).unwrap();
    let mut off = Vec::new();
    for (x, y) in (20..220).flat_map(|x| (20..140).map(move |y| (x, y))) {
        let (alpha, colour) = truth(x, y);
        // Between the two colours the figure itself is a mixture.
        if alpha > 0.1 && (y - 80).abs() > 12 {
            let got = alone.get(x, y).unwrap();
            let error = (0..3).map(|at| (got[at] - colour[at] * alpha).abs()).fold(0.0, f32::max);
            off.push(error);
        }
    }
    off.sort_by(f32::total_cmp);
    let (most, worst) = (off[off.len() * 97 / 100], off[off.len() - 1]);
    assert!(most < 0.02 && worst < 0.1, "{most} {worst}");
}

/// Six pixels of black round white: nothing of black is the screen's, so none of it goes, nor of the white behind it.
#[test]
fn a_dark_rim_round_a_light_body_stays_solid() {
    let far = |x: i32, y: i32| (x as f32 - 120.0).hypot(y as f32 - 80.0);
    for (rim, body) in [([0.0, 0.0, 0.0], [0.9, 0.9, 0.9]), ([0.05, 0.028, 0.016], [0.6, 0.42, 0.33])] {
        for width in [2.0, 4.0, 6.0] {
            let picture = Raster::from_fn(Window::sized(240, 160), |x, y| {
                let alpha = (52.5 - far(x, y)).clamp(0.0, 1.0);
                let own = if far(x, y) > 52.0 - width { rim } else { body };
                let at = |channel: usize| own[channel] * alpha + lit(x)[channel] * (1.0 - alpha);
                [at(0), at(1), at(2), 1.0]
            });
            let (_, matte, _) = keyed(&picture, 0.08);
            let inside =
                (0..160).flat_map(|y| (0..240).map(move |x| (x, y))).filter(|(x, y)| far(*x, *y) <= 51.5);
            let least = inside.map(|(x, y)| matte.get(x, y).unwrap()).fold(1.0, f32::min);
            assert!(least >= 0.98, "{rim:?} {width}: {least}");
        }
    }
}

/// A pane of glass keeps what it lets through, where nothing is to become solid.
#[test]
fn glass_stays_as_clear_as_it_is() {
    let pane = Window { x0: 80, y0: 40, x1: 180, y1: 120 };
    let picture = Raster::from_fn(Window::sized(240, 160), |x, y| {
        let alpha = if pane.holds(x, y) { 0.4 } else { 0.0 };
        let at = |channel: usize| 0.5 * alpha + lit(x)[channel] * (1.0 - alpha);
        [at(0), at(1), at(2), 1.0]
    });
    let (_, matte, _) = keyed(&picture, 0.08);
    for (x, y) in [(130, 80), (90, 50), (82, 80)] {
        assert!((matte.get(x, y).unwrap() - 0.4).abs() < 0.02, "{:?}", matte.get(x, y));
    }
}

#[test]
fn spill_is_taken_off_and_what_takes_its_place_is_as_bright_as_asked() {
    let (window, cancel) = (Window::sized(30, 1), Cancel::new());
    let picture = Raster::flat(window, [0.2, 0.5, 0.3, 1.0]);
    let behind = Raster::flat(window, [SCREEN[0], SCREEN[1], SCREEN[2], 1.0]);
    let solid = Raster::from_fn(window, |x, _| f32::from(u8::from(x >= 10)));
    let before = Before { picture: &picture, behind: &behind, screen: Screen::Green };
    let noise = Noise { channels: [0.0; 3], coverage: 0.0 };
    let places = Places::of(&solid, noise, 0.08, 4.0, &cancel).unwrap();
    let at = |x: i32, amount, back, tight| {
        let despill = Despill { amount, back, tight, width: 4.0 };
        let made = figure(before, &solid, &places, despill, None, |_, _| [1.0, 0.5, 0.0], &cancel);
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
