//! Checks of `mixture`.

use veil_pixels::filter::blur::{Sigma, gaussian};
use veil_pixels::filter::mixture::{Part, mixture};
use veil_pixels::{Cancel, Edge, Raster, Window};

/// What it is by definition: each Gaussian by itself, summed; also where its windows cut through the data.
#[test]
fn a_mixture_is_the_sum_of_its_parts() {
    let (data, cancel) = (Window::new(-7, 3, 150, 120), Cancel::new());
    let picture = Raster::from_fn(data, |x, y| {
        let spot = f32::from(u8::from((x * 31 + y * 17) % 101 == 0));
        [spot * 9.0, (x as f32 * 0.1).sin(), y as f32 / 100.0, 1.0]
    });
    let parts = [(0.0, 0.1), (1.7, 0.3), (4.2, 0.2), (9.0, 0.15), (38.0, 0.25)]
        .map(|(sigma, weight)| Part { sigma, weight });
    for wanted in [data, Window::new(20, -30, 190, 60), Window::new(60, 60, 61, 61)] {
        let made = mixture(&picture, data, &parts, wanted, &cancel).unwrap();
        let each = parts.map(|part| {
            gaussian(&picture, data, Edge::Clear, Sigma::round(part.sigma), wanted, &cancel).unwrap()
        });
        for y in wanted.y0..wanted.y1 {
            for x in wanted.x0..wanted.x1 {
                let got = made.get(x, y).unwrap();
                for (channel, got) in got.into_iter().enumerate() {
                    let each = each.iter().zip(parts);
                    let sum: f32 =
                        each.map(|(one, part)| one.get(x, y).unwrap()[channel] * part.weight).sum();
                    assert!((got - sum).abs() < 2e-5, "{channel} at {x}, {y} of {wanted:?}: {got} {sum}");
                }
            }
        }
    }
}
