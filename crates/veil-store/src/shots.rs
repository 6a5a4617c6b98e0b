//! Shots, their setups, and the history of those.

use diesel::prelude::*;
use serde::Serialize;
use veil_core::setup::{Command, Edit, Setup};

use crate::folder::check_name;
use crate::schema::{history, shots, shows, touched, versions};
use crate::{Id, Store, StoreError, now};

/// A shot with its live setup.
#[derive(Clone, Debug, PartialEq)]
pub struct ShotRecord {
    /// Its number.
    pub id: Id,
    /// Its show's name.
    pub show: String,
    /// Its show's folder below `media/`.
    pub folder: String,
    /// Its show's number.
    pub show_id: Id,
    /// `SG010`.
    pub code: String,
    /// `kiln yard`.
    pub title: String,
    /// How often it was changed.
    pub revision: i64,
    /// Seconds since 1970.
    pub changed_at: i64,
    /// The live setup.
    pub setup: Setup,
}

/// A line on the shot wall.
#[derive(Clone, Debug, PartialEq)]
pub struct ShotSummary {
    /// The shot.
    pub shot: ShotRecord,
    /// Its newest version; 0 where there is none.
    pub version: i32,
}

/// A shot to be made.
#[derive(Clone, Debug)]
pub struct NewShot<'a> {
    /// Its show.
    pub show: &'a str,
    /// `SG010`.
    pub code: &'a str,
    /// `kiln yard`.
    pub title: &'a str,
    /// What it starts with.
    pub setup: &'a Setup,
}

/// A numbered snapshot.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct VersionRecord {
    /// From 1.
    pub number: i32,
    /// May be empty.
    pub name: String,
    /// Seconds since 1970.
    pub at: i64,
}

/// What undo or redo would do.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct NextStep {
    /// By name.
    pub label: String,
    /// The mark of the window that it came from; empty where nobody said.
    pub pane: String,
    /// How long ago it was made.
    pub seconds_ago: i64,
}

/// What came of an edit, an undo or a redo.
#[derive(Clone, Debug, PartialEq)]
pub struct Applied {
    /// The revision it led to.
    pub revision: i64,
    /// The setup now.
    pub setup: Setup,
    /// What was done.
    pub edit: Edit,
}

type Row = (Id, String, String, Id, String, String, String, i64, i64, String);

fn record(
    (id, show, folder, show_id, working, code, title, revision, changed_at, setup): Row,
) -> Result<ShotRecord, StoreError> {
    let setup = setup_in(&setup, &working)?;
    Ok(ShotRecord { id, show, folder, show_id, code, title, revision, changed_at, setup })
}

/// A setup, working in the colours of its show.
fn setup_in(setup: &str, working: &str) -> Result<Setup, StoreError> {
    let mut setup = Setup::from_json(setup)?;
    setup.picture.working = serde_json::from_str(working)?;
    Ok(setup)
}

macro_rules! shot_columns {
    () => {
        (
            shots::id,
            shows::name,
            shows::folder,
            shows::id,
            shows::working,
            shots::code,
            shots::title,
            shots::revision,
            shots::changed_at,
            shots::setup,
        )
    };
}

impl Store {
    /// Every shot of a show, by code.
    pub fn shots(&self, show: &str) -> Result<Vec<ShotSummary>, StoreError> {
        let show = self.show(show)?;
        let connection = &mut self.connection()?;
        let rows: Vec<Row> = shots::table
            .inner_join(shows::table)
            .filter(shots::show_id.eq(show.id).and(shots::binned.eq(false)))
            .order(shots::code)
            .select(shot_columns!())
            .load(connection)?;
        rows.into_iter()
            .map(|row| {
                let shot = record(row)?;
                let newest = versions::table
                    .filter(versions::shot_id.eq(shot.id).and(versions::binned.eq(false)))
                    .select(diesel::dsl::max(versions::number));
                let version: Option<i32> = newest.first(connection)?;
                Ok(ShotSummary { shot, version: version.unwrap_or(0) })
            })
            .collect()
    }

