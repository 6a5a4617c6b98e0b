//! Checks of `cube`.

use veil_media::cube::parsed;

#[test]
fn a_table_is_read_with_its_domain_and_a_broken_one_names_its_line() {
    let cube: String = (0..8).map(|i| format!("{} {} {}\n", i & 1, i >> 1 & 1, i >> 2)).collect();
    let text = format!("# made by hand\nTITLE \"none\"\nLUT_3D_SIZE 2\nDOMAIN_MAX 2 2 2\n{cube}");
    let lut = parsed(&text).unwrap();
    assert_eq!(lut.at([1.0, 0.0, 2.0]), [0.5, 0.0, 1.0]);
    let line = parsed("LUT_1D_SIZE 2\nLUT_1D_INPUT_RANGE 0 4\n0 0 0\n1 1 1").unwrap();
    assert_eq!(line.at([1.0, 2.0, 9.0]), [0.25, 0.5, 1.0]);
    for (text, told) in [
        ("LUT_3D_SIZE 2\n0 0 0", "1 entries where its size says 8"),
        ("LUT_3D_SIZE 1000", "line 1"),
        ("LUT_1D_SIZE 2\n0 0 0\n1 1 nan", "line 3"),
        ("0 0 0", "neither"),
        ("LUT_1D_SIZE 2\nDOMAIN_MIN 1 1 1\n0 0 0\n1 1 1", "domain is empty"),
    ] {
        let error = parsed(text).unwrap_err();
        assert!(error.contains(told), "{error}");
    }
}
