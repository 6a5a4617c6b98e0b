//! Rows and columns of places, and where each has moved.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::Value as Json;
use veil_pixels::warp::mesh::half_way;

use super::control_type::{ControlType, holding};
use super::form::Form;
use super::points::{KeyedPoints, ShapePoint};
use super::spec::ControlSpec;
use crate::feed::{Moment, Others};
use crate::key::keyed_by_fields;
use crate::media::Media;
use crate::picture::PictureFormat;

/// Most rows and most columns.
const MOST: usize = 40;
/// Rows and columns to start with.
const START: usize = 3;
/// No place lies further off, in pixels.
const FAR: f64 = 1.0e6;

/// Cells in rows and columns, with a place at each of their corners.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Lattice {
    /// Rows of cells, 1 to 40.
    pub rows: usize,
    /// Columns of cells, 1 to 40.
    pub columns: usize,
    /// Where the corners are at rest, row by row from the top left one, in full-resolution pixels.
    pub rest: Vec<[f64; 2]>,
    /// Where they have moved, in the same order; their handles do not count.
    #[serde(flatten)]
    pub moved: KeyedPoints,
}

/// What is done to a lattice besides moving its points.
#[derive(Clone, Copy, Debug, PartialEq, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
enum Deed {
    /// A row of cells is cut in two.
    AddRow(usize),
    /// A column of cells is cut in two.
    AddColumn(usize),
    /// A row of corners between others goes, the first of them being 1.
    RemoveRow(usize),
    /// A column of corners between others goes.
    RemoveColumn(usize),
    /// It lies over another box, with what has moved: left, top, right, bottom.
    Over([f64; 4]),
}

/// Places at rest and moved, one after the other.
type Line = Vec<([f64; 2], [f64; 2])>;

/// A way across a lattice.
#[derive(Clone, Copy)]
enum Along {
    Rows,
    Columns,
}

impl Lattice {
    /// At rest, with cells of one size over a box that has its first corner at a place.
    pub fn over(
        rows: usize,
        columns: usize,
        [left, top]: [f64; 2],
        [wide, high]: [f64; 2],
        frame: f64,
    ) -> Self {
        let share = |number: usize, of: usize| number as f64 / of as f64;
        let rest: Vec<[f64; 2]> = (0..=rows)
            .flat_map(|row| {
                (0..=columns)
                    .map(move |column| [left + wide * share(column, columns), top + high * share(row, rows)])
            })
            .collect();
        let moved = KeyedPoints::still(frame, rest.iter().copied().map(ShapePoint::corner).collect());
        Self { rows, columns, rest, moved }
    }

    fn on(picture: PictureFormat) -> Self {
        let size = [picture.width, picture.height].map(f64::from);
        Self::over(START, START, [0.0; 2], size, f64::from(picture.frames.first))
    }

    const fn cells(&self, along: Along) -> usize {
        match along {
            Along::Rows => self.rows,
            Along::Columns => self.columns,
        }
    }

    /// Places in lines along one way, from end to end.
    fn lines<P: Copy>(&self, along: Along, places: &[P]) -> Vec<Vec<P>> {
        let wide = self.columns + 1;
        match along {
            Along::Columns => places.chunks(wide).map(<[P]>::to_vec).collect(),
            Along::Rows => {
                (0..wide).map(|at| places.iter().skip(at).step_by(wide).copied().collect()).collect()
            }
        }
    }

    /// The same with other lines along one way, made of those that are there at rest and moved.
    fn with_lines(&self, along: Along, change: impl Fn(Vec<Line>) -> Vec<Line>) -> Self {
        let changed = |moved: &[ShapePoint]| -> (Vec<[f64; 2]>, Vec<ShapePoint>) {
            let places: Vec<_> = self.rest.iter().copied().zip(moved.iter().map(|point| point.at)).collect();
            let lines = change(self.lines(along, &places));
            let length = lines.first().map_or(0, Vec::len);
            let places: Vec<_> = match along {
                Along::Columns => lines.into_iter().flatten().collect(),
                Along::Rows => (0..length).flat_map(|at| lines.iter().map(move |line| line[at])).collect(),
            };
            places.into_iter().map(|(rest, moved)| (rest, ShapePoint::corner(moved))).unzip()
        };
        let at_rest: Vec<_> = self.rest.iter().copied().map(ShapePoint::corner).collect();
        let (rest, _) = changed(&at_rest);
        let (mut rows, mut columns) = (self.rows, self.columns);
        match along {
            Along::Rows => rows = rest.len() / (columns + 1) - 1,
            Along::Columns => columns = rest.len() / (rows + 1) - 1,
        }
        Self { rows, columns, rest, moved: self.moved.changed(|points| changed(points).1) }
    }

    /// A row or column of cells is cut in two; its surface stays as it is.
    fn cut(&self, along: Along, cell: usize) -> Result<Self, String> {
        if self.cells(along) >= MOST {
            return Err(format!("takes up to {MOST} rows and as many columns"));
        }
        if cell >= self.cells(along) {
            return Err(format!("has no row or column {cell}"));
        }
        Ok(self.with_lines(along, |mut lines| {
            let made = half_way(&lines, cell);
            lines.iter_mut().zip(made).for_each(|(line, made)| line.insert(cell + 1, made));
            lines
        }))
    }

