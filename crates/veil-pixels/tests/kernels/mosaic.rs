//! Checks of `mosaic`.

use veil_pixels::filter::mosaic::*;
use veil_pixels::{Cancel, Raster, Window};

fn field(window: Window) -> Raster<f32> {
    Raster::from_fn(window, |x, y| ((x * 7 + y * 13).rem_euclid(29)) as f32)
}

/// Each pixel is the plain mean of all pixels of its cell, found one by one.
#[test]
fn a_cell_is_the_mean_of_its_pixels() {
    let (data, cancel) = (Window::new(-7, -5, 40, 31), Cancel::new());
    for (cell, corner) in [([5.0, 3.0], [0.0, 0.0]), ([4.7, 9.3], [1.9, -2.2]), ([1.0, 12.0], [0.4, 0.0])] {
        let mosaic = Mosaic { cell, corner, value: CellValue::Mean };
        let made = mosaic.apply(&field(data), data, data, &cancel).unwrap();
        let cell_of = |x: i32, y: i32| {
            [(0, x), (1, y)].map(|(axis, at)| ((at as f32 + 0.5 - corner[axis]) / cell[axis]).floor() as i32)
        };
        for (x, y) in [(-7, -5), (0, 0), (13, 8), (39, 30), (22, 17)] {
            let all = data.rows().flat_map(|row| (data.x0..data.x1).map(move |column| (column, row)));
            let same: Vec<f32> = all
                .filter(|(column, row)| cell_of(*column, *row) == cell_of(x, y))
                .map(|(column, row)| field(data).get(column, row).unwrap())
                .collect();
            let mean = same.iter().sum::<f32>() / same.len() as f32;
            assert!((made.get(x, y).unwrap() - mean).abs() < 1e-4, "{cell:?} at {x}, {y}");
        }
    }
}

#[test]
fn cells_of_a_pixel_change_nothing_and_flowing_cells_keep_a_slope() {
    let (data, cancel) = (Window::sized(40, 20), Cancel::new());
    for value in [CellValue::Mean, CellValue::Sample, CellValue::Smooth] {
        let one = Mosaic { cell: [0.0, 1.0], corner: [0.0; 2], value };
        assert_eq!(one.apply(&field(data), data, data, &cancel).unwrap(), field(data), "{value:?}");
    }
    let slope = Raster::from_fn(data, |x, y| 2.0 * x as f32 - y as f32);
    let flowing = Mosaic { cell: [8.0, 4.0], corner: [0.0; 2], value: CellValue::Smooth };
    let made = flowing.apply(&slope, data, Window::new(8, 4, 32, 16), &cancel).unwrap();
    for y in 4..16 {
        for x in 8..32 {
            let wanted = slope.get(x, y).unwrap();
            assert!((made.get(x, y).unwrap() - wanted).abs() < 1e-3, "{x}, {y}");
        }
    }
}

#[test]
fn a_part_is_the_crop_of_the_whole() {
    let (data, cancel) = (Window::sized(64, 48), Cancel::new());
    for value in [CellValue::Mean, CellValue::Sample, CellValue::Smooth] {
        let mosaic = Mosaic { cell: [9.5, 6.25], corner: [3.3, 1.7], value };
        let whole = mosaic.apply(&field(data), data, data, &cancel).unwrap();
        let part = Window::new(17, 9, 31, 40);
        let read = field(data).cropped(mosaic.reads(part, data));
        assert_eq!(mosaic.apply(&read, data, part, &cancel).unwrap(), whole.cropped(part), "{value:?}");
    }
}
