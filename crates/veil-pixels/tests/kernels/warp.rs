//! Checks of `warp`.

use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::displace::Moves;
use veil_pixels::warp::perspective::{Homography, sigma_of_width};
use veil_pixels::warp::*;
use veil_pixels::{Cancel, Edge, Raster, Window};

fn noisy(data: Window) -> Raster<f32> {
    Raster::from_fn(data, |x, y| ((x * 7919 + y * 104_729).rem_euclid(1013)) as f32 / 1013.0)
}

/// A move of whole pixels, as a map, between two matrices that undo each other, is that move.
#[test]
fn moves_between_matrices_that_undo_each_other_act_in_the_middle() {
    let data = Window::sized(64, 48);
    let turn =
        Homography::shift(-32.0, -24.0).then(Homography::turn(0.4)).then(Homography::shift(32.0, 24.0));
    let inner = Window::new(24, 18, 40, 30);
    let mut warp = Warp::new(inner, Filter::Cubic, Edge::Clear);
    warp.carry(turn);
    warp.displace(Moves::new(Raster::flat(warp.window(), [0.0, 0.0])), 0.0);
    warp.carry(turn.inverse().unwrap());
    assert!(data.contains(warp.reads(data)));
    let back = warp.apply(&noisy(data), data, &Cancel::new()).unwrap();
    let worst = (inner.y0..inner.y1)
        .flat_map(|y| (inner.x0..inner.x1).map(move |x| (x, y)))
        .map(|(x, y)| (back.get(x, y).unwrap() - noisy(data).get(x, y).unwrap()).abs())
        .fold(0.0, f32::max);
    assert!(worst < 1e-4, "{worst}");
}

/// By hand: halving after a softness of σ = 2 on a move reads with that 2 alone, since the move comes later on
/// the way back; the other way round the 2 counts double in the source.
#[test]
fn softness_is_carried_on_by_what_lies_beyond_it() {
    let window = Window::sized(20, 20);
    let moves = || Moves::new(Raster::flat(Window::new(-90, -90, 90, 90), [4.0, 0.0]));
    let halved = Homography::scale(2.0, 2.0);
    let mut soft_first = Warp::new(window, Filter::Cubic, Edge::Hold);
    soft_first.displace(moves(), 0.5);
    soft_first.carry(halved);
    let mut soft_last = Warp::new(window, Filter::Cubic, Edge::Hold);
    soft_last.carry(halved);
    soft_last.displace(moves(), 0.5);
    let own = f64::from(sigma_of_width(2.0)).powi(2);
    assert!((f64::from(soft_first.widest()).powi(2) - (16.0 + own)).abs() < 1e-3);
    assert!((f64::from(soft_last.widest()).powi(2) - (4.0 + own)).abs() < 1e-3);
}
