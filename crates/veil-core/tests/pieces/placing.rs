//! Plates of other sizes than the shot.

use veil_core::placing::{Placed, Placing};
use veil_core::plates::About;
use veil_core::setup::{Frames, PictureFormat};
use veil_core::signal::{Domain, Pixels};
use veil_pixels::{Cancel, Cancelled, Raster, Window};

fn shot(width: u32, height: u32) -> PictureFormat {
    PictureFormat::plain(width, height, Frames { first: 1, last: 1 })
}

fn whole(window: Window) -> Domain {
    Domain { display: window, data: window }
}

/// Common practice: what is pixel for pixel keeps its pixels; fitted in, all is seen; filling, nothing is left bare; and a
/// pixel that is wider than high is so on the screen.
#[test]
fn each_way_puts_the_plate_where_the_trade_expects() {
    let plate = whole(Window::sized(960, 540));
    let square = About::default();
    let at = |placing, about, shot: &PictureFormat| Placed::of(placing, plate, about, shot).window();
    let frame = shot(1920, 1200);
    assert_eq!(at(Placing::TopLeft, square, &frame), Window::sized(960, 540));
    assert_eq!(at(Placing::Centre, square, &frame), Window::new(480, 330, 1440, 870));
    assert_eq!(at(Placing::Fit, square, &frame), Window::new(0, 60, 1920, 1140));
    assert_eq!(at(Placing::Fill, square, &frame), Window::new(-107, 0, 2027, 1200));
    let squeezed = About { aspect: 2.0, ..square };
    assert_eq!(at(Placing::Fit, squeezed, &frame), Window::new(0, 330, 1920, 870));
    // A shot of the same pixels shows them as they are.
    let squeezed_shot = PictureFormat { aspect: 2.0, ..shot(960, 540) };
    assert_eq!(at(Placing::Fit, squeezed, &squeezed_shot), Window::sized(960, 540));
}

/// OpenEXR's technical introduction: the display window is the picture, wherever its corner is counted from.
#[test]
fn a_display_window_that_begins_elsewhere_is_the_frame() {
    let file = Domain { display: Window::new(100, 50, 1060, 590), data: Window::new(90, 60, 200, 100) };
    for placing in [Placing::TopLeft, Placing::Centre, Placing::Fit, Placing::Fill] {
        let placed = Placed::of(placing, file, About::default(), &shot(960, 540));
        assert_eq!(placed.window(), Window::new(-10, 10, 100, 50), "{placing:?}");
        assert_eq!(placed.back([0.5, 0.5]), [100.5, 50.5]);
        let seen = placed.pixels(Window::new(0, 10, 3, 12), true, &Cancel::new(), |window| {
            assert_eq!(window, Window::new(100, 60, 103, 62));
            Ok::<_, Cancelled>(Pixels::Field(Raster::from_fn(window, |x, y| (x * 1000 + y) as f32)))
        });
        let Ok(Pixels::Field(seen)) = seen else { panic!("a field stays a field") };
        assert_eq!(seen.get(1, 11), Some(101_061.0));
    }
}

/// A picture fitted in at twice its size, read back: an even slope stays one.
#[test]
fn a_fitted_plate_is_sampled_where_it_should_be() {
    let file = whole(Window::new(10, 20, 74, 56));
    let placed = Placed::of(Placing::Fit, file, About::default(), &shot(128, 72));
    let slope = |window: Window| {
        Ok::<_, Cancelled>(Pixels::Field(Raster::from_fn(window, |x, y| (x + 2 * y) as f32)))
    };
    let seen = placed.pixels(Window::sized(128, 72), true, &Cancel::new(), slope);
    let Ok(Pixels::Field(seen)) = seen else { panic!("a field stays a field") };
    for (x, y) in [(20, 20), (64, 36), (101, 50)] {
        let [from_x, from_y] = placed.back([f64::from(x) + 0.5, f64::from(y) + 0.5]);
        let expected = (from_x - 0.5) + 2.0 * (from_y - 0.5);
        assert!((f64::from(seen.get(x, y).unwrap()) - expected).abs() < 1e-3, "{x} {y}");
    }
}
