//! What has arrived of files that nobody has gone on with.

use std::path::Path;
use std::time::Duration;

/// How long what has arrived of a file waits for the rest.
const KEPT_FOR: Duration = Duration::from_secs(30 * 24 * 3600);

/// Removes what nobody has gone on with for long.
pub(crate) fn forget_old(incoming: &Path) -> std::io::Result<()> {
    for entry in std::fs::read_dir(incoming)? {
        let path = entry?.path();
        let is_old = |meta: std::fs::Metadata| {
            meta.modified().is_ok_and(|time| time.elapsed().is_ok_and(|age| age > KEPT_FOR))
        };
        if std::fs::metadata(&path).is_ok_and(is_old) {
            std::fs::remove_file(&path)?;
        }
    }
    Ok(())
}
