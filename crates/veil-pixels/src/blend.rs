//! One picture laid on another.
//!
//! - Shape: premultiplied pixels; the formulas are the W3C general formula
//!   `(1 − αb)·Cs + (1 − αs)·Cb + αs·αb·B(Cb, Cs)`, written for premultiplied colour.
//! - Range: any; values above 1 and below 0 go through the same arithmetic.
//! - Sources: Porter and Duff, "Compositing Digital Images", 1984; W3C Compositing and Blending Level 1.

use crate::Rgba;

/// How a layer meets what lies below it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum Mode {
    /// The layer covers by its alpha.
    #[default]
    Over,
    /// Light is added, alpha too, to at most 1.
    Plus,
    /// Where both are, the product.
    Multiply,
    /// Where both are, the inverse of the product of the inverses.
    Screen,
}

/// `layer` on `below`, the layer weakened to `opacity`.
#[inline(always)]
pub fn blend(mode: Mode, below: Rgba, layer: Rgba, opacity: f32) -> Rgba {
    let source = layer.map(|value| value * opacity);
    let (below_alpha, alpha) = (below[3], source[3]);
    let union = alpha + below_alpha - alpha * below_alpha;
    let colours = |f: &dyn Fn(f32, f32) -> f32, alpha: f32| {
        [f(below[0], source[0]), f(below[1], source[1]), f(below[2], source[2]), alpha]
    };
    match mode {
        Mode::Over => colours(&|b, s| s + b * (1.0 - alpha), union),
        Mode::Plus => colours(&|b, s| s + b, (alpha + below_alpha).min(1.0)),
        Mode::Multiply => colours(&|b, s| (1.0 - below_alpha) * s + (1.0 - alpha) * b + s * b, union),
        Mode::Screen => colours(&|b, s| s + b - s * b, union),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

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
        assert!(close(blend(Mode::Screen, below, layer, 1.0), [0.92, 0.625, 1.5, 1.0]));
    }

    /// W3C general formula, worked by hand: αb = 0.5, αs = 0.4, Cb = 0.6, Cs = 0.5.
    #[test]
    fn multiply_shows_each_alone_where_the_other_is_missing() {
        let (below, layer) = ([0.3, 0.3, 0.3, 0.5], [0.2, 0.2, 0.2, 0.4]);
        let expected = 0.5 * 0.2 + 0.6 * 0.3 + 0.4 * 0.5 * (0.6 * 0.5);
        let got = blend(Mode::Multiply, below, layer, 1.0);
        assert!(close(got, [expected, expected, expected, 0.7]), "{got:?}");
    }

    #[test]
    fn a_transparent_layer_changes_nothing_and_a_transparent_background_shows_the_layer() {
        let picture = [0.7, -0.2, 3.0, 0.8];
        let nothing = [0.0; 4];
        for mode in [Mode::Over, Mode::Plus, Mode::Multiply, Mode::Screen] {
            assert_eq!(blend(mode, picture, nothing, 1.0), picture, "{mode:?}");
            assert_eq!(blend(mode, picture, picture, 0.0), picture, "{mode:?}");
            assert!(close(blend(mode, nothing, picture, 1.0), picture), "{mode:?}");
        }
    }
}
