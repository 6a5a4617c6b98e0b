//! Controls of one's own: found, added, renamed, taken away, and named by words of formulas.

use std::collections::BTreeMap;

use crate::feed::{ControlAxis, Feed, FollowFeed, Formula, FormulaFeed, PARTS, PixelFormula};
use crate::setup::document::own::{OwnControl, OwnKind};
use crate::setup::{CommandError, Setting, Setup, StageId};

impl Setup {
    /// The controls of one's own of the setup, or of a tool's row.
    pub fn own_of(&self, of: StageId) -> &[OwnControl] {
        if of == StageId::WHOLE {
            return &self.own;
        }
        self.stage(of).and_then(|row| row.tool.as_ref()).map_or(&[], |tool| &tool.controls)
    }

    fn own_of_mut(&mut self, of: StageId) -> Option<&mut Vec<OwnControl>> {
        if of == StageId::WHOLE {
            return Some(&mut self.own);
        }
        let row = self.stages.iter_mut().find(|row| row.id == of)?;
        row.tool.as_mut().map(|tool| &mut tool.controls)
    }

    /// A control of one's own.
    pub fn own(&self, of: &ControlAxis) -> Option<&OwnControl> {
        self.own_of(of.stage).iter().find(|own| own.id == of.control)
    }

    pub(in crate::setup) fn own_mut(&mut self, of: StageId, control: &str) -> Option<&mut OwnControl> {
        self.own_of_mut(of)?.iter_mut().find(|own| own.id == control)
    }

    /// Every place that may have controls of one's own: the setup, and each tool's row.
    pub(in crate::setup) fn owners(&self) -> impl Iterator<Item = StageId> {
        let tools = self.stages.iter().filter(|row| row.tool.is_some()).map(|row| row.id);
        std::iter::once(StageId::WHOLE).chain(tools)
    }

    /// The control that a word of a formula in a row means: of the tool the row is or is inside of, the nearest first,
    /// then of the setup.
    pub fn word_in(&self, row: StageId, word: &str) -> Option<ControlAxis> {
        let (name, part) = word.split_once('.').map_or((word, None), |(name, part)| (name, Some(part)));
        let mut scope = Some(row);
        loop {
            let of = scope.unwrap_or(StageId::WHOLE);
            if let Some(own) = self.own_of(of).iter().find(|own| own.word == name) {
                let axis = match part {
                    None => Some(0),
                    Some(part) => PARTS.iter().position(|names| names.contains(&part)),
                };
                let axis = axis.filter(|axis| *axis < own.kind.axes().len())?;
                return Some(ControlAxis { stage: of, control: own.id.clone(), axis });
            }
            let here = scope.filter(|id| *id != StageId::WHOLE)?;
            scope = self.stage(here).and_then(|row| row.inside);
        }
    }

    /// Ends whatever follows some controls: the followers get what they followed.
    fn end_all_following(&mut self, gone: &impl Fn(&ControlAxis) -> bool) {
        let before = self.clone();
        let settings = self.stages.iter_mut().flat_map(|row| {
            let own = row.tool.iter_mut().flat_map(|tool| &mut tool.controls).map(|own| &mut own.setting);
            row.controls.values_mut().chain(own)
        });
        for feed in
            settings.chain(self.own.iter_mut().map(|own| &mut own.setting)).flat_map(Setting::feeds_mut)
        {
            before.end_following_of(feed, gone);
        }
    }
}

/// Adds a control to the setup or to a tool's row.
pub(in crate::setup) fn add_own(
    setup: &mut Setup,
    of: StageId,
    name: &str,
    kind: OwnKind,
) -> Result<(), CommandError> {
    let name = name.trim();
    if name.is_empty() {
        return Err(CommandError::NoName);
    }
    let setting = kind.start(setup.picture);
    let word = free_word(setup, of, name);
    let own = setup.own_of_mut(of).ok_or(CommandError::NoStage(of))?;
    let number = |own: &OwnControl| own.id.trim_start_matches("own").parse::<u32>().unwrap_or(0);
    let id = format!("own{}", own.iter().map(number).max().unwrap_or(0) + 1);
    own.push(OwnControl { id, name: name.to_owned(), word, kind, setting });
    Ok(())
}

