//! A sequence, clip or still of the shot.

use veil_pixels::{Cancel, Edge, Picture, Raster, Window, colour, resize};

use crate::control::{ControlSet, ControlSpec, Unit};
use crate::engine::{Context, StageError};
use crate::plates::Role;
use crate::setup::{ColourSpace, Media, MediaId};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{AmountRule, Family, Gives, StageSpec};
use crate::{choice, controls};

use super::Stage;

controls! {
    struct PlateControls {
        media: Option<MediaId> = ControlSpec::media("plate").help("Which of the shot's sequences or stills."),
        shift: i32 = ControlSpec::whole("start offset", 0, -10_000, 10_000).unit(Unit::Frames)
            .help("Frame 1001 of the shot shows frame 1001 minus this of the plate."),
        outside: OutsideRange = ControlSpec::choice("outside its range", OutsideRange::Hold)
            .help("What is shown before the plate's first frame and after its last."),
        colour: ColourIn = ControlSpec::choice("colour space", ColourIn::AsListed)
            .help("How the file's numbers stand for light; as listed on the plates page, unless said here."),
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

/// How the file's numbers stand for light.
#[derive(Clone, Copy, PartialEq)]
enum ColourIn {
    AsListed,
    Linear,
    Srgb,
}
choice! {
    ColourIn {
        AsListed = "listed", "as listed";
        Linear = "linear", "linear BT.709";
        Srgb = "srgb", "sRGB";
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

/// The picture in linear light; none where it already is.
fn to_linear(
    picture: &Picture,
    controls: &PlateControls,
    media: &Media,
    cancel: &Cancel,
) -> Result<Option<Picture>, StageError> {
    let encoded = match controls.colour {
        ColourIn::AsListed => media.colour == ColourSpace::Srgb,
        ColourIn::Linear => false,
        ColourIn::Srgb => true,
    };
    if !encoded {
        return Ok(None);
    }
    let decoded = picture.map(cancel, |pixel| {
        let [r, g, b, a] = colour::unpremultiplied(pixel);
        let linear = [r, g, b].map(colour::linear_from_srgb);
        colour::premultiplied([linear[0], linear[1], linear[2], a])
    })?;
    Ok(Some(decoded))
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
                controls: PlateControls::specs(),
                proxy_tolerance: 1e-3,
            },
        }
    }
}

impl Stage for Plate {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn time_key(&self, context: &Context<'_>) -> Result<u64, StageError> {
        let controls: PlateControls = context.controls()?;
        let media = context.medium(controls.media)?;
        match file_frame(media, &controls, context.frame()) {
            Some(frame) => Ok(context.plates().fingerprint(media, frame)?),
            None => Ok(0),
        }
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: PlateControls = context.controls()?;
        let media = context.medium(controls.media)?;
        let display = context.everywhere().display;
        let Some(frame) = file_frame(media, &controls, context.frame()) else {
            return Ok(Domain { display, data: Window::EMPTY });
        };
        let full = context.plates().domain(media, frame)?;
        Ok(Domain { display, data: full.data.scaled_down(context.scale().divisor()) })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: PlateControls = context.controls()?;
        let media = context.medium(controls.media)?;
        let Some(frame) = file_frame(media, &controls, context.frame()) else {
            return Ok(Pixels::Picture(Raster::clear(wanted)));
        };
        let file = context.pass(media, frame, Role::Beauty)?;
        let Pixels::Picture(picture) = &file.pixels else {
            return Err(StageError::Fault(format!("`{}` is no picture", media.name)));
        };
        let linear = to_linear(picture, &controls, media, context.cancel())?;
        let picture = linear.as_ref().unwrap_or(picture);
        let divisor = context.scale().divisor();
        if divisor == 1 {
            return Ok(Pixels::Picture(picture.cropped(wanted)));
        }
        Ok(Pixels::Picture(resize::block_means(picture, divisor, context.cancel())?.cropped(wanted)))
    }
}
