//! Numbers worked out for many pixels at a time, step by step.
//!
//! - Shape: runs of floats, one a pixel; as many in as out.
//! - A program is a list of [`Step`]s on a stack of runs, as a formula is read: `a + b · 2` puts `a`, puts `b`,
//!   multiplies by 2, adds.
//! - Angles in radians; comparisons give 1 or 0; a result that is no finite number is 0.
//! - Accuracy: functions are within 1e-5 of their value, and of 1e-5 where that is smaller than 1, for arguments up to
//!   a few thousand.
//! - Source: the functions behave as those of the same names in the GLSL ES 3.0 specification.

use multiversion::multiversion;
use wide::f32x8;

use crate::noise::gradient_noise;

/// Of one number.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[expect(missing_docs, reason = "named as in mathematics")]
pub enum One {
    Negate,
    Not,
    Sin,
    Cos,
    Tan,
    Asin,
    Acos,
    Atan,
    Exp,
    Log,
    Sqrt,
    Abs,
    Sign,
    Floor,
    Ceil,
    Round,
    Fract,
}

/// Of two numbers, in the order they are written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[expect(missing_docs, reason = "named as in mathematics")]
pub enum Two {
    Or,
    And,
    Less,
    LessOrEqual,
    Greater,
    GreaterOrEqual,
    Equal,
    NotEqual,
    Add,
    Subtract,
    Multiply,
    Divide,
    Atan,
    Pow,
    Mod,
    Min,
    Max,
    /// 0 where the second is below the first.
    Step,
    /// The root of the sum of squares.
    Length,
    /// Gradient noise of the first, by the seed that is the second.
    Noise,
}

impl Two {
    /// The same of two numbers alone: the plain way.
    pub fn of(self, a: f64, b: f64) -> f64 {
        let truth = |is_true: bool| f64::from(u8::from(is_true));
        match self {
            Self::Or => truth(a != 0.0 || b != 0.0),
            Self::And => truth(a != 0.0 && b != 0.0),
            Self::Less => truth(a < b),
            Self::LessOrEqual => truth(a <= b),
            Self::Greater => truth(a > b),
            Self::GreaterOrEqual => truth(a >= b),
            Self::Equal => truth(a == b),
            Self::NotEqual => truth(a != b),
            Self::Add => a + b,
            Self::Subtract => a - b,
            Self::Multiply => a * b,
            Self::Divide => a / b,
            Self::Atan => a.atan2(b),
            Self::Pow => a.powf(b),
            Self::Mod => a - b * (a / b).floor(),
            Self::Min => a.min(b),
            Self::Max => a.max(b),
            Self::Step => truth(b >= a),
            Self::Length => a.hypot(b),
            Self::Noise => noise(a, b),
        }
    }
}

/// Of three numbers, in the order they are written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Three {
    /// From the first to the second by a share.
    Mix,
    /// The share of the third between the first two, eased.
    Smoothstep,
    /// The second where the first is not 0, else the third.
    Choose,
}

/// One step of a program.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Step {
    /// Puts a number on the stack.
    Number(f32),
    /// Puts one of what is given on the stack.
    Given(usize),
    /// Takes the top for its result.
    One(One),
    /// Takes the two at the top.
    Two(Two),
    /// Takes the top, and this as the second.
    With(Two, f32),
    /// Takes the three at the top.
    Three(Three),
}

impl Step {
    /// How many runs it takes from the stack; each step leaves one.
    const fn takes(self) -> usize {
        match self {
            Self::Number(_) | Self::Given(_) => 0,
            Self::One(_) | Self::With(..) => 1,
            Self::Two(_) => 2,
            Self::Three(_) => 3,
        }
    }
}

/// What a program is given, by its place in the list: for each pixel of a row.
#[derive(Clone, Copy, Debug)]
pub enum Given<'a> {
    /// The same for all.
    Same(f32),
    /// Every so many floats from one on.
    Floats {
        /// All of a row's floats.
        floats: &'a [f32],
        /// The first pixel's.
        first: usize,
        /// Floats from one pixel's to the next.
        step: usize,
    },
}

/// Pixels that are worked out together.
const RUN: usize = 256;
type Run = [f32; RUN];

/// A list of steps that leaves one run on the stack and never takes what is not there.
#[derive(Clone, Debug, PartialEq)]
pub struct Program {
    steps: Vec<Step>,
    givens: usize,
    deepest: usize,
}

impl Program {
    /// `None` where a step takes more than there is, or more or less than one run is left.
    pub fn new(steps: Vec<Step>) -> Option<Self> {
        let (mut depth, mut deepest, mut givens) = (0usize, 0usize, 0usize);
        for step in &steps {
            depth = depth.checked_sub(step.takes())? + 1;
            deepest = deepest.max(depth);
            if let Step::Given(number) = step {
                givens = givens.max(number + 1);
            }
        }
        (depth == 1).then_some(Self { steps, givens, deepest })
    }

    /// The same number everywhere.
    pub fn constant(value: f32) -> Self {
        Self { steps: vec![Step::Number(value)], givens: 0, deepest: 1 }
    }

