//! Formulas of a pixel: what a frame's formula knows, and the pixel's place, the picture's size and inputs.

use veil_pixels::program::{Program, Step, Three, Two};

use super::{FormulaError, Node, Parser, Scope, Steps, Variable};
use crate::feed::Moment;
use crate::key::{Key, Keyed};

/// How many inputs a formula may name.
pub const INPUTS: usize = 4;
/// How an input's floats are called, in their order.
pub(super) const CHANNELS: [&[&str]; 4] = [&["r", "x"], &["g", "y"], &["b"], &["a"]];
const PLAIN: [&str; 4] = ["px", "py", "wide", "high"];

/// What a name stands for.
pub(super) enum Named {
    /// The number of what is given.
    Plain(usize),
    /// The number of an input's first float.
    Input(usize),
}

pub(super) fn named(name: &str) -> Option<Named> {
    if let Some(place) = PLAIN.iter().position(|plain| *plain == name) {
        return Some(Named::Plain(place));
    }
    let number: usize = name.strip_prefix("in")?.parse().ok()?;
    (1..=INPUTS).contains(&number).then(|| Named::Input(PixelFormula::input(number - 1)))
}

/// A formula of a pixel that has been understood.
#[derive(Clone, Debug, PartialEq)]
pub struct PixelFormula {
    text: String,
    words: Vec<String>,
    /// The numbers of its words, in their order.
    numbers: Vec<f64>,
    root: Node,
}

/// What is written, and the numbers of its words.
impl Keyed for PixelFormula {
    fn key(&self, key: &mut Key) {
        let Self { text, words: _, numbers, root: _ } = self;
        key.add(text);
        key.add(numbers);
    }
}

impl PixelFormula {
    /// Where in the list of what is given the pixel's place and the picture's size stand: x, y, width, height.
    pub const PLACE: [usize; 4] = [0, 1, 2, 3];

    /// Where in that list an input's first float stands; its others follow.
    pub const fn input(number: usize) -> usize {
        PLAIN.len() + number * CHANNELS.len()
    }

    /// Understands a text.
    pub fn parse(text: &str) -> Result<Self, FormulaError> {
        let (root, words) = Parser::whole(text, Scope::Pixel)?;
        Ok(Self { text: text.to_owned(), numbers: vec![0.0; words.len()], words, root })
    }

    /// The words that stand for numbers from elsewhere.
    pub fn words(&self) -> &[String] {
        &self.words
    }

    /// The same with a number for each of its words.
    pub fn with_numbers(self, number: impl Fn(&str) -> f64) -> Self {
        Self { numbers: self.words.iter().map(|word| number(word)).collect(), ..self }
    }

    /// 0 everywhere.
    pub fn nothing() -> Self {
        Self { text: "0".into(), words: Vec::new(), numbers: Vec::new(), root: Node::Number(0.0) }
    }

    /// As it was written.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// Whether it names an input.
    pub fn names(&self, input: usize) -> bool {
        let first = Self::input(input);
        self.root.any(&|node| matches!(node, Node::Variable(Variable::Given(given)) if (first..first + CHANNELS.len()).contains(given)))
    }

    /// What it takes of a moment: the frame, frames since the start and seconds, as far as it names them.
    pub fn times(&self, moment: Moment) -> [Option<f64>; 3] {
        let names = |wanted: fn(&Variable) -> bool| {
            self.root.any(&|node| matches!(node, Node::Variable(variable) if wanted(variable)))
        };
        [
            names(|variable| matches!(variable, Variable::Now)).then_some(moment.now),
            names(|variable| matches!(variable, Variable::Since)).then_some(moment.since),
            names(|variable| matches!(variable, Variable::Secs)).then_some(moment.secs),
        ]
    }

    /// The steps that work it out at a moment.
    pub fn program(&self, moment: Moment) -> Program {
        let mut steps = Vec::new();
        self.root.compile(&At { moment, words: &self.numbers }, &mut steps);
        // A formula that was understood leaves one number; none would be nothing everywhere.
        Program::new(steps).unwrap_or_else(|| Program::constant(0.0))
    }
}

