//! Formulas of the frame.
//!
//! Ordinary arithmetic, comparison (1 for true, 0 for false), `condition ? a : b`, and the functions
//! of the GLSL ES 3.0 specification, with angles in radians and their behaviour as stated there; a
//! result that has no value (a division by zero, the root of a negative number) is 0. `noise(x, seed)`
//! is gradient noise of one number, about −1 to 1. Variables: `now`, `since`, `secs`; constant: `pi`. Any other name is a
//! word that stands for a number from elsewhere: `pulse`, or `spot.x` of a pair.

mod pixel;

use std::borrow::Cow;

use schemars::{JsonSchema, Schema, SchemaGenerator};
use serde::{Deserialize, Serialize};
use veil_pixels::program::{One, Three, Two, noise};

use super::moment::Moment;

pub use pixel::{INPUTS, PixelFormula};

/// Why a text is no formula.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[error("formula, at letter {}: expected {expected}", .at + 1)]
pub struct FormulaError {
    /// How many letters stand before the mistake.
    pub at: usize,
    /// What would have been right there.
    pub expected: String,
}

/// A formula that has been understood.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct Formula {
    text: String,
    words: Vec<String>,
    root: Node,
}

impl JsonSchema for Formula {
    fn schema_name() -> Cow<'static, str> {
        "Formula".into()
    }
    fn json_schema(generator: &mut SchemaGenerator) -> Schema {
        String::json_schema(generator)
    }
}

impl TryFrom<String> for Formula {
    type Error = FormulaError;
    fn try_from(text: String) -> Result<Self, FormulaError> {
        Self::parse(&text)
    }
}

impl From<Formula> for String {
    fn from(formula: Formula) -> Self {
        formula.text
    }
}

impl Formula {
    /// Understands a text.
    pub fn parse(text: &str) -> Result<Self, FormulaError> {
        let (root, words) = Parser::whole(text, Scope::Frame)?;
        Ok(Self { text: text.to_owned(), words, root })
    }

    /// As it was written.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// The words that stand for numbers from elsewhere.
    pub fn words(&self) -> &[String] {
        &self.words
    }

    /// The value at a moment, with the numbers of its words in their order; 0 where there is none.
    pub fn at(&self, moment: Moment, words: &[f64]) -> f64 {
        let value = self.root.at(moment, words);
        if value.is_finite() { value } else { 0.0 }
    }
}

#[derive(Clone, Debug, PartialEq)]
enum Node {
    Number(f64),
    Variable(Variable),
    Negate(Box<Node>),
    Not(Box<Node>),
    Binary(Two, Box<Node>, Box<Node>),
    Choose(Box<Node>, Box<Node>, Box<Node>),
    Call(&'static Function, Vec<Node>),
}

#[derive(Clone, Copy, Debug, PartialEq)]
enum Variable {
    Now,
    Since,
    Secs,
    /// Of a pixel: one of what it is given, by its place in that list.
    Given(usize),
    /// A number from elsewhere, by its place in the list of words.
    Word(usize),
}

/// Which names a formula may use.
#[derive(Clone, Copy)]
enum Scope {
    /// Those of a frame.
    Frame,
    /// Those of a frame and of a pixel.
    Pixel,
}

/// Operators by how tightly they bind, loosest first; a longer sign stands before its beginning.
const LEVELS: [&[(&str, Two)]; 6] = [
    &[("||", Two::Or)],
    &[("&&", Two::And)],
    &[("==", Two::Equal), ("!=", Two::NotEqual)],
    &[("<=", Two::LessOrEqual), (">=", Two::GreaterOrEqual), ("<", Two::Less), (">", Two::Greater)],
    &[("+", Two::Add), ("-", Two::Subtract)],
    &[("*", Two::Multiply), ("/", Two::Divide)],
];

struct Function {
    name: &'static str,
    /// How many arguments it may take, least and most.
    arguments: (usize, usize),
    apply: fn(&[f64]) -> f64,
    /// As steps over many pixels, after those of its arguments.
    steps: Steps,
}

/// How a function is worked out for many pixels at a time.
#[derive(Clone, Copy)]
enum Steps {
    One(One),
    Two(Two),
    Three(Three),
    /// By one number, or by two.
    OneOrTwo(One, Two),
    /// Times this.
    Times(f32),
    /// Between the second and the third.
    Clamp,
    /// Of one number, or two, or three.
    Length,
    /// By a place, and a seed which may be left out.
    Noise,
}

impl PartialEq for Function {
    fn eq(&self, other: &Self) -> bool {
        self.name == other.name
    }
}

impl std::fmt::Debug for Function {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(self.name)
    }
}

