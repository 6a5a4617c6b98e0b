//! Checks of `lens`.

use veil_pixels::warp::lens::*;
use veil_pixels::{Cancel, Window};

/// By hand from the formula: at (0.5, 0.25) focal lengths r² = 0.3125; with k1 = −0.2, k2 = 0.05, p1 = 0.01 and
/// p2 = −0.004 the factor is 0.94238, and the tangential parts are 0.00075 and 0.003375.
#[test]
fn a_place_is_shown_where_the_formula_says_and_comes_back() {
    let lens =
        Lens { centre: [960.0, 540.0], focal: 1000.0, radial: [-0.2, 0.05, 0.0], tangential: [0.01, -0.004] };
    let [x, y] = lens.bent([1460.0, 790.0]);
    let factor = 1.0 - 0.2 * 0.3125 + 0.05 * 0.097_656_25;
    let wanted_x = 0.5 * factor + 2.0 * 0.01 * 0.125 - 0.004 * (0.3125 + 0.5);
    let wanted_y = 0.25 * factor + 0.01 * (0.3125 + 0.125) + 2.0 * -0.004 * 0.125;
    assert!((x - 960.0 - 1000.0 * wanted_x).abs() < 1e-9 && (y - 540.0 - 1000.0 * wanted_y).abs() < 1e-9);
    let back = lens.straight([x, y]).unwrap();
    assert!((back[0] - 1460.0).abs() < 1e-5 && (back[1] - 790.0).abs() < 1e-5, "{back:?}");
}

#[test]
fn a_fold_is_read_from_far_outside_and_no_coefficients_move_nothing() {
    let still = Lens { centre: [50.0; 2], focal: 80.0, radial: [0.0; 3], tangential: [0.0; 2] };
    let window = Window::sized(100, 100);
    for way in [LensWay::On, LensWay::Off] {
        assert!(still.over(way, window, &Cancel::new()).unwrap().pixels().iter().all(|m| *m == [0.0; 2]));
    }
    // r·(1 − 0.5·r²) is largest at r = 0.8165, where it is 0.5443: farther out nothing is shown.
    let folding = Lens { radial: [-0.5, 0.0, 0.0], ..still };
    let map = folding.over(LensWay::On, window, &Cancel::new()).unwrap();
    assert_eq!(map.get(99, 50), Some([FAR; 2]));
    assert!(map.get(92, 50).unwrap()[0].abs() < 40.0);
}
