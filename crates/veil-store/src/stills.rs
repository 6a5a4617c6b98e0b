//! Pictures that were kept to be looked back at.

use diesel::prelude::*;
use serde::Serialize;
use veil_core::setup::{Setup, StageId};

use crate::schema::stills;
use crate::{Id, ShotRecord, Store, StoreError, now};

/// A kept still.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct StillRecord {
    /// From 1, within its shot.
    pub number: i32,
    /// The row's name and the frame, or what a person calls it.
    pub name: String,
    /// The revision of the setup.
    pub revision: i64,
    /// Whose picture.
    pub stage: u32,
    /// At which frame.
    pub frame: f64,
    /// Seconds since 1970.
    pub at: i64,
}

type Row = (i32, String, i64, i32, f64, i64);

impl Store {
    /// Keeps a row's picture at a frame, as the setup is now.
    pub fn keep_still(
        &self,
        shot: &ShotRecord,
        stage: StageId,
        frame: f64,
    ) -> Result<StillRecord, StoreError> {
        let entry = shot.setup.stage(stage).ok_or_else(|| StoreError::Missing("such row".into()))?;
        let name = format!("{} at {frame}", entry.name);
        self.write(|connection| {
            let of_shot = stills::table.filter(stills::shot_id.eq(shot.id));
            let newest: Option<i32> = of_shot.select(diesel::dsl::max(stills::number)).first(connection)?;
            let (number, at) = (newest.unwrap_or(0) + 1, now());
            diesel::insert_into(stills::table)
                .values((
                    stills::shot_id.eq(shot.id),
                    stills::number.eq(number),
                    stills::name.eq(&name),
                    stills::revision.eq(shot.revision),
                    stills::stage.eq(stage.0 as i32),
                    stills::frame.eq(frame),
                    stills::setup.eq(shot.setup.to_json()?),
                    stills::at.eq(at),
                ))
                .execute(connection)?;
            Ok(StillRecord { number, name, revision: shot.revision, stage: stage.0, frame, at })
        })
    }

    /// Every kept still of a shot, newest first.
    pub fn stills(&self, shot: Id) -> Result<Vec<StillRecord>, StoreError> {
        let rows: Vec<Row> = stills::table
            .filter(stills::shot_id.eq(shot))
            .order(stills::number.desc())
            .select((
                stills::number,
                stills::name,
                stills::revision,
                stills::stage,
                stills::frame,
                stills::at,
            ))
            .load(&mut self.connection()?)?;
        Ok(rows.into_iter().map(record).collect())
    }

    /// A kept still with the setup that it is of.
    pub fn still(&self, shot: Id, number: i32) -> Result<(StillRecord, Setup), StoreError> {
        let of_shot = stills::table.filter(stills::shot_id.eq(shot)).filter(stills::number.eq(number));
        let columns = (
            (stills::number, stills::name, stills::revision, stills::stage, stills::frame, stills::at),
            stills::setup,
        );
        let row: Option<(Row, String)> = of_shot.select(columns).first(&mut self.connection()?).optional()?;
        let (row, setup) = row.ok_or_else(|| StoreError::Missing(format!("still {number}")))?;
        Ok((record(row), Setup::from_json(&setup)?))
    }

    /// Keeps a still no longer.
    pub fn drop_still(&self, shot: Id, number: i32) -> Result<(), StoreError> {
        let of_shot = stills::table.filter(stills::shot_id.eq(shot)).filter(stills::number.eq(number));
        self.write(|connection| {
            diesel::delete(of_shot).execute(connection)?;
            Ok(())
        })
    }
}

fn record((number, name, revision, stage, frame, at): Row) -> StillRecord {
    StillRecord { number, name, revision, stage: stage as u32, frame, at }
}
