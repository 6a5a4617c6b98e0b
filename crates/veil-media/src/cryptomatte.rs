//! Which layers of a file are a Cryptomatte, and what its manifest names.
//!
//! Source: Cryptomatte specification 1.2: attributes `cryptomatte/<key>/name`, `/manifest`,
//! `/manif_file`; channels in layers `<name>00`, `<name>01`, … each with two ranks in R, G and B, A.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use veil_core::choice::Choice;
use veil_core::plates::{IdKind, Named, Things};
use veil_pixels::key::cryptomatte::{Id, add_rank};
use veil_pixels::{Cancel, Edge, Field, Window};

use crate::MediaError;
use crate::exr_head::ExrHead;
use crate::exr_pixels::{Planes, read_lines, read_smaller_planes};
use crate::patient::bytes;

/// One of a file's Cryptomattes.
struct Matte<'a> {
    key: &'a str,
    /// What its layers' names begin with.
    layer: &'a str,
}

impl Matte<'_> {
    /// Which kind it is, by the word in its layers' name; one that says nothing is of objects.
    fn kind(&self) -> IdKind {
        let name = self.layer.to_lowercase();
        if name.contains("material") || name.ends_with("mtl") {
            IdKind::Material
        } else if name.contains("asset") {
            IdKind::Asset
        } else {
            IdKind::Object
        }
    }
}

fn mattes(head: &ExrHead) -> impl Iterator<Item = Matte<'_>> {
    head.texts.iter().filter_map(|(name, value)| {
        Some(Matte { key: name.strip_prefix("cryptomatte/")?.strip_suffix("/name")?, layer: value })
    })
}

/// Whether a layer has a name; in a part of its own the part's name may stand before it.
fn is_layer(layer: &str, wanted: &str) -> bool {
    layer == wanted || layer.strip_suffix(wanted).is_some_and(|part| part.ends_with('.'))
}

/// Which Cryptomatte a layer is a part of.
pub(crate) fn kind_of_layer(head: &ExrHead, layer: &str) -> Option<IdKind> {
    let rank = |matte: &Matte<'_>| {
        let own = layer.trim_end_matches(|letter: char| letter.is_ascii_digit());
        is_layer(own, matte.layer)
    };
    mattes(head).find(rank).map(|matte| matte.kind())
}

/// What a file's Cryptomattes name, by kind, in the order of kinds.
pub(crate) fn read_names(path: &Path, head: &ExrHead) -> Result<Vec<(IdKind, Vec<Named>)>, MediaError> {
    let mut all = Vec::new();
    for matte in mattes(head) {
        all.push((matte.kind(), manifest(path, head, matte.key)?));
    }
    all.sort_by_key(|(kind, _)| IdKind::ALL.iter().position(|known| known == kind));
    Ok(all)
}

/// A file that may hold Cryptomattes. The first of a kind is meant wherever one is asked for.
pub(crate) struct ExrFile {
    pub(crate) path: PathBuf,
    pub(crate) head: Arc<ExrHead>,
}

/// Where one rank is: a part, and its channels of IDs and of shares.
struct Rank {
    part: usize,
    ids: usize,
    shares: usize,
}

impl ExrFile {
    fn missing(&self, kind: IdKind) -> MediaError {
        let what = format!("Cryptomatte of {}", format!("{kind:?}s").to_lowercase());
        MediaError::Missing { path: self.path.clone(), what }
    }

    fn matte(&self, kind: IdKind) -> Result<Matte<'_>, MediaError> {
        mattes(&self.head).find(|matte| matte.kind() == kind).ok_or_else(|| self.missing(kind))
    }

    /// The ranks of a kind, most coverage first; at least one.
    fn ranks(&self, kind: IdKind) -> Result<Vec<Rank>, MediaError> {
        let layer = self.matte(kind)?.layer;
        let mut ranks = Vec::new();
        for number in 0.. {
            let wanted = format!("{layer}{number:02}");
            let Some(group) = self.head.groups.iter().find(|group| is_layer(&group.layer, &wanted)) else {
                break;
            };
            let pair = |ids: [&str; 2], shares: [&str; 2]| {
                let (ids, shares) = (group.channel(&ids)?, group.channel(&shares)?);
                Some(Rank { part: group.part, ids, shares })
            };
            ranks.push(pair(["R", "red"], ["G", "green"]).ok_or_else(|| self.missing(kind))?);
            // An odd number of ranks leaves the last layer half filled.
            ranks.extend(pair(["B", "blue"], ["A", "alpha"]));
        }
        if ranks.is_empty() { Err(self.missing(kind)) } else { Ok(ranks) }
    }
}

/// What is named.
pub(crate) fn things(file: &ExrFile, kind: IdKind) -> Result<Things, MediaError> {
    Ok(Things(manifest(&file.path, &file.head, file.matte(kind)?.key)?))
}

/// The ID that covers most of a pixel; none where nothing does, and outside.
pub(crate) fn id_at(
    file: &ExrFile,
    kind: IdKind,
    [x, y]: [i32; 2],
    cancel: &Cancel,
) -> Result<Option<Id>, MediaError> {
    let first = &file.ranks(kind)?[0];
    let wanted = [first.ids, first.shares];
    let pairs = read_lines(&file.path, first.part, &wanted, cancel, |_, lines, pairs: &mut [[f32; 2]]| {
        let read = lines[0].iter().zip(lines[1]);
        pairs.iter_mut().zip(read).for_each(|(pair, (id, share))| *pair = [*id, *share]);
    })?;
    let covered = pairs.get(x, y).filter(|[_, share]| *share > 0.0);
    Ok(covered.map(|[id, _]| Id::from_bits(id.to_bits())))
}

