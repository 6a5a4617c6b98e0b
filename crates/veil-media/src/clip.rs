//! Clips in, through the ffmpeg program: decoded once into a sequence that is held beside them.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::sync::{Condvar, Mutex, PoisonError};
use std::time::{Duration, Instant};

use veil_core::setup::Frames;
use veil_pixels::Cancel;

use crate::MediaError;

/// Containers that a clip may be; a list of other files is none.
const CONTAINERS: &str = "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi";
/// How often it is seen whether anybody still waits.
const LOOK_EVERY: Duration = Duration::from_millis(20);

/// How often it is seen whether there is room for what it writes.
const ASK_EVERY: Duration = Duration::from_secs(2);

/// A decoded clip.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct HeldClip {
    folder: PathBuf,
    /// From 1.
    pub(crate) frames: Frames,
    /// Frames a second.
    pub(crate) fps: f64,
    /// How it is compressed.
    pub(crate) codec: String,
    /// Its tones go by sRGB's curve; by BT.709's otherwise, as of most clips that do not say.
    pub(crate) srgb: bool,
}

impl HeldClip {
    /// The file of a frame.
    pub(crate) fn file(&self, frame: i32) -> PathBuf {
        self.folder.join(format!("frame.{frame:06}.png"))
    }
}

/// What ffprobe says of a clip's first video stream.
#[derive(serde::Deserialize)]
struct Stream {
    width: usize,
    height: usize,
    #[serde(default)]
    pix_fmt: String,
    #[serde(default)]
    codec_name: String,
    #[serde(default)]
    r_frame_rate: String,
    #[serde(default)]
    color_transfer: String,
}

#[derive(serde::Deserialize)]
struct Probed {
    streams: Vec<Stream>,
}

/// What is written beside the frames once all of them are there.
#[derive(serde::Serialize, serde::Deserialize)]
struct Note {
    frames: i32,
    fps: f64,
    codec: String,
    #[serde(default)]
    srgb: bool,
}

/// Most frames of a clip: an hour at 24 a second.
const MOST_FRAMES: i32 = 86_400;
/// Most bytes that the frames of one clip may take on the disk.
const MOST_BYTES: u64 = 64 << 30;

/// Where frames of clips are held, in the folder of the clips.
const HELD_IN: &str = ".held";

/// Clips that are being decoded, by where their frames will be held.
static DECODING: Mutex<BTreeSet<PathBuf>> = Mutex::new(BTreeSet::new());
static DECODED: Condvar = Condvar::new();

/// A clip that is being decoded, which others wait for.
struct Decoding {
    folder: PathBuf,
}

impl Decoding {
    /// Waits until nobody else decodes the same.
    fn begin(folder: &Path, cancel: &Cancel) -> Result<Self, MediaError> {
        let mut decoding = DECODING.lock().unwrap_or_else(PoisonError::into_inner);
        while !decoding.insert(folder.to_owned()) {
            cancel.check()?;
            decoding = DECODED.wait_timeout(decoding, LOOK_EVERY).unwrap_or_else(PoisonError::into_inner).0;
        }
        Ok(Self { folder: folder.to_owned() })
    }
}

impl Drop for Decoding {
    fn drop(&mut self) {
        DECODING.lock().unwrap_or_else(PoisonError::into_inner).remove(&self.folder);
        DECODED.notify_all();
    }
}

/// The clip's frames, decoded if they are not held yet; once, however many ask. `print` tells this state of the file from
/// another, whose frames go once these are there. `decoded` hears every now and then how many there are.
pub(crate) fn held_frames(
    path: &Path,
    print: u64,
    cancel: &Cancel,
    decoded: &dyn Fn(usize),
) -> Result<HeldClip, MediaError> {
    let all = path.parent().unwrap_or(Path::new(".")).join(HELD_IN);
    let folder = all.join(format!("{}{print:016x}", held_name(path)));
    if let Some(held) = noted(&folder) {
        return Ok(held);
    }
    let _decoding = Decoding::begin(&folder, cancel)?;
    if let Some(held) = noted(&folder) {
        return Ok(held);
    }
    std::fs::create_dir_all(&all).map_err(MediaError::io(&all))?;
    let making =
        tempfile::Builder::new().prefix(".making-").tempdir_in(&all).map_err(MediaError::io(&all))?;
    decode(path, making.path(), cancel, decoded)?;
    forget_held(path);
    let made = making.keep();
    std::fs::rename(&made, &folder).map_err(MediaError::io(&folder))?;
    noted(&folder).ok_or_else(|| MediaError::broken(path, "its frames could not be kept"))
}

