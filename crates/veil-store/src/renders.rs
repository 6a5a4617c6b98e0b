//! The render queue.

use std::collections::HashMap;

use diesel::prelude::*;
use serde::{Deserialize, Serialize};
use veil_core::setup::{Frames, Setup, StageId};

use crate::schema::{clips, renders, shots, shows};
use crate::{Id, Store, StoreError, now};

/// What is done with a render.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum RenderState {
    /// It waits.
    Queued,
    /// Frames are being made.
    Running,
    /// Every frame is there.
    Done,
    /// Some frames are not.
    Failed,
    /// A person stopped it.
    Cancelled,
}

impl RenderState {
    const fn word(self) -> &'static str {
        match self {
            Self::Queued => "queued",
            Self::Running => "running",
            Self::Done => "done",
            Self::Failed => "failed",
            Self::Cancelled => "cancelled",
        }
    }

    fn from_word(word: &str) -> Self {
        let all = [Self::Queued, Self::Running, Self::Done, Self::Cancelled];
        all.into_iter().find(|state| state.word() == word).unwrap_or(Self::Failed)
    }
}

/// A frame that was not made.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct FailedFrame {
    /// Which.
    pub frame: i32,
    /// Why.
    pub message: String,
}

/// How far a render is.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Progress {
    /// What is done with it.
    pub state: RenderState,
    /// How many frames are there.
    pub done: i32,
    /// How many of those were there already.
    pub kept: i32,
    /// Which are not, and why.
    pub failed: Vec<FailedFrame>,
    /// How many values were beyond what the files hold.
    pub beyond: i64,
}

/// A render to be made.
#[derive(Clone, Debug)]
pub struct NewRender<'a> {
    /// Of which shot.
    pub shot: Id,
    /// The setup as it is now; later edits do not change a render.
    pub setup: &'a Setup,
    /// Whose result.
    pub stage: StageId,
    /// Which frames.
    pub frames: Frames,
    /// One to how many.
    pub scale: u32,
    /// Folder of its show and shot, below the data folder's `renders/`. Each render has a folder of its own in it.
    pub folder: &'a str,
    /// What its own folder is called after its number.
    pub row: &'a str,
    /// `name.####.exr`, in that folder.
    pub file: &'a str,
    /// Which numbers a clip holds, in words of whoever makes it; none where there is no choice.
    pub numbers: Option<&'a str>,
}

/// A render.
#[derive(Clone, Debug, PartialEq)]
pub struct RenderRecord {
    /// Its number.
    pub id: Id,
    /// Its show.
    pub show: String,
    /// Its show's folder.
    pub folder: String,
    /// Its shot's code.
    pub code: String,
    /// What is rendered.
    pub setup: Setup,
    /// Whose result.
    pub stage: StageId,
    /// Which frames.
    pub frames: Frames,
    /// One to how many.
    pub scale: u32,
    /// Below the data folder's `renders/`.
    pub output: String,
    /// How far it is.
    pub state: RenderState,
    /// How many frames are there.
    pub done: i32,
    /// Which are not, and why.
    pub failed: Vec<FailedFrame>,
    /// How many of those that are there were there already when it was last made.
    pub kept: i32,
    /// How many values were beyond what the files hold.
    pub beyond: i64,
    /// Seconds since 1970.
    pub at: i64,
}

/// A render's columns beside its shot and show.
#[derive(diesel::Queryable)]
struct Row {
    id: Id,
    show: String,
    folder: String,
    code: String,
    setup: String,
    stage: i32,
    first: i32,
    last: i32,
    scale: i32,
    output: String,
    state: String,
    done: i32,
    failed: String,
    kept: i32,
    beyond: i64,
    at: i64,
}

fn record(row: Row) -> Result<RenderRecord, StoreError> {
    Ok(RenderRecord {
        id: row.id,
        show: row.show,
        folder: row.folder,
        code: row.code,
        setup: Setup::from_json(&row.setup)?,
        stage: StageId(row.stage as u32),
        frames: Frames { first: row.first, last: row.last },
        scale: row.scale as u32,
        output: row.output,
        state: RenderState::from_word(&row.state),
        done: row.done,
        failed: serde_json::from_str(&row.failed)?,
        kept: row.kept,
        beyond: row.beyond,
        at: row.at,
    })
}

macro_rules! known_renders {
    () => {
        renders::table
            .inner_join(shots::table.inner_join(shows::table))
            .filter(renders::binned.eq(false).and(shots::binned.eq(false)).and(shows::binned.eq(false)))
            .order(renders::id.desc())
            .select((
                renders::id,
                shows::name,
                shows::folder,
                shots::code,
                renders::setup,
                renders::stage,
                renders::first,
                renders::last,
                renders::scale,
                renders::output,
                renders::state,
                renders::done,
                renders::failed,
                renders::kept,
                renders::beyond,
                renders::at,
            ))
    };
}

impl Store {
    /// Every render, newest first.
    pub fn renders(&self) -> Result<Vec<RenderRecord>, StoreError> {
        let rows: Vec<Row> = known_renders!().load(&mut self.connection()?)?;
        rows.into_iter().map(record).collect()
    }