/// The rows of a window in which ranks that are not read yet may cover something.
struct Unfinished {
    first: i32,
    rows: Vec<AtomicBool>,
}

impl Unfinished {
    fn none(window: Window) -> Self {
        let rows = (0..window.height()).map(|_| AtomicBool::new(false));
        Self { first: window.y0, rows: rows.collect() }
    }

    fn row(&self, y: i32) -> Option<&AtomicBool> {
        self.rows.get(usize::try_from(y - self.first).ok()?)
    }

    fn add(&self, y: i32) {
        self.row(y).into_iter().for_each(|row| row.store(true, Ordering::Relaxed));
    }

    fn has(&self, y: i32) -> bool {
        self.row(y).is_some_and(|row| row.load(Ordering::Relaxed))
    }

    fn is_none(&self) -> bool {
        !self.rows.iter().any(|row| row.load(Ordering::Relaxed))
    }
}

/// What ranks may leave of a pixel without being looked for: it is less than anyone sees.
const NEGLIGIBLE: f32 = 1e-4;

/// Whether later ranks can cover anything of a run of pixels, from the IDs and shares of these.
fn leaves_any(lines: &[&[f32]]) -> bool {
    let Some(last) = lines.last() else { return false };
    let mut left = vec![1.0 - NEGLIGIBLE; last.len()];
    for shares in lines.iter().skip(1).step_by(2) {
        left.iter_mut().zip(*shares).for_each(|(left, share)| *left -= share);
    }
    // Of all pixels and not up to the first, since so many are looked at at once.
    left.iter().zip(*last).fold(false, |any, (left, share)| any | ((*share > 0.0) & (*left > 0.0)))
}

/// How much of each pixel some IDs cover together, the means of blocks of so many by so many pixels that are counted from
/// the origin. Ranks are summed as they are read, so that they need no memory.
///
/// The specification sorts ranks by their coverage, which together is no more than the whole: where one covers nothing, or
/// those up to it all, no later one does, and those are not decoded.
pub(crate) fn coverage(
    file: &ExrFile,
    kind: IdKind,
    ids: &[Id],
    divisor: u32,
    cancel: &Cancel,
) -> Result<Field, MediaError> {
    let mut covered: Option<Field> = None;
    let mut left: Option<Unfinished> = None;
    for ranks in file.ranks(kind)?.chunk_by(|a, b| a.part == b.part) {
        if left.as_ref().is_some_and(Unfinished::is_none) {
            break;
        }
        let part = ranks[0].part;
        let channels: Vec<usize> = ranks.iter().flat_map(|rank| [rank.ids, rank.shares]).collect();
        let unfinished = Unfinished::none(file.head.windows[part]);
        let planes = Planes {
            count: 1,
            make: |y: i32, lines: &[&[f32]], _: usize, run: &mut [f32]| {
                run.fill(0.0);
                lines.chunks_exact(2).for_each(|rank| add_rank(run, rank[0], rank[1], ids));
                run.iter_mut().for_each(|sum| *sum = sum.clamp(0.0, 1.0));
                if leaves_any(lines) {
                    unfinished.add(y);
                }
            },
            sources: vec![Ok(0)],
            is_wanted: |y: i32| left.as_ref().is_none_or(|left| left.has(y)),
        };
        let read: Field = read_smaller_planes(&file.path, part, &channels, divisor, &planes, cancel)?;
        covered = Some(match covered {
            None => read,
            Some(mut covered) => {
                let more = read.extended(covered.window(), read.window(), Edge::Clear);
                covered.fill_rows(cancel, |y, row| {
                    row.iter_mut().zip(more.row(y)).for_each(|(sum, share)| *sum = (*sum + share).min(1.0));
                })?;
                covered
            }
        });
        left = Some(unfinished);
    }
    covered.ok_or_else(|| file.missing(kind))
}

/// Most bytes of a manifest beside its picture.
const LARGEST_MANIFEST: u64 = 64 << 20;

/// The names of the manifest, embedded or in a file beside the picture; none where there is none.
fn manifest(path: &Path, head: &ExrHead, key: &str) -> Result<Vec<Named>, MediaError> {
    let attribute = |what: &str| {
        let wanted = format!("cryptomatte/{key}/{what}");
        head.texts.iter().find(|(name, _)| *name == wanted).map(|(_, value)| value.clone())
    };
    let beside = || {
        let file = attribute("manif_file")?;
        // Only a plain file name beside the picture; a path could lead anywhere.
        let plain = Path::new(&file).file_name().filter(|name| *name == file.as_str())?;
        String::from_utf8(bytes(&path.parent()?.join(plain), LARGEST_MANIFEST).ok()?).ok()
    };
    let Some(text) = attribute("manifest").or_else(beside) else { return Ok(Vec::new()) };
    let listed: BTreeMap<String, String> = serde_json::from_str(&text)
        .map_err(|error| MediaError::broken(path, format!("its manifest is no JSON: {error}")))?;
    let named = |(name, bits): (String, String)| {
        let id = u32::from_str_radix(&bits, 16).map(Id::from_bits);
        id.map(|id| Named { name, id })
            .map_err(|_| MediaError::broken(path, format!("its manifest lists `{bits}`")))
    };
    listed.into_iter().map(named).collect()
}
