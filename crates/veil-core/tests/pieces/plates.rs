//! Checks of `plates`.

use veil_core::plates::fits;

#[test]
fn a_star_stands_for_any_run_of_letters() {
    for (pattern, name, wanted) in [
        ("kiln", "kiln", true),
        ("kiln", "kiln mouth", false),
        ("kiln*", "kiln mouth", true),
        ("*mouth", "kiln mouth", true),
        ("k*n*h", "kiln mouth", true),
        ("k*x*h", "kiln mouth", false),
        ("*", "", true),
        ("ab*ba", "aba", false),
    ] {
        assert_eq!(fits(pattern, name), wanted, "{pattern} {name}");
    }
}
