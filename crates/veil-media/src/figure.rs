//! Filled shapes of an SVG file.

use std::path::Path;

use usvg::tiny_skia_path::{PathSegment, Point, Transform};
use usvg::{FillRule, Group, ImageHrefResolver, Node, Options, Paint, Tree};
use veil_core::figure::{Figure, FilledShape, Tracing};
use veil_pixels::colour::linear_from_srgb;
use veil_pixels::shape::outline::Knot;

use crate::MediaError;
use crate::guard::guarded;
use crate::patient::bytes;

/// Most bytes of a drawing.
const LARGEST: u64 = 32 << 20;
/// Most of its parts that refer to others.
const MOST_REFERENCES: usize = 20_000;
/// Most points of its outlines.
const MOST_KNOTS: usize = 200_000;
/// Bytes of stack for a chain of so many parts. Only what is used of them is ever there.
const STACK: usize = 1 << 30;

/// Reads the shapes that are filled with a colour, or with the first one of a gradient. Strokes are read as what they
/// cover; text, pictures and effects are left out.
pub fn read(path: &Path) -> Result<Figure, MediaError> {
    let text = String::from_utf8(bytes(path, LARGEST)?).map_err(|error| MediaError::broken(path, error))?;
    let refers = text.matches("url(").count() + text.matches("href").count();
    if refers > MOST_REFERENCES {
        let why = format!("more than {MOST_REFERENCES} of its parts refer to others");
        return Err(MediaError::Unsupported { path: path.into(), why });
    }
    // The library goes down into parts within parts, and along those that refer to each other.
    guarded(path, || stacker::grow(STACK, || drawn(path, &text)))
}

fn drawn(path: &Path, text: &str) -> Result<Figure, MediaError> {
    // Pictures in a drawing are left out, so no other file is opened for it.
    let alone =
        ImageHrefResolver { resolve_data: Box::new(|_, _, _| None), resolve_string: Box::new(|_, _| None) };
    let options = Options { image_href_resolver: alone, ..Options::default() };
    let tree = Tree::from_str(text, &options).map_err(|error| MediaError::broken(path, error))?;
    let mut gathered = Gathered { widest: widest(&tree), knots: 0, shapes: Vec::new() };
    gathered.group(tree.root(), 1.0).map_err(|TooMany| {
        let why = format!("it has more than {MOST_KNOTS} points, with those at the sides of its strokes");
        MediaError::Unsupported { path: path.into(), why }
    })?;
    let shapes = gathered.shapes;
    if shapes.is_empty() {
        return Err(MediaError::Missing { path: path.into(), what: "filled shapes".into() });
    }
    Ok(Figure { size: [f64::from(tree.size().width()), f64::from(tree.size().height())], shapes })
}

/// The widest stroke that differs from wider ones: it covers the whole drawing from wherever its line is.
fn widest(tree: &Tree) -> f32 {
    let (size, bounds) = (tree.size(), tree.root().abs_bounding_box());
    let far = |from: f32, to: f32, length: f32| (to.max(length) - from.min(0.0)).abs();
    let across = far(bounds.left(), bounds.right(), size.width());
    let down = far(bounds.top(), bounds.bottom(), size.height());
    3.0 * across.hypot(down)
}

/// A drawing has more points than are read.
struct TooMany;

/// What was found so far.
struct Gathered {
    widest: f32,
    knots: usize,
    shapes: Vec<FilledShape>,
}

impl Gathered {
    fn group(&mut self, group: &Group, alpha: f32) -> Result<(), TooMany> {
        let alpha = alpha * group.opacity().get();
        for node in group.children() {
            match node {
                Node::Group(group) => self.group(group, alpha)?,
                Node::Path(path) if path.is_visible() => self.path(path, alpha)?,
                Node::Path(_) | Node::Image(_) | Node::Text(_) => {}
            }
        }
        Ok(())
    }

