//! Checks of `colour::lut`.

use veil_pixels::colour::lut::*;

#[test]
fn a_cube_of_corners_gives_each_colour_back_and_holds_its_border() {
    let corner = |index: usize| [index & 1, index >> 1 & 1, index >> 2].map(|bit| bit as f32);
    let entries = Entries::Cube { side: 2, colours: (0..8).map(corner).collect() };
    let lut = Lut { low: [0.0; 3], high: [1.0; 3], entries };
    for colour in [[0.2, 0.7, 0.4], [0.9, 0.1, 0.1], [0.0, 1.0, 0.5]] {
        assert!(lut.at(colour).iter().zip(colour).all(|(a, b)| (a - b).abs() < 1e-6));
    }
    assert_eq!(lut.at([-3.0, 0.5, 9.0]), [0.0, 0.5, 1.0]);
    assert_eq!(lut.at([f32::NAN; 3]), [0.0; 3]);
}

#[test]
fn a_line_is_read_between_its_entries_within_its_domain() {
    let line = Entries::Line(vec![[0.0; 3], [1.0, 2.0, 3.0], [4.0; 3]]);
    let lut = Lut { low: [-1.0; 3], high: [1.0; 3], entries: line };
    assert_eq!(lut.at([-0.5, 0.0, 0.5]), [0.5, 2.0, 3.5]);
}
