//! Files read by threads of their own, so that a disk that does not answer holds nobody up for long.

use std::collections::HashMap;
use std::fs::{File, FileType, Metadata};
use std::io::{self, BufRead, ErrorKind, Read, Seek, SeekFrom};
use std::path::{Path, PathBuf};
use std::sync::mpsc::{Sender, channel};
use std::sync::{LazyLock, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};

use crate::MediaError;

/// How long a disk may take for one answer.
const PATIENCE: Duration = Duration::from_secs(8);
/// How long nothing more is asked of a folder that gave none.
const LEFT_ALONE: Duration = Duration::from_secs(30);
/// How many answers may be out at once, over all disks.
const MOST_WAITING: usize = 64;
/// Bytes that are asked for at once.
const PIECE: usize = 1 << 19;

type Job = Box<dyn FnOnce() + Send>;

/// Threads that read, those of them that have nothing to do, and folders that are left alone.
#[derive(Default)]
struct Readers {
    idle: Vec<Sender<Job>>,
    started: usize,
    silent: HashMap<PathBuf, Instant>,
}

static READERS: LazyLock<Mutex<Readers>> = LazyLock::new(Mutex::default);

fn readers() -> MutexGuard<'static, Readers> {
    READERS.lock().unwrap_or_else(PoisonError::into_inner)
}

impl Readers {
    /// A thread that has nothing to do, started where there is none.
    fn one(&mut self) -> io::Result<Sender<Job>> {
        if let Some(idle) = self.idle.pop() {
            return Ok(idle);
        }
        if self.started >= MOST_WAITING {
            return Err(io::Error::new(
                ErrorKind::TimedOut,
                "too many files wait for disks that do not answer",
            ));
        }
        let (give, take) = channel::<Job>();
        let again = give.clone();
        std::thread::Builder::new().name("read".into()).spawn(move || {
            for job in take {
                job();
                readers().idle.push(again.clone());
            }
        })?;
        self.started += 1;
        Ok(give)
    }

    fn is_left_alone(&mut self, folder: &Path) -> bool {
        self.silent.retain(|_, since| since.elapsed() < LEFT_ALONE);
        self.silent.contains_key(folder)
    }
}

fn silent() -> io::Error {
    let words = format!("the disk that it is on has not answered for {} s", PATIENCE.as_secs());
    io::Error::new(ErrorKind::TimedOut, words)
}

/// Asks a disk for what is in a file's folder, and waits only so long for its answer.
fn patiently<T: Send + 'static>(
    path: &Path,
    ask: impl FnOnce() -> io::Result<T> + Send + 'static,
) -> io::Result<T> {
    ask_folder(path.parent().unwrap_or(path), ask)
}

/// Asks a disk about a folder, on a thread of its own. One that does not answer in 8 s is an error, and so is every
/// question about the same folder for half a minute then.
pub fn ask_folder<T: Send + 'static>(
    folder: &Path,
    ask: impl FnOnce() -> io::Result<T> + Send + 'static,
) -> io::Result<T> {
    let (answer, wait) = channel();
    let reader = {
        let mut readers = readers();
        if readers.is_left_alone(folder) {
            return Err(silent());
        }
        readers.one()?
    };
    let job: Job = Box::new(move || {
        // Nobody waits any more where it took too long.
        let _ = answer.send(ask());
    });
    reader.send(job).map_err(|_| io::Error::other("no thread reads"))?;
    wait.recv_timeout(PATIENCE).unwrap_or_else(|_| {
        readers().silent.insert(folder.to_owned(), Instant::now());
        Err(silent())
    })
}

/// What a folder holds; links are not followed.
pub(crate) fn entries(folder: &Path) -> Result<Vec<(PathBuf, FileType)>, MediaError> {
    let asked = folder.to_owned();
    let read = move || {
        let entries = std::fs::read_dir(asked)?.flatten();
        Ok(entries.filter_map(|entry| Some((entry.path(), entry.file_type().ok()?))).collect())
    };
    ask_folder(folder, read).map_err(MediaError::io(folder))
}