    /// A shot by show and code, letters of either case.
    pub fn shot(&self, show: &str, code: &str) -> Result<ShotRecord, StoreError> {
        let show = self.show(show)?;
        let row: Option<Row> = shots::table
            .inner_join(shows::table)
            .filter(shots::show_id.eq(show.id).and(shots::binned.eq(false)))
            .filter(shots::code.eq(code.to_uppercase()).or(shots::code.eq(code)))
            .select(shot_columns!())
            .first(&mut self.connection()?)
            .optional()?;
        row.map(record)
            .transpose()?
            .ok_or_else(|| StoreError::Missing(format!("shot `{}/{code}`", show.name)))
    }

    /// A shot by number.
    pub fn shot_by_id(&self, id: Id) -> Result<ShotRecord, StoreError> {
        let row: Option<Row> = shots::table
            .inner_join(shows::table)
            .filter(shots::id.eq(id))
            .select(shot_columns!())
            .first(&mut self.connection()?)
            .optional()?;
        row.map(record).transpose()?.ok_or_else(|| StoreError::Missing("such shot".into()))
    }

    /// Makes a shot.
    pub fn make_shot(&self, new: &NewShot<'_>) -> Result<ShotRecord, StoreError> {
        check_name(new.code)?;
        let show = self.show(new.show)?;
        let values = (
            shots::show_id.eq(show.id),
            shots::code.eq(new.code),
            shots::title.eq(new.title),
            shots::setup.eq(new.setup.to_json()?),
            shots::revision.eq(1),
            shots::changed_at.eq(now()),
        );
        let inserted = self.write(|connection| {
            Ok(diesel::insert_or_ignore_into(shots::table).values(values).execute(connection)?)
        })?;
        if inserted == 0 {
            return Err(StoreError::Taken(format!("the shot `{}`", new.code)));
        }
        self.shot(new.show, new.code)
    }

    /// Does a command on a shot, in one transaction: setup, revision and history, or nothing.
    ///
    /// `base` is the revision that the command was made on. When the shot has moved on, the command is done
    /// only if it touches nothing that has changed since.
    pub fn edit(&self, id: Id, base: i64, command: &Command) -> Result<Applied, StoreError> {
        self.edit_in("", id, base, command)
    }

    /// The same from a window, whose mark the history keeps.
    pub fn edit_in(&self, pane: &str, id: Id, base: i64, command: &Command) -> Result<Applied, StoreError> {
        self.write(|connection| {
            let (revision, setup) = live(connection, id)?;
            let (new, edit) = Edit::of(command, &setup)?;
            if edit.forward.is_empty() {
                return Ok(Applied { revision, setup, edit });
            }
            if let Some(label) = met_since(connection, id, base, &edit)? {
                return Err(StoreError::Collision(label));
            }
            diesel::delete(history::table.filter(history::shot_id.eq(id)).filter(history::undone.eq(true)))
                .execute(connection)?;
            diesel::insert_into(history::table)
                .values((
                    history::shot_id.eq(id),
                    history::revision.eq(revision + 1),
                    history::edit.eq(edit.to_json()?),
                    history::undone.eq(false),
                    history::at.eq(now()),
                    history::pane.eq(pane),
                ))
                .execute(connection)?;
            note_touched(connection, id, revision + 1, &edit)?;
            keep(connection, id, revision + 1, &new)?;
            Ok(Applied { revision: revision + 1, setup: new, edit })
        })
    }

    /// Takes the last edit back. Refused where that was done after the revision `base`, so by somebody who is not seen there.
    pub fn undo(&self, id: Id, base: i64) -> Result<Applied, StoreError> {
        self.step(id, base, Step::Undo)
    }

    /// Does the last undone edit again; refused as [`Self::undo`] is.
    pub fn redo(&self, id: Id, base: i64) -> Result<Applied, StoreError> {
        self.step(id, base, Step::Redo)
    }