/// Takes a control away; what follows it keeps what it had from it.
pub(in crate::setup) fn remove_own(
    setup: &mut Setup,
    of: StageId,
    control: &str,
) -> Result<(), CommandError> {
    if setup.own_mut(of, control).is_none() {
        return Err(no_own(setup, of, control));
    }
    setup.end_all_following(&|axis| axis.stage == of && axis.control == control);
    if let Some(own) = setup.own_of_mut(of) {
        own.retain(|own| own.id != control);
    }
    Ok(())
}

pub(in crate::setup) fn rename_own(
    setup: &mut Setup,
    of: StageId,
    control: &str,
    name: &str,
) -> Result<(), CommandError> {
    if name.trim().is_empty() {
        return Err(CommandError::NoName);
    }
    let missing = no_own(setup, of, control);
    setup.own_mut(of, control).ok_or(missing)?.name = name.trim().to_owned();
    Ok(())
}

fn no_own(setup: &Setup, of: StageId, control: &str) -> CommandError {
    let stage = setup.stage(of).map_or_else(|| "the setup".to_owned(), |row| row.name.clone());
    CommandError::NoControl { stage, control: control.into() }
}

/// A word made of a name, which no formula knows otherwise and no control beside it has.
fn free_word(setup: &Setup, of: StageId, name: &str) -> String {
    let plain: String = name
        .to_lowercase()
        .chars()
        .map(|letter| if letter.is_ascii_alphanumeric() { letter } else { '_' })
        .collect();
    let plain = plain.trim_matches('_');
    let base = if plain.starts_with(|letter: char| letter.is_ascii_alphabetic()) {
        plain.to_owned()
    } else {
        format!("own_{plain}")
    };
    let is_free = |word: &String| {
        let other = setup.own_of(of).iter().any(|own| own.word == *word);
        // A word that is one of a pixel's, of a frame's or of a function is understood as that.
        let means_itself = PixelFormula::parse(word).is_ok_and(|formula| formula.words() == [word.clone()]);
        !other && means_itself
    };
    let numbered = (2..).map(|number| format!("{base}_{number}"));
    std::iter::once(base.clone()).chain(numbered).find(is_free).unwrap_or(base)
}

/// A setting in which every word of its formulas stands for something: what it stood for already, or the control of one's
/// own that the row knows by that word. Names of no word go.
pub(in crate::setup) fn with_names(
    setup: &Setup,
    row: StageId,
    mut setting: Setting,
) -> Result<Setting, CommandError> {
    for feed in setting.feeds_mut() {
        if let Feed::Formula(formula) = feed {
            name_words(setup, row, formula, &[])?;
        }
    }
    Ok(setting)
}

/// Gives each word of a formula what it stands for, besides those that are known otherwise.
fn name_words(
    setup: &Setup,
    row: StageId,
    formula: &mut FormulaFeed,
    known: &[String],
) -> Result<(), CommandError> {
    let mut names = BTreeMap::new();
    for word in formula.formula.words().iter().filter(|word| !known.contains(word)) {
        let feed = match formula.names.get(word) {
            Some(feed) => feed.clone(),
            None => {
                let follow = setup.word_in(row, word).ok_or_else(|| CommandError::NoWord(word.clone()))?;
                Feed::Follow(FollowFeed { follow, scale: 1.0, offset: 0.0.into() })
            }
        };
        names.insert(word.clone(), feed);
    }
    formula.names = names;
    Ok(())
}

/// Of a pixel's formula, which is text or, where it has words, a formula with names.
pub(in crate::setup) fn pixel_with_names(
    setup: &Setup,
    row: StageId,
    setting: Setting,
) -> Result<Setting, CommandError> {
    let (text, names) = match setting {
        Setting::Choice(text) => (text, BTreeMap::new()),
        Setting::Feed(Feed::Formula(feed)) => (feed.formula.text().to_owned(), feed.names),
        other => return Ok(other),
    };
    let Ok(pixel) = PixelFormula::parse(&text) else { return Ok(Setting::Choice(text)) };
    if pixel.words().is_empty() {
        return Ok(Setting::Choice(text));
    }
    let formula = Formula::parse(&text).map_err(|error| CommandError::Formula(error.to_string()))?;
    let mut feed = FormulaFeed { formula, names, offset: 0.0.into() };
    let known: Vec<String> =
        feed.formula.words().iter().filter(|word| !pixel.words().contains(word)).cloned().collect();
    name_words(setup, row, &mut feed, &known)?;
    Ok(Setting::Feed(Feed::Formula(feed)))
}
