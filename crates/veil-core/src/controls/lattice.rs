//! Rows and columns of places, and where each has moved.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::Value as Json;
use veil_pixels::warp::mesh::{self, Along, Corners, Cut, Front, Mesh, Sheet, Through};

use super::control_type::{ControlType, holding};
use super::form::Form;
use super::points::{KeyedPoints, PointsKey, ShapePoint};
use super::spec::ControlSpec;
use crate::dull;
use crate::feed::{Moment, Others};
use crate::key::{keyed_by_fields, keyed_by_number};
use crate::media::Media;
use crate::picture::PictureFormat;

/// Most rows and most columns.
const MOST: usize = 40;
/// Rows and columns to start with.
const START: usize = 3;
/// No place lies further off, in pixels.
const FAR: f64 = 1.0e6;

/// How a lattice's surface goes by its corners.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Surface {
    /// Through all of them; one that moves moves no more than two cells to either side.
    #[default]
    Through,
    /// Near them, softer: a corner draws the surface toward where it has moved.
    Near,
}

impl Surface {
    const fn through(self) -> Through {
        match self {
            Self::Through => Through::Corners,
            Self::Near => Through::Near,
        }
    }
}

keyed_by_number!(Surface);

/// Cells in rows and columns, with a place at each of their corners.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Lattice {
    /// Rows of cells, 1 to 40.
    pub rows: usize,
    /// Columns of cells, 1 to 40.
    pub columns: usize,
    /// How its surface goes by the corners.
    #[serde(default)]
    pub surface: Surface,
    /// When each line of corners from left to right was added, 0 for those that were there at first; none where all were. A line
    /// that is added leaves the surface, so that its order counts.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub added_rows: Vec<u32>,
    /// The same of the lines from top to bottom.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub added_columns: Vec<u32>,
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
    /// Its surface goes by the corners in another way.
    Surface(Surface),
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
        Self {
            rows,
            columns,
            surface: Surface::Through,
            added_rows: Vec::new(),
            added_columns: Vec::new(),
            rest,
            moved,
        }
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

    /// The corners with these as what has moved.
    fn corners<'a>(&'a self, moved: &'a [[f64; 2]]) -> Corners<'a> {
        Corners {
            cells: [self.rows, self.columns],
            rest: &self.rest,
            moved,
            added: [&self.added_rows, &self.added_columns],
            through: self.surface.through(),
        }
    }

    /// With a line of corners more or less, by what `change` makes of the corners at each key. None where there is no such line.
    fn changed(&self, along: Along, change: impl Fn(&Corners<'_>) -> Option<Cut>) -> Option<Self> {
        let Cut { rest, added, .. } = change(&self.corners(&self.rest))?;
        let moved = self.moved.changed(|points| {
            let places: Vec<[f64; 2]> = points.iter().map(|point| point.at).collect();
            let made = change(&self.corners(&places)).map(|cut| cut.moved).unwrap_or_default();
            made.into_iter().map(ShapePoint::corner).collect()
        });
        let lines = added.len() - 1;
        // What was there at first need not be told.
        let added = if added.iter().all(|turn| *turn == 0) { Vec::new() } else { added };
        let mut made = Self { rest, moved, ..self.clone() };
        match along {
            Along::Rows => (made.rows, made.added_rows) = (lines, added),
            Along::Columns => (made.columns, made.added_columns) = (lines, added),
        }
        Some(made)
    }

    /// A row or column of cells is cut in two; its surface stays as it is.
    fn cut(&self, along: Along, cell: usize) -> Result<Self, String> {
        if self.cells(along) >= MOST {
            return Err(format!("takes up to {MOST} rows and as many columns"));
        }
        let cut = self.changed(along, |corners| mesh::cut(corners, along, cell));
        cut.ok_or_else(|| format!("has no row or column {cell}"))
    }

    /// The corners between two rows or columns of cells go, and those become one.
    fn joined(&self, along: Along, corner: usize) -> Result<Self, String> {
        let joined = self.changed(along, |corners| mesh::joined(corners, along, corner));
        joined.ok_or_else(|| format!("has no corners {corner} between others"))
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

    /// Cells that go, from key to key, less than a fifth as far as half of all do, row by row; none where it has fewer than two
    /// keys, goes with a track, or next to nothing moves.
    pub fn dull_cells(&self) -> Vec<usize> {
        let keys = &self.moved.keys;
        if keys.len() < 2 || self.moved.carried.is_some() {
            return Vec::new();
        }
        let gone = |corner: usize| -> f64 {
            let far = |pair: &[PointsKey]| {
                let [a, b] = [0, 1].map(|key| pair[key].points[corner].at);
                (b[0] - a[0]).hypot(b[1] - a[1])
            };
            keys.windows(2).map(far).sum()
        };
        let wide = self.columns + 1;
        let cell = |cell: usize| {
            let first = cell / self.columns * wide + cell % self.columns;
            [first, first + 1, first + wide, first + wide + 1].into_iter().map(gone).sum::<f64>() / 4.0
        };
        let ways: Vec<f32> = (0..self.rows * self.columns).map(|at| cell(at) as f32).collect();
        let least = dull::least(&mut ways.clone()).unwrap_or(0.0);
        (0..ways.len()).filter(|cell| ways[*cell] < least).collect()
    }

    fn check(&self) -> Result<(), String> {
        if ![self.rows, self.columns].iter().all(|cells| (1..=MOST).contains(cells)) {
            return Err(format!("takes 1 to {MOST} rows and as many columns"));
        }
        let corners = (self.rows + 1) * (self.columns + 1);
        if self.rest.len() != corners || self.moved.count() != corners {
            return Err(format!("wants {corners} places for its rows and columns"));
        }
        let told = [(&self.added_rows, self.rows), (&self.added_columns, self.columns)];
        if told.iter().any(|(added, cells)| !added.is_empty() && added.len() != cells + 1) {
            return Err("wants to know of each row and column when it was added, or of none".into());
        }
        if told.iter().any(|(added, cells)| !added.is_empty() && (added[0] != 0 || added[*cells] != 0)) {
            return Err("has its first and last row and column from the beginning".into());
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
    surface: Surface,
    added_rows: Vec<u32>,
    added_columns: Vec<u32>,
    rest: Vec<[f64; 2]>,
    moved: Vec<[f64; 2]>,
}

keyed_by_fields! {
    LaidLattice { rows, columns, surface, added_rows, added_columns, rest, moved }
}

impl LaidLattice {
    fn of(lattice: &Lattice, moved: Vec<[f64; 2]>) -> Self {
        let Lattice { rows, columns, surface, added_rows, added_columns, rest, .. } = lattice.clone();
        Self { rows, columns, surface, added_rows, added_columns, rest, moved }
    }

    /// Whether nothing of it has moved.
    pub fn is_still(&self) -> bool {
        self.rest == self.moved
    }

    /// Its surface, with lengths times a factor. None where it has not as many places as corners.
    pub fn mesh(&self, factor: f64) -> Option<Mesh> {
        self.with_corners(factor, Mesh::new)
    }

    /// The same for itself, with what lies in front and whether it has a back.
    pub fn sheet(&self, factor: f64, front: Front, has_backs: bool) -> Option<Sheet> {
        self.with_corners(factor, |corners| Sheet::new(corners, front, has_backs))
    }

    /// What holds it at rest, in full-resolution pixels: left, top, right, bottom.
    pub fn box_at_rest(&self) -> [f64; 4] {
        let none = [f64::MAX, f64::MAX, f64::MIN, f64::MIN];
        self.rest
            .iter()
            .fold(none, |all, [x, y]| [all[0].min(*x), all[1].min(*y), all[2].max(*x), all[3].max(*y)])
    }

    fn with_corners<T>(&self, factor: f64, make: impl Fn(&Corners<'_>) -> Option<T>) -> Option<T> {
        let places = |places: &[[f64; 2]]| -> Vec<[f64; 2]> {
            places.iter().map(|place| place.map(|number| number * factor)).collect()
        };
        make(&Corners {
            cells: [self.rows, self.columns],
            rest: &places(&self.rest),
            moved: &places(&self.moved),
            added: [&self.added_rows, &self.added_columns],
            through: self.surface.through(),
        })
    }
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
    LaidLattice::of(lattice, moved.into_iter().map(|point| point.at).collect())
}

impl ControlType for LatticeSpec {
    type Value = LaidLattice;
    type Set = Lattice;

    fn start(&self, picture: PictureFormat) -> LaidLattice {
        let lattice = Lattice::on(picture);
        LaidLattice::of(&lattice, lattice.rest.clone())
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
            Deed::Surface(surface) => Ok(Lattice { surface, ..set.clone() }),
        }
    }

    fn schema(&self) -> Json {
        holding("lattice")
    }

    fn told(&self) -> String {
        "a lattice of up to 40 by 40 cells".into()
    }
}
