//! Checks of `uv`.

use veil_pixels::warp::uv::*;
use veil_pixels::{Cancel, Raster, Window};

/// By the words: column i and row j hold ((i + 0.5)/width, 1 − (j + 0.5)/height) where nothing moves.
#[test]
fn places_of_pixel_centres_move_nothing_and_moves_come_back() {
    let (frame, cancel) = (Window::sized(1920, 1080), Cancel::new());
    for upward in [Upward::Up, Upward::Down] {
        let places = Places { frame, upward };
        let still = places.picture(&Raster::clear(frame), &cancel).unwrap();
        let [u, v, _, a] = still.get(300, 200).unwrap();
        let wanted = if upward == Upward::Up { 1.0 - 200.5 / 1080.0 } else { 200.5 / 1080.0 };
        assert!((u - 300.5 / 1920.0).abs() < 1e-6 && (v - wanted).abs() < 1e-6 && a == 1.0);
        let none = places.moves(&still, &cancel).unwrap();
        assert!(none.pixels().iter().flatten().all(|moved| moved.abs() < 2e-4));
        let moves = Raster::from_fn(frame, |x, y| [(x % 17) as f32 - 8.0, (y % 5) as f32 * 0.25]);
        let back = places.moves(&places.picture(&moves, &cancel).unwrap(), &cancel).unwrap();
        assert!(
            back.pixels().iter().zip(moves.pixels()).all(|(a, b)| (0..2).all(|k| (a[k] - b[k]).abs() < 3e-4))
        );
    }
}
