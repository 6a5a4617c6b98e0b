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
use multiversion::target::target_cfg_f;
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
    /// Whether it is the same with the two in the other order.
    const fn either_way(self) -> bool {
        matches!(
            self,
            Self::Or
                | Self::And
                | Self::Equal
                | Self::NotEqual
                | Self::Add
                | Self::Multiply
                | Self::Min
                | Self::Max
                | Self::Length
        )
    }

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
        let steps = folded(&self.steps, &given);
        let mut flaws = 0;
        for (number, out) in out.chunks_mut(RUN).enumerate() {
            flaws += run_block(&steps, &given, number * RUN, &mut stack, out);
        }
        flaws
    }
}

/// A run on the stack, while steps are looked at: where its steps begin, and its number where that is the same for
/// all pixels; it has no steps then.
struct Looked {
    begins: usize,
    same: Option<f32>,
}

/// The same steps with those done once whose numbers are the same for all pixels of a row.
fn folded(steps: &[Step], given: &[Given<'_>]) -> Vec<Step> {
    let mut kept: Vec<Step> = Vec::with_capacity(steps.len());
    let mut stack: Vec<Looked> = Vec::new();
    for step in steps {
        let mut taken = stack.split_off(stack.len() - step.takes());
        let same = match (*step, taken.as_slice()) {
            (Step::Number(value), _) => Some(value),
            (Step::Given(number), _) => match given[number] {
                Given::Same(value) => Some(value),
                Given::Floats { .. } => None,
            },
            (_, [Looked { same: Some(a), .. }]) => Some(of_numbers(*step, [*a, 0.0, 0.0])),
            (_, [Looked { same: Some(a), .. }, Looked { same: Some(b), .. }]) => {
                Some(of_numbers(*step, [*a, *b, 0.0]))
            }
            (
                _,
                [Looked { same: Some(a), .. }, Looked { same: Some(b), .. }, Looked { same: Some(c), .. }],
            ) => Some(of_numbers(*step, [*a, *b, *c])),
            _ => None,
        };
        let begins = taken.first().map_or(kept.len(), |first| first.begins);
        if same.is_none() {
            let short = match (*step, taken.as_slice()) {
                (Step::Two(two), [_, Looked { same: Some(number), .. }]) => Some(Step::With(two, *number)),
                (Step::Two(two), [Looked { same: Some(number), .. }, _]) if two.either_way() => {
                    Some(Step::With(two, *number))
                }
                _ => None,
            };
            if short.is_none() {
                // From the last on, so that the places of those before stay as they are.
                for run in taken.drain(..).rev() {
                    if let Some(number) = run.same {
                        kept.insert(run.begins, Step::Number(number));
                    }
                }
            }
            kept.push(quicker(short.unwrap_or(*step)));
        }
        stack.push(Looked { begins, same });
    }
    if let Some(Looked { same: Some(number), .. }) = stack.first() {
        kept.push(Step::Number(*number));
    }
    kept
}

/// A division by a number as the multiplication by one over it, where that is a number.
fn quicker(step: Step) -> Step {
    match step {
        Step::With(Two::Divide, by) if (1.0 / by).is_normal() => Step::With(Two::Multiply, 1.0 / by),
        other => other,
    }
}

/// What a step makes of numbers that are the same for all pixels, in the way that it does for many.
fn of_numbers(step: Step, numbers: [f32; 3]) -> f32 {
    let [mut a, b, c] = numbers.map(|number| [number; 8]);
    match step {
        Step::Number(_) | Step::Given(_) => {}
        Step::One(what) => one::<false, 8>(what, &mut a),
        Step::With(what, value) => two(what, &mut a, std::iter::repeat(value)),
        Step::Two(what) => two(what, &mut a, b.into_iter()),
        Step::Three(what) => three(what, &mut a, &b, &c),
    }
    a[0]
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

/// Up to here half turns are taken off without loss.
const FAR: f32 = 8192.0;
/// One and a half times 2²³.
const WHOLE: f32 = 12_582_912.0;

/// One over the factorials of 13, 11, 9, 7, 5 and 3, by turns with both signs.
const TAYLOR: [f32; 6] =
    [1.0 / 6_227_020_800.0, -1.0 / 39_916_800.0, 1.0 / 362_880.0, -1.0 / 5040.0, 1.0 / 120.0, -1.0 / 6.0];

/// A product and what is added to it, rounded once where the machine does both in one step.
#[inline(always)]
fn sum<const FUSED: bool>(a: f32, b: f32, c: f32) -> f32 {
    if FUSED { a.mul_add(b, c) } else { a * b + c }
}

/// Which of the two waves.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Wave {
    Sine,
    Cosine,
}

/// The sine or cosine of each number.
///
/// Source: half turns are taken off in three parts (Cody and Waite 1980), and what is left goes through the Taylor
/// series of the sine up to the thirteenth power, whose rest is below 1e-9 at a quarter turn. Error at most 1.5e-7 up
/// to [`FAR`]; beyond it, the sine of a double.
#[inline(always)]
fn waves<const FUSED: bool, const N: usize>(top: &mut [f32; N], wave: Wave) {
    if top.iter().map(|value| u32::from(value.abs() > FAR)).sum::<u32>() > 0 {
        return match wave {
            Wave::Sine => each_plain!(top, v => f64::from(v).sin() as f32),
            Wave::Cosine => each_plain!(top, v => f64::from(v).cos() as f32),
        };
    }
    // A cosine is a sine about the middle of a half turn, and starts the other way up.
    let (middle, turned) = if wave == Wave::Cosine { (0.5, 1) } else { (0.0, 0) };
    each_plain!(top, v => {
        // Added to this, a float has whole numbers alone, and they stand in its lowest bits.
        let whole = (v * std::f32::consts::FRAC_1_PI - middle) + WHOLE;
        let halves = (whole - WHOLE) + middle;
        let left = sum::<FUSED>(-halves, 3.140_625, v);
        let left = sum::<FUSED>(-halves, 9.675_026e-4, left);
        let left = sum::<FUSED>(-halves, 1.509_958e-7, left);
        let square = left * left;
        let series = TAYLOR.iter().fold(0.0, |series, factor| sum::<FUSED>(series, square, *factor));
        let sine = sum::<FUSED>(left, series * square, left);
        f32::from_bits(sine.to_bits() ^ ((whole.to_bits() ^ turned) << 31))
    });
}

#[inline(always)]
fn one<const FUSED: bool, const N: usize>(what: One, top: &mut [f32; N]) {
    match what {
        One::Negate => each_plain!(top, v => -v),
        One::Not => top.iter_mut().for_each(|v| *v = truth(*v == 0.0)),
        One::Sin => waves::<FUSED, N>(top, Wave::Sine),
        One::Cos => waves::<FUSED, N>(top, Wave::Cosine),
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
fn two<const N: usize>(what: Two, a: &mut [f32; N], b: impl Iterator<Item = f32>) {
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
            let mut other = [0.0f32; N];
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
fn three<const N: usize>(what: Three, a: &mut [f32; N], b: &[f32; N], c: &[f32; N]) {
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
#[multiversion(targets("x86_64+avx512f+avx512vl+fma", "x86_64+avx2+fma", "aarch64+neon"))]
fn run_block(steps: &[Step], given: &[Given<'_>], from: usize, stack: &mut [Run], out: &mut [f32]) -> usize {
    const FUSED: bool = target_cfg_f!(target_feature = "fma");
    let mut depth = 0;
    for step in steps {
        let (below, above) = stack.split_at_mut(depth);
        match *step {
            Step::Number(value) => above[0].fill(value),
            Step::Given(number) => load(given[number], from, out.len(), &mut above[0]),
            Step::One(what) => one::<FUSED, RUN>(what, &mut below[depth - 1]),
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
