//! What an engine keeps between requests.

use std::sync::Arc;

use super::cache::Cache;
use super::flaws::Flaws;
use super::flight::Flights;
use crate::bakes::Bakes;

/// Evaluates setups. Cheap to clone; clones share the cache.
#[derive(Clone)]
pub struct Engine {
    cache: Cache,
    bakes: Option<Arc<dyn Bakes>>,
    flaws: Flaws,
    flights: Flights,
}

impl Engine {
    /// With a cache of at most this many bytes.
    pub fn new(cache_bytes: u64) -> Self {
        let (flaws, flights) = (Flaws::default(), Flights::default());
        Self { cache: Cache::new(cache_bytes), bakes: None, flaws, flights }
    }

    /// The same with a place for bakes.
    pub fn with_bakes(self, bakes: Arc<dyn Bakes>) -> Self {
        Self { bakes: Some(bakes), ..self }
    }

    /// With an empty cache of at most this many bytes, and the same bakes: to see what work costs.
    pub fn afresh(&self, cache_bytes: u64) -> Self {
        Self { cache: Cache::new(cache_bytes), flights: Flights::default(), ..self.clone() }
    }

    pub(crate) const fn cache(&self) -> &Cache {
        &self.cache
    }

    pub(crate) fn bakes(&self) -> Option<&dyn Bakes> {
        self.bakes.as_deref()
    }

    pub(super) const fn flights(&self) -> &Flights {
        &self.flights
    }

    pub(crate) const fn flaws(&self) -> &Flaws {
        &self.flaws
    }
}