/// What is known of a plain file; anything else that has a path is refused.
pub(crate) fn plain(path: &Path) -> Result<Metadata, MediaError> {
    let asked = path.to_owned();
    let about = patiently(path, move || std::fs::metadata(asked)).map_err(MediaError::io(path))?;
    if about.is_file() {
        return Ok(about);
    }
    Err(MediaError::Unsupported { path: path.into(), why: "it is no plain file".into() })
}

/// All bytes of a plain file that has at most so many.
pub(crate) fn bytes(path: &Path, most: u64) -> Result<Vec<u8>, MediaError> {
    let length = plain(path)?.len();
    if length > most {
        let why = format!("it has {length} bytes, and at most {most} are read");
        return Err(MediaError::Unsupported { path: path.into(), why });
    }
    let mut all = Vec::with_capacity(length as usize);
    PatientFile::open(path)?.read_to_end(&mut all).map_err(MediaError::io(path))?;
    Ok(all)
}

/// A plain file that is read in large pieces.
pub(crate) struct PatientFile {
    path: PathBuf,
    /// Gone once a piece of it did not come.
    file: Option<File>,
    length: u64,
    /// What was read last, up to `end` of the file.
    piece: Vec<u8>,
    end: u64,
    /// How much of the piece was taken.
    taken: usize,
}

impl PatientFile {
    pub(crate) fn open(path: &Path) -> Result<Self, MediaError> {
        let length = plain(path)?.len();
        let asked = path.to_owned();
        let file = patiently(path, move || File::open(asked)).map_err(MediaError::io(path))?;
        Ok(Self { path: path.into(), file: Some(file), length, piece: Vec::new(), end: 0, taken: 0 })
    }

    fn fill(&mut self) -> io::Result<()> {
        let mut file = self.file.take().ok_or_else(silent)?;
        let (mut piece, from) = (std::mem::take(&mut self.piece), self.end);
        let (file, piece) = patiently(&self.path, move || {
            piece.resize(PIECE, 0);
            file.seek(SeekFrom::Start(from))?;
            let mut filled = 0;
            while filled < piece.len() {
                match file.read(&mut piece[filled..]) {
                    Ok(0) => break,
                    Ok(more) => filled += more,
                    Err(error) if error.kind() == ErrorKind::Interrupted => {}
                    Err(error) => return Err(error),
                }
            }
            piece.truncate(filled);
            Ok((file, piece))
        })?;
        self.end += piece.len() as u64;
        (self.file, self.piece, self.taken) = (Some(file), piece, 0);
        Ok(())
    }
}

impl BufRead for PatientFile {
    fn fill_buf(&mut self) -> io::Result<&[u8]> {
        if self.taken == self.piece.len() {
            self.fill()?;
        }
        Ok(&self.piece[self.taken..])
    }

    fn consume(&mut self, amount: usize) {
        self.taken = (self.taken + amount).min(self.piece.len());
    }
}

impl Read for PatientFile {
    fn read(&mut self, out: &mut [u8]) -> io::Result<usize> {
        let there = self.fill_buf()?;
        let length = there.len().min(out.len());
        out[..length].copy_from_slice(&there[..length]);
        self.consume(length);
        Ok(length)
    }
}

impl Seek for PatientFile {
    fn seek(&mut self, to: SeekFrom) -> io::Result<u64> {
        let begins = self.end - self.piece.len() as u64;
        let here = begins + self.taken as u64;
        let wanted = match to {
            SeekFrom::Start(at) => Some(at),
            SeekFrom::Current(by) => here.checked_add_signed(by),
            SeekFrom::End(by) => self.length.checked_add_signed(by),
        };
        let wanted =
            wanted.ok_or_else(|| io::Error::new(ErrorKind::InvalidInput, "before the file's start"))?;
        if (begins..=self.end).contains(&wanted) {
            self.taken = (wanted - begins) as usize;
        } else {
            self.piece.clear();
            (self.end, self.taken) = (wanted, 0);
        }
        Ok(wanted)
    }
}