    /// Renders of a shot, newest first.
    pub fn renders_of(&self, shot: Id) -> Result<Vec<RenderRecord>, StoreError> {
        let rows: Vec<Row> =
            known_renders!().filter(renders::shot_id.eq(shot)).load(&mut self.connection()?)?;
        rows.into_iter().map(record).collect()
    }

    /// How far the newest render of each shot is, by shot.
    pub fn newest_renders(&self) -> Result<HashMap<Id, RenderState>, StoreError> {
        let of_all = renders::table
            .filter(renders::binned.eq(false))
            .order(renders::id.asc())
            .select((renders::shot_id, renders::state));
        let rows: Vec<(Id, String)> = of_all.load(&mut self.connection()?)?;
        Ok(rows.into_iter().map(|(shot, state)| (shot, RenderState::from_word(&state))).collect())
    }

    /// The render that is next: one that was under way, or waits, the oldest first.
    pub fn next_render(&self) -> Result<Option<RenderRecord>, StoreError> {
        let waits = [RenderState::Queued.word(), RenderState::Running.word()];
        let waiting = known_renders!().filter(renders::state.eq_any(waits));
        let rows: Vec<Row> = waiting.load(&mut self.connection()?)?;
        rows.into_iter().next_back().map(record).transpose()
    }

    /// A render.
    pub fn render(&self, id: Id) -> Result<RenderRecord, StoreError> {
        let row: Option<Row> =
            known_renders!().filter(renders::id.eq(id)).first(&mut self.connection()?).optional()?;
        row.map(record).transpose()?.ok_or_else(|| StoreError::Missing("such render".into()))
    }

    /// Queues a render.
    pub fn queue_render(&self, new: &NewRender<'_>) -> Result<Id, StoreError> {
        self.write(|connection| {
            let id: Id = diesel::insert_into(renders::table)
                .values((
                    renders::shot_id.eq(new.shot),
                    renders::setup.eq(new.setup.to_json()?),
                    renders::stage.eq(new.stage.0 as i32),
                    renders::first.eq(new.frames.first),
                    renders::last.eq(new.frames.last),
                    renders::scale.eq(new.scale as i32),
                    renders::output.eq(""),
                    renders::state.eq(RenderState::Queued.word()),
                    renders::done.eq(0),
                    renders::failed.eq("[]"),
                    renders::at.eq(now()),
                ))
                .returning(renders::id)
                .get_result(connection)?;
            // Its own number keeps renders apart that are queued at the same moment.
            let output = format!("{}/r{id:03}-{}/{}", new.folder, new.row, new.file);
            diesel::update(renders::table.find(id)).set(renders::output.eq(output)).execute(connection)?;
            if let Some(numbers) = new.numbers {
                let clip = (clips::render_id.eq(id), clips::numbers.eq(numbers));
                diesel::insert_into(clips::table).values(clip).execute(connection)?;
            }
            Ok(id)
        })
    }

    /// Which numbers a render's clip holds, as [`NewRender`] said.
    pub fn clip_numbers(&self, render: Id) -> Result<Option<String>, StoreError> {
        let known = clips::table.find(render).select(clips::numbers);
        Ok(known.first(&mut self.connection()?).optional()?)
    }

    /// Renders that ran when the program ended wait for their turn again.
    pub fn wait_again(&self) -> Result<(), StoreError> {
        self.write(|connection| {
            diesel::update(renders::table.filter(renders::state.eq(RenderState::Running.word())))
                .set(renders::state.eq(RenderState::Queued.word()))
                .execute(connection)?;
            Ok(())
        })
    }

    /// A render begins once more; how often that has come to nothing so far.
    pub fn begin_render(&self, id: Id) -> Result<i32, StoreError> {
        self.write(|connection| {
            let begun =
                (renders::state.eq(RenderState::Running.word()), renders::attempts.eq(renders::attempts + 1));
            let attempts: i32 = diesel::update(renders::table.find(id))
                .set(begun)
                .returning(renders::attempts)
                .get_result(connection)?;
            Ok(attempts - 1)
        })
    }

    /// How often a render has been begun without a frame coming of it.
    pub fn set_attempts(&self, id: Id, attempts: i32) -> Result<(), StoreError> {
        self.write(|connection| {
            diesel::update(renders::table.find(id))
                .set(renders::attempts.eq(attempts))
                .execute(connection)?;
            Ok(())
        })
    }

    /// Notes how far a render is.
    pub fn note_render(&self, id: Id, progress: &Progress) -> Result<(), StoreError> {
        let noted = (
            renders::state.eq(progress.state.word()),
            renders::done.eq(progress.done),
            renders::kept.eq(progress.kept),
            renders::beyond.eq(progress.beyond),
            renders::failed.eq(serde_json::to_string(&progress.failed)?),
        );
        self.write(|connection| {
            diesel::update(renders::table.find(id)).set(noted).execute(connection)?;
            Ok(())
        })
    }
}
