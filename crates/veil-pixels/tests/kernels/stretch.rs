//! Checks of `stretch`.

use veil_pixels::filter::stretch::*;
use veil_pixels::{Cancel, Raster, Window};

fn field(window: Window) -> Raster<f32> {
    Raster::from_fn(window, |x, y| (x * 31 + y * y) as f32)
}

/// Common practice: a pattern of which one row is stretched varies along the row only.
#[test]
fn a_stretched_row_is_that_row_everywhere() {
    let (data, cancel) = (Window::sized(12, 9), Cancel::new());
    let made =
        Stretch { line: Line::Row, at: 4.5, band: 0.0 }.apply(&field(data), data, data, &cancel).unwrap();
    for y in data.rows() {
        assert_eq!(made.row(y), field(data).row(4));
    }
    let made =
        Stretch { line: Line::Column, at: 3.5, band: 1.0 }.apply(&field(data), data, data, &cancel).unwrap();
    assert!(data.rows().all(|y| made.row(y).iter().all(|value| *value == field(data).get(3, y).unwrap())));
}

/// By hand: a band from 2.25 to 5.25 holds three quarters of row 2, rows 3 and 4, and a quarter of row 5; beyond the
/// border the last row counts.
#[test]
fn a_band_is_the_mean_of_the_parts_of_its_rows() {
    let (data, cancel) = (Window::sized(1, 9), Cancel::new());
    let source = Raster::from_fn(data, |_, y| (y * y) as f32);
    let mean = |at, band| {
        let made = Stretch { line: Line::Row, at, band }.apply(&source, data, data, &cancel).unwrap();
        made.get(0, 0).unwrap()
    };
    assert!((mean(3.75, 3.0) - (0.75 * 4.0 + 9.0 + 16.0 + 0.25 * 25.0) / 3.0).abs() < 1e-5);
    assert!((mean(9.0, 4.0) - (49.0 + 3.0 * 64.0) / 4.0).abs() < 1e-4);
    assert_eq!(mean(-1e9, 2.0), 0.0);
}
