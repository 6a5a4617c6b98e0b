//! Filled shapes from a drawing.

use veil_pixels::shape::outline::Knot;

/// A drawing's shapes, from the lowest up, in its own units, y down.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Figure {
    /// Its width and height.
    pub size: [f64; 2],
    /// What is filled.
    pub shapes: Vec<FilledShape>,
}

/// One filled shape.
#[derive(Clone, Debug, PartialEq)]
pub struct FilledShape {
    /// Closed outlines; one that is a hole winds the other way round.
    pub outlines: Vec<Vec<Knot>>,
    /// Its colour, scene-linear.
    pub colour: [f32; 3],
    /// How much it covers, 0–1.
    pub alpha: f32,
}

/// A closed outline as drawings and fonts tell it, step by step.
#[derive(Default)]
pub struct Tracing {
    outlines: Vec<Vec<Knot>>,
    knots: Vec<Knot>,
}

const fn knot(at: [f64; 2]) -> Knot {
    Knot { at, before: [0.0; 2], after: [0.0; 2], soft: 0.0 }
}

fn less(a: [f64; 2], b: [f64; 2]) -> [f64; 2] {
    [a[0] - b[0], a[1] - b[1]]
}

impl Tracing {
    /// Begins an outline.
    pub fn begin(&mut self, at: [f64; 2]) {
        self.close();
        self.knots.push(knot(at));
    }

    /// Goes on straight.
    pub fn line(&mut self, to: [f64; 2]) {
        self.knots.push(knot(to));
    }

    /// Goes on along a cubic Bézier.
    pub fn cubic(&mut self, out: [f64; 2], into: [f64; 2], to: [f64; 2]) {
        if let Some(last) = self.knots.last_mut() {
            last.after = less(out, last.at);
        }
        self.knots.push(Knot { before: less(into, to), ..knot(to) });
    }

    /// Goes on along a quadratic Bézier, as the cubic one that it is.
    pub fn quadratic(&mut self, by: [f64; 2], to: [f64; 2]) {
        let from = self.knots.last().map_or(by, |last| last.at);
        let toward = |end: [f64; 2]| [0, 1].map(|axis| end[axis] + (by[axis] - end[axis]) * 2.0 / 3.0);
        self.cubic(toward(from), toward(to), to);
    }

    /// Ends the outline.
    pub fn close(&mut self) {
        if self.knots.len() > 1 {
            self.outlines.push(std::mem::take(&mut self.knots));
        }
        self.knots.clear();
    }

    /// All outlines.
    pub fn finish(mut self) -> Vec<Vec<Knot>> {
        self.close();
        self.outlines
    }
}
