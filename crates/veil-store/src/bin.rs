//! What was taken away, and waits to be put back or emptied.
//!
//! A thing in the bin keeps its row and its files; no list gives it. The names of shows and shots are free meanwhile:
//! those in the bin stand under names that nobody can give.

use diesel::prelude::*;
use serde::{Deserialize, Serialize};

use crate::schema::{aliases, bin, history, media, renders, shots, shows, stills, tools, touched, versions};
use crate::{Id, Store, StoreError, now};

/// What can be taken away.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Binnable {
    /// With its shots, plates and renders.
    Show,
    /// With its versions and renders.
    Shot,
    /// A sequence, clip, still or table; its files stay until the bin is emptied.
    Plate,
    /// With its files.
    Render,
    /// One number of a tool.
    Tool,
    /// One of a shot.
    Version,
}

impl Binnable {
    const ALL: [Self; 6] = [Self::Show, Self::Shot, Self::Plate, Self::Render, Self::Tool, Self::Version];

    /// As shown and stored.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Show => "show",
            Self::Shot => "shot",
            Self::Plate => "plate",
            Self::Render => "render",
            Self::Tool => "tool",
            Self::Version => "version",
        }
    }
}

/// A thing in the bin.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct BinRecord {
    /// Its number in the bin.
    pub id: Id,
    /// What it is.
    pub kind: Binnable,
    /// Its number among its kind.
    pub item: Id,
    /// As it was called.
    pub name: String,
    /// What it was in; empty for a show or a tool.
    pub place: String,
    /// Seconds since 1970.
    pub at: i64,
}

/// Files that belong to what was in the bin, and to nothing any more. Each is below the data folder.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Leftovers {
    /// Folder of a show's media, and pattern of a plate in it.
    pub plates: Vec<(String, String)>,
    /// Outputs of renders, below `renders/`.
    pub renders: Vec<String>,
    /// Folders of shows, below `media/` and `renders/`.
    pub shows: Vec<String>,
}

/// Sets the column that keeps a thing out of its lists.
macro_rules! set_binned {
    ($connection:expr, $kind:expr, $item:expr, $binned:expr) => {
        match $kind {
            Binnable::Show => diesel::update(shows::table.find($item))
                .set(shows::binned.eq($binned))
                .execute($connection)?,
            Binnable::Shot => diesel::update(shots::table.find($item))
                .set(shots::binned.eq($binned))
                .execute($connection)?,
            Binnable::Plate => diesel::update(media::table.find($item))
                .set(media::binned.eq($binned))
                .execute($connection)?,
            Binnable::Render => diesel::update(renders::table.find($item))
                .set(renders::binned.eq($binned))
                .execute($connection)?,
            Binnable::Tool => diesel::update(tools::table.find($item))
                .set(tools::binned.eq($binned))
                .execute($connection)?,
            Binnable::Version => diesel::update(versions::table.find($item))
                .set(versions::binned.eq($binned))
                .execute($connection)?,
        }
    };
}

impl Store {
    /// Everything in the bin, newest first.
    pub fn bin(&self) -> Result<Vec<BinRecord>, StoreError> {
        let mut connection = self.connection()?;
        binned(&mut connection)
    }

    /// Takes a thing away. What is in the bin already is no longer there to be taken.
    pub fn put_in_bin(&self, kind: Binnable, item: Id) -> Result<BinRecord, StoreError> {
        self.write(|connection| {
            let (name, place) = called(connection, kind, item)?;
            let id: Id = diesel::insert_into(bin::table)
                .values((
                    bin::kind.eq(kind.word()),
                    bin::item.eq(item),
                    bin::name.eq(&name),
                    bin::place.eq(&place),
                    bin::at.eq(now()),
                ))
                .returning(bin::id)
                .get_result(connection)?;
            set_binned!(connection, kind, item, true);
            rename(connection, kind, item, &format!("(bin {id})"))?;
            find(connection, id)
        })
    }

    /// Puts a thing back, under its own name or, where that has been given anew, under one like it.
    pub fn put_back(&self, id: Id) -> Result<BinRecord, StoreError> {
        self.write(|connection| {
            let record = find(connection, id)?;
            let name = free_name(connection, &record)?;
            rename(connection, record.kind, record.item, &name)?;
            set_binned!(connection, record.kind, record.item, false);
            diesel::delete(bin::table.find(id)).execute(connection)?;
            Ok(BinRecord { name, ..record })
        })
    }

    /// Forgets everything in the bin. The files that are left over are the caller's to remove.
    pub fn empty_bin(&self) -> Result<Leftovers, StoreError> {
        self.write(|connection| {
            let mut left = Leftovers::default();
            for record in binned(connection)? {
                forget(connection, record.kind, record.item, &mut left)?;
            }
            diesel::delete(bin::table).execute(connection)?;
            Ok(left)
        })
    }
}

type Row = (Id, String, Id, String, String, i64);

fn record((id, kind, item, name, place, at): Row) -> Result<BinRecord, StoreError> {
    let known = Binnable::ALL.into_iter().find(|known| known.word() == kind);
    let kind = known.ok_or_else(|| StoreError::Missing(format!("kind `{kind}`")))?;
    Ok(BinRecord { id, kind, item, name, place, at })
}

