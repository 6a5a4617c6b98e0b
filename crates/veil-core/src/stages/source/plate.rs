//! A sequence, clip or still of the shot.

use veil_pixels::colour::space::{Curve, Space};
use veil_pixels::{Cancel, Cancelled, Edge, Picture, Raster, Rgba, Window};

use crate::colour::ListedOr;
use crate::controls::{ControlSet, ControlSpec, MediaSort, Unit};
use crate::ids::MediaId;
use crate::key::Key;
use crate::media::Media;
use crate::placing::Placing;
use crate::plates::{Alpha, Role};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Faulty, Ride, Stage, StageError};
use crate::stages::matte::id_pick;
use crate::{choice, controls};

use super::pass;

controls! {
    struct PlateControls {
        media: Option<MediaId> = ControlSpec::media("plate", MediaSort::Plate).help("Which of the shot's sequences or stills."),
        shift: i32 = ControlSpec::whole("start offset", 0, -10_000, 10_000).unit(Unit::Frames)
            .help("Frame 1001 of the shot shows frame 1001 minus this of the plate."),
        outside: OutsideRange = ControlSpec::choice("outside its range", OutsideRange::Hold)
            .help("What is shown before the plate's first frame and after its last."),
        colour: ListedOr = ControlSpec::choice("colour space", ListedOr(None))
            .help("How the file's numbers stand for light; as listed on the plates page, unless said here."),
        placed: Placing = ControlSpec::choice("placed", Placing::TopLeft)
            .help("How a plate of another size than the shot stands in it. Fitted and filling, the shape of its pixels counts."),
        alpha: AlphaSaid = ControlSpec::choice("alpha", AlphaSaid::ByFile)
            .help("How colours go with alpha: as the file says, or, where a file says it wrongly, as is said here."),
    }
}

/// How colours go with alpha.
#[derive(Clone, Copy, PartialEq)]
enum AlphaSaid {
    ByFile,
    Straight,
    Premultiplied,
    Opaque,
}
choice! {
    AlphaSaid {
        ByFile = "by_file", "as the file says";
        Straight = "straight", "colours are not multiplied by it";
        Premultiplied = "premultiplied", "colours are multiplied by it";
        Opaque = "opaque", "none: all is opaque";
    }
}

impl AlphaSaid {
    /// Whether the file's pixels are premultiplied as they are.
    fn is_premultiplied(self, by_file: Alpha) -> bool {
        self == Self::Premultiplied || self == Self::ByFile && by_file == Alpha::Premultiplied
    }

    /// The picture premultiplied.
    fn taken(self, picture: Picture, by_file: Alpha, cancel: &Cancel) -> Result<Picture, Cancelled> {
        match self {
            Self::ByFile => by_file.premultiplied(picture, cancel),
            Self::Straight => Alpha::Straight.premultiplied(picture, cancel),
            Self::Premultiplied => Ok(picture),
            Self::Opaque => picture.map(cancel, |[r, g, b, _]: Rgba| [r, g, b, 1.0]),
        }
    }
}

/// What a plate shows outside its own frames.
#[derive(Clone, Copy, PartialEq)]
enum OutsideRange {
    Hold,
    Clear,
    Mirror,
    Repeat,
}
choice! {
    OutsideRange {
        Hold = "hold", "hold";
        Clear = "clear", "clear";
        Mirror = "mirror", "mirror";
        Repeat = "repeat", "repeat";
    }
}

/// The file's frame that a frame of the shot shows; none where the plate is clear.
fn file_frame(media: &Media, controls: &PlateControls, frame: f64) -> Option<i32> {
    let wanted = frame.floor() as i32 - controls.shift;
    let Some(frames) = media.frames else { return Some(wanted) };
    let edge = match controls.outside {
        OutsideRange::Hold => Edge::Hold,
        OutsideRange::Clear => Edge::Clear,
        OutsideRange::Mirror => Edge::Mirror,
        OutsideRange::Repeat => Edge::Repeat,
    };
    edge.index(wanted, frames.first, frames.last + 1)
}

/// What is said of values that are no numbers; none where all are.
fn told_of_faults(Faulty { none, infinite }: Faulty) -> Option<String> {
    let counted = |count: usize, one: &str, more: &str| match count {
        0 => None,
        1 => Some(one.to_owned()),
        count => Some(format!("{count} {more}")),
    };
    let none = counted(none, "a value that is no number and 0 here", "values that are no numbers and 0 here");
    let infinite = counted(
        infinite,
        "a value that is infinite and ±65504 here",
        "values that are infinite and ±65504 here",
    );
    let all: Vec<String> = none.into_iter().chain(infinite).collect();
    (!all.is_empty()).then(|| all.join(" and "))
}

pub(super) struct Plate {
    spec: StageSpec,
}

impl Plate {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "plate",
                name: "Plate",
                family: Family::Source,
                help: "Brings in footage of the shot, scene-linear and premultiplied.",
                main: None,
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Opacity,
                passes: Passes::Brings,
                controls: PlateControls::specs(),
                proxy_tolerance: 1e-3,
            },
        }
    }
}

