//! Hue, saturation and value of a colour, and back.
//!
//! - Shape: red, green and blue, not premultiplied; hue in turns from 0 up to 1, from red by green to blue; saturation; value.
//! - Value is the largest of the three, so light above 1 has a value above 1. Where one is below 0 saturation is above 1, and the way
//!   back still leads to the same colour. Grey has the hue of red, and black, which is what has no value, no saturation either.
//! - Any hue leads back: whole turns make no difference.
//! - Source: Smith, "Color Gamut Transform Pairs", 1978.

/// Hue, saturation and value of red, green and blue.
#[inline(always)]
pub fn hsv_from_rgb([r, g, b]: [f32; 3]) -> [f32; 3] {
    let (most, least) = (r.max(g).max(b), r.min(g).min(b));
    let apart = most - least;
    if apart == 0.0 || most == 0.0 {
        return [0.0, 0.0, most];
    }
    let sixths = if most == r {
        (g - b) / apart
    } else if most == g {
        2.0 + (b - r) / apart
    } else {
        4.0 + (r - g) / apart
    };
    [if sixths < 0.0 { sixths + 6.0 } else { sixths } / 6.0, apart / most, most]
}

/// Red, green and blue of hue, saturation and value.
#[inline(always)]
pub fn rgb_from_hsv([hue, saturation, value]: [f32; 3]) -> [f32; 3] {
    let sixths = (hue - hue.floor()) * 6.0;
    // How far each is below the value rises and falls over the turn, each a third of it after the one before.
    [5.0, 3.0, 1.0].map(|behind| {
        let at = (behind + sixths) % 6.0;
        value - value * saturation * at.min(4.0 - at).clamp(0.0, 1.0)
    })
}