fn binned(connection: &mut SqliteConnection) -> Result<Vec<BinRecord>, StoreError> {
    let rows: Vec<Row> = bin::table.order(bin::id.desc()).load(connection)?;
    rows.into_iter().map(record).collect()
}

fn find(connection: &mut SqliteConnection, id: Id) -> Result<BinRecord, StoreError> {
    let row: Option<Row> = bin::table.find(id).first(connection).optional()?;
    row.map(record).transpose()?.ok_or_else(|| StoreError::Missing("such thing in the bin".into()))
}

/// A thing's name, and what it is in.
fn called(
    connection: &mut SqliteConnection,
    kind: Binnable,
    item: Id,
) -> Result<(String, String), StoreError> {
    let missing = || StoreError::Missing(format!("such {}", kind.word()));
    let found: Option<(String, String)> = match kind {
        Binnable::Show => {
            let name: Option<String> = shows::table
                .find(item)
                .filter(shows::binned.eq(false))
                .select(shows::name)
                .first(connection)
                .optional()?;
            name.map(|name| (name, String::new()))
        }
        Binnable::Shot => shots::table
            .inner_join(shows::table)
            .filter(shots::id.eq(item).and(shots::binned.eq(false)))
            .select((shots::code, shows::name))
            .first(connection)
            .optional()?,
        Binnable::Plate => media::table
            .inner_join(shows::table)
            .filter(media::id.eq(item).and(media::binned.eq(false)))
            .select((media::path, shows::name))
            .first(connection)
            .optional()?,
        Binnable::Render => renders::table
            .inner_join(shots::table.inner_join(shows::table))
            .filter(renders::id.eq(item).and(renders::binned.eq(false)))
            .select((renders::output, shows::name))
            .first(connection)
            .optional()?,
        Binnable::Tool => {
            let found: Option<(String, i32, bool)> = tools::table
                .find(item)
                .filter(tools::binned.eq(false))
                .select((tools::name, tools::number, tools::shipped))
                .first(connection)
                .optional()?;
            if let Some((name, number, true)) = found {
                return Err(StoreError::Shipped(format!("{name} {number}")));
            }
            found.map(|(name, number, _)| (format!("{name} {number}"), String::new()))
        }
        Binnable::Version => {
            let found: Option<(i32, String, String, String)> = versions::table
                .inner_join(shots::table.inner_join(shows::table))
                .filter(versions::id.eq(item).and(versions::binned.eq(false)))
                .select((versions::number, versions::name, shots::code, shows::name))
                .first(connection)
                .optional()?;
            found.map(|(number, name, code, show)| {
                (format!("v{number:03} {name}").trim_end().to_owned(), format!("{show} / {code}"))
            })
        }
    };
    found.ok_or_else(missing)
}

/// Gives a show or a shot another name; other things have theirs by what they are.
fn rename(connection: &mut SqliteConnection, kind: Binnable, item: Id, name: &str) -> Result<(), StoreError> {
    match kind {
        Binnable::Show => {
            diesel::update(shows::table.find(item)).set(shows::name.eq(name)).execute(connection)?;
        }
        Binnable::Shot => {
            diesel::update(shots::table.find(item)).set(shots::code.eq(name)).execute(connection)?;
        }
        Binnable::Plate | Binnable::Render | Binnable::Tool | Binnable::Version => {}
    }
    Ok(())
}

/// The name of a thing, with a number after it where that has been given anew.
fn free_name(connection: &mut SqliteConnection, record: &BinRecord) -> Result<String, StoreError> {
    let taken: Vec<String> = match record.kind {
        Binnable::Show => shows::table.select(shows::name).load(connection)?,
        Binnable::Shot => {
            let show: Id = shots::table.find(record.item).select(shots::show_id).first(connection)?;
            shots::table.filter(shots::show_id.eq(show)).select(shots::code).load(connection)?
        }
        Binnable::Plate | Binnable::Render | Binnable::Tool | Binnable::Version => Vec::new(),
    };
    let is_free = |name: &String| !taken.iter().any(|taken| taken.eq_ignore_ascii_case(name));
    let own = std::iter::once(record.name.clone());
    let mut names = own.chain((2..).map(|number| format!("{} {number}", record.name)));
    Ok(names.find(is_free).unwrap_or_else(|| record.name.clone()))
}

