//! Tracks as a table of text: a line a track and frame, comma separated as RFC 4180 has it.
//!
//! - Columns: `track,frame,x,y,scale,turn,likeness`, and `x1,y1` to `x4,y4` for the corners of a region. Of those only the
//!   first four must be there; any others are passed over.
//! - Units: full-resolution pixels, x right and y down from the top left corner; degrees counter-clockwise as seen.
//! - Errors: the line at fault, as [`TableError`] says.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use crate::ids::StageId;
use crate::tracks::{Corners, Track, TrackId, TrackMotion, TrackSample, middle_of};

/// Why a table is none of tracks.
#[derive(Debug, thiserror::Error)]
pub enum TableError {
    /// It cannot be read as a table.
    #[error("the table of tracks cannot be read: {0}")]
    Table(#[from] csv::Error),
    /// A line does not hold what it must.
    #[error("line {line} of the table of tracks {why}")]
    Line {
        /// Counted from 1, the head.
        line: u64,
        /// What is wrong.
        why: &'static str,
    },
    /// It has no line but the head.
    #[error("the table of tracks has no line but its head")]
    Empty,
}

#[derive(Serialize, Deserialize)]
struct Line {
    track: String,
    frame: i32,
    x: f64,
    y: f64,
    scale: Option<f64>,
    turn: Option<f64>,
    likeness: Option<f64>,
    x1: Option<f64>,
    y1: Option<f64>,
    x2: Option<f64>,
    y2: Option<f64>,
    x3: Option<f64>,
    y3: Option<f64>,
    x4: Option<f64>,
    y4: Option<f64>,
}

impl Line {
    fn of(track: &Track, frame: i32, sample: &TrackSample) -> Self {
        let corner = |at: usize, axis: usize| sample.corners.map(|corners| corners[at][axis]);
        let [x, y] = sample.at;
        Self {
            track: track.name.clone(),
            frame,
            x,
            y,
            scale: Some(sample.scale),
            turn: Some(sample.turn),
            likeness: Some(sample.likeness),
            x1: corner(0, 0),
            y1: corner(0, 1),
            x2: corner(1, 0),
            y2: corner(1, 1),
            x3: corner(2, 0),
            y3: corner(2, 1),
            x4: corner(3, 0),
            y4: corner(3, 1),
        }
    }

    fn corners(&self) -> Option<Corners> {
        let pair = |x: Option<f64>, y: Option<f64>| Some([x?, y?]);
        Some([
            pair(self.x1, self.y1)?,
            pair(self.x2, self.y2)?,
            pair(self.x3, self.y3)?,
            pair(self.x4, self.y4)?,
        ])
    }

    fn sample(&self) -> TrackSample {
        let corners = self.corners();
        TrackSample {
            at: [self.x, self.y],
            scale: self.scale.unwrap_or(1.0),
            turn: self.turn.unwrap_or(0.0),
            likeness: self.likeness.unwrap_or(1.0),
            corners,
            surface: None,
        }
    }
}

/// Tracks as a table.
pub fn written<'a>(tracks: impl IntoIterator<Item = &'a Track>) -> Result<Vec<u8>, TableError> {
    let mut out = csv::Writer::from_writer(Vec::new());
    for track in tracks {
        for (frame, sample) in &track.samples {
            out.serialize(Line::of(track, *frame, sample))?;
        }
    }
    out.into_inner().map_err(|error| TableError::Table(csv::Error::from(error.into_error())))
}

/// The tracks of a table, of things in the picture of a row; they have no number yet.
pub fn read(text: &[u8], stage: StageId) -> Result<Vec<Track>, TableError> {
    let mut rows = csv::ReaderBuilder::new().trim(csv::Trim::All).from_reader(text);
    let head = rows.headers()?.clone();
    let mut names: Vec<String> = Vec::new();
    let mut found: BTreeMap<String, BTreeMap<i32, TrackSample>> = BTreeMap::new();
    for record in rows.records() {
        let record = record?;
        let at = record.position().map_or(0, csv::Position::line);
        let wrong = |why| TableError::Line { line: at, why };
        let line: Line = record.deserialize(Some(&head))?;
        let sample = line.sample();
        let samples = [(line.frame, sample.clone())].into();
        let track = Track { samples, ..track(&line.track, stage, line.frame, &sample) };
        track.check().map_err(wrong)?;
        if line.track.is_empty() {
            return Err(wrong("wants the name of its track"));
        }
        let samples = found.entry(line.track.clone()).or_default();
        if samples.values().next().is_some_and(|first| first.corners.is_some() != sample.corners.is_some()) {
            return Err(wrong("has corners where the lines before it have none, or none where they have"));
        }
        if samples.insert(line.frame, sample).is_some() {
            return Err(wrong("names a frame of its track for the second time"));
        }
        if !names.contains(&line.track) {
            names.push(line.track);
        }
    }
    let tracks: Vec<Track> = names
        .iter()
        .filter_map(|name| {
            let samples = found.remove(name)?;
            let (begins, first) =
                samples.first_key_value().map(|(frame, sample)| (*frame, sample.clone()))?;
            Some(Track { samples, ..track(name, stage, begins, &first) })
        })
        .collect();
    if tracks.is_empty() { Err(TableError::Empty) } else { Ok(tracks) }
}

fn track(name: &str, stage: StageId, begins: i32, first: &TrackSample) -> Track {
    let motion = if first.corners.is_some() { TrackMotion::Perspective } else { TrackMotion::Shift };
    Track {
        at: first.corners.map_or(first.at, middle_of),
        region: first.corners,
        motion,
        ..Track::new(TrackId(0), name, stage, begins)
    }
}
