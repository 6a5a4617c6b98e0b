//! Checks of `raster`.

use veil_pixels::buffer::raster::*;
use veil_pixels::{Cancel, Cancelled, Edge, Window};

#[test]
fn extending_reads_each_pixel_where_its_edge_mode_says() {
    let data = Window::new(2, 1, 7, 5);
    let raster = Raster::from_fn(data, |x, y| (x * 10 + y) as f32);
    let wide = Window::new(-6, -5, 15, 12);
    for edge in [Edge::Clear, Edge::Hold, Edge::Mirror, Edge::Repeat] {
        let extended = raster.extended(wide, data, edge);
        for y in wide.y0..wide.y1 {
            for x in wide.x0..wide.x1 {
                let from = edge.index(x, data.x0, data.x1).zip(edge.index(y, data.y0, data.y1));
                let expected = from.map_or(0.0, |(x, y)| (x * 10 + y) as f32);
                assert_eq!(extended.get(x, y), Some(expected), "{edge:?} at {x}, {y}");
            }
        }
    }
}

#[test]
fn work_stops_when_it_is_called_off() {
    let cancel = Cancel::new();
    cancel.set();
    let mut raster = Raster::<f32>::clear(Window::sized(4, 4));
    assert_eq!(raster.fill_rows(&cancel, |_, row| row.fill(1.0)), Err(Cancelled));
    assert_eq!(raster, Raster::clear(Window::sized(4, 4)));
}

#[test]
fn a_run_is_what_is_there_and_nothing_beside_it() {
    let raster = Raster::from_fn(Window::new(3, 2, 8, 4), |x, y| (10 * y + x) as f32);
    let run = |raster: &Raster<f32>, x0: i32, y: i32| raster.run(x0, y, &mut [9.0; 4]).to_vec();
    assert_eq!(run(&raster, 4, 3), [34.0, 35.0, 36.0, 37.0]);
    assert_eq!(run(&raster, 1, 2), [0.0, 0.0, 23.0, 24.0]);
    assert_eq!(run(&raster, 6, 2), [26.0, 27.0, 0.0, 0.0]);
    let nothing = Raster::clear(Window::EMPTY);
    for beside in [run(&raster, -9, 2), run(&raster, 20, 2), run(&raster, 4, 4), run(&nothing, 0, 0)] {
        assert_eq!(beside, [0.0; 4]);
    }
}
