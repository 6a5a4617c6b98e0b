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
pub(crate) fn read(path: &Path) -> Result<Figure, MediaError> {
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

fn area(outline: &[Knot]) -> f64 {
    edges(outline).map(|(a, b)| a[0] * b[1] - b[0] * a[1]).sum()
}

fn holds(outline: &[Knot], [x, y]: [f64; 2]) -> bool {
    let crossed = |(a, b): ([f64; 2], [f64; 2])| {
        (a[1] > y) != (b[1] > y) && x < a[0] + (b[0] - a[0]) * (y - a[1]) / (b[1] - a[1])
    };
    edges(outline).filter(|edge| crossed(*edge)).count() % 2 == 1
}

#[cfg(test)]
mod tests {
    use super::*;

    fn written(text: &str) -> (tempfile::TempDir, std::path::PathBuf) {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("crest.svg");
        std::fs::write(&path, text).unwrap();
        (folder, path)
    }

    /// By the SVG 2 specification: groups move and fade what is in them, and by `evenodd` a square within a square is a hole
    /// whichever way it winds.
    #[test]
    fn shapes_come_moved_coloured_and_with_their_holes() {
        let (_folder, path) = written(
            r##"<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 50" width="200" height="100">
            <g transform="translate(10 0)" opacity="0.5"><path fill="#ff0000" fill-rule="evenodd" d="M0 0h40v40h-40z M10 10h20v20h-20z"/></g>
            <circle cx="70" cy="25" r="10" fill="none" stroke="white" stroke-width="2"/></svg>"##,
        );
        let figure = read(&path).unwrap();
        assert_eq!(figure.size, [200.0, 100.0]);
        assert_eq!(figure.shapes.len(), 2);
        let square = &figure.shapes[0];
        assert_eq!((square.colour, square.alpha), ([1.0, 0.0, 0.0], 0.5));
        let areas: Vec<f64> = square.outlines.iter().map(|outline| area(outline) / 2.0).collect();
        // Twice the size: 80 by 80 with a hole of 40 by 40.
        assert_eq!(areas, [6400.0, -1600.0]);
        assert_eq!(square.outlines[0][0].at, [20.0, 0.0]);
        assert_eq!(figure.shapes[1].outlines.len(), 2, "a ring");
    }

    #[test]
    fn what_is_no_drawing_is_refused_by_name() {
        for text in
            ["no svg", "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"9\" height=\"9\"/>", "<html/>"]
        {
            let (_folder, path) = written(text);
            let error = read(&path).unwrap_err().to_string();
            assert!(error.contains("crest.svg"), "{error}");
        }
    }
}
