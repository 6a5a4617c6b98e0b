//! Media of a show, as they were found.

use diesel::prelude::*;
use veil_core::setup::ColourSpace;

use crate::schema::{bin, media};
use crate::{Binnable, Id, Store, StoreError};

/// A sequence or still of a show.
#[derive(Clone, Debug, PartialEq)]
pub struct MediaRecord {
    /// Its number.
    pub id: Id,
    /// Relative to the show's folder.
    pub path: String,
    /// What it holds, as its reader said it.
    pub inspected: serde_json::Value,
    /// Chosen by a person; none where the guess holds.
    pub colour: Option<ColourSpace>,
    /// Whether it is there to be matched, and never rendered.
    pub reference: bool,
}

impl Store {
    /// Every medium of a show, by path.
    pub fn media(&self, show: Id) -> Result<Vec<MediaRecord>, StoreError> {
        let rows: Vec<(Id, String, String, Option<String>, bool)> = media::table
            .filter(media::show_id.eq(show).and(media::binned.eq(false)))
            .order(media::path)
            .select((media::id, media::path, media::inspected, media::colour, media::reference))
            .load(&mut self.connection()?)?;
        rows.into_iter()
            .map(|(id, path, inspected, colour, reference)| {
                let colour = colour.map(|colour| serde_json::from_str(&colour)).transpose()?;
                Ok(MediaRecord { id, path, inspected: serde_json::from_str(&inspected)?, colour, reference })
            })
            .collect()
    }

    /// Lists a medium, or what is now known of it. A chosen colour space stays.
    pub fn list_media(&self, show: Id, path: &str, inspected: &serde_json::Value) -> Result<(), StoreError> {
        let text = inspected.to_string();
        self.write(|connection| {
            diesel::insert_into(media::table)
                .values((media::show_id.eq(show), media::path.eq(path), media::inspected.eq(&text)))
                .on_conflict((media::show_id, media::path))
                .do_update()
                .set(media::inspected.eq(&text))
                .execute(connection)?;
            Ok(())
        })
    }

    /// Takes a medium out of the bin whose files a person has brought in once more; nothing where it is not in it.
    pub fn bring_back_media(&self, show: Id, path: &str) -> Result<(), StoreError> {
        self.write(|connection| {
            let is_it = media::show_id.eq(show).and(media::path.eq(path)).and(media::binned.eq(true));
            let found: Option<Id> =
                media::table.filter(is_it).select(media::id).first(connection).optional()?;
            let Some(id) = found else { return Ok(()) };
            diesel::update(media::table.find(id)).set(media::binned.eq(false)).execute(connection)?;
            let in_bin = bin::kind.eq(Binnable::Plate.word()).and(bin::item.eq(id));
            diesel::delete(bin::table.filter(in_bin)).execute(connection)?;
            Ok(())
        })
    }

    /// Chooses what a medium's colours mean.
    pub fn set_media_colour(&self, id: Id, colour: ColourSpace) -> Result<(), StoreError> {
        self.write(|connection| {
            diesel::update(media::table.find(id))
                .set(media::colour.eq(serde_json::to_string(&colour)?))
                .execute(connection)?;
            Ok(())
        })
    }

    /// Says whether a medium is there to be matched, and never rendered.
    pub fn set_reference(&self, id: Id, reference: bool) -> Result<(), StoreError> {
        self.write(|connection| {
            diesel::update(media::table.find(id)).set(media::reference.eq(reference)).execute(connection)?;
            Ok(())
        })
    }
}
