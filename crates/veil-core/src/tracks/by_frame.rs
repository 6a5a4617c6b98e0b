//! Samples by frame, as JSON has them: whose keys are text, also where they are read by way of a value that has no type yet.

use std::collections::BTreeMap;
use std::fmt;

use serde::de::{Deserializer, Error, MapAccess, Visitor};

use super::TrackSample;

struct Samples;

impl<'de> Visitor<'de> for Samples {
    type Value = BTreeMap<i32, TrackSample>;

    fn expecting(&self, to: &mut fmt::Formatter<'_>) -> fmt::Result {
        to.write_str("what was found, by frame")
    }

    fn visit_map<M: MapAccess<'de>>(self, mut map: M) -> Result<Self::Value, M::Error> {
        let mut samples = BTreeMap::new();
        while let Some((frame, sample)) = map.next_entry::<String, TrackSample>()? {
            let frame = frame.parse().map_err(|_| M::Error::custom(format!("`{frame}` is no frame")))?;
            samples.insert(frame, sample);
        }
        Ok(samples)
    }
}

pub(super) fn deserialize<'de, D: Deserializer<'de>>(
    from: D,
) -> Result<BTreeMap<i32, TrackSample>, D::Error> {
    from.deserialize_map(Samples)
}