const fn function(
    name: &'static str,
    (least, most): (usize, usize),
    steps: Steps,
    apply: fn(&[f64]) -> f64,
) -> Function {
    Function { name, arguments: (least, most), apply, steps }
}

static FUNCTIONS: [Function; 27] = [
    function("sin", (1, 1), Steps::One(One::Sin), |a| a[0].sin()),
    function("cos", (1, 1), Steps::One(One::Cos), |a| a[0].cos()),
    function("tan", (1, 1), Steps::One(One::Tan), |a| a[0].tan()),
    function("asin", (1, 1), Steps::One(One::Asin), |a| a[0].asin()),
    function("acos", (1, 1), Steps::One(One::Acos), |a| a[0].acos()),
    function("atan", (1, 2), Steps::OneOrTwo(One::Atan, Two::Atan), |a| {
        if a.len() == 2 { a[0].atan2(a[1]) } else { a[0].atan() }
    }),
    function("radians", (1, 1), Steps::Times(std::f32::consts::PI / 180.0), |a| a[0].to_radians()),
    function("degrees", (1, 1), Steps::Times(180.0 / std::f32::consts::PI), |a| a[0].to_degrees()),
    function("pow", (2, 2), Steps::Two(Two::Pow), |a| Two::Pow.of(a[0], a[1])),
    function("exp", (1, 1), Steps::One(One::Exp), |a| a[0].exp()),
    function("log", (1, 1), Steps::One(One::Log), |a| a[0].ln()),
    function("sqrt", (1, 1), Steps::One(One::Sqrt), |a| a[0].sqrt()),
    function("abs", (1, 1), Steps::One(One::Abs), |a| a[0].abs()),
    function("sign", (1, 1), Steps::One(One::Sign), |a| if a[0] == 0.0 { 0.0 } else { a[0].signum() }),
    function("floor", (1, 1), Steps::One(One::Floor), |a| a[0].floor()),
    function("ceil", (1, 1), Steps::One(One::Ceil), |a| a[0].ceil()),
    function("round", (1, 1), Steps::One(One::Round), |a| a[0].round()),
    function("fract", (1, 1), Steps::One(One::Fract), |a| a[0] - a[0].floor()),
    function("mod", (2, 2), Steps::Two(Two::Mod), |a| Two::Mod.of(a[0], a[1])),
    function("min", (2, 2), Steps::Two(Two::Min), |a| Two::Min.of(a[0], a[1])),
    function("max", (2, 2), Steps::Two(Two::Max), |a| Two::Max.of(a[0], a[1])),
    function("clamp", (3, 3), Steps::Clamp, |a| a[0].max(a[1]).min(a[2])),
    function("mix", (3, 3), Steps::Three(Three::Mix), |a| a[0] * (1.0 - a[2]) + a[1] * a[2]),
    function("step", (2, 2), Steps::Two(Two::Step), |a| if a[1] < a[0] { 0.0 } else { 1.0 }),
    function("smoothstep", (3, 3), Steps::Three(Three::Smoothstep), |a| {
        let t = ((a[2] - a[0]) / (a[1] - a[0])).clamp(0.0, 1.0);
        t * t * (3.0 - 2.0 * t)
    }),
    function("length", (1, 3), Steps::Length, |a| a.iter().map(|x| x * x).sum::<f64>().sqrt()),
    function("noise", (1, 2), Steps::Noise, |a| noise(a[0], a.get(1).copied().unwrap_or(0.0))),
];

impl Node {
    fn at(&self, moment: Moment, words: &[f64]) -> f64 {
        match self {
            Self::Number(value) => *value,
            Self::Variable(Variable::Now) => moment.now,
            Self::Variable(Variable::Since) => moment.since,
            Self::Variable(Variable::Secs) => moment.secs,
            // Only a pixel has one, and its steps put it in.
            Self::Variable(Variable::Given(_)) => 0.0,
            Self::Variable(Variable::Word(number)) => words.get(*number).copied().unwrap_or(0.0),
            Self::Negate(inner) => -inner.at(moment, words),
            Self::Not(inner) => f64::from(u8::from(inner.at(moment, words) == 0.0)),
            Self::Binary(operator, a, b) => operator.of(a.at(moment, words), b.at(moment, words)),
            Self::Choose(condition, yes, no) => {
                if condition.at(moment, words) != 0.0 {
                    yes.at(moment, words)
                } else {
                    no.at(moment, words)
                }
            }
            Self::Call(function, arguments) => {
                let values: Vec<f64> = arguments.iter().map(|argument| argument.at(moment, words)).collect();
                (function.apply)(&values)
            }
        }
    }
}