    fn path(&mut self, path: &usvg::Path, alpha: f32) -> Result<(), TooMany> {
        let transform = path.abs_transform();
        if let Some(fill) = path.fill() {
            let outlines = self.counted(path.data(), transform)?;
            let outlines = if fill.rule() == FillRule::EvenOdd { even_odd(outlines) } else { outlines };
            self.shapes.push(filled(outlines, fill.paint(), alpha * fill.opacity().get()));
        }
        if let Some(stroke) = path.stroke() {
            let mut drawn = stroke.to_tiny_skia();
            // A transform may make it wider still, or nothing.
            let (across, down) = transform.get_scale();
            drawn.width = drawn.width.min(self.widest / across.max(down).max(f32::MIN_POSITIVE));
            let drawn = path.data().stroke(&drawn, 4.0);
            let outlines = drawn.map(|drawn| self.counted(&drawn, transform)).transpose()?;
            self.shapes.push(filled(
                outlines.unwrap_or_default(),
                stroke.paint(),
                alpha * stroke.opacity().get(),
            ));
        }
        Ok(())
    }

    fn counted(
        &mut self,
        path: &usvg::tiny_skia_path::Path,
        transform: Transform,
    ) -> Result<Vec<Vec<Knot>>, TooMany> {
        self.knots += path.len();
        if self.knots > MOST_KNOTS { Err(TooMany) } else { Ok(traced(path, transform)) }
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
    let depths = depths(&outlines);
    for (outline, depth) in outlines.iter_mut().zip(depths) {
        if (area(outline) > 0.0) != (depth % 2 == 0) {
            outline.reverse();
            outline.iter_mut().for_each(|knot| std::mem::swap(&mut knot.before, &mut knot.after));
        }
    }
    outlines
}

/// A straight edge, and the number of the outline that it is of.
type Edge = (usize, ([f64; 2], [f64; 2]));

/// Within how many others each outline begins. A line is swept down the drawing, which only looks at the edges it meets.
fn depths(outlines: &[Vec<Knot>]) -> Vec<usize> {
    let all = outlines
        .iter()
        .enumerate()
        .flat_map(|(number, outline)| edges(outline).map(move |edge| (number, edge)));
    let top = |(_, (a, b)): &Edge| a[1].min(b[1]);
    let mut coming: Vec<_> = all.filter(|(_, (a, b))| a[1] != b[1]).collect();
    coming.sort_by(|a, b| top(b).total_cmp(&top(a)));
    let mut begins: Vec<(usize, [f64; 2])> =
        outlines.iter().enumerate().map(|(number, outline)| (number, outline[0].at)).collect();
    begins.sort_by(|(_, a), (_, b)| a[1].total_cmp(&b[1]));
    let mut met: Vec<Edge> = Vec::new();
    let mut depths = vec![0; outlines.len()];
    // Which outlines are crossed an odd number of times to the right of a point.
    let mut odd = std::collections::BTreeSet::new();
    for (own, [x, y]) in begins {
        while let Some(edge) = coming.pop_if(|edge| top(edge) <= y) {
            met.push(edge);
        }
        met.retain(|(_, (a, b))| a[1].max(b[1]) > y);
        odd.clear();
        for (number, (a, b)) in &met {
            let crossed = x < a[0] + (b[0] - a[0]) * (y - a[1]) / (b[1] - a[1]);
            if *number != own && crossed && !odd.insert(*number) {
                odd.remove(number);
            }
        }
        depths[own] = odd.len();
    }
    depths
}

fn edges(outline: &[Knot]) -> impl Iterator<Item = ([f64; 2], [f64; 2])> {
    let next = outline.iter().cycle().skip(1);
    outline.iter().zip(next).map(|(from, to)| (from.at, to.at))
}

/// Twice the area within an outline's straight edges, less than nothing where it winds back.
pub fn area(outline: &[Knot]) -> f64 {
    edges(outline).map(|(a, b)| a[0] * b[1] - b[0] * a[1]).sum()
}
