//! Names for files that come in beside others of their names.

use std::collections::HashSet;
use std::path::Path;

use veil_media::FoundMedia;

use crate::imports::{DROPPED, Offered, is_same};

/// The sequences and stills of an import in whose way others stand, each with one free number for all its files, so that
/// a sequence stays together.
pub(crate) struct Beside(Vec<Numbered>);

struct Numbered {
    /// What stands before the frame's number or the ending.
    before: String,
    /// None where nothing is in its way.
    number: Option<u32>,
}

impl Numbered {
    fn name(&self, path: &str) -> Option<String> {
        Some(format!("{}-{}{}", self.before, self.number?, &path[self.before.len()..]))
    }
}

impl Beside {
    /// For files that are to come below a show's folder. A number is free where nothing has it, and also where some of
    /// these files came in under it before and no other stands in their way.
    pub(crate) fn of(root: &Path, media: &[FoundMedia], files: &[&Offered]) -> Self {
        let folder = root.join(DROPPED);
        let there: HashSet<String> =
            veil_media::scan(&folder).unwrap_or_default().into_iter().map(|found| found.path).collect();
        let stands = |name: &str, file: &Offered| {
            let place = folder.join(name);
            place.exists().then(|| is_same(&place, file))
        };
        let befores: Vec<&str> = media.iter().map(|found| split(&found.path).0).collect();
        let beside = |(found, before): (&FoundMedia, &&str)| {
            // Of all that a path begins with, the longest is its own.
            let longest = |file: &Offered| {
                let begins = befores.iter().filter(|before| file.path.starts_with(**before));
                begins.max_by_key(|before| before.len())
            };
            let own: Vec<&&Offered> = files.iter().filter(|file| longest(file) == Some(before)).collect();
            let numbered = |number: Option<u32>| Numbered { before: (*before).to_owned(), number };
            if !own.iter().any(|file| stands(&file.path, file) == Some(false)) {
                return numbered(None);
            }
            let after = &found.path[before.len()..];
            let is_free = |number: &u32| {
                let one = numbered(Some(*number));
                let name = |file: &&&Offered| one.name(&file.path).and_then(|name| stands(&name, file));
                let known: Vec<bool> = own.iter().filter_map(name).collect();
                let came_before = !known.is_empty() && known.iter().all(|same| *same);
                came_before || !there.contains(&format!("{before}-{number}{after}"))
            };
            numbered((2..).find(is_free))
        };
        Self(media.iter().zip(&befores).map(beside).collect())
    }

    /// The name beside the others; none where nothing is in the way of a file's sequence.
    pub(crate) fn name(&self, path: &str) -> Option<String> {
        let own = self.0.iter().filter(|one| path.starts_with(&one.before));
        own.max_by_key(|one| one.before.len())?.name(path)
    }
}

/// A pattern before and after the place where a number can tell it from another: `yard` and `.####.exr`.
fn split(pattern: &str) -> (&str, &str) {
    let end = pattern.find('#').or_else(|| pattern.rfind('.')).unwrap_or(pattern.len());
    let before = pattern[..end].trim_end_matches(['.', '_']);
    (before, &pattern[before.len()..])
}

#[cfg(test)]
mod tests {
    use std::time::{Duration, UNIX_EPOCH};

    use veil_media::grouped;

    use super::*;

    fn offered(path: &str, size: u64) -> Offered {
        Offered { path: path.into(), size, modified: 1_700_000_000_000 }
    }

    /// With the time of change of those that are offered.
    fn keep(folder: &Path, name: &str, size: usize) {
        let place = folder.join(name);
        std::fs::write(&place, vec![0; size]).unwrap();
        let changed = UNIX_EPOCH + Duration::from_secs(1_700_000_000);
        std::fs::File::options().append(true).open(place).unwrap().set_modified(changed).unwrap();
    }

    #[test]
    fn a_sequence_stays_together_and_goes_on_under_the_number_it_had() {
        let root = tempfile::tempdir().unwrap();
        let folder = root.path().join(DROPPED);
        std::fs::create_dir_all(&folder).unwrap();
        for name in ["yard.1001.exr", "yard-2.1001.exr", "still.png", "yardarm.1001.exr"] {
            keep(&folder, name, 1);
        }
        let files =
            ["yard.1001.exr", "yard.1002.exr", "still.png", "yardarm.1002.exr"].map(|path| offered(path, 2));
        let names = || {
            let media = grouped(files.iter().map(|file| file.path.clone()));
            let beside = Beside::of(root.path(), &media, &files.each_ref());
            files.each_ref().map(|file| beside.name(&file.path).unwrap_or_default())
        };
        assert_eq!(names(), ["yard-3.1001.exr", "yard-3.1002.exr", "still-2.png", ""]);
        keep(&folder, "yard-3.1002.exr", 2);
        assert_eq!(names()[..2], ["yard-3.1001.exr", "yard-3.1002.exr"]);
        keep(&folder, "yard-3.1001.exr", 1);
        assert_eq!(names()[..2], ["yard-4.1001.exr", "yard-4.1002.exr"]);
    }
}
