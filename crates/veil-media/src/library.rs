//! Media on disk, as the engine asks for them.

use std::collections::HashMap;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex};
use std::time::UNIX_EPOCH;

use veil_core::camera::Camera;
use veil_core::figure::Figure;
use veil_core::plates::{About, Alpha, IdKind, PlateError, Plates, Role, Things, made_smaller};
use veil_core::setup::Media;
use veil_core::signal::{Domain, Pixels};
use veil_pixels::colour::lut::Lut;
use veil_pixels::key::cryptomatte::Id;
use veil_pixels::{Cancel, Field, Picture};

use crate::MediaError;
use crate::camera::read_camera;
use crate::clip::{self, HeldClip};
use crate::cryptomatte::{self, ExrFile};
use crate::exr_head::{ExrHead, read_head};
use crate::exr_pixels::{read_signal, read_smaller};
use crate::form::{Form, StillForm};
use crate::patient::{bytes, plain};
use crate::roles::Aliases;
use crate::sequence::Pattern;
use crate::{cube, figure, still, whole};

/// Media below one folder. Headers that were read are kept until their file changes.
pub struct FilePlates {
    root: PathBuf,
    aliases: Aliases,
    heads: Mutex<HashMap<PathBuf, (u64, Arc<Head>)>>,
    clips: Mutex<HashMap<PathBuf, (u64, Arc<HeldClip>)>>,
    luts: Kept<Lut>,
    figures: Kept<Figure>,
    cameras: Kept<Camera>,
    fonts: Kept<Vec<u8>>,
}

/// How many headers are kept.
const MOST_HEADS: usize = 4096;

enum Head {
    Exr(Arc<ExrHead>),
    Still(StillForm, Domain, Alpha),
}

impl Head {
    fn domain(&self) -> Domain {
        match self {
            Self::Exr(head) => head.domain,
            Self::Still(_, domain, _) => *domain,
        }
    }

    fn read(path: &Path) -> Result<Self, MediaError> {
        match Form::of(path) {
            Some(Form::Exr) => Ok(Self::Exr(Arc::new(read_head(path)?))),
            Some(Form::Still(form)) => {
                let head = still::read_head(path, form)?;
                Ok(Self::Still(form, head.domain, head.alpha))
            }
            Some(Form::Cube | Form::Svg | Form::Font | Form::Gltf | Form::CameraTable) => {
                Err(MediaError::Missing { path: path.into(), what: "picture".into() })
            }
            Some(Form::Clip) | None => Err(MediaError::unknown(path)),
        }
    }
}

impl From<MediaError> for PlateError {
    fn from(error: MediaError) -> Self {
        match error {
            MediaError::Cancelled => Self::Cancelled,
            other => Self::File(other.to_string()),
        }
    }
}

impl FilePlates {
    /// Paths of media are taken relative to `root`.
    pub fn new(root: impl Into<PathBuf>) -> Self {
        Self::taught(root, Aliases::default())
    }

    /// With what the show has been taught of its layers' names.
    pub fn taught(root: impl Into<PathBuf>, aliases: Aliases) -> Self {
        Self {
            root: root.into(),
            aliases,
            heads: Mutex::default(),
            clips: Mutex::default(),
            luts: Mutex::default(),
            figures: Mutex::default(),
            cameras: Mutex::default(),
            fonts: Mutex::default(),
        }
    }

    /// What is read, or why it is not, without telling where the folder is.
    fn told<T>(&self, read: impl FnOnce() -> Result<T, MediaError>) -> Result<T, PlateError> {
        read().map_err(|error| error.below(&self.root).into())
    }

    /// The folder that paths are relative to.
    pub fn root(&self) -> &Path {
        &self.root
    }

    /// The file of a frame; of a clip, the one that is held for it.
    fn file(&self, media: &Media, frame: i32, cancel: &Cancel) -> Result<PathBuf, MediaError> {
        let file = self.named_file(media, frame)?;
        if Form::of(&file) != Some(Form::Clip) {
            return Ok(file);
        }
        let print = Self::print_of(&file)?;
        let lock = || self.clips.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        let known = lock().get(&file).filter(|(known, _)| *known == print).map(|(_, clip)| Arc::clone(clip));
        let clip = match known {
            Some(clip) => clip,
            None => {
                let clip = Arc::new(clip::held_frames(&file, print, cancel, &|_| ())?);
                lock().insert(file.clone(), (print, Arc::clone(&clip)));
                clip
            }
        };
        Ok(clip.file(frame.clamp(clip.frames.first, clip.frames.last)))
    }