/// A window of the frame at its scale, from a plate of linear light that is moved by so many pixels of it.
fn smaller(
    context: &Context<'_>,
    media: &Media,
    frame: i32,
    (space, [right, down]): (Space, [i32; 2]),
    wanted: Window,
) -> Result<Pixels, StageError> {
    let file = context.plate_at(media, frame, context.scale())?;
    let Pixels::Picture(picture) = &file.pixels else { return Err(context.fault("is no picture")) };
    let placed = picture.clone().shifted(right, down);
    let part = placed.extended(wanted, placed.window(), Edge::Clear);
    Ok(Pixels::Picture(space.converted(context.working().space(), &part, context.cancel())?))
}

impl Stage for Plate {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        let controls: PlateControls = context.controls()?;
        let media = context.medium(controls.media)?;
        if let Some(frame) = file_frame(media, &controls, context.frame()) {
            key.add(&context.plates().fingerprint(media, frame, context.cancel())?);
        }
        Ok(())
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: PlateControls = context.controls()?;
        let media = context.medium(controls.media)?;
        let display = context.everywhere().display;
        let Some(frame) = file_frame(media, &controls, context.frame()) else {
            return Ok(Domain { display, data: Window::EMPTY });
        };
        let placed = context.placed(media, frame, controls.placed)?;
        Ok(Domain { display, data: placed.window().scaled_down(context.scale().divisor()) })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: PlateControls = context.controls()?;
        let media = context.medium(controls.media)?;
        let Some(frame) = file_frame(media, &controls, context.frame()) else {
            return Ok(Pixels::Picture(Raster::clear(wanted)));
        };
        let (scale, cancel) = (context.scale(), context.cancel());
        let by_file = context.plates().about(media, frame, cancel)?.alpha;
        let space = controls.colour.0.unwrap_or(media.colour).space();
        let placed = context.placed(media, frame, controls.placed)?;
        // What is mixed alike before a mean and after it is read as small as it is wanted.
        if controls.alpha.is_premultiplied(by_file)
            && space.curve == Curve::Linear
            && let Some(shift) = placed.shift_at(scale)
        {
            return smaller(context, media, frame, (space, shift), wanted);
        }
        let file = context.plate(media, frame)?;
        let Pixels::Picture(picture) = &file.pixels else { return Err(context.fault("is no picture")) };
        let of_file = |window: Window| -> Result<Pixels, StageError> {
            let part = controls.alpha.taken(picture.cropped(window), by_file, cancel)?;
            Ok(Pixels::Picture(space.converted(context.working().space(), &part, cancel)?))
        };
        let part = placed.pixels(wanted.scaled_up(scale.divisor()), true, cancel, of_file)?;
        Ok(part.at_scale(wanted, scale, true, cancel)?)
    }

    fn mark(&self, context: &Context<'_>) -> Option<String> {
        let controls: PlateControls = context.controls().ok()?;
        let media = context.medium(controls.media).ok()?;
        let frame = file_frame(media, &controls, context.frame())?;
        let faults = told_of_faults(context.flaws(media, frame));
        let faults = faults.map(|faults| format!("frame {frame} of `{}` has {faults}", media.name));
        // Whoever says how it stands knows that it is of another size.
        let size =
            if context.is_set("placed") { None } else { context.other_size(media, frame, controls.placed) };
        let all: Vec<String> = size.into_iter().chain(faults).collect();
        (!all.is_empty()).then(|| all.join("; "))
    }

    fn brings(&self, context: &Context<'_>) -> Result<Vec<Role>, StageError> {
        let controls: PlateControls = context.controls()?;
        let media = context.medium(controls.media)?;
        match file_frame(media, &controls, context.frame()) {
            Some(frame) => Ok(context.plates().roles(media, frame)?),
            None => Ok(Vec::new()),
        }
    }

    fn words(&self, context: &Context<'_>) -> Result<Vec<(String, String)>, StageError> {
        let controls: PlateControls = context.controls()?;
        let media = context.medium(controls.media)?;
        match file_frame(media, &controls, context.frame()) {
            Some(frame) => Ok(context.plates().words(media, frame)?),
            None => Ok(Vec::new()),
        }
    }

    fn bring(&self, context: &Context<'_>, ride: &Ride, wanted: Window) -> Result<Pixels, StageError> {
        let controls: PlateControls = context.controls()?;
        let media = context.medium(controls.media)?;
        let frame = file_frame(media, &controls, context.frame())
            .ok_or_else(|| context.fault("is outside of its range, where nothing is"))?;
        match ride {
            Ride::Pass(role) => pass::from_file(context, (media, frame, controls.placed), *role, wanted),
            Ride::Things(kind, names) => {
                id_pick::from_file(context, (media, frame, controls.placed), (*kind, names), wanted)
            }
        }
    }
}