    fn step(&self, id: Id, base: i64, step: Step) -> Result<Applied, StoreError> {
        self.write(|connection| {
            let (revision, setup) = live(connection, id)?;
            let columns = (history::id, history::edit, history::revision);
            let of_shot = history::table.filter(history::shot_id.eq(id)).select(columns);
            let found: Option<(Id, String, i64)> = match step {
                Step::Undo => {
                    of_shot.filter(history::undone.eq(false)).order(history::id.desc()).first(connection)
                }
                Step::Redo => {
                    of_shot.filter(history::undone.eq(true)).order(history::id.asc()).first(connection)
                }
            }
            .optional()?;
            let (entry, edit, done_at) = found.ok_or(StoreError::NothingTo(step.word()))?;
            let edit = Edit::from_json(&edit)?;
            if done_at > base {
                return Err(StoreError::Collision(edit.label));
            }
            let changes = match step {
                Step::Undo => &edit.backward,
                Step::Redo => &edit.forward,
            };
            let new = Edit::apply(changes, &setup)?;
            diesel::update(history::table.find(entry))
                .set((history::undone.eq(step == Step::Undo), history::revision.eq(revision + 1)))
                .execute(connection)?;
            note_touched(connection, id, revision + 1, &edit)?;
            keep(connection, id, revision + 1, &new)?;
            Ok(Applied { revision: revision + 1, setup: new, edit })
        })
    }

    /// What undo and redo would do.
    pub fn next_steps(&self, id: Id) -> Result<(Option<NextStep>, Option<NextStep>), StoreError> {
        type Row = (String, i64, String);
        let connection = &mut self.connection()?;
        let columns = (history::edit, history::at, history::pane);
        let of_shot = || history::table.filter(history::shot_id.eq(id)).select(columns);
        let undo: Option<Row> = of_shot()
            .filter(history::undone.eq(false))
            .order(history::id.desc())
            .first(connection)
            .optional()?;
        let redo: Option<Row> = of_shot()
            .filter(history::undone.eq(true))
            .order(history::id.asc())
            .first(connection)
            .optional()?;
        let step = |row: Option<Row>| {
            let of_row = |(edit, at, pane): Row| -> Result<NextStep, StoreError> {
                let label = Edit::from_json(&edit)?.label;
                Ok(NextStep { label, pane, seconds_ago: now() - at })
            };
            row.map(of_row).transpose()
        };
        Ok((step(undo)?, step(redo)?))
    }

    /// Keeps the live setup as the next version.
    pub fn keep_version(&self, id: Id, name: &str) -> Result<VersionRecord, StoreError> {
        self.write(|connection| {
            let (_, setup) = live(connection, id)?;
            let of_shot = versions::table.filter(versions::shot_id.eq(id));
            let newest: Option<i32> = of_shot.select(diesel::dsl::max(versions::number)).first(connection)?;
            let number = newest.unwrap_or(0) + 1;
            let at = now();
            diesel::insert_into(versions::table)
                .values((
                    versions::shot_id.eq(id),
                    versions::number.eq(number),
                    versions::name.eq(name),
                    versions::setup.eq(setup.to_json()?),
                    versions::at.eq(at),
                ))
                .execute(connection)?;
            Ok(VersionRecord { number, name: name.into(), at })
        })
    }

    /// Every version of a shot, newest first.
    pub fn versions(&self, id: Id) -> Result<Vec<VersionRecord>, StoreError> {
        let rows: Vec<(i32, String, i64)> = versions::table
            .filter(versions::shot_id.eq(id).and(versions::binned.eq(false)))
            .order(versions::number.desc())
            .select((versions::number, versions::name, versions::at))
            .load(&mut self.connection()?)?;
        Ok(rows.into_iter().map(|(number, name, at)| VersionRecord { number, name, at }).collect())
    }

    /// A version's number in its table.
    pub fn version_id(&self, id: Id, number: i32) -> Result<Id, StoreError> {
        let found = versions::table
            .filter(versions::shot_id.eq(id).and(versions::number.eq(number)).and(versions::binned.eq(false)))
            .select(versions::id)
            .first(&mut self.connection()?)
            .optional()?;
        found.ok_or_else(|| StoreError::Missing(format!("version {number}")))
    }

