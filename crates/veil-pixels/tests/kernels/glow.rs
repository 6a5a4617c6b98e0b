//! Checks of `glow`.

use veil_pixels::filter::blur::{Sigma, gaussian};
use veil_pixels::light::glow::*;
use veil_pixels::{Cancel, Edge, Raster, Window};

const LUMA: [f32; 3] = [0.2126, 0.7152, 0.0722];

/// A Gaussian keeps what it spreads: the light that is added is what shone above the threshold, times the colour, and a
/// bright dot is as wide afterwards as the size says.
#[test]
fn the_light_that_is_spread_is_the_light_that_shone() {
    let (window, cancel) = (Window::sized(121, 121), Cancel::new());
    let lamp = [8.0, 4.0, 2.0, 1.0];
    let picture =
        Raster::from_fn(window, |x, y| if (x, y) == (60, 60) { lamp } else { [0.1, 0.1, 0.1, 1.0] });
    let shining = source(&picture, None, 1.0, LUMA, &cancel).unwrap();
    let glow = gaussian(&shining, window, Edge::Clear, Sigma::round(9.0), window, &cancel).unwrap();
    let laid = lay(&picture, &glow, [2.0, 1.0, 0.5], GlowGives::Added, &cancel).unwrap();
    let luma = 8.0 * 0.2126 + 4.0 * 0.7152 + 2.0 * 0.0722;
    let share = (luma - 1.0) / luma;
    for (channel, colour) in [2.0, 1.0, 0.5].into_iter().enumerate() {
        let added: f64 = laid
            .pixels()
            .iter()
            .zip(picture.pixels())
            .map(|(new, old)| f64::from(new[channel] - old[channel]))
            .sum();
        let wanted = f64::from(lamp[channel]) * share * colour;
        assert!((added / wanted - 1.0).abs() < 2e-3, "{channel}: {added}, not {wanted}");
    }
    let spread: f64 = (0..121)
        .flat_map(|y| (0..121).map(move |x| (x, y)))
        .map(|(x, y)| f64::from(glow.get(x, y).unwrap()[0]) * f64::from(x - 60).powi(2))
        .sum::<f64>()
        / glow.pixels().iter().map(|pixel| f64::from(pixel[0])).sum::<f64>();
    assert!((spread.sqrt() / 9.0 - 1.0).abs() < 0.02, "{}", spread.sqrt());
}

/// Andrews and Mallows 1974, in the plane: a dot is spread to exp(−r/s)/(2π·s²), whose light is the dot's and whose
/// standard deviation is √3·s along an axis. Octaves keep the light too.
#[test]
fn an_exponential_glow_falls_as_its_formula_says_and_octaves_keep_the_light() {
    let (window, cancel) = (Window::sized(401, 401), Cancel::new());
    let dot = Raster::from_fn(window, |x, y| if (x, y) == (200, 200) { [1.0; 4] } else { [0.0; 4] });
    let spread = Spread { size: 26.0, fall_off: FallOff::Exponential, octaves: 1, gain: 0.5 };
    let glow = spread.apply(&dot, window, window, &cancel).unwrap();
    let s = 26.0 / 3.0f64.sqrt();
    for away in [4, 10, 20, 40, 70] {
        let got = f64::from(glow.get(200 + away, 200).unwrap()[0]);
        let wanted = (-f64::from(away) / s).exp() / (std::f64::consts::TAU * s * s);
        assert!((got / wanted - 1.0).abs() < 0.15, "at {away}: {got} not {wanted}");
    }
    // Octaves are sums of the same formula.
    let spread = Spread { octaves: 3, gain: 0.5, ..spread };
    let glow = spread.apply(&dot, window, window, &cancel).unwrap();
    for away in [2, 4, 10, 20, 40, 70] {
        let got = f64::from(glow.get(200 + away, 200).unwrap()[0]);
        let of = |octave: i32| {
            let s = s / 2.0f64.powi(octave);
            0.5f64.powi(octave) / 1.75 * (-f64::from(away) / s).exp() / (std::f64::consts::TAU * s * s)
        };
        let wanted = of(0) + of(1) + of(2);
        assert!((got / wanted - 1.0).abs() < 0.15, "octaves at {away}: {got} not {wanted}");
    }
    for (fall_off, octaves) in [(FallOff::Exponential, 1), (FallOff::Gaussian, 4), (FallOff::Exponential, 3)]
    {
        let spread = Spread { size: 20.0, fall_off, octaves, gain: 0.8 };
        let glow = spread.apply(&dot, window, window, &cancel).unwrap();
        let light: f64 = glow.pixels().iter().map(|pixel| f64::from(pixel[0])).sum();
        assert!((light - 1.0).abs() < 5e-3, "{fall_off:?} {octaves}: {light}");
    }
}

/// Where nothing may shine nothing is added, and a glow alone covers no more than it did.
#[test]
fn a_source_matte_says_what_shines() {
    let (window, cancel) = (Window::sized(8, 1), Cancel::new());
    let picture = Raster::flat(window, [4.0, 4.0, 4.0, 1.0]);
    let counts = Raster::from_fn(window, |x, _| if x < 4 { 1.0 } else { 0.0 });
    let shining = source(&picture, Some(&counts), 0.0, LUMA, &cancel).unwrap();
    assert_eq!((shining.get(3, 0).unwrap(), shining.get(4, 0).unwrap()), ([4.0, 4.0, 4.0, 1.0], [0.0; 4]));
    let alone = lay(&picture, &shining, [0.5; 3], GlowGives::Alone, &cancel).unwrap();
    assert_eq!(alone.get(0, 0).unwrap(), [2.0, 2.0, 2.0, 0.5]);
}
