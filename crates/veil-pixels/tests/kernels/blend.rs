//! Checks of `blend`.

use veil_pixels::Rgba;
use veil_pixels::blend::*;
use veil_pixels::colour::linear_from_srgb;

fn close(a: Rgba, b: Rgba) -> bool {
    a.iter().zip(b).all(|(a, b)| (a - b).abs() < 1e-6)
}

/// Porter and Duff 1984: A over B = A + B(1 − αA). Values by hand.
#[test]
fn over_covers_by_the_alpha_of_the_layer() {
    let layer = [0.3, 0.1, 0.0, 0.5];
    let below = [0.8, 0.4, 0.2, 1.0];
    assert!(close(blend(Mode::Over, below, layer, 1.0), [0.7, 0.3, 0.1, 1.0]));
    assert!(close(blend(Mode::Over, below, layer, 0.5), [0.75, 0.35, 0.15, 1.0]));
}

/// W3C Compositing Level 1: B is Cb·Cs, and Cb + Cs − Cb·Cs, on opaque colours.
#[test]
fn multiply_and_screen_follow_the_standard_on_opaque_colours() {
    let (below, layer) = ([0.6, 0.5, 2.0, 1.0], [0.8, 0.25, 0.5, 1.0]);
    assert!(close(blend(Mode::Multiply, below, layer, 1.0), [0.48, 0.125, 1.0, 1.0]));
    assert!(close(blend(Mode::Screen, below, layer, 1.0), [0.92, 0.625, 2.0, 1.0]));
}

/// Common practice: light that is screened over a highlight never darkens it.
#[test]
fn screen_above_white_shows_the_brighter() {
    let grey = |value: f32| [value, value, value, 1.0];
    assert!(close(blend(Mode::Screen, grey(2.0), grey(3.0), 1.0), grey(3.0)));
    assert!(close(blend(Mode::Screen, grey(4.0), grey(0.9), 1.0), grey(4.0)));
    // Half a layer of 3 over 2 that covers half: 0.5·1.5 + 0.5·1 + 0.5·0.5·3.
    let got = blend(Mode::Screen, [1.0, 1.0, 1.0, 0.5], [1.5, 1.5, 1.5, 0.5], 1.0);
    assert!(close(got, [2.0, 2.0, 2.0, 0.75]), "{got:?}");
}

/// W3C general formula, worked by hand: αb = 0.5, αs = 0.4, Cb = 0.6, Cs = 0.5.
#[test]
fn multiply_shows_each_alone_where_the_other_is_missing() {
    let (below, layer) = ([0.3, 0.3, 0.3, 0.5], [0.2, 0.2, 0.2, 0.4]);
    let expected = 0.5 * 0.2 + 0.6 * 0.3 + 0.4 * 0.5 * (0.6 * 0.5);
    let got = blend(Mode::Multiply, below, layer, 1.0);
    assert!(close(got, [expected, expected, expected, 0.7]), "{got:?}");
}

/// W3C Compositing Level 1, worked from its formulas on opaque greys.
#[test]
fn soft_and_hard_light_give_the_listed_values() {
    let grey = |value: f32| [value, value, value, 1.0];
    for (mode, below, layer, wanted) in [
        (Mode::SoftLight, 0.2, 0.3, 0.136),
        (Mode::SoftLight, 0.2, 0.8, 0.3488),
        (Mode::SoftLight, 0.6, 0.8, 0.704_758),
        (Mode::HardLight, 0.2, 0.3, 0.12),
        (Mode::HardLight, 0.2, 0.8, 0.68),
        (Mode::HardLight, 0.6, 0.8, 0.84),
    ] {
        let got = blend(mode, grey(below), grey(layer), 1.0);
        assert!(close(got, grey(wanted)), "{mode:?} {below} {layer}: {got:?}");
    }
}

/// W3C: screen of 0.5 and 0.5 is 0.75, here of what a display shows; IEC 61966-2-1 has 0.735357 for 0.5.
#[test]
fn modes_can_work_on_what_a_display_shows() {
    let grey = |value: f32| [value, value, value, 1.0];
    let blended = |mode, below: Rgba, layer: Rgba| {
        let mut out = [[0.0; 4]];
        blend_row_encoded(mode, &[below], &[layer], 1.0, None, &mut out);
        out[0]
    };
    let half = linear_from_srgb(0.5);
    let got = blended(Mode::Screen, grey(half), grey(half));
    assert!(close(got, grey(linear_from_srgb(0.75))), "{got:?}");
    assert!(close(
        blended(Mode::Multiply, grey(0.5), grey(0.5)),
        grey(linear_from_srgb(0.735_357 * 0.735_357))
    ));
    let picture = [0.31, 0.07, 4.2, 0.6];
    assert_eq!(blended(Mode::SoftLight, picture, [0.0; 4]), picture);
}

