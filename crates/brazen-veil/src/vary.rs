//! `render --vary`: the same frames again and again, a control at another value each time.

use veil_core::setup::Setup;

use crate::error::ProgramError;
use crate::render::with_set;

/// No more sets than these are rendered at once.
const MOST: usize = 1000;

/// A setup with its controls at some values, and what its files are called by.
#[derive(Clone)]
pub(crate) struct Variation {
    pub(crate) setup: Setup,
    /// `seed03`, with more behind a full stop; empty where nothing is varied.
    pub(crate) mark: String,
}

/// Every combination of the values that are asked for, the last asked changing fastest.
pub(crate) fn variations(setup: Setup, asked: &[String]) -> Result<Vec<Variation>, ProgramError> {
    let mut made = vec![Variation { setup, mark: String::new() }];
    for text in asked {
        let (target, values) = read(text)?;
        if made.len() * values.len() > MOST {
            return Err(bad(text, &format!("that makes more than {MOST} sets")));
        }
        let control = target.rsplit_once('.').map_or(target, |(_, control)| control).trim();
        let digits = values.iter().map(String::len).max().unwrap_or(0);
        let mut next = Vec::with_capacity(made.len() * values.len());
        for before in &made {
            for value in &values {
                let setup = with_set(&before.setup, &format!("{target}={value}"))?;
                let own = format!("{}{value:0>digits$}", control.replace([' ', '/'], "_"));
                let mark = [before.mark.as_str(), &own].into_iter().filter(|part| !part.is_empty());
                next.push(Variation { setup, mark: mark.collect::<Vec<_>>().join(".") });
            }
        }
        made = next;
    }
    Ok(made)
}

/// The place of a variation's files: its mark stands before the frame's number, or before a clip's ending.
pub(crate) fn place(out: &str, mark: &str) -> String {
    if mark.is_empty() {
        return out.to_owned();
    }
    let name = out.rfind(['/', '\\']).map_or(0, |at| at + 1);
    let at =
        out[name..].find(['#', '%']).or_else(|| out[name..].rfind('.')).map_or(out.len(), |at| name + at);
    let (head, tail) = (&out[..at], out[at..].trim_start_matches('.'));
    let joint = if head.is_empty() || head.ends_with(['/', '\\', '.']) { "" } else { "." };
    format!("{head}{joint}{mark}.{tail}")
}

fn bad(text: &str, why: &str) -> ProgramError {
    ProgramError::Bad(format!("--vary `{text}`: {why}"))
}

/// `Row.control` and its values: `1..12` or `0.2;0.5;1`.
fn read(text: &str) -> Result<(&str, Vec<String>), ProgramError> {
    let form = "write Row.control=1..12 or Row.control=0.2;0.5";
    let (target, values) = text.split_once('=').ok_or_else(|| bad(text, form))?;
    let Some((first, last)) = values.split_once("..") else {
        let values: Vec<String> = values
            .split(';')
            .map(|value| value.trim().to_owned())
            .filter(|value| !value.is_empty())
            .collect();
        return if values.is_empty() { Err(bad(text, form)) } else { Ok((target, values)) };
    };
    let whole = |number: &str| number.trim().parse::<i32>().map_err(|_| bad(text, form));
    let (first, last) = (whole(first)?, whole(last)?);
    if last < first {
        return Err(bad(text, "the last number comes before the first"));
    }
    if (i64::from(last) - i64::from(first)) as usize >= MOST {
        return Err(bad(text, &format!("that makes more than {MOST} sets")));
    }
    Ok((target, (first..=last).map(|value| value.to_string()).collect()))
}

#[cfg(test)]
mod tests {
    use veil_core::setup::{Frames, PictureFormat, StageEntry, StageId};

    use super::*;

    fn ember() -> Setup {
        let frames = Frames { first: 1001, last: 1002 };
        let picture = PictureFormat {
            width: 64,
            height: 36,
            fps: 24.0,
            aspect: 1.0,
            frames,
            working: Default::default(),
        };
        let mut setup = Setup::empty("ember", picture);
        setup.stages.insert(0, StageEntry::new(StageId(2), "noise", "rough"));
        setup
    }

    #[test]
    fn each_combination_is_a_set_of_its_own_name_and_value() {
        let asked = ["rough.seed=9..11".to_owned(), "rough.gain=0.4;0.6".to_owned()];
        let made = variations(ember(), &asked).unwrap();
        let marks: Vec<&str> = made.iter().map(|one| one.mark.as_str()).collect();
        assert_eq!(
            marks,
            [
                "seed09.gain0.4",
                "seed09.gain0.6",
                "seed10.gain0.4",
                "seed10.gain0.6",
                "seed11.gain0.4",
                "seed11.gain0.6"
            ]
        );
        let setups: Vec<&Setup> = made.iter().map(|one| &one.setup).collect();
        assert!((1..6).all(|at| setups[at] != setups[at - 1]));
    }

    #[test]
    fn the_mark_stands_before_the_number_or_the_ending() {
        for (out, wanted) in [
            ("stock/burst.####.exr", "stock/burst.seed3.####.exr"),
            ("stock.v2/####.png", "stock.v2/seed3.####.png"),
            ("burst.mp4", "burst.seed3.mp4"),
        ] {
            assert_eq!(place(out, "seed3"), wanted);
        }
        assert_eq!(place("burst.####.exr", ""), "burst.####.exr");
    }

    #[test]
    fn what_cannot_be_varied_is_refused_by_name() {
        for text in
            ["rough.seed", "rough.seed=5..2", "rough.seed=1..99999", "rough.seed=", "smooth.seed=1..2"]
        {
            let Err(error) = variations(ember(), &[text.to_owned()]) else { panic!("{text} was taken") };
            assert!(
                error.to_string().contains("rough.seed") || error.to_string().contains("smooth"),
                "{error}"
            );
        }
    }
}