/// Most letters of a formula.
const LONGEST: usize = 2000;
/// How deep brackets may stand in each other.
const DEEPEST: usize = 64;

struct Parser {
    letters: Vec<char>,
    at: usize,
    depth: usize,
    scope: Scope,
    words: Vec<String>,
}

impl Parser {
    fn whole(text: &str, scope: Scope) -> Result<(Node, Vec<String>), FormulaError> {
        let letters: Vec<char> = text.chars().take(LONGEST + 1).collect();
        if letters.len() > LONGEST {
            return Err(FormulaError { at: LONGEST, expected: format!("at most {LONGEST} letters") });
        }
        let mut parser = Self { letters, at: 0, depth: 0, scope, words: Vec::new() };
        let root = parser.choice()?;
        parser.skip_space();
        if parser.at < parser.letters.len() {
            return Err(parser.expected("an operator or the end"));
        }
        Ok((root, parser.words))
    }

    fn expected(&self, what: impl Into<String>) -> FormulaError {
        FormulaError { at: self.at, expected: what.into() }
    }

    fn skip_space(&mut self) {
        while self.letters.get(self.at).is_some_and(|letter| letter.is_whitespace()) {
            self.at += 1;
        }
    }

    fn take(&mut self, sign: &str) -> bool {
        self.skip_space();
        let length = sign.chars().count();
        let found = self
            .letters
            .get(self.at..self.at + length)
            .is_some_and(|run| run.iter().copied().eq(sign.chars()));
        if found {
            self.at += length;
        }
        found
    }

    fn need(&mut self, sign: &str) -> Result<(), FormulaError> {
        if self.take(sign) { Ok(()) } else { Err(self.expected(format!("`{sign}`"))) }
    }

    fn choice(&mut self) -> Result<Node, FormulaError> {
        if self.depth == DEEPEST {
            return Err(self.expected("fewer brackets in each other"));
        }
        self.depth += 1;
        let condition = self.level(0)?;
        let node = if self.take("?") {
            let yes = self.choice()?;
            self.need(":")?;
            Node::Choose(Box::new(condition), Box::new(yes), Box::new(self.choice()?))
        } else {
            condition
        };
        self.depth -= 1;
        Ok(node)
    }

    fn level(&mut self, level: usize) -> Result<Node, FormulaError> {
        let Some(operators) = LEVELS.get(level) else { return self.unary() };
        let mut node = self.level(level + 1)?;
        while let Some((_, operator)) = operators.iter().find(|(sign, _)| self.take(sign)) {
            node = Node::Binary(*operator, Box::new(node), Box::new(self.level(level + 1)?));
        }
        Ok(node)
    }

    fn unary(&mut self) -> Result<Node, FormulaError> {
        let mut signs = Vec::new();
        loop {
            if self.take("-") {
                signs.push(true);
            } else if self.take("!") {
                signs.push(false);
            } else {
                break;
            }
        }
        let atom = self.atom()?;
        Ok(signs.into_iter().rev().fold(atom, |node, minus| {
            if minus { Node::Negate(Box::new(node)) } else { Node::Not(Box::new(node)) }
        }))
    }

    fn atom(&mut self) -> Result<Node, FormulaError> {
        self.skip_space();
        match self.letters.get(self.at) {
            Some('(') => {
                self.at += 1;
                let node = self.choice()?;
                self.need(")")?;
                Ok(node)
            }
            Some(letter) if letter.is_ascii_digit() || *letter == '.' => self.number(),
            Some(letter) if letter.is_ascii_alphabetic() => self.name(),
            _ => Err(self.expected("a number, a name or `(`")),
        }
    }

    fn run(&mut self, belongs: impl Fn(char) -> bool) -> String {
        let start = self.at;
        while self.letters.get(self.at).is_some_and(|letter| belongs(*letter)) {
            self.at += 1;
        }
        self.letters[start..self.at].iter().collect()
    }

