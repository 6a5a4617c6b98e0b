//! Shows.

use diesel::prelude::*;

use crate::folder::check_name;
use crate::schema::shows;
use crate::{Id, Store, StoreError};

/// A show.
#[derive(Clone, Debug, PartialEq, Eq, Queryable, Selectable)]
#[diesel(table_name = shows)]
pub struct ShowRecord {
    /// Its number.
    pub id: Id,
    /// As shown.
    pub name: String,
    /// Its folder below `media/`.
    pub folder: String,
}

impl Store {
    /// Every show, by name.
    pub fn shows(&self) -> Result<Vec<ShowRecord>, StoreError> {
        Ok(shows::table.order(shows::name).select(ShowRecord::as_select()).load(&mut self.connection()?)?)
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
}
