//! Shows.

use diesel::prelude::*;
use veil_core::setup::Working;

use crate::folder::check_name;
use crate::schema::{shots, shows};
use crate::{Id, Store, StoreError};

/// A show.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ShowRecord {
    /// Its number.
    pub id: Id,
    /// As shown.
    pub name: String,
    /// Its folder below `media/`.
    pub folder: String,
    /// The colours that all of its shots work in.
    pub working: Working,
}

impl Store {
    /// Every show, by name.
    pub fn shows(&self) -> Result<Vec<ShowRecord>, StoreError> {
        let rows: Vec<(Id, String, String, String)> = shows::table
            .order(shows::name)
            .select((shows::id, shows::name, shows::folder, shows::working))
            .load(&mut self.connection()?)?;
        rows.into_iter()
            .map(|(id, name, folder, working)| {
                Ok(ShowRecord { id, name, folder, working: serde_json::from_str(&working)? })
            })
            .collect()
    }

    /// A show by name, letters of either case.
    pub fn show(&self, name: &str) -> Result<ShowRecord, StoreError> {
        let found = self.shows()?.into_iter().find(|show| show.name.eq_ignore_ascii_case(name));
        found.ok_or_else(|| StoreError::Missing(format!("show `{name}`")))
    }

    /// The show of this name, made with its folder where it is missing.
    pub fn make_show(&self, name: &str) -> Result<ShowRecord, StoreError> {
        check_name(name)?;
        let folder = name.to_lowercase().replace(' ', "-");
        std::fs::create_dir_all(self.folder().show(&folder))?;
        diesel::insert_or_ignore_into(shows::table)
            .values((shows::name.eq(name), shows::folder.eq(&folder)))
            .execute(&mut self.connection()?)?;
        self.show(name)
    }

    /// Chooses the colours that all shots of a show work in.
    pub fn set_working(&self, show: Id, working: Working) -> Result<(), StoreError> {
        self.connection()?.immediate_transaction(|connection| {
            diesel::update(shows::table.find(show))
                .set(shows::working.eq(serde_json::to_string(&working)?))
                .execute(connection)?;
            // So that open windows see that they are behind.
            diesel::update(shots::table.filter(shots::show_id.eq(show)))
                .set(shots::revision.eq(shots::revision + 1))
                .execute(connection)?;
            Ok(())
        })
    }
}
