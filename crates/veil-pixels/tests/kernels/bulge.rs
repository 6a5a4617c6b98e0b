//! Checks of `bulge`.

use veil_pixels::warp::bulge::*;
use veil_pixels::{Cancel, Window};

fn bulge(law: BulgeLaw, strength: f32) -> Bulge {
    Bulge { centre: [50.0, 40.0], radii: [40.0, 30.0], strength, law }
}

const LAWS: [BulgeLaw; 5] = [
    BulgeLaw::Swell,
    BulgeLaw::Equidistant,
    BulgeLaw::Equisolid,
    BulgeLaw::Stereographic,
    BulgeLaw::Orthographic,
];

/// Common practice: a bulge of strength 0 changes nothing.
#[test]
fn strength_nought_moves_nothing_and_none_folds() {
    for law in LAWS {
        let window = Window::sized(100, 80);
        let still = bulge(law, 0.0).over(window, &Cancel::new()).unwrap();
        assert!(still.pixels().iter().all(|moved| *moved == [0.0; 2]));
        for strength in [-1.0, -0.4, 0.3, 1.0] {
            let bulge = bulge(law, strength);
            let shares: Vec<f32> = (0..=1000).map(|step| bulge.from(step as f32 / 1000.0)).collect();
            assert!(shares.windows(2).all(|pair| pair[1] > pair[0] - 1e-6), "{law:?} {strength}");
            assert!(shares[0].abs() < 1e-6 && (shares[1000] - 1.0).abs() < 1e-5);
            assert_eq!(shares[500] < 0.5, strength > 0.0, "{law:?} {strength}: the middle grows above 0");
        }
    }
}

/// Kannala and Brandt 2006, equations 2 to 5, at 50°: θ = 0.8727, 2 sin 25° = 0.8452, 2 tan 25° = 0.9326, sin 50° = 0.7660.
#[test]
fn each_law_shows_an_angle_where_the_source_says_and_reads_it_from_the_plane() {
    let fifty = 50.0f32.to_radians();
    let listed = [(1, 0.872_7), (2, 0.845_2), (3, 0.932_6), (4, 0.766_0)];
    for (law, wanted) in listed {
        assert!((LAWS[law].shows(fifty) - wanted).abs() < 1e-4, "{:?}", LAWS[law]);
        // Strength 1 shows out to 80°: 50° is seen at this share of the rim, and stands at tan 50° of the plane.
        let share = LAWS[law].shows(fifty) / LAWS[law].shows(80.0f32.to_radians());
        let from = bulge(LAWS[law], 1.0).from(share);
        assert!((from - fifty.tan() / 80.0f32.to_radians().tan()).abs() < 1e-4);
        let undone = bulge(LAWS[law], -1.0).from(from);
        assert!((undone - share).abs() < 1e-4);
    }
}

/// By hand: at r = 0.5 and strength 0.8 the share is 0.5·(1 − 0.8·0.5625) = 0.275, so the pixel 20 to the right of the
/// centre is read from 11.
#[test]
fn a_pixel_is_read_from_nearer_the_centre() {
    let map = bulge(BulgeLaw::Swell, 0.8).over(Window::new(69, 39, 71, 40), &Cancel::new()).unwrap();
    let [x, _] = map.get(69, 39).unwrap();
    assert!((x - 9.0).abs() < 0.3, "{x}");
    assert!((bulge(BulgeLaw::Swell, 0.8).from(0.5) - 0.275).abs() < 1e-6);
}
