//! Checks of `program`.

use veil_pixels::program::*;

#[test]
fn steps_that_do_not_fit_together_are_no_program() {
    use Step::{Given, Number, Two as S};
    assert!(Program::new(vec![]).is_none());
    assert!(Program::new(vec![Number(1.0), S(Two::Add)]).is_none());
    assert!(Program::new(vec![Number(1.0), Given(0)]).is_none());
    assert!(Program::new(vec![Number(1.0), Given(0), S(Two::Add)]).is_some());
}

/// Against the sine of a double, near 0, far out, and beyond where quarters are taken off.
#[test]
fn sines_are_as_exact_as_floats_allow() {
    for (what, plain) in [(One::Sin, f64::sin as fn(f64) -> f64), (One::Cos, f64::cos)] {
        let program = Program::new(vec![Step::Given(0), Step::One(what)]).unwrap();
        for reach in [1.0f32, 40.0, 8000.0, 1.0e6] {
            let floats: Vec<f32> = (0..5000).map(|at| (at as f32 / 2500.0 - 1.0) * reach).collect();
            let mut out = vec![0.0; floats.len()];
            program.run(&[Given::Floats { floats: &floats, first: 0, step: 1 }], &mut out);
            for (at, value) in floats.iter().zip(out) {
                let off = (f64::from(value) - plain(f64::from(*at))).abs();
                assert!(off <= 1.5e-7, "{what:?} of {at}: off by {off:e}");
            }
        }
    }
}

/// What is the same for a whole row is worked out once; each of these has it on another side of a step.
#[test]
fn what_a_row_has_in_common_changes_nothing_but_the_time() {
    use Step::{Given as G, Number, Three as T, Two as S, With};
    let programs = [
        vec![G(1), With(Two::Divide, 2.0), G(0), S(Two::Subtract)],
        vec![G(0), G(1), S(Two::Subtract), Number(3.0), S(Two::Length)],
        vec![
            G(1),
            Number(2.0),
            S(Two::Pow),
            G(0),
            S(Two::Add),
            Number(0.5),
            G(0),
            S(Two::Divide),
            S(Two::Min),
        ],
        vec![Number(2.0), G(0), G(1), With(Two::Multiply, 0.1), T(Three::Mix), G(1), S(Two::Multiply)],
        vec![G(1), G(1), G(1), T(Three::Choose), Step::One(One::Sin)],
    ];
    let places: Vec<f32> = (0..300).map(|at| at as f32 * 0.37 + 0.1).collect();
    let same = vec![7.0; 300];
    let floats = |floats| Given::Floats { floats, first: 0, step: 1 };
    for steps in programs {
        let program = Program::new(steps.clone()).unwrap();
        let (mut once, mut each) = (vec![0.0; 300], vec![0.0; 300]);
        program.run(&[floats(&places), Given::Same(7.0)], &mut once);
        program.run(&[floats(&places), floats(&same)], &mut each);
        let off = once.iter().zip(&each).map(|(a, b)| (a - b).abs() / b.abs().max(1.0)).fold(0.0, f32::max);
        assert!(off <= 1e-6, "{steps:?}: off by {off:e}");
    }
}

#[test]
fn a_division_by_nothing_gives_nothing_and_is_counted() {
    let program = Program::new(vec![Step::Number(1.0), Step::Given(0), Step::Two(Two::Divide)]).unwrap();
    let floats: Vec<f32> = (0..600).map(|at| (at % 300) as f32).collect();
    let mut out = vec![7.0; 600];
    let flaws = program.run(&[Given::Floats { floats: &floats, first: 0, step: 1 }], &mut out);
    assert_eq!((flaws, out[0], out[300], out[2], out[599]), (2, 0.0, 0.0, 0.5, 1.0 / 299.0));
}
