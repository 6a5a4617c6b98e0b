//! Filled shapes of an SVG file.

use std::path::Path;

use usvg::tiny_skia_path::{PathSegment, Point, Transform};
use usvg::{FillRule, Group, ImageHrefResolver, Node, Options, Paint, Tree};
use veil_core::figure::{Figure, FilledShape, Tracing};
use veil_pixels::colour::linear_from_srgb;
use veil_pixels::outline::Knot;

use crate::MediaError;

/// Reads the shapes that are filled with a colour, or with the first one of a gradient. Strokes are read as what they
/// cover; text, pictures and effects are left out.
pub fn read(path: &Path) -> Result<Figure, MediaError> {
    let broken = |why: String| MediaError::Broken { path: path.into(), why };
    let bytes = std::fs::read(path).map_err(MediaError::io(path))?;
    // Pictures in a drawing are left out, so no other file is opened for it.
    let alone =
        ImageHrefResolver { resolve_data: Box::new(|_, _, _| None), resolve_string: Box::new(|_, _| None) };
    let options = Options { image_href_resolver: alone, ..Options::default() };
    let tree = Tree::from_data(&bytes, &options).map_err(|error| broken(error.to_string()))?;
    let mut shapes = Vec::new();
    gather(tree.root(), 1.0, &mut shapes);
    if shapes.is_empty() {
        return Err(MediaError::Missing { path: path.into(), what: "filled shapes".into() });
    }
    Ok(Figure { size: [f64::from(tree.size().width()), f64::from(tree.size().height())], shapes })
}

fn gather(group: &Group, alpha: f32, shapes: &mut Vec<FilledShape>) {
    let alpha = alpha * group.opacity().get();
    for node in group.children() {
        match node {
            Node::Group(group) => gather(group, alpha, shapes),
            Node::Path(path) if path.is_visible() => {
                let transform = path.abs_transform();
                if let Some(fill) = path.fill() {
                    let outlines = traced(path.data(), transform);
                    let outlines =
                        if fill.rule() == FillRule::EvenOdd { even_odd(outlines) } else { outlines };
                    shapes.push(filled(outlines, fill.paint(), alpha * fill.opacity().get()));
                }
                if let Some(stroke) = path.stroke() {
                    let drawn = path.data().stroke(&stroke.to_tiny_skia(), 4.0);
                    let outlines = drawn.map(|drawn| traced(&drawn, transform)).unwrap_or_default();
                    shapes.push(filled(outlines, stroke.paint(), alpha * stroke.opacity().get()));
                }
            }
            Node::Path(_) | Node::Image(_) | Node::Text(_) => {}
        }
    }
}

fn filled(outlines: Vec<Vec<Knot>>, paint: &Paint, alpha: f32) -> FilledShape {
    let colour = match paint {
        Paint::Color(colour) => *colour,
        Paint::LinearGradient(gradient) => gradient.stops()[0].color(),
        Paint::RadialGradient(gradient) => gradient.stops()[0].color(),
        Paint::Pattern(_) => usvg::Color::white(),
    };
    let linear = |value: u8| linear_from_srgb(f32::from(value) / 255.0);
    FilledShape { outlines, colour: [linear(colour.red), linear(colour.green), linear(colour.blue)], alpha }
}

fn traced(path: &usvg::tiny_skia_path::Path, transform: Transform) -> Vec<Vec<Knot>> {
    let place = |mut point: Point| {
        transform.map_point(&mut point);
        [f64::from(point.x), f64::from(point.y)]
    };
    let mut tracing = Tracing::default();
    for segment in path.segments() {
        match segment {
            PathSegment::MoveTo(to) => tracing.begin(place(to)),
            PathSegment::LineTo(to) => tracing.line(place(to)),
            PathSegment::QuadTo(by, to) => tracing.quadratic(place(by), place(to)),
            PathSegment::CubicTo(out, into, to) => tracing.cubic(place(out), place(into), place(to)),
            PathSegment::Close => tracing.close(),
        }
    }
    tracing.finish()
}

/// Outlines that wind so that what lies within an even number of them is a hole.
fn even_odd(mut outlines: Vec<Vec<Knot>>) -> Vec<Vec<Knot>> {
    let depths: Vec<usize> = outlines
        .iter()
        .enumerate()
        .map(|(own, outline)| {
            let inside = |(number, other): (usize, &Vec<Knot>)| number != own && holds(other, outline[0].at);
            outlines.iter().enumerate().filter(|other| inside(*other)).count()
        })
        .collect();
    for (outline, depth) in outlines.iter_mut().zip(depths) {
        if (area(outline) > 0.0) != (depth % 2 == 0) {
            outline.reverse();
            outline.iter_mut().for_each(|knot| std::mem::swap(&mut knot.before, &mut knot.after));
        }
    }
    outlines
}

fn edges(outline: &[Knot]) -> impl Iterator<Item = ([f64; 2], [f64; 2])> {
    let next = outline.iter().cycle().skip(1);
    outline.iter().zip(next).map(|(from, to)| (from.at, to.at))
}

/// Twice the area within an outline's straight edges, less than nothing where it winds back.
pub fn area(outline: &[Knot]) -> f64 {
    edges(outline).map(|(a, b)| a[0] * b[1] - b[0] * a[1]).sum()
}

fn holds(outline: &[Knot], [x, y]: [f64; 2]) -> bool {
    let crossed = |(a, b): ([f64; 2], [f64; 2])| {
        (a[1] > y) != (b[1] > y) && x < a[0] + (b[0] - a[0]) * (y - a[1]) / (b[1] - a[1])
    };
    edges(outline).filter(|edge| crossed(*edge)).count() % 2 == 1
}
