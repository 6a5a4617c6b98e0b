//! Shows.

use diesel::prelude::*;
use veil_core::setup::Working;

use crate::folder::check_name;
use crate::schema::{shots, shows};
use crate::{Id, Store, StoreError};

/// A show.
#[derive(Clone, Debug, PartialEq)]
pub struct ShowRecord {
    /// Its number.
    pub id: Id,
    /// As shown.
    pub name: String,
    /// Its folder below `media/`.
    pub folder: String,
    /// The colours that all of its shots work in.
    pub working: Working,
    /// Frames a second that new shots start with.
    pub fps: f64,
    /// Width and height that new shots start with, in pixels.
    pub size: [u32; 2],
}

/// A show to be made.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct NewShow<'a> {
    /// As shown.
    pub name: &'a str,
    /// The colours that its shots work in.
    pub working: Working,
    /// Frames a second that new shots start with; 1 to 240.
    pub fps: f64,
    /// Width and height that new shots start with, 1 to 16384 pixels each.
    pub size: [u32; 2],
}

impl<'a> NewShow<'a> {
    /// What most shows are.
    pub fn usual(name: &'a str) -> Self {
        Self { name, working: Working::default(), fps: 24.0, size: [1920, 1080] }
    }

    fn check(&self) -> Result<(), StoreError> {
        check_name(self.name)?;
        if !(1.0..=240.0).contains(&self.fps) {
            return Err(StoreError::Value(format!("{} is no frame rate; give 1 to 240", self.fps)));
        }
        if self.size.iter().any(|side| !(1..=16384).contains(side)) {
            let [width, height] = self.size;
            return Err(StoreError::Value(format!(
                "{width}x{height} is no size of a picture; give 1 to 16384 pixels each way"
            )));
        }
        Ok(())
    }
}

impl Store {
    /// Every show, by name.
    pub fn shows(&self) -> Result<Vec<ShowRecord>, StoreError> {
        type Row = (Id, String, String, String, f64, i32, i32);
        let rows: Vec<Row> = shows::table
            .filter(shows::binned.eq(false))
            .order(shows::name)
            .select((
                shows::id,
                shows::name,
                shows::folder,
                shows::working,
                shows::fps,
                shows::width,
                shows::height,
            ))
            .load(&mut self.connection()?)?;
        rows.into_iter()
            .map(|(id, name, folder, working, fps, width, height)| {
                let working = serde_json::from_str(&working)?;
                Ok(ShowRecord { id, name, folder, working, fps, size: [width as u32, height as u32] })
            })
            .collect()
    }

    /// A show by name, letters of either case.
    pub fn show(&self, name: &str) -> Result<ShowRecord, StoreError> {
        let found = self.shows()?.into_iter().find(|show| show.name.eq_ignore_ascii_case(name));
        found.ok_or_else(|| StoreError::Missing(format!("show `{name}`")))
    }

    /// Makes a show with its folder.
    pub fn make_show(&self, new: &NewShow<'_>) -> Result<ShowRecord, StoreError> {
        new.check()?;
        self.write(|connection| {
            refuse_taken(connection, new.name)?;
            let folders: Vec<String> = shows::table.select(shows::folder).load(connection)?;
            let plain = new.name.to_lowercase().replace(' ', "-");
            let numbered = (2..).map(|number| format!("{plain}-{number}"));
            let free = std::iter::once(plain.clone()).chain(numbered).find(|name| !folders.contains(name));
            let folder = free.unwrap_or(plain);
            std::fs::create_dir_all(self.folder().show(&folder))?;
            diesel::insert_into(shows::table)
                .values((
                    shows::name.eq(new.name),
                    shows::folder.eq(&folder),
                    shows::working.eq(serde_json::to_string(&new.working)?),
                    shows::fps.eq(new.fps),
                    shows::width.eq(new.size[0] as i32),
                    shows::height.eq(new.size[1] as i32),
                ))
                .execute(connection)?;
            Ok::<_, StoreError>(())
        })?;
        self.show(new.name)
    }

    /// Gives a show another name; its folder stays.
    pub fn rename_show(&self, show: Id, name: &str) -> Result<ShowRecord, StoreError> {
        check_name(name)?;
        self.write(|connection| {
            let own: String = shows::table.find(show).select(shows::name).first(connection)?;
            if !own.eq_ignore_ascii_case(name) {
                refuse_taken(connection, name)?;
            }
            diesel::update(shows::table.find(show)).set(shows::name.eq(name)).execute(connection)?;
            Ok::<_, StoreError>(())
        })?;
        self.show(name)
    }

    /// Chooses the colours that all shots of a show work in.
    pub fn set_working(&self, show: Id, working: Working) -> Result<(), StoreError> {
        self.write(|connection| {
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

fn refuse_taken(connection: &mut SqliteConnection, name: &str) -> Result<(), StoreError> {
    let names: Vec<String> = shows::table.select(shows::name).load(connection)?;
    match names.iter().find(|known| known.eq_ignore_ascii_case(name)) {
        Some(known) => Err(StoreError::Taken(format!("the show `{known}`"))),
        None => Ok(()),
    }
}