    /// A row's numbers, and how many of them were none. What the program uses and is not given counts as 0.
    pub fn run(&self, given: &[Given<'_>], out: &mut [f32]) -> usize {
        let mut stack = vec![[0.0f32; RUN]; self.deepest];
        let missing = vec![Given::Same(0.0); self.givens.saturating_sub(given.len())];
        let given: Vec<Given<'_>> = given.iter().copied().chain(missing).collect();
        let mut flaws = 0;
        for (number, out) in out.chunks_mut(RUN).enumerate() {
            flaws += run_block(&self.steps, &given, number * RUN, &mut stack, out);
        }
        flaws
    }
}

fn load(given: Given<'_>, from: usize, length: usize, run: &mut Run) {
    match given {
        Given::Same(value) => run.fill(value),
        Given::Floats { floats, first, step } => {
            let floats = floats.get(first + from * step..).unwrap_or_default();
            if step == 1 {
                let length = length.min(floats.len());
                return run[..length].copy_from_slice(&floats[..length]);
            }
            let values = floats.iter().step_by(step.max(1)).take(length);
            run.iter_mut().zip(values).for_each(|(to, from)| *to = *from);
        }
    }
}

macro_rules! each {
    ($top:ident, $value:ident => $result:expr) => {
        for value in $top.as_chunks_mut::<8>().0 {
            let $value = f32x8::from(*value);
            *value = $result.into();
        }
    };
}

/// Plain floats, which the compiler puts in the widest registers that the machine has.
macro_rules! each_plain {
    ($top:ident, $value:ident => $result:expr) => {
        for value in $top.iter_mut() {
            let $value = *value;
            *value = $result;
        }
    };
}

macro_rules! each_two {
    ($first:ident, $second:ident, |$a:ident, $b:ident| $result:expr) => {
        for (a, b) in $first.as_chunks_mut::<8>().0.iter_mut().zip($second.as_chunks::<8>().0) {
            let ($a, $b) = (f32x8::from(*a), f32x8::from(*b));
            *a = $result.into();
        }
    };
}

macro_rules! each_float {
    ($first:ident, $second:ident, |$a:ident, $b:ident| $result:expr) => {
        for (a, $b) in $first.iter_mut().zip($second) {
            let $a = *a;
            *a = $result;
        }
    };
}

const fn truth(is_true: bool) -> f32 {
    if is_true { 1.0 } else { 0.0 }
}

/// Up to here quarters of a turn are taken off without loss.
const FAR: f32 = 8192.0;
/// One and a half times 2²³.
const WHOLE: f32 = 12_582_912.0;

/// The sine of each number, so many quarters of a turn on.
///
/// Source: S. L. Moshier's Cephes, single precision: quarters are taken off in three parts, and what is left goes
/// through one of two polynomials. Error at most 1e-7 up to [`FAR`]; beyond it, the sine of a double.
#[inline(always)]
fn sines(top: &mut Run, quarters: u32) {
    if top.iter().map(|value| u32::from(value.abs() > FAR)).sum::<u32>() > 0 {
        let turned = f64::from(quarters) * std::f64::consts::FRAC_PI_2;
        return each_plain!(top, v => (f64::from(v) + turned).sin() as f32);
    }
    each_plain!(top, v => {
        // Added to this, a float has whole numbers alone, and they stand in its lowest bits.
        let whole = v * std::f32::consts::FRAC_2_PI + WHOLE;
        let near = whole - WHOLE;
        let left = v - near * 1.570_312_5 - near * 4.837_513e-4 - near * 7.549_79e-8;
        let quarter = whole.to_bits().wrapping_add(quarters);
        let square = left * left;
        let sine = left + left * square
            * (-1.666_665_5e-1 + square * (8.332_161e-3 + square * -1.951_529_6e-4));
        let cosine = 1.0 - 0.5 * square + square * square
            * (4.166_664_6e-2 + square * (-1.388_731_6e-3 + square * 2.443_315_7e-5));
        let value = if quarter & 1 == 0 { sine } else { cosine };
        // In the second half of a turn the sign is the other one.
        f32::from_bits(value.to_bits() ^ ((quarter & 2) << 30))
    });
}

#[inline(always)]
fn one(what: One, top: &mut Run) {
    match what {
        One::Negate => each_plain!(top, v => -v),
        One::Not => top.iter_mut().for_each(|v| *v = truth(*v == 0.0)),
        One::Sin => sines(top, 0),
        One::Cos => sines(top, 1),
        One::Tan => each!(top, v => v.tan()),
        One::Asin => each!(top, v => v.asin()),
        One::Acos => each!(top, v => v.acos()),
        One::Atan => each!(top, v => v.atan()),
        One::Exp => each!(top, v => v.exp()),
        One::Log => each!(top, v => v.ln()),
        One::Sqrt => each_plain!(top, v => v.sqrt()),
        One::Abs => each_plain!(top, v => v.abs()),
        One::Sign => top.iter_mut().for_each(|v| *v = if *v == 0.0 { 0.0 } else { v.signum() }),
        One::Floor => each_plain!(top, v => v.floor()),
        One::Ceil => each_plain!(top, v => v.ceil()),
        One::Round => top.iter_mut().for_each(|v| *v = v.round()),
        One::Fract => each_plain!(top, v => v - v.floor()),
    }
}

#[inline(always)]
fn two(what: Two, a: &mut Run, b: impl Iterator<Item = f32>) {
    match what {
        Two::Or => each_float!(a, b, |a, b| truth(a != 0.0 || b != 0.0)),
        Two::And => each_float!(a, b, |a, b| truth(a != 0.0 && b != 0.0)),
        Two::Less => each_float!(a, b, |a, b| truth(a < b)),
        Two::LessOrEqual => each_float!(a, b, |a, b| truth(a <= b)),
        Two::Greater => each_float!(a, b, |a, b| truth(a > b)),
        Two::GreaterOrEqual => each_float!(a, b, |a, b| truth(a >= b)),
        Two::Equal => each_float!(a, b, |a, b| truth(a == b)),
        Two::NotEqual => each_float!(a, b, |a, b| truth(a != b)),
        Two::Add => each_float!(a, b, |a, b| a + b),
        Two::Subtract => each_float!(a, b, |a, b| a - b),
        Two::Multiply => each_float!(a, b, |a, b| a * b),
        Two::Divide => each_float!(a, b, |a, b| a / b),
        Two::Atan => {
            let mut other = [0.0f32; RUN];
            other.iter_mut().zip(b).for_each(|(to, from)| *to = from);
            each_two!(a, other, |a, b| a.atan2(b));
        }
        Two::Pow => each_float!(a, b, |a, b| a.powf(b)),
        Two::Mod => each_float!(a, b, |a, b| a - b * (a / b).floor()),
        Two::Min => each_float!(a, b, |a, b| a.min(b)),
        Two::Max => each_float!(a, b, |a, b| a.max(b)),
        Two::Step => each_float!(a, b, |a, b| truth(b >= a)),
        Two::Length => each_float!(a, b, |a, b| (a * a + b * b).sqrt()),
        Two::Noise => each_float!(a, b, |a, b| noise(f64::from(a), f64::from(b)) as f32),
    }
}

/// Gradient noise of one number, about −1 to 1.
pub fn noise(place: f64, seed: f64) -> f64 {
    // Off the lattice of the other two axes, where the noise of every whole number would be 0.
    f64::from(gradient_noise(seed as i64 as u32, [place, 0.5, 0.25])) * 1.6
}

#[inline(always)]
fn three(what: Three, a: &mut Run, b: &Run, c: &Run) {
    for ((a, b), c) in a.iter_mut().zip(b).zip(c) {
        *a = match what {
            Three::Mix => *a * (1.0 - c) + b * c,
            Three::Smoothstep => {
                let t = ((c - *a) / (b - *a)).clamp(0.0, 1.0);
                t * t * (3.0 - 2.0 * t)
            }
            Three::Choose => {
                if *a != 0.0 {
                    *b
                } else {
                    *c
                }
            }
        };
    }
}

/// One run; gives how many of its numbers were none.
#[multiversion(targets("x86_64+avx512f+avx512vl", "x86_64+avx2+fma", "aarch64+neon"))]
fn run_block(steps: &[Step], given: &[Given<'_>], from: usize, stack: &mut [Run], out: &mut [f32]) -> usize {
    let mut depth = 0;
    for step in steps {
        let (below, above) = stack.split_at_mut(depth);
        match *step {
            Step::Number(value) => above[0].fill(value),
            Step::Given(number) => load(given[number], from, out.len(), &mut above[0]),
            Step::One(what) => one(what, &mut below[depth - 1]),
            Step::With(what, value) => two(what, &mut below[depth - 1], std::iter::repeat(value)),
            Step::Two(what) => {
                let (first, second) = below.split_at_mut(depth - 1);
                two(what, &mut first[depth - 2], second[0].iter().copied());
            }
            Step::Three(what) => {
                let (first, rest) = below.split_at_mut(depth - 2);
                three(what, &mut first[depth - 3], &rest[0], &rest[1]);
            }
        }
        depth = depth + 1 - step.takes();
    }
    // Counted in as many bits as a float has, so that both stay in one register.
    let mut flaws = 0u32;
    for (out, value) in out.iter_mut().zip(&stack[0]) {
        let good = value.is_finite();
        *out = if good { *value } else { 0.0 };
        flaws += u32::from(!good);
    }
    flaws as usize
}

#[cfg(test)]
mod tests {
    use super::*;

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

    #[test]
    fn a_division_by_nothing_gives_nothing_and_is_counted() {
        let program = Program::new(vec![Step::Number(1.0), Step::Given(0), Step::Two(Two::Divide)]).unwrap();
        let floats: Vec<f32> = (0..600).map(|at| (at % 300) as f32).collect();
        let mut out = vec![7.0; 600];
        let flaws = program.run(&[Given::Floats { floats: &floats, first: 0, step: 1 }], &mut out);
        assert_eq!((flaws, out[0], out[300], out[2], out[599]), (2, 0.0, 0.0, 0.5, 1.0 / 299.0));
    }
}