    /// The file that a medium's path names for a frame.
    fn named_file(&self, media: &Media, frame: i32) -> Result<PathBuf, MediaError> {
        let outside = || MediaError::Outside(media.path.clone());
        let climbs = media.path.starts_with('/') || media.path.split('/').any(|part| part == "..");
        if climbs {
            return Err(outside());
        }
        let pattern: Pattern = media.path.parse().map_err(|_| outside())?;
        Ok(self.root.join(pattern.file(frame)))
    }

    /// What tells this state of a file from another: path, size and time of change.
    pub(crate) fn print_of(path: &Path) -> Result<u64, MediaError> {
        let meta = plain(path)?;
        let changed = meta.modified().ok().and_then(|time| time.duration_since(UNIX_EPOCH).ok());
        let key = format!("{}\0{}\0{:?}", path.display(), meta.len(), changed);
        let hash = blake3::hash(key.as_bytes());
        let mut short = [0; 8];
        short.copy_from_slice(&hash.as_bytes()[..8]);
        Ok(u64::from_le_bytes(short))
    }

    fn head(&self, path: &Path) -> Result<Arc<Head>, MediaError> {
        let print = Self::print_of(path)?;
        let held = |heads: &HashMap<PathBuf, (u64, Arc<Head>)>| {
            heads.get(path).filter(|(known, _)| *known == print).map(|(_, head)| Arc::clone(head))
        };
        // A poisoned lock only means that a reader panicked elsewhere; the map itself is whole.
        let lock = || self.heads.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        if let Some(head) = held(&lock()) {
            return Ok(head);
        }
        let head = Arc::new(Head::read(path)?);
        let mut heads = lock();
        if heads.len() >= MOST_HEADS {
            heads.clear();
        }
        heads.insert(path.into(), (print, Arc::clone(&head)));
        Ok(head)
    }

    /// The part of a file that a pass is in, and where its floats are there.
    fn exr_floats(
        &self,
        path: &Path,
        head: &ExrHead,
        role: Role,
    ) -> Result<(usize, Vec<Option<usize>>), MediaError> {
        let found = head.groups.iter().find(|group| group.role(&self.aliases) == Some(role));
        // A lone layer of any name is the picture.
        let found = found.or_else(|| head.groups.first().filter(|_| role == Role::Beauty));
        let missing = || MediaError::Missing { path: path.into(), what: format!("{} pass", role.name()) };
        let group = found.ok_or_else(missing)?;
        let floats = group.channels_for(role);
        if floats.iter().all(Option::is_none) {
            return Err(missing());
        }
        Ok((group.part, floats))
    }

    /// The OpenEXR file of a frame, in which Cryptomattes may be.
    fn exr(&self, media: &Media, frame: i32) -> Result<ExrFile, MediaError> {
        let path = self.file(media, frame, &Cancel::new())?;
        match &*self.head(&path)? {
            Head::Exr(head) => Ok(ExrFile { head: Arc::clone(head), path }),
            Head::Still(..) => Err(MediaError::Missing { path, what: "Cryptomatte".into() }),
        }
    }
}

/// What was read of files, with the state that each was in.
type Kept<T> = Mutex<HashMap<PathBuf, (u64, Arc<T>)>>;

/// What a file in this state holds; read where it is not kept.
fn kept<T>(
    held: &Kept<T>,
    path: PathBuf,
    print: u64,
    read: impl FnOnce(&Path) -> Result<T, MediaError>,
) -> Result<Arc<T>, MediaError> {
    let lock = || held.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
    if let Some((_, held)) = lock().get(&path).filter(|(known, _)| *known == print) {
        return Ok(Arc::clone(held));
    }
    let made = Arc::new(read(&path)?);
    lock().insert(path, (print, Arc::clone(&made)));
    Ok(made)
}

impl Plates for FilePlates {
    fn fingerprint(&self, media: &Media, frame: i32, cancel: &Cancel) -> Result<u64, PlateError> {
        self.told(|| Ok(Self::print_of(&self.file(media, frame, cancel)?)? ^ self.aliases.print()))
    }

    fn domain(&self, media: &Media, frame: i32, cancel: &Cancel) -> Result<Domain, PlateError> {
        self.told(|| Ok(self.head(&self.file(media, frame, cancel)?)?.domain()))
    }