    fn number(&mut self) -> Result<Node, FormulaError> {
        let start = self.at;
        let mut text = self.run(|letter| letter.is_ascii_digit() || letter == '.');
        text.push_str(&self.power_of_ten());
        let number = text.parse().ok().filter(|number: &f64| number.is_finite());
        number.map(Node::Number).ok_or_else(|| FormulaError { at: start, expected: "a number".into() })
    }

    /// `e3`, `E-3`: what stands behind a number for a power of ten; empty where nothing does.
    fn power_of_ten(&mut self) -> String {
        let at = |ahead: usize| self.letters.get(self.at + ahead).copied().unwrap_or(' ');
        let signed = usize::from(matches!(at(1), '+' | '-'));
        if !matches!(at(0), 'e' | 'E') || !at(1 + signed).is_ascii_digit() {
            return String::new();
        }
        let start = self.at;
        self.at += 1 + signed;
        self.run(|letter| letter.is_ascii_digit());
        self.letters[start..self.at].iter().collect()
    }

    fn name(&mut self) -> Result<Node, FormulaError> {
        let start = self.at;
        let name = self.run(|letter| letter.is_ascii_alphanumeric() || letter == '_');
        match name.as_str() {
            "now" => return Ok(Node::Variable(Variable::Now)),
            "since" => return Ok(Node::Variable(Variable::Since)),
            "secs" => return Ok(Node::Variable(Variable::Secs)),
            "pi" => return Ok(Node::Number(std::f64::consts::PI)),
            _ => {}
        }
        if matches!(self.scope, Scope::Pixel)
            && let Some(given) = pixel::named(&name)
        {
            return self.channel(given);
        }
        let Some(function) = FUNCTIONS.iter().find(|function| function.name == name) else {
            // A number behind `in` is an input's, of which there are four.
            let input = name.strip_prefix("in").is_some_and(|rest| rest.parse::<u32>().is_ok());
            if !self.sees("(") && !input {
                return Ok(self.word(name));
            }
            let also = match self.scope {
                Scope::Frame => "",
                Scope::Pixel => "`px`, `py`, `wide`, `high`, `in1` to `in4`, ",
            };
            let expected = format!("{also}`now`, `since`, `secs`, `pi` or a function, not `{name}`");
            return Err(FormulaError { at: start, expected });
        };
        self.need("(")?;
        let mut arguments = vec![self.choice()?];
        while self.take(",") {
            arguments.push(self.choice()?);
        }
        let (least, most) = function.arguments;
        if !(least..=most).contains(&arguments.len()) {
            let count = if least == most { least.to_string() } else { format!("{least} to {most}") };
            return Err(self.expected(format!("{count} values in `{name}`, not {}", arguments.len())));
        }
        self.need(")")?;
        Ok(Node::Call(function, arguments))
    }
}

/// The parts of what has several numbers, as a word names them.
pub const PARTS: [&[&str]; 4] = [&["x", "r"], &["y", "g"], &["b"], &["a"]];

impl Parser {
    fn sees(&mut self, sign: &str) -> bool {
        let (before, seen) = (self.at, self.take(sign));
        self.at = before;
        seen
    }

    /// A word, with the part that is named behind it.
    fn word(&mut self, name: String) -> Node {
        let before = self.at;
        let mut word = name;
        if self.letters.get(self.at) == Some(&'.') {
            self.at += 1;
            let part = self.run(|letter| letter.is_ascii_alphanumeric());
            if PARTS.iter().any(|names| names.contains(&part.as_str())) {
                word = format!("{word}.{part}");
            } else {
                self.at = before;
            }
        }
        let number = self.words.iter().position(|known| *known == word).unwrap_or_else(|| {
            self.words.push(word);
            self.words.len() - 1
        });
        Node::Variable(Variable::Word(number))
    }

    /// The channel of an input, where one is named behind it.
    fn channel(&mut self, given: pixel::Named) -> Result<Node, FormulaError> {
        let first = match given {
            pixel::Named::Plain(number) => return Ok(Node::Variable(Variable::Given(number))),
            pixel::Named::Input(first) => first,
        };
        if !self.take(".") {
            return Ok(Node::Variable(Variable::Given(first)));
        }
        let start = self.at;
        let name = self.run(|letter| letter.is_ascii_alphanumeric());
        let place = pixel::CHANNELS.iter().position(|names| names.contains(&name.as_str()));
        match place {
            Some(place) => Ok(Node::Variable(Variable::Given(first + place))),
            None => {
                Err(FormulaError { at: start, expected: "`r`, `g`, `b`, `a`, or `x`, `y` of a map".into() })
            }
        }
    }
}