    /// The setup of a version.
    pub fn version(&self, id: Id, number: i32) -> Result<Setup, StoreError> {
        let setup: Option<String> = versions::table
            .filter(versions::shot_id.eq(id))
            .filter(versions::number.eq(number))
            .select(versions::setup)
            .first(&mut self.connection()?)
            .optional()?;
        let setup = setup.ok_or_else(|| StoreError::Missing(format!("version {number}")))?;
        Ok(Setup::from_json(&setup)?)
    }
}

#[derive(Clone, Copy, PartialEq)]
enum Step {
    Undo,
    Redo,
}

impl Step {
    const fn word(self) -> &'static str {
        match self {
            Self::Undo => "undo",
            Self::Redo => "redo",
        }
    }
}

fn live(connection: &mut SqliteConnection, id: Id) -> Result<(i64, Setup), StoreError> {
    let found: Option<(i64, String, String)> = shots::table
        .inner_join(shows::table)
        .filter(shots::id.eq(id))
        .select((shots::revision, shots::setup, shows::working))
        .first(connection)
        .optional()?;
    let (revision, setup, working) = found.ok_or_else(|| StoreError::Missing("such shot".into()))?;
    Ok((revision, setup_in(&setup, &working)?))
}

fn keep(connection: &mut SqliteConnection, id: Id, revision: i64, setup: &Setup) -> Result<(), StoreError> {
    diesel::update(shots::table.find(id))
        .set((shots::setup.eq(setup.to_json()?), shots::revision.eq(revision), shots::changed_at.eq(now())))
        .execute(connection)?;
    Ok(())
}

/// Notes what a step has changed.
fn note_touched(
    connection: &mut SqliteConnection,
    id: Id,
    revision: i64,
    edit: &Edit,
) -> Result<(), StoreError> {
    for part in edit.parts() {
        diesel::insert_into(touched::table)
            .values((
                touched::shot_id.eq(id),
                touched::revision.eq(revision),
                touched::part.eq(part.to_string()),
                touched::label.eq(&edit.label),
            ))
            .execute(connection)?;
    }
    Ok(())
}