/// What the folders of a clip's frames are called, before what tells one state of it from another.
fn held_name(path: &Path) -> String {
    format!("{}-", path.file_name().map(|name| name.to_string_lossy()).unwrap_or_default())
}

/// Removes the frames that are held of a clip; as many as can be.
pub fn forget_held(path: &Path) {
    let all = path.parent().unwrap_or(Path::new(".")).join(HELD_IN);
    let name = held_name(path);
    let is_print = |rest: &str| rest.len() == 16 && rest.bytes().all(|byte| byte.is_ascii_hexdigit());
    for entry in std::fs::read_dir(&all).into_iter().flatten().flatten() {
        let folder = entry.file_name();
        if folder.to_string_lossy().strip_prefix(&name).is_some_and(is_print) {
            // What cannot be removed takes room and does no harm.
            let _ = std::fs::remove_dir_all(entry.path());
        }
    }
}

/// Decodes a clip without keeping anything of it.
pub(crate) fn check(path: &Path, cancel: &Cancel) -> Result<(), MediaError> {
    probe(path, cancel)?;
    let mut command = program("ffmpeg");
    command.args(["-format_whitelist", CONTAINERS, "-protocol_whitelist", "file", "-xerror"]);
    command.arg("-i").arg(path).args(["-map", "0:v:0", "-f", "null", "-"]);
    run(path, command, cancel).map(|_| ())
}

fn noted(folder: &Path) -> Option<HeldClip> {
    let note: Note = serde_json::from_slice(&std::fs::read(folder.join("note.json")).ok()?).ok()?;
    let frames = Frames { first: 1, last: note.frames };
    Some(HeldClip { folder: folder.into(), frames, fps: note.fps, codec: note.codec, srgb: note.srgb })
}

fn decode(path: &Path, folder: &Path, cancel: &Cancel, decoded: &dyn Fn(usize)) -> Result<(), MediaError> {
    let stream = probe(path, cancel)?;
    MediaError::check_size(path, stream.width, stream.height, 16)?;
    let deep = ["9", "10", "12", "14", "16"].iter().any(|bits| {
        let tail = stream.pix_fmt.trim_end_matches("le").trim_end_matches("be");
        tail.ends_with(&format!("p{bits}")) || tail == format!("gray{bits}")
    });
    let form = match (deep, has_alpha(&stream.pix_fmt)) {
        (false, false) => "rgb24",
        (false, true) => "rgba",
        (true, false) => "rgb48be",
        (true, true) => "rgba64be",
    };
    // Only these two decoders bring the alpha of WebM.
    let decoder: &[&str] = match stream.codec_name.as_str() {
        "vp9" => &["-c:v", "libvpx-vp9"],
        "vp8" => &["-c:v", "libvpx"],
        _ => &[],
    };
    let form = if decoder.is_empty() || deep { form } else { "rgba" };
    let mut command = program("ffmpeg");
    command.args(["-format_whitelist", CONTAINERS, "-protocol_whitelist", "file"]).args(decoder);
    command.arg("-i").arg(path).args(["-map", "0:v:0", "-fps_mode", "passthrough", "-pix_fmt", form]);
    command.args(["-compression_level", "1", "-start_number", "1"]);
    command.args(["-frames:v", &(MOST_FRAMES + 1).to_string()]).arg(folder.join("frame.%06d.png"));
    run_while(path, command, cancel, || frames_so_far(path, folder).map(decoded))?;
    let frames = (1..).take_while(|number| folder.join(format!("frame.{number:06}.png")).exists()).count();
    if frames == 0 {
        return Err(MediaError::broken(path, "it holds no frames"));
    }
    if frames > MOST_FRAMES as usize {
        let why = format!("it has more than {MOST_FRAMES} frames");
        return Err(MediaError::Unsupported { path: path.into(), why });
    }
    let srgb = stream.color_transfer == "iec61966-2-1";
    let fps = rate(&stream.r_frame_rate);
    let note = Note { frames: frames as i32, fps, codec: stream.codec_name, srgb };
    let file = folder.join("note.json");
    std::fs::write(&file, serde_json::to_vec(&note).unwrap_or_default()).map_err(MediaError::io(&file))
}

fn has_alpha(form: &str) -> bool {
    ["yuva", "rgba", "argb", "bgra", "abgr", "gbrap", "ya"].iter().any(|start| form.starts_with(start))
}

/// `24000/1001`.
fn rate(text: &str) -> f64 {
    let (over, under) = text.split_once('/').unwrap_or((text, "1"));
    match (over.parse::<f64>(), under.parse::<f64>()) {
        (Ok(over), Ok(under)) if over > 0.0 && under > 0.0 => over / under,
        _ => 24.0,
    }
}

