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
