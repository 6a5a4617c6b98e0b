//! What every handler shares.

use std::collections::{HashMap, HashSet};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use tokio::sync::{Notify, broadcast};
use veil_core::engine::Engine;
use veil_core::setup::StageId;
use veil_core::view::Screens;
use veil_media::{Aliases, BakeFolder, FilePlates};
use veil_pixels::Cancel;
use veil_store::{DataFolder, FolderLock, Id, Store, StoreError};

use crate::cpu::Cpu;
use crate::error::ServeError;
use crate::event::Event;
use crate::incoming;
use crate::outside::Outside;
use crate::shipped;

/// The running application. Cheap to clone.
#[derive(Clone)]
pub struct App {
    shared: Arc<Shared>,
}

/// What clones of an [`App`] share.
pub struct Shared {
    pub(crate) store: Store,
    /// For as long as the data folder is used.
    _lock: FolderLock,
    pub(crate) engine: Engine,
    pub(crate) cpu: Cpu,
    pub(crate) screens: Screens,
    pub(crate) events: broadcast::Sender<Event>,
    pub(crate) queue: Notify,
    /// Renders that run, to be cancelled.
    pub(crate) running: Mutex<HashMap<Id, Cancel>>,
    /// Rows of shots that are being baked, to be stopped.
    baking: Mutex<HashMap<(Id, StageId), Cancel>>,
    /// Shots in which something is being followed, to be stopped.
    tracking: Mutex<HashMap<Id, Cancel>>,
    plates: Mutex<HashMap<String, Arc<FilePlates>>>,
    rendered: Arc<FilePlates>,
    /// Folders elsewhere that footage may be used from.
    pub(crate) outside: Vec<Outside>,
    /// Files that are being taken in, by what has arrived of them.
    coming_in: Mutex<HashSet<PathBuf>>,
    /// Held by whoever draws the demo's footage.
    pub(crate) drawing: Mutex<()>,
    /// Code of the shot that was last looked at.
    looked_at: Mutex<Option<String>>,
    stopping: Arc<AtomicBool>,
}

/// Most bytes of all bakes together.
const MOST_BAKED: u64 = 40 << 30;
/// How many events a slow listener may fall behind.
const EVENTS_KEPT: usize = 256;

impl App {
    /// With a data folder, a cache of at most so many bytes, and folders elsewhere that footage may be used from.
    pub fn new(data: &Path, cache_bytes: u64, outside: &[PathBuf]) -> Result<Self, ServeError> {
        let folder = DataFolder::at(data)?;
        let lock = folder.lock()?;
        let swept = folder.sweep();
        if swept > 0 {
            tracing::debug!(swept, "files were removed that nobody had finished writing");
        }
        let store = Store::open(folder)?;
        shipped::ship(&store)?;
        incoming::forget_old(&store.folder().incoming()).map_err(StoreError::from)?;
        let outside = outside.iter().map(|folder| Outside::of(folder)).collect::<Result<_, _>>()?;
        let bakes = BakeFolder::new(store.folder().bakes(), MOST_BAKED);
        let rendered = Arc::new(FilePlates::new(store.folder().renders()));
        let shared = Shared {
            store,
            _lock: lock,
            engine: Engine::new(cache_bytes).with_bakes(Arc::new(bakes)),
            cpu: Cpu::new().map_err(|error| ServeError::Threads(error.to_string()))?,
            screens: Screens::new(),
            events: broadcast::channel(EVENTS_KEPT).0,
            queue: Notify::new(),
            running: Mutex::default(),
            baking: Mutex::default(),
            tracking: Mutex::default(),
            plates: Mutex::default(),
            rendered,
            outside,
            coming_in: Mutex::default(),
            drawing: Mutex::default(),
            looked_at: Mutex::default(),
            stopping: Arc::default(),
        };
        Ok(Self { shared: Arc::new(shared) })
    }

    /// The media below a show's folder, read as the show has been taught.
    pub(crate) fn plates(&self, folder: &str) -> Result<Arc<FilePlates>, StoreError> {
        let mut known = self.plates.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(plates) = known.get(folder) {
            return Ok(Arc::clone(plates));
        }
        let show = self.store.shows()?.into_iter().find(|show| show.folder == folder);
        let taught = show.map_or_else(|| Ok(Vec::new()), |show| self.store.aliases(show.id))?;
        let aliases = Aliases::new(taught.iter().map(|(layer, role)| (layer.as_str(), *role)));
        let plates = Arc::new(FilePlates::taught(self.store.folder().show(folder), aliases));
        known.insert(folder.to_owned(), Arc::clone(&plates));
        Ok(plates)
    }

    /// What was rendered, as media.
    pub(crate) fn rendered(&self) -> Arc<FilePlates> {
        Arc::clone(&self.rendered)
    }

    /// What a show has been taught has changed.
    pub(crate) fn forget_plates(&self, folder: &str) {
        self.plates.lock().unwrap_or_else(PoisonError::into_inner).remove(folder);
    }

    /// Whether something long that a person asked for is under way.
    pub(crate) fn is_at_work(&self) -> bool {
        let renders = !self.running.lock().unwrap_or_else(PoisonError::into_inner).is_empty();
        renders || !self.baking().is_empty() || !self.tracking().is_empty()
    }

    /// What is being taken in.
    pub(crate) fn coming_in(&self) -> MutexGuard<'_, HashSet<PathBuf>> {
        self.coming_in.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// A person looks at a shot.
    pub(crate) fn look_at(&self, code: &str) {
        let mut looked_at = self.looked_at.lock().unwrap_or_else(PoisonError::into_inner);
        if looked_at.as_deref() != Some(code) {
            *looked_at = Some(code.to_owned());
        }
    }

    /// The shot that was last looked at, by its code.
    pub(crate) fn looked_at(&self) -> Option<String> {
        self.looked_at.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// Shots in which something is being followed.
    pub(crate) fn tracking(&self) -> MutexGuard<'_, HashMap<Id, Cancel>> {
        self.tracking.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// What is being baked.
    pub(crate) fn baking(&self) -> MutexGuard<'_, HashMap<(Id, StageId), Cancel>> {
        self.baking.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Tells every listener.
    pub(crate) fn tell(&self, event: Event) {
        // Nobody listening is no failure.
        let _ = self.events.send(event);
    }

    /// Ends what runs in the background.
    pub(crate) fn stop(&self) {
        self.stopping.store(true, Ordering::Relaxed);
        for cancel in self.running.lock().unwrap_or_else(PoisonError::into_inner).values() {
            cancel.set();
        }
        for cancel in self.tracking().values() {
            cancel.set();
        }
        for cancel in self.baking().values() {
            cancel.set();
        }
        self.tell(Event::Stopping);
    }

    pub(crate) fn stopping(&self) -> Arc<AtomicBool> {
        Arc::clone(&self.stopping)
    }
}

impl std::ops::Deref for App {
    type Target = Shared;
    fn deref(&self) -> &Shared {
        &self.shared
    }
}
