//! `render`: frames to files, without a server.

use std::path::PathBuf;
use std::sync::Arc;

use clap::Args;
use veil_core::engine::Engine;
use veil_core::setup::{Command, Edit, Frames, Setup, StageEntry};
use veil_core::shape;
use veil_core::signal::Scale;
use veil_media::{BakeFolder, Bits, ClipNumbers, ClipRange, ClipTones, FilePlates, OutputPattern, RenderJob};
use veil_pixels::Cancel;
use veil_store::{DataFolder, Store};

use crate::Done;
use crate::error::ProgramError;
use crate::files::read_setup;
use crate::out::{mention, say};
use crate::vary::{Variation, place, variations};

#[derive(Args)]
pub(crate) struct RenderArguments {
    /// A setup's file; its media are found relative to it.
    #[arg(long, conflicts_with = "shot", required_unless_present = "shot")]
    setup: Option<PathBuf>,
    /// A shot of the data folder: SHOW/SHOT or SHOW/SHOT@VERSION.
    #[arg(long)]
    shot: Option<String>,
    /// The data folder, with --shot.
    #[arg(long, default_value = "data")]
    data: PathBuf,
    /// The row to render, by number or name; the final row where it is not given.
    #[arg(long)]
    stage: Option<String>,
    /// Which frames: 1001-1048.
    #[arg(long)]
    frames: Frames,
    /// One to how many: 1, 2, 3, 4 or 8.
    #[arg(long, default_value_t = 1)]
    scale: u32,
    /// A control set for this render: 'Displace.strength_x=4'; may be given more than once.
    #[arg(long)]
    set: Vec<String>,
    /// A control at several values, each a set of frames of its own: 'rough.seed=1..12' or 'rough.gain=0.4;0.6';
    /// given more than once, every combination. The value stands in the files' names before the frame.
    #[arg(long)]
    vary: Vec<String>,
    /// Where to: 'DIR/name.####.exr', .png, .tif, .jpg, .hdr, or a clip: 'DIR/name.mp4' or .webm.
    #[arg(long)]
    out: String,
    /// The curve of a clip's numbers, which it says of itself: of BT.709 video, or of sRGB.
    #[arg(long, value_parser = ["bt709", "srgb"])]
    tones: Option<String>,
    /// Which numbers of a clip are black and white: limited, 16 and 235 of 255, as video has it, or full.
    #[arg(long, value_parser = ["limited", "full"])]
    range: Option<String>,
    /// Bits of a channel: PNG 8 or 16, TIFF 8, 16 or 32 (floats).
    #[arg(long, value_parser = ["8", "16", "32"])]
    bits: Option<String>,
    /// Bakes of the data folder stand in for what they were made of; without this all is worked out anew.
    #[arg(long, requires = "shot")]
    use_bakes: bool,
    /// How many threads; as many as there are processors where it is not given.
    #[arg(long)]
    threads: Option<usize>,
    /// Most memory for held pictures, in megabytes.
    #[arg(long, default_value_t = 1024)]
    cache: u64,
}

pub(crate) fn render(arguments: &RenderArguments) -> Done {
    let (mut setup, root) = match (&arguments.setup, &arguments.shot) {
        (Some(file), _) => {
            let folder = file.parent().filter(|folder| !folder.as_os_str().is_empty());
            (read_setup(file)?, folder.map_or_else(|| PathBuf::from("."), PathBuf::from))
        }
        (None, Some(shot)) => from_store(&arguments.data, shot)?,
        (None, None) => return Err(ProgramError::Bad("give --setup or --shot".into())),
    };
    for text in &arguments.set {
        setup = with_set(&setup, text)?;
    }
    let stage = match &arguments.stage {
        None => setup.final_id().ok_or_else(|| ProgramError::Bad("the setup has no final row".into()))?,
        Some(wanted) => find_row(&setup, wanted)?.id,
    };
    let scale = Scale::one_to(arguments.scale)
        .ok_or_else(|| ProgramError::Bad(format!("one to {} is no proxy scale", arguments.scale)))?;
    if !arguments.use_bakes {
        setup = setup.without_bakes();
    }
    let mut jobs = Vec::new();
    for Variation { setup, mark } in variations(setup, &arguments.vary)? {
        let output = arguments.output(&place(&arguments.out, &mark))?;
        jobs.push(RenderJob { setup, stage, scale, output });
    }
    let threads = arguments.threads.unwrap_or(0);
    let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build();
    let pool = pool.map_err(|error| ProgramError::Bad(error.to_string()))?;
    let kept = BakeFolder::new(arguments.data.join("bakes"), u64::MAX);
    let engine = Engine::new(arguments.cache << 20).with_bakes(Arc::new(kept));
    let plates = FilePlates::new(root);
    pool.install(|| jobs.iter().try_for_each(|job| all_frames(job, &engine, &plates, arguments.frames)))
}

