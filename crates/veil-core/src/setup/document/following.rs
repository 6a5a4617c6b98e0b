//! Numbers that follow others: what they find, and what they get when that goes.

use std::collections::BTreeMap;

use crate::deep::deep;
use crate::feed::{ControlAxis, Feed, Keys, Moment, Others};
use crate::setup::{Setting, Setup, StageEntry, StageId};
use crate::shape;
use crate::tracks::{Track, TrackId};

impl Setup {
    /// What a number would come from if it did not follow this: the same values, for as long as nobody changes them.
    pub(crate) fn in_place_of(&self, of: &ControlAxis) -> Option<Feed> {
        if let Some(own) = self.own(of) {
            return own.setting.feeds().get(of.axis).cloned();
        }
        let row = self.stage(of.stage)?;
        let spec = shape::control(row, &of.control)?;
        let setting = shape::setting(self, row, spec);
        match setting.feeds().get(of.axis) {
            Some(feed) => Some(feed.clone()),
            None => self.stands(of, &setting),
        }
    }

    /// A number of where something drawn stands, as keys at every frame where it or its track has one.
    fn stands(&self, of: &ControlAxis, setting: &Setting) -> Option<Feed> {
        let drawn = setting.drawn();
        let tracks = drawn.iter().filter_map(|points| self.track(points.carried.as_ref()?.track));
        let found = tracks.flat_map(|track| track.samples.keys().map(|frame| f64::from(*frame)));
        let own = drawn.iter().flat_map(|points| points.keys.iter().map(|key| key.frame));
        let mut frames = own.chain(found);
        let first = frames.next()?;
        let value = |frame: f64| self.number(of, self.moment(frame));
        let keys = frames.try_fold(Keys::one(first, value(first)?), |keys, frame| {
            Some(keys.with_value(frame, value(frame)?))
        })?;
        Some(Feed::Keys(keys))
    }

    /// Ends the following of what is `gone`: the followers get what they followed.
    pub(crate) fn end_following_of(&self, feed: &mut Feed, gone: &impl Fn(&ControlAxis) -> bool) {
        // What is followed may itself follow what goes; a loop would have been refused.
        for _ in 0..=self.stages.len() {
            if !feed.follows().into_iter().any(gone) {
                break;
            }
            feed.replace_followers(&|follows| {
                gone(&follows.follow).then(|| {
                    let instead = self.in_place_of(&follows.follow).unwrap_or(Feed::Fixed(0.0));
                    instead.scaled(follows.scale).plus(&follows.offset)
                })
            });
        }
    }

    /// The same for every control of a row, and for rows that go.
    pub(crate) fn end_following(&self, row: &mut StageEntry, gone: impl Fn(StageId) -> bool) {
        let gone = |of: &ControlAxis| gone(of.stage);
        let own = row.tool.iter_mut().flat_map(|tool| &mut tool.controls).map(|own| &mut own.setting);
        for feed in row.controls.values_mut().chain(own).flat_map(Setting::feeds_mut) {
            self.end_following_of(feed, &gone);
        }
    }

    /// All that a row's controls are set to, by the row or by what it is a copy of.
    pub fn settings(&self, entry: &StageEntry) -> BTreeMap<String, Setting> {
        let known = shape::all_controls(entry).into_iter();
        known.filter_map(|spec| Some((spec.id.to_owned(), self.setting(entry, spec.id)?.clone()))).collect()
    }
}

impl Others for Setup {
    fn number(&self, of: &ControlAxis, moment: Moment) -> Option<f64> {
        deep(|| match self.own(of) {
            Some(own) => own.setting.feeds().get(of.axis).map(|feed| feed.at(moment, self)),
            None => shape::number(self, self.stage(of.stage)?, &of.control, of.axis, moment),
        })
    }

    fn track(&self, id: TrackId) -> Option<&Track> {
        self.tracks.iter().find(|track| track.id == id)
    }
}
