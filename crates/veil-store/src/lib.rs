//! Everything that is kept: shows, shots with their history and versions, media, tools and renders, in one
//! SQLite file, and the layout of the data folder around it.

mod aliases;
mod bin;
mod error;
mod folder;
mod media;
mod renders;
mod schema;
mod shots;
mod shows;
mod stills;
mod tools;

pub use bin::{BinRecord, Binnable, Leftovers};
pub use error::StoreError;
pub use folder::{DataFolder, FolderLock};
pub use media::MediaRecord;
pub use renders::{FailedFrame, NewRender, Progress, RenderRecord, RenderState};
pub use shots::{Applied, NewShot, NextStep, ShotRecord, ShotSummary, VersionRecord};
pub use shows::{NewShow, ShowRecord};
pub use stills::StillRecord;
pub use tools::{ToolRecord, ToolSummary};

use diesel::RunQueryDsl;
use diesel::connection::SimpleConnection;
use diesel::r2d2::{ConnectionManager, CustomizeConnection, Pool, PooledConnection};
use diesel::sqlite::SqliteConnection;
use diesel_migrations::{EmbeddedMigrations, MigrationHarness, embed_migrations};

const MIGRATIONS: EmbeddedMigrations = embed_migrations!();

/// A row's number in its table.
pub type Id = i32;

pub(crate) type Connection = PooledConnection<ConnectionManager<SqliteConnection>>;

/// The database of a data folder. Cheap to clone. Its calls block; they belong on a thread that may wait.
#[derive(Clone)]
pub struct Store {
    pool: Pool<ConnectionManager<SqliteConnection>>,
    folder: DataFolder,
}

#[derive(Debug)]
struct Pragmas;

impl CustomizeConnection<SqliteConnection, diesel::r2d2::Error> for Pragmas {
    fn on_acquire(&self, connection: &mut SqliteConnection) -> Result<(), diesel::r2d2::Error> {
        let pragmas = "PRAGMA busy_timeout = 10000; PRAGMA journal_mode = WAL; PRAGMA synchronous = NORMAL; PRAGMA foreign_keys = ON;";
        connection.batch_execute(pragmas).map_err(diesel::r2d2::Error::QueryError)
    }
}

impl Store {
    /// Opens the database of a data folder, made and brought up to date where needed.
    pub fn open(folder: DataFolder) -> Result<Self, StoreError> {
        let file = folder.database();
        let manager = ConnectionManager::new(file.to_string_lossy());
        let pool = Pool::builder()
            .max_size(4)
            .min_idle(Some(1))
            .connection_customizer(Box::new(Pragmas))
            .build(manager)?;
        let store = Self { pool, folder };
        store.connection()?.run_pending_migrations(MIGRATIONS).map_err(StoreError::Migration)?;
        Ok(store)
    }

    /// Writes a copy of the database as it is at one moment, while others go on writing to it. `to` must not be there.
    pub fn backup(&self, to: &std::path::Path) -> Result<(), StoreError> {
        if to.exists() {
            return Err(StoreError::Taken(format!("`{}`", to.display())));
        }
        let copy =
            diesel::sql_query("VACUUM INTO ?").bind::<diesel::sql_types::Text, _>(to.to_string_lossy());
        copy.execute(&mut self.connection()?)?;
        Ok(())
    }

    /// The folder around it.
    pub const fn folder(&self) -> &DataFolder {
        &self.folder
    }

    /// Writes in one transaction, which has been kept once this gives something.
    pub(crate) fn write<T>(
        &self,
        work: impl FnOnce(&mut SqliteConnection) -> Result<T, StoreError>,
    ) -> Result<T, StoreError> {
        self.connection()?.immediate_transaction(work)
    }

    pub(crate) fn connection(&self) -> Result<Connection, StoreError> {
        Ok(self.pool.get()?)
    }
}

/// Seconds since 1970.
pub(crate) fn now() -> i64 {
    std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).map_or(0, |time| time.as_secs() as i64)
}
