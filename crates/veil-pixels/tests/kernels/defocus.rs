//! Checks of `light::defocus` and `light::aperture`.

use proptest::prelude::*;
use veil_pixels::light::aperture::Opening;
use veil_pixels::light::defocus::{blur_circle, defocused};
use veil_pixels::{Cancel, Field, Picture, Raster, Window};

const FRAME: Window = Window::new(-5, 2, 91, 66);

fn made(picture: &Picture, radii: &Field, opening: Opening, wanted: Window) -> Picture {
    defocused(picture, radii, FRAME, (opening, 12.0), wanted, &Cancel::new()).unwrap()
}

/// By hand, thin lens: 50 mm at f/2 focused at 2 m; what is at 4 m becomes 50²/2·(2000/4000)/1950 = 0.3205 mm wide, at 1 m twice as
/// much the other way, at infinity 0.6410 mm; what is in focus a point.
#[test]
fn the_blur_circle_is_the_thin_lens() {
    for (depth, wanted) in
        [(4000.0, 0.320_513), (1000.0, -0.641_026), (f64::INFINITY, 0.641_026), (2000.0, 0.0)]
    {
        assert!((blur_circle(50.0, 2.0, 2000.0, depth) - wanted).abs() < 1e-6);
    }
    // The image distances themselves: a lens throws what is at S to S·f/(S − f); the cone of light is f/N wide at the lens.
    let image = |far: f64| far * 85.0 / (far - 85.0);
    for depth in [900.0, 1500.0, 30_000.0] {
        let cone = 85.0 / 1.4 * (image(1500.0) - image(depth)) / image(depth);
        assert!((blur_circle(85.0, 1.4, 1500.0, depth) - cone).abs() < 1e-9);
    }
}

fn highlight() -> Picture {
    Raster::from_fn(
        FRAME,
        |x, y| if (x, y) == (40, 30) { [400.0, 100.0, 50.0, 1.0] } else { [0.0, 0.0, 0.0, 1.0] },
    )
}

/// A highlight keeps its light, spread evenly over its opening and nowhere else.
#[test]
fn a_highlight_becomes_its_opening() {
    let blades = Opening::Blades { count: 5, turn: 0.3, round: 0.0 };
    for (opening, area) in [
        (Opening::Disc, std::f32::consts::PI * 100.0),
        (Opening::Ring { inner: 0.6 }, std::f32::consts::PI * 64.0),
        (blades, 2.5 * 100.0 * (std::f32::consts::TAU / 5.0).sin()),
    ] {
        for radius in [10.0, -10.0] {
            let got = made(&highlight(), &Raster::from_fn(FRAME, |_, _| radius), opening, FRAME);
            let sum: f32 = got.pixels().iter().map(|pixel| pixel[0]).sum();
            assert!((sum / 400.0 - 1.0).abs() < 1e-3, "{opening:?}: {sum}");
            let lit = got.pixels().iter().filter(|pixel| pixel[0] > 0.5 * 400.0 / area).count() as f32;
            assert!((lit / area - 1.0).abs() < 0.06, "{opening:?}: {lit} of {area}");
            // Large discs are spread over blocks of two pixels and read between them: their edges are that soft.
            for far in [[40 + 14, 30], [40 - 14, 30], [40, 30 + 14], [40, 30 - 14]] {
                assert_eq!(got.get(far[0], far[1]).unwrap(), [0.0, 0.0, 0.0, 1.0]);
            }
        }
    }
}

/// An uneven opening is turned over before the focus.
#[test]
fn before_the_focus_the_opening_is_turned_over() {
    let opening = Opening::Blades { count: 3, turn: 0.0, round: 0.0 };
    let of = |radius: f32| made(&highlight(), &Raster::from_fn(FRAME, |_, _| radius), opening, FRAME);
    let (behind, before) = (of(4.5), of(-4.5));
    let apart: f32 = (-9..=9)
        .flat_map(|y| (-9..=9).map(move |x| (x, y)))
        .map(|(x, y)| (behind.get(40 + x, 30 + y).unwrap()[0] - before.get(40 - x, 30 - y).unwrap()[0]).abs())
        .sum();
    assert!(apart / 400.0 < 0.02, "{apart}");
    assert!(behind != before);
}

/// White before black and black before white: sharp things have no halo of far ones that are out of focus, and near ones are soft
/// over what is sharp behind them, on both sides of their edge.
#[test]
fn near_is_soft_over_far_and_far_is_not_over_near() {
    let halves =
        Raster::from_fn(FRAME, |x, _| if x < 40 { [1.0, 1.0, 1.0, 1.0] } else { [0.1, 0.1, 0.1, 1.0] });
    let of = |left: f32, right: f32| {
        let radii = Raster::from_fn(FRAME, |x, _| if x < 40 { left } else { right });
        made(&halves, &radii, Opening::Disc, FRAME)
    };
    // Left sharp in front, right far and soft: nothing of the white left gets over the right, nor the other way.
    let sharp = of(0.0, 8.0);
    for x in [20, 39, 40, 60] {
        let wanted = if x < 40 { 1.0 } else { 0.1 };
        assert!((sharp.get(x, 30).unwrap()[0] - wanted).abs() < 1e-3, "{x}: {:?}", sharp.get(x, 30));
    }
    // Left near and soft, right sharp behind: half at the edge, and within the left what is behind shines through.
    let near = of(-8.0, 0.0);
    let at = |x: i32| near.get(x, 30).unwrap()[0];
    assert!((at(39) + at(40) - 1.1).abs() < 0.12, "{} {}", at(39), at(40));
    assert!(at(35) < 0.97 && at(35) > at(38) && at(45) > 0.11 && at(45) < at(41), "{} {}", at(35), at(45));
    assert!((at(28) - 1.0).abs() < 1e-3 && (at(52) - 0.1).abs() < 1e-3);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(16))]

    /// A region is the crop of the whole, bit for bit.
    #[test]
    fn a_region_is_the_crop(seed in 0..1000i32, x in -5..70i32, y in 2..50i32, wide in 1..30i32, high in 1..20i32) {
        let at = |x: i32, y: i32, by: f32| (x as f32 * 0.21 + seed as f32 + y as f32 * by).sin();
        let picture = Raster::from_fn(FRAME, |x, y| [3.0 * at(x, y, 0.3).abs(), at(x, y, 0.1).abs(), 0.2, 1.0]);
        let radii = Raster::from_fn(FRAME, |x, y| 12.0 * at(x, y, 0.05));
        let part = Window::new(x, y, x + wide, y + high).intersect(FRAME);
        let whole = made(&picture, &radii, Opening::Disc, FRAME);
        prop_assert!(made(&picture, &radii, Opening::Disc, part) == whole.cropped(part));
    }
}

/// An even picture stays even, whatever the radii, with its alpha.
#[test]
fn what_is_even_stays_even() {
    let even = Raster::from_fn(FRAME, |_, _| [0.4, 0.2, 0.1, 0.5]);
    let radii = Raster::from_fn(FRAME, |x, y| 11.0 * ((x * 7 + y * 3) as f32 * 0.1).sin());
    let got = made(&even, &radii, Opening::Disc, FRAME);
    let apart =
        got.pixels().iter().flat_map(|pixel| (0..4).map(|at| (pixel[at] - [0.4, 0.2, 0.1, 0.5][at]).abs()));
    assert!(apart.fold(0.0, f32::max) < 1e-4);
}