/// Takes a thing's rows out of every table, and notes the files that it leaves.
fn forget(
    connection: &mut SqliteConnection,
    kind: Binnable,
    item: Id,
    left: &mut Leftovers,
) -> Result<(), StoreError> {
    match kind {
        Binnable::Show => {
            let found: Option<String> =
                shows::table.find(item).select(shows::folder).first(connection).optional()?;
            let of_show: Vec<Id> =
                shots::table.filter(shots::show_id.eq(item)).select(shots::id).load(connection)?;
            for shot in of_show {
                forget(connection, Binnable::Shot, shot, left)?;
            }
            let plates: Vec<Id> =
                media::table.filter(media::show_id.eq(item)).select(media::id).load(connection)?;
            for plate in plates {
                forget(connection, Binnable::Plate, plate, left)?;
            }
            diesel::delete(aliases::table.filter(aliases::show_id.eq(item))).execute(connection)?;
            diesel::delete(shows::table.find(item)).execute(connection)?;
            left.shows.extend(found);
        }
        Binnable::Shot => {
            let of_shot: Vec<Id> =
                renders::table.filter(renders::shot_id.eq(item)).select(renders::id).load(connection)?;
            for render in of_shot {
                forget(connection, Binnable::Render, render, left)?;
            }
            diesel::delete(stills::table.filter(stills::shot_id.eq(item))).execute(connection)?;
            diesel::delete(versions::table.filter(versions::shot_id.eq(item))).execute(connection)?;
            diesel::delete(history::table.filter(history::shot_id.eq(item))).execute(connection)?;
            diesel::delete(touched::table.filter(touched::shot_id.eq(item))).execute(connection)?;
            diesel::delete(shots::table.find(item)).execute(connection)?;
        }
        Binnable::Plate => {
            let found: Option<(String, String)> = media::table
                .inner_join(shows::table)
                .filter(media::id.eq(item))
                .select((shows::folder, media::path))
                .first(connection)
                .optional()?;
            diesel::delete(media::table.find(item)).execute(connection)?;
            left.plates.extend(found);
        }
        Binnable::Render => {
            let output: Option<String> =
                renders::table.find(item).select(renders::output).first(connection).optional()?;
            diesel::delete(renders::table.find(item)).execute(connection)?;
            left.renders.extend(output);
        }
        Binnable::Tool => {
            diesel::delete(tools::table.find(item)).execute(connection)?;
        }
        Binnable::Version => {
            diesel::delete(versions::table.find(item)).execute(connection)?;
        }
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{DataFolder, NewShot, NewShow};
    use veil_core::setup::{Frames, PictureFormat, Setup};

    fn store() -> (tempfile::TempDir, Store) {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(DataFolder::at(folder.path()).unwrap()).unwrap();
        (folder, store)
    }

    fn shot(store: &Store, code: &str) -> Id {
        let picture = PictureFormat {
            width: 64,
            height: 36,
            fps: 24.0,
            aspect: 1.0,
            frames: Frames { first: 1001, last: 1010 },
            working: Default::default(),
        };
        let setup = Setup::empty("kiln yard", picture);
        store.make_shot(&NewShot { show: "Saltglass", code, title: "", setup: &setup }).unwrap().id
    }

    #[test]
    fn what_is_in_the_bin_is_in_no_list_and_comes_back_whole_under_a_free_name() {
        let (_folder, store) = store();
        let show = store.make_show(&NewShow::usual("Saltglass")).unwrap();
        let first = shot(&store, "SG010");
        store.keep_version(first, "early").unwrap();
        store.list_media(show.id, "a.####.exr", &serde_json::json!({})).unwrap();
        let plate = store.media(show.id).unwrap()[0].id;

        let binned = store.put_in_bin(Binnable::Shot, first).unwrap();
        store.put_in_bin(Binnable::Plate, plate).unwrap();
        assert!(store.shots("Saltglass").unwrap().is_empty() && store.media(show.id).unwrap().is_empty());
        assert!(store.put_in_bin(Binnable::Shot, first).is_err(), "it is there already");
        // Found in its folder once more, a plate stays where a person put it.
        store.list_media(show.id, "a.####.exr", &serde_json::json!({})).unwrap();
        assert!(store.media(show.id).unwrap().is_empty());
        // Brought in once more, it is there again.
        store.bring_back_media(show.id, "a.####.exr").unwrap();
        assert_eq!(store.media(show.id).unwrap().len(), 1);
        assert_eq!(store.bin().unwrap().len(), 1, "the shot is still in it");

        shot(&store, "SG010");
        let back = store.put_back(binned.id).unwrap();
        assert_eq!(back.name, "SG010 2");
        assert_eq!(store.shot("Saltglass", "SG010 2").unwrap().id, first);
        assert_eq!(store.versions(first).unwrap().len(), 1);
    }

    #[test]
    fn an_emptied_bin_leaves_nothing_of_a_show_and_names_its_files() {
        let (_folder, store) = store();
        let show = store.make_show(&NewShow::usual("Saltglass")).unwrap();
        shot(&store, "SG010");
        store.list_media(show.id, "a.####.exr", &serde_json::json!({})).unwrap();
        store.teach(show.id, "Z", Some(veil_core::plates::Role::Depth)).unwrap();
        store.put_in_bin(Binnable::Show, show.id).unwrap();
        assert!(store.shows().unwrap().is_empty());
        let left = store.empty_bin().unwrap();
        assert_eq!(left.shows, ["saltglass"]);
        assert_eq!(left.plates, [("saltglass".to_owned(), "a.####.exr".to_owned())]);
        assert!(store.bin().unwrap().is_empty());
        // Its name and its folder are free again.
        assert_eq!(store.make_show(&NewShow::usual("Saltglass")).unwrap().folder, "saltglass");
    }
}