    /// The corners between two rows or columns of cells go, and those become one.
    fn joined(&self, along: Along, corner: usize) -> Result<Self, String> {
        if !(1..self.cells(along)).contains(&corner) {
            return Err(format!("has no corners {corner} between others"));
        }
        Ok(self.with_lines(along, |mut lines| {
            for line in &mut lines {
                line.remove(corner);
            }
            lines
        }))
    }

    /// Stretched until its rest fills another box.
    fn laid_over(&self, [left, top, right, bottom]: [f64; 4]) -> Result<Self, String> {
        if !(right > left && bottom > top) {
            return Err("wants a box with its right and lower side beyond the others".into());
        }
        let bounds = |axis: usize| {
            let places = self.rest.iter().map(|place| place[axis]);
            places.fold((f64::MAX, f64::MIN), |(least, most), place| (least.min(place), most.max(place)))
        };
        let (from, to) = ([bounds(0), bounds(1)], [(left, right), (top, bottom)]);
        let place = |at: [f64; 2]| {
            [0, 1].map(|axis| {
                let ((least, most), (low, high)) = (from[axis], to[axis]);
                if most > least { low + (at[axis] - least) / (most - least) * (high - low) } else { low }
            })
        };
        let all =
            |points: &[ShapePoint]| points.iter().map(|point| ShapePoint::corner(place(point.at))).collect();
        Ok(Self {
            rest: self.rest.iter().copied().map(place).collect(),
            moved: self.moved.changed(all),
            ..self.clone()
        })
    }

    fn check(&self) -> Result<(), String> {
        if ![self.rows, self.columns].iter().all(|cells| (1..=MOST).contains(cells)) {
            return Err(format!("takes 1 to {MOST} rows and as many columns"));
        }
        let corners = (self.rows + 1) * (self.columns + 1);
        if self.rest.len() != corners || self.moved.count() != corners {
            return Err(format!("wants {corners} places for its rows and columns"));
        }
        if !self.rest.iter().flatten().all(|place| place.abs() <= FAR) {
            return Err("has a lattice that reaches too far".into());
        }
        self.moved.check().map_err(|why| format!("has a lattice {why}"))
    }
}

impl Form for Lattice {
    fn drawn(&self) -> Vec<&KeyedPoints> {
        vec![&self.moved]
    }

    fn drawn_mut(&mut self) -> Vec<&mut KeyedPoints> {
        vec![&mut self.moved]
    }

    fn scale_drawn(&mut self, factor: f64) {
        self.rest.iter_mut().flatten().for_each(|place| *place *= factor);
        self.moved.scale(factor);
    }

    fn words(&self) -> String {
        let keys = self.moved.keys.len();
        format!("{} by {} cells with {keys} keys", self.rows, self.columns)
    }
}

/// A lattice as it is at a moment.
#[derive(Clone, Debug, PartialEq)]
pub struct LaidLattice {
    /// Rows of cells.
    pub rows: usize,
    /// Columns of cells.
    pub columns: usize,
    /// Where the corners are at rest, row by row.
    pub rest: Vec<[f64; 2]>,
    /// Where they have moved.
    pub moved: Vec<[f64; 2]>,
}

keyed_by_fields! {
    LaidLattice { rows, columns, rest, moved }
}

/// A lattice.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct LatticeSpec;

impl ControlSpec<LatticeSpec> {
    /// Rows and columns of places.
    pub const fn lattice(name: &'static str) -> Self {
        Self::of(name, LatticeSpec)
    }
}

fn laid(lattice: &Lattice, moment: Moment, others: &dyn Others) -> LaidLattice {
    let moved = lattice.moved.placed(moment.now, others);
    LaidLattice {
        rows: lattice.rows,
        columns: lattice.columns,
        rest: lattice.rest.clone(),
        moved: moved.into_iter().map(|point| point.at).collect(),
    }
}

impl ControlType for LatticeSpec {
    type Value = LaidLattice;
    type Set = Lattice;

    fn start(&self, picture: PictureFormat) -> LaidLattice {
        let lattice = Lattice::on(picture);
        let Lattice { rows, columns, rest, .. } = lattice;
        LaidLattice { rows, columns, moved: rest.clone(), rest }
    }

    fn start_set(&self, picture: PictureFormat) -> Lattice {
        Lattice::on(picture)
    }

    fn is_relative(&self) -> bool {
        true
    }

    fn wanted(&self) -> String {
        "wants a lattice".into()
    }

    fn fits(&self, set: &Lattice) -> Result<(), String> {
        set.check()
    }

    fn at(&self, set: &Lattice, moment: Moment, others: &dyn Others) -> Option<LaidLattice> {
        Some(laid(set, moment, others))
    }

    fn line(&self, name: &str, value: &LaidLattice, _media: &[Media]) -> String {
        format!("{name} of {} by {} cells", value.rows, value.columns)
    }

    fn altered(&self, set: &Lattice, deed: &Json) -> Result<Lattice, String> {
        let deed = Deed::deserialize(deed).map_err(|error| error.to_string())?;
        match deed {
            Deed::AddRow(cell) => set.cut(Along::Rows, cell),
            Deed::AddColumn(cell) => set.cut(Along::Columns, cell),
            Deed::RemoveRow(corner) => set.joined(Along::Rows, corner),
            Deed::RemoveColumn(corner) => set.joined(Along::Columns, corner),
            Deed::Over(sides) => set.laid_over(sides),
        }
    }

    fn schema(&self) -> Json {
        holding("lattice")
    }

    fn told(&self) -> String {
        "a lattice of up to 40 by 40 cells".into()
    }
}
