//! Checks of `distance`.

use veil_pixels::filter::distance::*;
use veil_pixels::{Cancel, Raster, Window};

#[test]
fn distances_are_those_of_a_search_over_every_pixel() {
    let data = Window::new(-4, -3, 40, 30);
    let matte = Raster::from_fn(data, |x, y| if (x * 7919 + y * 104_729) % 97 == 0 { 0.8 } else { 0.2 });
    for (to, most) in [(Side::Matte, 100.0), (Side::Matte, 4.5), (Side::Rest, 9.0)] {
        let found = distance(&matte, data, to, most, Window::new(-9, -8, 38, 35), &Cancel::new()).unwrap();
        for y in -8..35 {
            for x in -9..38 {
                let hit = |(u, v): (i32, i32)| (matte.get(u, v).unwrap_or(0.0) >= 0.5) == (to == Side::Matte);
                let about = (-20..50).flat_map(|v| (-20..60).map(move |u| (u, v)));
                let apart =
                    about.filter(|place| hit(*place)).map(|(u, v)| ((u - x) as f32).hypot((v - y) as f32));
                assert_eq!(found.get(x, y), Some(apart.fold(most, f32::min)), "{to:?} {x} {y}");
            }
        }
    }
}
