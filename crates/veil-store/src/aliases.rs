//! What shows have been taught of their layers' names.

use diesel::prelude::*;
use veil_core::plates::Role;

use crate::schema::aliases;
use crate::{Id, Store, StoreError};

impl Store {
    /// Each taught layer's name of a show with what it is for.
    pub fn aliases(&self, show: Id) -> Result<Vec<(String, Role)>, StoreError> {
        let rows: Vec<(String, String)> = aliases::table
            .filter(aliases::show_id.eq(show))
            .order(aliases::layer)
            .select((aliases::layer, aliases::role))
            .load(&mut self.connection()?)?;
        rows.into_iter().map(|(layer, role)| Ok((layer, serde_json::from_str(&role)?))).collect()
    }

    /// Teaches a show what a layer is for, or forgets it again.
    pub fn teach(&self, show: Id, layer: &str, role: Option<Role>) -> Result<(), StoreError> {
        self.write(|connection| {
            let Some(role) = role else {
                let taught =
                    aliases::table.filter(aliases::show_id.eq(show)).filter(aliases::layer.eq(layer));
                diesel::delete(taught).execute(connection)?;
                return Ok(());
            };
            let role = serde_json::to_string(&role)?;
            diesel::insert_into(aliases::table)
                .values((aliases::show_id.eq(show), aliases::layer.eq(layer), aliases::role.eq(&role)))
                .on_conflict((aliases::show_id, aliases::layer))
                .do_update()
                .set(aliases::role.eq(&role))
                .execute(connection)?;
            Ok(())
        })
    }
}