/// W3C's curves are left along their tangents: 4b below 0 for a light layer, and for a black one 0 below 0 and
/// 2b − 1 above 1. Values at the end of half floats and nearly clear stay numbers in both lights.
#[test]
fn soft_light_goes_on_straight_beyond_what_a_display_shows() {
    for (below, layer, wanted) in [(-2.0, 1.0, -8.0), (-2.0, 0.0, 0.0), (3.0, 0.0, 5.0), (4.0, 1.0, 2.0)] {
        assert_eq!(soft_light(below, layer), wanted, "{below} {layer}");
    }
    let far = [-65_504.0, 65_504.0, 65_504.0, 1e-3];
    for layer in [far, far.map(|value| -value)] {
        let mut out = [[0.0; 4]];
        blend_row_encoded(Mode::SoftLight, &[far], &[layer], 1.0, None, &mut out);
        assert!(out[0].iter().all(|value| value.is_finite()), "{out:?}");
    }
}

#[test]
fn a_transparent_layer_changes_nothing_and_a_transparent_background_shows_the_layer() {
    let picture = [0.7, -0.2, 3.0, 0.8];
    let nothing = [0.0; 4];
    for mode in [Mode::Over, Mode::Plus, Mode::Multiply, Mode::Screen, Mode::SoftLight, Mode::Hue, Mode::Xor]
    {
        assert_eq!(blend(mode, picture, nothing, 1.0), picture, "{mode:?}");
        assert_eq!(blend(mode, picture, picture, 0.0), picture, "{mode:?}");
        assert!(close(blend(mode, nothing, picture, 1.0), picture), "{mode:?}");
    }
}

/// The W3C's formulas jump only where both of a colour's ends meet, at 0 below a layer of 1 and at 1 below a layer of 0;
/// beyond 0 and 1, of which the standard says nothing, they go on without a jump.
#[test]
fn dodge_and_burn_do_not_jump_beyond_nothing_and_white() {
    let grey = |value: f32| [value, value, value, 1.0];
    for mode in [Mode::ColourDodge, Mode::ColourBurn] {
        for layer in [-2.0, -0.5, 0.0, 0.25, 0.5, 0.75, 1.0, 1.5, 3.0] {
            let at = |below: f32| blend(mode, grey(below), grey(layer), 1.0)[0];
            for (edge, ends) in [
                (0.0, mode == Mode::ColourDodge && layer >= 1.0),
                (1.0, mode == Mode::ColourBurn && layer <= 0.0),
            ] {
                let jump = (at(edge + 1e-4) - at(edge - 1e-4)).abs();
                assert!(ends || jump < 2e-3, "{mode:?} of {layer} jumps by {jump} at {edge}");
            }
        }
        // Common practice: a neutral layer changes nothing, however bright what lies below.
        let neutral = if mode == Mode::ColourDodge { 0.0 } else { 1.0 };
        assert!(
            [-0.5, 0.3, 2.5].iter().all(|b| (blend(mode, grey(*b), grey(neutral), 1.0)[0] - b).abs() < 1e-6)
        );
    }
}

/// Rows of any length give what each pixel gives, bit for bit, in every mode that has a way of its own for rows.
#[test]
fn a_row_laid_over_gives_what_each_pixel_gives() {
    let pixel =
        |at: usize, by: f32| [at as f32 * by - 0.3, 0.7 - at as f32 * by, by, (at as f32 * 0.13).fract()];
    for length in 0..9 {
        let below: Vec<Rgba> = (0..length).map(|at| pixel(at, 0.31)).collect();
        let layer: Vec<Rgba> = (0..length).map(|at| pixel(at, 0.17)).collect();
        let mut out = vec![[9.0; 4]; length];
        blend_row(Mode::Over, &below, &layer, 0.37, None, &mut out);
        for at in 0..length {
            assert_eq!(out[at], blend(Mode::Over, below[at], layer[at], 0.37), "{at} of {length}");
        }
    }
}
