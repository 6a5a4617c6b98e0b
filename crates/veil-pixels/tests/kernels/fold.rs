//! Checks of `fold`.

use veil_pixels::warp::fold::*;
use veil_pixels::{Cancel, Field, Map, Window};

/// By mathematics: x − a·sin(kx) turns back where a·k·cos(kx) > 1, a share of arccos(1/(a·k))/π of each period.
#[test]
fn a_sine_folds_where_it_is_steeper_than_one() {
    let window = Window::sized(1000, 3);
    let k = std::f32::consts::TAU / 200.0;
    for steepness in [0.9f32, 1.5, 4.0] {
        let places = Map::from_fn(window, |x, y| {
            let x = x as f32 + 0.5;
            [x - steepness / k * (k * x).sin(), y as f32 + 0.5]
        });
        let found = folded(&places, &Cancel::new()).unwrap();
        let share = found.pixels().iter().sum::<f32>() / found.pixels().len() as f32;
        let wanted = if steepness > 1.0 { (1.0 / steepness).acos() / std::f32::consts::PI } else { 0.0 };
        assert!((share - wanted).abs() < 0.005, "{steepness}: {share} {wanted}");
    }
}

#[test]
fn a_turn_and_a_stretch_fold_nothing_and_travel_adds_up() {
    let window = Window::sized(20, 10);
    let placed = |by: f32| Map::from_fn(window, |x, y| [3.0 * y as f32 + by, -2.0 * x as f32 + 2.0 * by]);
    assert!(folded(&placed(0.0), &Cancel::new()).unwrap().pixels().iter().all(|value| *value == 0.0));
    let mut travelled = Field::clear(window);
    for by in [0.0, 1.0, 0.0] {
        travel(&mut travelled, &placed(by), &placed(1.0), &Cancel::new()).unwrap();
    }
    assert!(travelled.pixels().iter().all(|value| (value - 2.0 * 5.0f32.sqrt()).abs() < 1e-4));
}
