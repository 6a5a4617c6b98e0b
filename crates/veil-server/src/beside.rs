//! Names for files that come in beside others of their names.

use std::collections::{HashMap, HashSet};
use std::path::Path;

use veil_media::FoundMedia;

use crate::imports::{DROPPED, Offered, is_same};

/// For the sequences and stills of an import, by what stands before the frame's number or the ending: the number that all
/// its files get where others stand in their way, so that a sequence stays together; none where nothing does.
pub(crate) struct Beside(HashMap<String, Option<u32>>);

/// What an import's file begins with, of all that it may: the longest is its own.
fn own(path: &str, is_known: impl Fn(&str) -> bool) -> Option<&str> {
    let ends = (0..=path.len()).rev().filter(|end| path.is_char_boundary(*end));
    ends.map(|end| &path[..end]).find(|before| is_known(before))
}

fn numbered(before: &str, number: u32, path: &str) -> String {
    format!("{before}-{number}{}", &path[before.len()..])
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
        let mut groups: HashMap<&str, (Vec<&str>, Vec<&Offered>)> = HashMap::new();
        for found in media {
            groups.entry(before_number(&found.path)).or_default().0.push(&found.path);
        }
        for file in files {
            if let Some((_, files)) = own(&file.path, |before| groups.contains_key(before))
                .and_then(|before| groups.get_mut(before))
            {
                files.push(file);
            }
        }
        let number = |before: &str, patterns: &[&str], files: &[&Offered]| {
            let is_free = |number: &u32| {
                let name = |file: &&Offered| stands(&numbered(before, *number, &file.path), file);
                let known: Vec<bool> = files.iter().filter_map(name).collect();
                let came_before = !known.is_empty() && known.iter().all(|same| *same);
                came_before
                    || !patterns.iter().any(|pattern| there.contains(&numbered(before, *number, pattern)))
            };
            let in_the_way = files.iter().any(|file| stands(&file.path, file) == Some(false));
            in_the_way.then(|| (2..).find(is_free)).flatten()
        };
        let numbers = groups
            .iter()
            .map(|(before, (patterns, files))| ((*before).to_owned(), number(before, patterns, files)));
        Self(numbers.collect())
    }

    /// The name beside the others; none where nothing is in the way of a file's sequence.
    pub(crate) fn name(&self, path: &str) -> Option<String> {
        let before = own(path, |before| self.0.contains_key(before))?;
        Some(numbered(before, self.0.get(before).copied().flatten()?, path))
    }
}

/// What of a pattern stands before the place where a number can tell it from another: `yard` of `yard.####.exr`.
fn before_number(pattern: &str) -> &str {
    let end = pattern.find('#').or_else(|| pattern.rfind('.')).unwrap_or(pattern.len());
    pattern[..end].trim_end_matches(['.', '_'])
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
