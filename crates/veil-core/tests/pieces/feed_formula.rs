//! Checks of `feed::formula`.

use veil_core::feed::*;

fn value(text: &str) -> f64 {
    Formula::parse(text).unwrap().at(Moment { now: 1013.0, since: 12.0, secs: 0.5 }, &[])
}

/// Values by hand; function behaviour from the GLSL ES 3.0 specification, chapter 8.
#[test]
fn arithmetic_and_functions_give_what_the_hand_gives() {
    for (text, expected) in [
        ("1 + 2 * 3 - 4 / 2", 5.0),
        ("-(2 - 5) * 2", 6.0),
        ("now - since", 1001.0),
        ("since > 10 && secs < 1 ? 7 : 8", 7.0),
        ("mod(-1, 3)", 2.0),
        ("fract(-0.25)", 0.75),
        ("smoothstep(0, 4, 1)", 0.15625),
        ("step(2, 2) + step(3, 2)", 1.0),
        ("mix(10, 20, .25)", 12.5),
        ("length(3, 4)", 5.0),
        ("1 / 0 + 0", 0.0),
        ("sqrt(0 - 1)", 0.0),
        ("!0 + !5", 1.0),
        ("1e3 + 2.5E-2 + 1e+2", 1100.025),
        ("-3e1", -30.0),
    ] {
        assert!((value(text) - expected).abs() < 1e-12, "{text}: {}", value(text));
    }
}

#[test]
fn other_names_are_words_each_once_and_parts_of_pairs_belong_to_them() {
    let formula = Formula::parse("pulse * 2 + spot.x - pulse / spot.y").unwrap();
    assert_eq!(formula.words(), ["pulse", "spot.x", "spot.y"]);
    assert_eq!(formula.at(Moment { now: 0.0, since: 0.0, secs: 0.0 }, &[6.0, 5.0, 2.0]), 14.0);
}

#[test]
fn a_mistake_is_placed_and_says_what_was_expected() {
    for (text, at, word) in [
        ("1 +", 3, "number"),
        ("sin(1", 5, "`)`"),
        ("frame(2)", 0, "not `frame`"),
        ("clamp(1, 2)", 10, "3 values"),
        ("1 2", 2, "operator"),
        ("2e", 1, "operator"),
        ("1e400", 0, "number"),
    ] {
        let error = Formula::parse(text).unwrap_err();
        assert_eq!(error.at, at, "{text}");
        assert!(error.expected.contains(word), "{text}: {}", error.expected);
    }
    assert!(Formula::parse(&"(".repeat(100_000)).is_err());
}
