//! Lookup tables of `.cube` files: lines of words and numbers, `LUT_1D_SIZE` or `LUT_3D_SIZE`, an optional domain, and
//! the entries, red changing fastest.

use std::path::Path;

use veil_pixels::colour::lut::{Entries, Lut};

use crate::MediaError;
use crate::patient::bytes;

/// Most entries along a line, and along the side of a cube.
const LONGEST_LINE: usize = 65_536;
const LARGEST_CUBE: usize = 256;
/// A file of the largest cube with long numbers is smaller.
const LARGEST_FILE: u64 = 1 << 30;

pub(crate) fn read(path: &Path) -> Result<Lut, MediaError> {
    let bytes = bytes(path, LARGEST_FILE)?;
    parsed(&String::from_utf8_lossy(&bytes)).map_err(|why| MediaError::broken(path, why))
}

/// What the words of a file say, before it is known to be whole.
#[derive(Default)]
struct Said {
    line: Option<usize>,
    cube: Option<usize>,
    low: [f32; 3],
    high: [f32; 3],
    entries: Vec<[f32; 3]>,
}

/// The table that a text holds; an error names the line.
pub fn parsed(text: &str) -> Result<Lut, String> {
    let mut said = Said { high: [1.0; 3], ..Said::default() };
    for (index, line) in text.lines().enumerate() {
        let line = line.trim();
        if line.is_empty() || line.starts_with('#') {
            continue;
        }
        take_line(&mut said, line).map_err(|why| format!("line {}: {why}", index + 1))?;
    }
    let entries = match (said.line, said.cube) {
        (Some(count), None) => counted(said.entries, count).map(Entries::Line),
        (None, Some(side)) => {
            counted(said.entries, side * side * side).map(|colours| Entries::Cube { side, colours })
        }
        (Some(_), Some(_)) => Err("it says to be both a line and a cube".to_owned()),
        (None, None) => Err("it says neither LUT_1D_SIZE nor LUT_3D_SIZE".to_owned()),
    }?;
    if said.low.iter().zip(said.high).any(|(low, high)| *low >= high) {
        return Err("its domain is empty".into());
    }
    Ok(Lut { low: said.low, high: said.high, entries })
}

fn counted(entries: Vec<[f32; 3]>, count: usize) -> Result<Vec<[f32; 3]>, String> {
    if entries.len() == count {
        Ok(entries)
    } else {
        Err(format!("it has {} entries where its size says {count}", entries.len()))
    }
}

fn take_line(said: &mut Said, line: &str) -> Result<(), String> {
    let (word, rest) = line.split_once(char::is_whitespace).unwrap_or((line, ""));
    let size = |most: usize| {
        let count = rest.trim().parse::<usize>().ok().filter(|count| (2..=most).contains(count));
        count.ok_or_else(|| format!("a size from 2 to {most} was expected, not `{}`", rest.trim()))
    };
    match word {
        "TITLE" => {}
        "LUT_1D_SIZE" => said.line = Some(size(LONGEST_LINE)?),
        "LUT_3D_SIZE" => said.cube = Some(size(LARGEST_CUBE)?),
        "DOMAIN_MIN" => said.low = three(rest)?,
        "DOMAIN_MAX" => said.high = three(rest)?,
        "LUT_1D_INPUT_RANGE" | "LUT_3D_INPUT_RANGE" => {
            let [low, high] = numbers(rest)?;
            (said.low, said.high) = ([low; 3], [high; 3]);
        }
        _ if word.starts_with(|c: char| c.is_ascii_digit() || matches!(c, '-' | '+' | '.')) => {
            if said.entries.len() >= LARGEST_CUBE.pow(3) {
                return Err("more entries than any size allows".into());
            }
            said.entries.push(three(line)?);
        }
        other => return Err(format!("`{other}` is not known")),
    }
    Ok(())
}

fn three(text: &str) -> Result<[f32; 3], String> {
    numbers(text)
}

fn numbers<const N: usize>(text: &str) -> Result<[f32; N], String> {
    let parsed: Vec<f32> = text
        .split_whitespace()
        .map(|word| word.parse::<f32>().ok().filter(|value| value.is_finite()))
        .collect::<Option<_>>()
        .ok_or_else(|| format!("`{text}` are no numbers"))?;
    parsed.try_into().map_err(|_| format!("{N} numbers were expected in `{text}`"))
}