    fn pass(&self, media: &Media, frame: i32, role: Role, cancel: &Cancel) -> Result<Pixels, PlateError> {
        self.told(|| {
            let path = self.file(media, frame, cancel)?;
            Ok(match &*self.head(&path)? {
                Head::Exr(head) => {
                    let (part, floats) = self.exr_floats(&path, head, role)?;
                    read_signal(&path, part, &floats, role.kind(), cancel)?
                }
                Head::Still(form, ..) if role == Role::Beauty => Pixels::Picture(still::read(&path, *form)?),
                Head::Still(..) => {
                    let what = format!("{} pass", role.name());
                    return Err(MediaError::Missing { path, what });
                }
            })
        })
    }

    fn smaller(
        &self,
        media: &Media,
        frame: i32,
        divisor: u32,
        change: &(dyn Fn(&mut [f32]) + Sync),
        cancel: &Cancel,
    ) -> Result<Picture, PlateError> {
        self.told(|| {
            let path = self.file(media, frame, cancel)?;
            match &*self.head(&path)? {
                Head::Exr(head) => {
                    let (part, floats) = self.exr_floats(&path, head, Role::Beauty)?;
                    read_smaller(&path, part, &floats, divisor, change, cancel)
                }
                Head::Still(form, ..) => {
                    Ok(made_smaller(still::read(&path, *form)?, divisor, change, cancel)?)
                }
            }
        })
    }

    fn about(&self, media: &Media, frame: i32, cancel: &Cancel) -> Result<About, PlateError> {
        self.told(|| {
            Ok(match &*self.head(&self.file(media, frame, cancel)?)? {
                Head::Exr(head) => About { aspect: head.aspect, ..About::default() },
                Head::Still(.., alpha) => About { alpha: *alpha, ..About::default() },
            })
        })
    }

    fn lut(&self, media: &Media) -> Result<Arc<Lut>, PlateError> {
        self.told(|| {
            let path = self.named_file(media, 0)?;
            let print = Self::print_of(&path)?;
            kept(&self.luts, path, print, cube::read)
        })
    }

    fn figure(&self, media: &Media) -> Result<Arc<Figure>, PlateError> {
        self.told(|| {
            let path = self.named_file(media, 0)?;
            let print = Self::print_of(&path)?;
            kept(&self.figures, path, print, figure::read)
        })
    }

    fn camera(&self, media: &Media, fps: f64) -> Result<Arc<Camera>, PlateError> {
        self.told(|| {
            let path = self.named_file(media, 0)?;
            // One that is told by seconds has other frames at another rate.
            let print = Self::print_of(&path)? ^ fps.to_bits();
            kept(&self.cameras, path, print, |path| read_camera(path, fps))
        })
    }

    fn font(&self, media: &Media) -> Result<Arc<Vec<u8>>, PlateError> {
        self.told(|| {
            let path = self.named_file(media, 0)?;
            let print = Self::print_of(&path)?;
            kept(&self.fonts, path, print, |path| bytes(path, whole::LARGEST_FONT))
        })
    }

    fn words(&self, media: &Media, frame: i32) -> Result<Vec<(String, String)>, PlateError> {
        self.told(|| {
            Ok(match &*self.head(&self.file(media, frame, &Cancel::new())?)? {
                Head::Exr(head) => head.plain_texts.clone(),
                Head::Still(..) => Vec::new(),
            })
        })
    }

    fn roles(&self, media: &Media, frame: i32) -> Result<Vec<Role>, PlateError> {
        self.told(|| {
            Ok(match &*self.head(&self.file(media, frame, &Cancel::new())?)? {
                Head::Exr(head) => {
                    let named = head.groups.iter().filter_map(|group| group.role(&self.aliases));
                    let mut roles: Vec<Role> = named.filter(|role| *role != Role::Beauty).collect();
                    roles.dedup();
                    roles
                }
                Head::Still(..) => Vec::new(),
            })
        })
    }

    fn things(&self, media: &Media, frame: i32, kind: IdKind) -> Result<Things, PlateError> {
        self.told(|| cryptomatte::things(&self.exr(media, frame)?, kind))
    }

    fn id_at(
        &self,
        media: &Media,
        frame: i32,
        kind: IdKind,
        place: [i32; 2],
        cancel: &Cancel,
    ) -> Result<Option<Id>, PlateError> {
        self.told(|| cryptomatte::id_at(&self.exr(media, frame)?, kind, place, cancel))
    }

    fn coverage(
        &self,
        media: &Media,
        frame: i32,
        kind: IdKind,
        ids: &[Id],
        divisor: u32,
        cancel: &Cancel,
    ) -> Result<Field, PlateError> {
        self.told(|| cryptomatte::coverage(&self.exr(media, frame)?, kind, ids, divisor, cancel))
    }
}