/// The last step after a revision that changed a part which an edit would change, too.
fn met_since(
    connection: &mut SqliteConnection,
    id: Id,
    base: i64,
    edit: &Edit,
) -> Result<Option<String>, StoreError> {
    let parts: Vec<String> = edit.parts().iter().map(ToString::to_string).collect();
    // Databases take so many values at once and no more.
    for parts in parts.chunks(500) {
        let met = touched::table
            .filter(touched::shot_id.eq(id).and(touched::part.eq_any(parts)).and(touched::revision.gt(base)))
            .order(touched::revision.desc())
            .select(touched::label)
            .first(connection)
            .optional()?;
        if met.is_some() {
            return Ok(met);
        }
    }
    Ok(None)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::DataFolder;
    use veil_core::setup::{Frames, NewRow, PictureFormat, Setting, StageId};

    fn store() -> (tempfile::TempDir, Store, ShotRecord) {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(DataFolder::at(folder.path()).unwrap()).unwrap();
        store.make_show(&crate::NewShow::usual("Saltglass")).unwrap();
        let picture = PictureFormat {
            width: 64,
            height: 36,
            fps: 24.0,
            aspect: 1.0,
            frames: Frames { first: 1001, last: 1010 },
            working: Default::default(),
        };
        let setup = Setup::empty("kiln yard", picture);
        let new = NewShot { show: "Saltglass", code: "SG010", title: "kiln yard", setup: &setup };
        let shot = store.make_shot(&new).unwrap();
        (folder, store, shot)
    }

    fn add(kind: &str) -> Command {
        Command::Add { kind: kind.into(), place: NewRow::default() }
    }

    #[test]
    fn undo_and_redo_survive_a_restart() {
        let (folder, store, shot) = store();
        let one = store.edit(shot.id, 1, &add("noise")).unwrap();
        let two = store.edit(shot.id, 2, &add("ellipse")).unwrap();
        drop(store);
        let store = Store::open(DataFolder::at(folder.path()).unwrap()).unwrap();
        assert!(
            matches!(store.undo(shot.id, 1), Err(StoreError::Collision(_))),
            "another window did it since"
        );
        assert_eq!(store.undo(shot.id, 3).unwrap().setup, one.setup);
        assert_eq!(store.undo(shot.id, 4).unwrap().setup, shot.setup);
        assert!(matches!(store.undo(shot.id, 5), Err(StoreError::NothingTo("undo"))));
        assert!(
            matches!(store.redo(shot.id, 3), Err(StoreError::Collision(_))),
            "it was undone elsewhere since"
        );
        store.redo(shot.id, 5).unwrap();
        assert_eq!(store.redo(shot.id, 6).unwrap().setup, two.setup);
        assert_eq!(store.shot("saltglass", "sg010").unwrap().setup, two.setup);
    }

    #[test]
    fn an_edit_on_an_older_revision_is_done_only_where_nothing_it_touches_has_changed() {
        let (_folder, store, shot) = store();
        store.edit(shot.id, 1, &add("noise")).unwrap();
        let both = store.edit(shot.id, 2, &add("ellipse")).unwrap();
        let id = |name: &str| both.setup.stages.iter().find(|stage| stage.name == name).unwrap().id;
        let set = |stage: StageId, control: &str, value: f64| Command::Set {
            stage,
            control: control.into(),
            setting: Some(Setting::number(value)),
        };
        store.edit(shot.id, 3, &set(id("Noise"), "gain", 0.4)).unwrap();
        store.edit(shot.id, 3, &set(id("Ellipse"), "softness", 4.0)).unwrap();
        let refused = store.edit(shot.id, 3, &set(id("Noise"), "gain", 0.7));
        assert!(matches!(refused, Err(StoreError::Collision(label)) if label == "gain of Noise"));
    }

    #[test]
    fn a_still_keeps_its_setup_and_undo_knows_the_window_of_the_step() {
        let (_folder, store, shot) = store();
        let added = store.edit_in("left", shot.id, 1, &add("noise")).unwrap();
        let row = added.edit.row.unwrap();
        let now = ShotRecord { setup: added.setup.clone(), revision: added.revision, ..shot.clone() };
        assert_eq!(store.keep_still(&now, row, 1004.0).unwrap().number, 1);
        store.edit_in("right", shot.id, 2, &Command::Remove { stage: row }).unwrap();
        let (still, setup) = store.still(shot.id, 1).unwrap();
        assert_eq!((still.stage, still.frame, setup), (row.0, 1004.0, added.setup));
        assert!(store.keep_still(&shot, row, 1004.0).is_err(), "a row that is not there has no picture");
        let panes = |(undo, redo): (Option<NextStep>, Option<NextStep>)| {
            [undo, redo].map(|step| step.map(|s| s.pane))
        };
        assert_eq!(panes(store.next_steps(shot.id).unwrap()), [Some("right".into()), None]);
        store.undo(shot.id, 3).unwrap();
        assert_eq!(panes(store.next_steps(shot.id).unwrap()), [Some("left".into()), Some("right".into())]);
        store.drop_still(shot.id, 1).unwrap();
        assert_eq!(store.stills(shot.id).unwrap(), []);
    }

    #[test]
    fn a_version_keeps_what_the_setup_was() {
        let (_folder, store, shot) = store();
        assert_eq!(store.keep_version(shot.id, "empty").unwrap().number, 1);
        store.edit(shot.id, 1, &add("noise")).unwrap();
        assert_eq!(store.keep_version(shot.id, "").unwrap().number, 2);
        assert_eq!(store.version(shot.id, 1).unwrap(), shot.setup);
        assert!(store.version(shot.id, 9).is_err());
    }
}