fn probe(path: &Path, cancel: &Cancel) -> Result<Stream, MediaError> {
    let mut command = program("ffprobe");
    command.args(["-format_whitelist", CONTAINERS, "-protocol_whitelist", "file"]);
    command.args(["-select_streams", "v:0", "-show_streams", "-of", "json"]).arg(path);
    let said = run(path, command, cancel)?;
    let probed: Probed =
        serde_json::from_slice(&said).map_err(|_| MediaError::broken(path, "it holds no moving picture"))?;
    probed.streams.into_iter().next().ok_or_else(|| MediaError::broken(path, "it holds no moving picture"))
}

pub(crate) fn program(name: &str) -> Command {
    let mut command = Command::new(name);
    command.args(["-v", "error"]);
    if name == "ffmpeg" {
        command.args(["-nostdin", "-y"]);
    }
    command
}

/// What a shell says of a program that is not there, by POSIX.
const NOT_FOUND: i32 = 127;
/// Runs what it is given, and ends that when its input closes: which it does when this program ends, however that ends.
const HELD: &str = r#"exec 3<&0
"$@" </dev/null 3<&- &
child=$!
( while read -r _ <&3; do :; done; kill -9 $child ) 2>/dev/null >/dev/null &
watcher=$!
exec 3<&-
wait $child
code=$?
kill $watcher 2>/dev/null
exit $code"#;

/// The same command, which ends with us.
fn held(command: &Command) -> Command {
    let mut shell = Command::new("/bin/sh");
    shell.args(["-c", HELD, "sh"]).arg(command.get_program()).args(command.get_args());
    shell
}

/// How many frames are there; an error where they take more of the disk than they may.
fn frames_so_far(path: &Path, folder: &Path) -> Result<usize, MediaError> {
    let files = std::fs::read_dir(folder).map_err(MediaError::io(folder))?.flatten();
    let sizes: Vec<u64> = files.filter_map(|file| Some(file.metadata().ok()?.len())).collect();
    if sizes.iter().sum::<u64>() <= MOST_BYTES {
        return Ok(sizes.len());
    }
    let why = format!("its frames take more than {} GB", MOST_BYTES >> 30);
    Err(MediaError::Unsupported { path: path.into(), why })
}

/// Runs a program to its end, or ends it when nobody waits any more; gives what it wrote.
pub(crate) fn run(path: &Path, command: Command, cancel: &Cancel) -> Result<Vec<u8>, MediaError> {
    run_while(path, command, cancel, || Ok(()))
}

/// As [`run`], for as long as `fine` finds no fault, which is asked every now and then.
fn run_while(
    path: &Path,
    command: Command,
    cancel: &Cancel,
    fine: impl Fn() -> Result<(), MediaError>,
) -> Result<Vec<u8>, MediaError> {
    let name = command.get_program().to_string_lossy().into_owned();
    let io = MediaError::io(path);
    // Files, since a program that fills a pipe nobody reads would wait for ever.
    let (out, err) = match (tempfile::tempfile(), tempfile::tempfile()) {
        (Ok(out), Ok(err)) => (out, err),
        (Err(source), _) | (_, Err(source)) => return Err(io(source)),
    };
    let (Ok(to_out), Ok(to_err)) = (out.try_clone(), err.try_clone()) else {
        return Err(MediaError::broken(path, format!("{name} cannot be listened to")));
    };
    let started = held(&command).stdin(Stdio::piped()).stdout(to_out).stderr(to_err).spawn();
    let mut child = started.map_err(MediaError::io(path))?;
    let mut looked = Instant::now();
    let ended = loop {
        if let Some(status) = child.try_wait().map_err(MediaError::io(path))? {
            break status;
        }
        let mut fault = cancel.check().map_err(MediaError::from).err();
        if looked.elapsed() > ASK_EVERY {
            looked = Instant::now();
            fault = fault.or(fine().err());
        }
        if let Some(fault) = fault {
            drop(child.stdin.take());
            let _ = child.wait();
            return Err(fault);
        }
        std::thread::sleep(LOOK_EVERY);
    };
    if ended.success() {
        return Ok(all_of(out));
    }
    if ended.code() == Some(NOT_FOUND) {
        return Err(MediaError::NoProgram { path: path.into(), program: name });
    }
    let said = String::from_utf8_lossy(&all_of(err)).into_owned();
    let last = said.lines().rev().find(|line| !line.trim().is_empty()).unwrap_or("it gave no reason");
    Err(MediaError::broken(path, format!("{name}: {last}")))
}

fn all_of(mut file: std::fs::File) -> Vec<u8> {
    use std::io::{Read, Seek};
    let mut all = Vec::new();
    if file.rewind().is_ok() {
        let _ = file.read_to_end(&mut all);
    }
    all
}
