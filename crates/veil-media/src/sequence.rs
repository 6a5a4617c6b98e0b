//! Sequences of frame files: `name.####.ext`.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::str::FromStr;

use serde::Serialize;
use veil_core::setup::Frames;

use crate::MediaError;
use crate::form::Form;
use crate::patient::entries;

/// A path with a run of `#` where the frame number stands, or a still's path without one.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Pattern {
    before: String,
    /// Least digits of the number; 0 for a still.
    digits: usize,
    after: String,
}

impl FromStr for Pattern {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let Some(start) = text.rfind('#') else {
            return Ok(Self { before: text.into(), digits: 0, after: String::new() });
        };
        let before = text[..=start].trim_end_matches('#');
        let digits = start + 1 - before.len();
        if before.contains('#') {
            return Err(format!("`{text}` has more than one run of #"));
        }
        Ok(Self { before: before.into(), digits, after: text[start + 1..].into() })
    }
}

impl Pattern {
    /// Whether it stands for more than one file.
    pub const fn is_sequence(&self) -> bool {
        self.digits > 0
    }

    /// The file of a frame; negative numbers keep their sign before the digits.
    pub fn file(&self, frame: i32) -> String {
        if self.digits == 0 {
            return self.before.clone();
        }
        let sign = if frame < 0 { "-" } else { "" };
        format!("{}{sign}{:0digits$}{}", self.before, frame.unsigned_abs(), self.after, digits = self.digits)
    }
}

impl std::fmt::Display for Pattern {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}{}{}", self.before, "#".repeat(self.digits), self.after)
    }
}

/// A sequence or still in a folder.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct FoundMedia {
    /// Relative to the folder that was searched, with `/`.
    pub path: String,
    /// Its first and last frame; none for a still.
    pub frames: Option<Frames>,
    /// Runs of frames between them without a file.
    pub missing: Vec<Frames>,
}

/// How deep folders are searched.
const DEEPEST: usize = 6;
/// Files whose numbers lie further apart than so many times their count are no sequence.
const SPARSEST: usize = 100;
/// How many files are looked at.
const MOST_FILES: usize = 100_000;

/// Every sequence and still below a folder, by path. Hidden files, links and files that are being written
/// are passed over.
pub fn scan(folder: &Path) -> Result<Vec<FoundMedia>, MediaError> {
    let mut files = Vec::new();
    list(folder, DEEPEST, &mut files)?;
    let relative = |file: &PathBuf| Some(file.strip_prefix(folder).ok()?.to_str()?.replace('\\', "/"));
    Ok(grouped(files.iter().filter_map(relative)))
}

/// Paths of files, relative to one folder, as sequences and stills.
pub fn grouped(paths: impl IntoIterator<Item = String>) -> Vec<FoundMedia> {
    let mut groups: BTreeMap<(String, usize, String), Vec<i32>> = BTreeMap::new();
    for text in paths {
        // Clips and tables hold all of theirs in one file, whatever number is in its name.
        let single = matches!(
            Form::of(Path::new(&text)),
            Some(Form::Clip | Form::Cube | Form::Svg | Form::Font | Form::Gltf | Form::CameraTable)
        );
        match numbered(&text).filter(|_| !single) {
            Some((before, digits, after, number)) => {
                groups.entry((before.into(), digits, after.into())).or_default().push(number);
            }
            None => {
                groups.entry((text, 0, String::new())).or_default();
            }
        }
    }
    let mut media: Vec<FoundMedia> =
        groups.into_iter().flat_map(|(key, numbers)| found(key, numbers)).collect();
    media.sort_by(|a, b| a.path.cmp(&b.path));
    media
}

/// What files of one name with different numbers are: a sequence, or stills where most numbers of it are missing.
fn found((before, digits, after): (String, usize, String), mut numbers: Vec<i32>) -> Vec<FoundMedia> {
    numbers.sort_unstable();
    let pattern = Pattern { before, digits, after };
    let (Some(first), Some(last)) = (numbers.first().copied(), numbers.last().copied()) else {
        return vec![FoundMedia { path: pattern.to_string(), frames: None, missing: Vec::new() }];
    };
    let frames = Frames { first, last };
    if numbers.len() > 1 && frames.count() / numbers.len() > SPARSEST {
        let still = |number| FoundMedia { path: pattern.file(number), frames: None, missing: Vec::new() };
        return numbers.into_iter().map(still).collect();
    }
    let gaps = numbers.windows(2).filter(|pair| pair[1] - pair[0] > 1);
    let missing = gaps.map(|pair| Frames { first: pair[0] + 1, last: pair[1] - 1 }).collect();
    vec![FoundMedia { path: pattern.to_string(), frames: Some(frames), missing }]
}

/// Splits `yard.1001.exr` into what stands before and after its number.
fn numbered(path: &str) -> Option<(&str, usize, &str, i32)> {
    let stem_end = path.rfind('.')?;
    let stem = &path[..stem_end];
    let start = stem.trim_end_matches(|c: char| c.is_ascii_digit()).len();
    let digits = &stem[start..];
    let separated = stem[..start].ends_with(['.', '_']);
    let number = digits.parse().ok().filter(|_| separated)?;
    Some((&path[..start], digits.len(), &path[stem_end..], number))
}

fn list(folder: &Path, depth: usize, files: &mut Vec<PathBuf>) -> Result<(), MediaError> {
    for (path, kind) in entries(folder)? {
        let hidden = path.file_name().is_some_and(|name| name.to_string_lossy().starts_with('.'));
        if hidden || files.len() >= MOST_FILES {
            continue;
        }
        if kind.is_dir() && depth > 0 {
            list(&path, depth - 1, files)?;
        } else if kind.is_file() && Form::of(&path).is_some() {
            files.push(path);
        }
    }
    Ok(())
}