impl RenderArguments {
    /// Where one variation goes, and in which form.
    fn output(&self, out: &str) -> Result<OutputPattern, ProgramError> {
        let output: OutputPattern = out.parse()?;
        let output = match self.bits.as_deref() {
            None => output,
            Some("8") => output.with_bits(Bits::Eight)?,
            Some("16") => output.with_bits(Bits::Sixteen)?,
            Some(_) => output.with_bits(Bits::Float)?,
        };
        if self.tones.is_none() && self.range.is_none() {
            return Ok(output);
        }
        let srgb = self.tones.as_deref() == Some("srgb");
        let tones = if srgb { ClipTones::Srgb } else { ClipTones::Bt709 };
        let full = self.range.as_deref() == Some("full");
        let range = if full { ClipRange::Full } else { ClipRange::Limited };
        Ok(output.with_numbers(ClipNumbers { tones, range })?)
    }
}

fn all_frames(job: &RenderJob, engine: &Engine, plates: &FilePlates, frames: Frames) -> Done {
    let mut failed = 0;
    for frame in frames.first..=frames.last {
        match job.frame(engine, plates, frame, &Cancel::new()) {
            Ok(written) => {
                if written.beyond > 0 {
                    mention!("frame {frame}: {}", held_down(written.beyond));
                }
                // The frames of a clip go once it is made.
                if job.output.clip().is_none() {
                    say!("{}", written.file.display());
                }
            }
            Err(error) => {
                failed += 1;
                mention!("frame {frame}: {error}");
            }
        }
    }
    if failed > 0 {
        return Err(ProgramError::Frames { count: failed, total: frames.count() });
    }
    job.finish(frames, &Cancel::new())?;
    job.output.clip().iter().for_each(|clip| say!("{}", clip.display()));
    Ok(())
}

/// That so many values were larger than a half float can be.
fn held_down(values: usize) -> String {
    match values {
        1 => "a value was beyond what the file holds and is ±65504 in it, or was no number and is 0".into(),
        more => format!(
            "{more} values were beyond what the file holds and are ±65504 in it, or were no numbers and are 0"
        ),
    }
}

fn from_store(data: &std::path::Path, shot: &str) -> Result<(Setup, PathBuf), ProgramError> {
    let (place, version) = match shot.split_once('@') {
        Some((place, version)) => (place, Some(version)),
        None => (shot, None),
    };
    let (show, code) =
        place.split_once('/').ok_or_else(|| ProgramError::Bad(format!("`{shot}`: write SHOW/SHOT")))?;
    if !data.join("veil.db").exists() {
        return Err(ProgramError::Bad(format!("`{}` is no data folder", data.display())));
    }
    let store = Store::open(DataFolder::at(data)?)?;
    let record = store.shot(show, code)?;
    let root = store.folder().show(&record.folder);
    let setup = match version {
        None => record.setup,
        Some(number) => {
            let number = number.trim_start_matches('v').parse();
            let number =
                number.map_err(|_| ProgramError::Bad(format!("`{shot}`: the version is no number")))?;
            store.version(record.id, number)?
        }
    };
    Ok((setup, root))
}

fn find_row<'a>(setup: &'a Setup, wanted: &str) -> Result<&'a StageEntry, ProgramError> {
    let named = setup.stages.iter().find(|row| row.name.eq_ignore_ascii_case(wanted));
    let numbered = || wanted.parse().ok().and_then(|id| setup.stage(veil_core::setup::StageId(id)));
    named.or_else(numbered).ok_or_else(|| ProgramError::Bad(format!("the setup has no row `{wanted}`")))
}

/// The setup with `Row.control=value`.
pub(crate) fn with_set(setup: &Setup, text: &str) -> Result<Setup, ProgramError> {
    let bad = |why: &str| ProgramError::Bad(format!("`{text}`: {why}"));
    let (target, value) = text.split_once('=').ok_or_else(|| bad("write Row.control=value"))?;
    let (row, control) = target.rsplit_once('.').ok_or_else(|| bad("write Row.control=value"))?;
    let entry = find_row(setup, row)?;
    let spec = shape::controls(entry)
        .into_iter()
        .find(|spec| spec.id == control || spec.name.eq_ignore_ascii_case(control))
        .ok_or_else(|| bad("the row has no such control"))?;
    let setting = spec.kind.written(value).map_err(bad)?;
    let command = Command::Set { stage: entry.id, control: spec.id.into(), setting: Some(setting) };
    Edit::of(&command, setup).map(|(setup, _)| setup).map_err(|error| bad(&error.to_string()))
}
