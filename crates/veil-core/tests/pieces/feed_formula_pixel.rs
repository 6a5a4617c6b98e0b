//! Checks of `feed::formula::pixel`.

use veil_core::feed::formula::*;
use veil_core::feed::{Formula, Moment};
use veil_pixels::program::Given;

/// The formula of a frame, worked out number by number, is the reference: every function and operator, with the
/// pixel's place written in its stead.
#[test]
fn many_pixels_at_a_time_give_what_each_gives_alone() {
    let moment = Moment { now: 1013.0, since: 12.0, secs: 0.5 };
    for text in [
        "sin(px) + cos(px * 3) * tan(px * 0.02)",
        "asin(px / 80) + acos(px / 90) + atan(px)",
        "atan(px, 7 - px)",
        "radians(px) + degrees(px)",
        "pow(abs(px), 1.7) + exp(px * 0.05) + log(abs(px) + 0.1)",
        "sqrt(abs(px)) * sign(px)",
        "floor(px) + ceil(px * 0.3) - round(px * 1.01) + fract(px)",
        "mod(px, 3.5) + min(px, 4) + max(px, 2 - px)",
        "clamp(px, -3, px * 0.2 + 1)",
        "mix(1, px, 0.3) + step(0.5, px)",
        "smoothstep(-5, 6, px)",
        "length(px) + length(px, 3) + length(px, 3, since)",
        "noise(px) + noise(px, 4)",
        "px > 3 && px < 9 || !(px != px) ? px : -px",
        "px <= 2 == (px >= 2)",
        "since * px - now / (px + 0.01) + secs * pi",
    ] {
        let program = PixelFormula::parse(text).unwrap().program(moment);
        let places: Vec<f32> = (0..300).map(|at| at as f32 * 0.37 - 55.3).collect();
        let mut out = vec![0.0; places.len()];
        program.run(&[Given::Floats { floats: &places, first: 0, step: 1 }], &mut out);
        for (place, got) in places.iter().zip(out) {
            let plain = Formula::parse(&text.replace("px", &format!("({place})"))).unwrap().at(moment, &[]);
            let off = (f64::from(got) - plain).abs();
            assert!(off <= 2e-4 * plain.abs().max(1.0), "{text} at {place}: {got}, not {plain}");
        }
    }
}

#[test]
fn inputs_are_named_by_number_and_float_and_others_are_told() {
    let formula = PixelFormula::parse("in1.g * in2 + in3.y").unwrap();
    assert_eq!([0, 1, 2, 3].map(|input| formula.names(input)), [true, true, true, false]);
    let later = Moment { now: 1010.0, since: 9.0, secs: 0.375 };
    assert_eq!(formula.times(later), [None; 3]);
    assert_eq!(PixelFormula::parse("since * px").unwrap().times(later), [None, Some(9.0), None]);
    for text in ["in5.r", "in1.q", "in0"] {
        assert!(PixelFormula::parse(text).is_err(), "{text}");
    }
    assert_eq!(Formula::parse("px + 1").unwrap().words(), ["px"], "a frame has no pixel");
    let moment = Moment { now: 1.0, since: 0.0, secs: 0.0 };
    let pulsing = PixelFormula::parse("px * pulse").unwrap().with_numbers(|_| 3.0);
    let mut out = [0.0];
    pulsing.program(moment).run(&[Given::Same(5.0)], &mut out);
    assert_eq!(out, [15.0]);
}
