//! What stages share that fill a shape with a colour or a run of colours.

use veil_pixels::shape::ellipse::SoftSide;
use veil_pixels::shape::gradient::{Gradient, Run, Spread};
use veil_pixels::shape::outline::{Knot, Outline};
use veil_pixels::shape::polygon::Polygon;
use veil_pixels::warp::perspective::Homography;
use veil_pixels::{Cancelled, Field, Picture, Window};

use crate::choice;
use crate::controls::{Stops, Value};
use crate::signal::SignalKind;
use crate::stage::Context;

/// What a drawn shape gives.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Given {
    Picture,
    Field,
}

choice! {
    Given {
        Picture = "picture", "a picture";
        Field = "field", "a field";
    }
}

/// The kind of signal, where the first control says what is given.
pub(super) fn given(values: &[Value]) -> SignalKind {
    match values.first() {
        Some(Value::Choice(1)) => SignalKind::Field,
        _ => SignalKind::Picture,
    }
}

/// Closed outlines laid on the picture, as a polygon in pixels of the proxy scale.
pub(super) fn laid(outlines: &[Vec<Knot>], forth: Homography) -> Polygon {
    let of = |knots: &Vec<Knot>| {
        let place = |at: [f64; 2]| forth.at(at).unwrap_or(at);
        let carried = |knot: &Knot| {
            let at = place(knot.at);
            let handle = |by: [f64; 2]| {
                let to = place([knot.at[0] + by[0], knot.at[1] + by[1]]);
                [to[0] - at[0], to[1] - at[1]]
            };
            Knot { at, before: handle(knot.before), after: handle(knot.after), soft: 0.0 }
        };
        let knots = knots.iter().map(carried).collect();
        Outline { knots, width: None, side: SoftSide::Both }.corners()
    };
    Polygon::new(outlines.iter().map(of))
}

/// A run of colours across a box, at an angle: counter-clockwise, and at 0 from left to right.
pub(super) fn across(stops: &Stops, angle: f64, shape: Window) -> (Gradient, Run) {
    let (sin, cos) = angle.to_radians().sin_cos();
    let (wide, high) = (shape.width() as f64, shape.height() as f64);
    let half = (wide * cos.abs() + high * sin.abs()) / 2.0;
    let middle = [f64::from(shape.x0) + wide / 2.0, f64::from(shape.y0) + high / 2.0];
    let end = |way: f64| [(middle[0] + way * half * cos) as f32, (middle[1] - way * half * sin) as f32];
    let gradient = Gradient::new(stops.iter().map(|stop| (*stop).into()).collect(), Spread::Hold);
    (gradient, Run::Linear { from: end(-1.0), to: end(1.0) })
}

/// A premultiplied colour where a field covers.
pub(super) fn coloured(
    covered: &Field,
    colour: [f32; 3],
    alpha: f32,
    context: &Context<'_>,
) -> Result<Picture, Cancelled> {
    let [r, g, b] = colour;
    covered.map(context.cancel(), |share: f32| [r, g, b, 1.0].map(|value| value * alpha * share))
}

/// A picture where a field covers.
pub(super) fn cut(picture: &Picture, covered: &Field, context: &Context<'_>) -> Result<Picture, Cancelled> {
    Picture::written(covered.window(), context.cancel(), |y, row| {
        for ((out, pixel), share) in row.iter_mut().zip(picture.row(y)).zip(covered.row(y)) {
            *out = pixel.map(|value| value * share);
        }
    })
}