/// What is the same for every pixel.
struct At<'a> {
    moment: Moment,
    words: &'a [f64],
}

impl Node {
    fn any(&self, is: &impl Fn(&Self) -> bool) -> bool {
        is(self)
            || match self {
                Self::Number(_) | Self::Variable(_) => false,
                Self::Negate(inner) | Self::Not(inner) => inner.any(is),
                Self::Binary(_, a, b) => a.any(is) || b.any(is),
                Self::Choose(a, b, c) => a.any(is) || b.any(is) || c.any(is),
                Self::Call(_, arguments) => arguments.iter().any(|argument| argument.any(is)),
            }
    }

    /// Its number, where it is the same for every pixel.
    fn constant(&self, at: &At<'_>) -> Option<f32> {
        let of_pixel = self.any(&|node| matches!(node, Self::Variable(Variable::Given(_))));
        (!of_pixel).then(|| self.at(at.moment, at.words) as f32)
    }

    fn compile(&self, at: &At<'_>, steps: &mut Vec<Step>) {
        use veil_pixels::program::One;
        if let Some(number) = self.constant(at) {
            return steps.push(Step::Number(number));
        }
        match self {
            Self::Number(_) => {}
            Self::Variable(Variable::Given(number)) => steps.push(Step::Given(*number)),
            Self::Variable(_) => {}
            Self::Negate(inner) => {
                inner.compile(at, steps);
                steps.push(Step::One(One::Negate));
            }
            Self::Not(inner) => {
                inner.compile(at, steps);
                steps.push(Step::One(One::Not));
            }
            Self::Binary(operator, a, b) => {
                a.compile(at, steps);
                b.compile_second(at, *operator, steps);
            }
            Self::Choose(condition, yes, no) => {
                [condition, yes, no].into_iter().for_each(|node| node.compile(at, steps));
                steps.push(Step::Three(Three::Choose));
            }
            Self::Call(function, arguments) => compile_call(function.steps, arguments, at, steps),
        }
    }

    /// The second of two numbers, and what is made of both.
    fn compile_second(&self, at: &At<'_>, two: Two, steps: &mut Vec<Step>) {
        match self.constant(at) {
            Some(number) => steps.push(Step::With(two, number)),
            None => {
                self.compile(at, steps);
                steps.push(Step::Two(two));
            }
        }
    }
}

fn compile_call(how: Steps, arguments: &[Node], at: &At<'_>, steps: &mut Vec<Step>) {
    let [first, rest @ ..] = arguments else { return };
    match (how, rest) {
        (Steps::Three(three), [second, third]) => {
            [first, second, third].into_iter().for_each(|node| node.compile(at, steps));
            return steps.push(Step::Three(three));
        }
        (Steps::Clamp, [least, most]) => {
            first.compile(at, steps);
            least.compile_second(at, Two::Max, steps);
            return most.compile_second(at, Two::Min, steps);
        }
        _ => first.compile(at, steps),
    }
    match (how, rest) {
        (Steps::One(one) | Steps::OneOrTwo(one, _), []) => steps.push(Step::One(one)),
        (Steps::Two(two) | Steps::OneOrTwo(_, two), [second]) => second.compile_second(at, two, steps),
        (Steps::Times(factor), _) => steps.push(Step::With(Two::Multiply, factor)),
        (Steps::Length, []) => steps.push(Step::One(veil_pixels::program::One::Abs)),
        (Steps::Length, more) => more.iter().for_each(|next| next.compile_second(at, Two::Length, steps)),
        (Steps::Noise, []) => steps.push(Step::With(Two::Noise, 0.0)),
        (Steps::Noise, [seed]) => seed.compile_second(at, Two::Noise, steps),
        // The parser lets no other number of arguments through.
        _ => {}
    }
}
