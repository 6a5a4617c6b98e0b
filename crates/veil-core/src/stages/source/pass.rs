//! One pass of a multi-layer plate.

use veil_pixels::Window;

use crate::controls::{ControlSet, ControlSpec, MediaSort, Unit, Value};
use crate::ids::MediaId;
use crate::key::Key;
use crate::media::Media;
use crate::placing::Placing;
use crate::plates::Role;
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, Ride, Stage, StageError};
use crate::{controls, each_kind};

/// The slot of a picture that the pass travels with.
const PICTURE: &str = "picture";

controls! {
    struct PassControls {
        media: Option<MediaId> = ControlSpec::media("plate", MediaSort::Plate).help("Which of the shot's sequences or stills."),
        pass: Role = ControlSpec::choice("pass", Role::Depth)
            .help("What the pass is for; the file's own channel names are matched to it."),
        shift: i32 = ControlSpec::whole("start offset", 0, -10_000, 10_000).unit(Unit::Frames)
            .help("Frame 1001 of the shot shows frame 1001 minus this of the plate."),
        placed: Placing = ControlSpec::choice("placed", Placing::TopLeft)
            .help("How a plate of another size than the shot stands in it."),
    }
}

fn given(values: &[Value]) -> SignalKind {
    PassControls::read(values).map_or(SignalKind::Field, |controls| controls.pass.kind())
}

pub(super) struct PassStage {
    spec: StageSpec,
}

impl PassStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "pass",
                name: "Pass",
                family: Family::Source,
                help: "One pass of a rendered plate; with a picture plugged, that picture's, where the picture went.",
                main: None,
                slots: vec![SlotSpec::new(PICTURE, "picture", Accepts::Picture)],
                gives: Gives::ByControls(given),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: PassControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

impl Stage for PassStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        if context.domain_of(PICTURE).is_none() {
            let controls: PassControls = context.controls()?;
            key.add(&context.rendered(controls.media, controls.shift)?.fingerprint()?);
        }
        Ok(())
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        if let Some(domain) = context.domain_of(PICTURE) {
            return Ok(domain);
        }
        let controls: PassControls = context.controls()?;
        context.rendered(controls.media, controls.shift)?.domain(context, controls.placed)
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: PassControls = context.controls()?;
        if let Some(travelled) = context.ride(PICTURE, &Ride::Pass(controls.pass), wanted)? {
            return Ok(travelled);
        }
        let plate = context.rendered(controls.media, controls.shift)?;
        from_file(context, (plate.media, plate.frame, controls.placed), controls.pass, wanted)
    }
}

/// A pass as its file has it, at the proxy scale.
pub(super) fn from_file(
    context: &Context<'_>,
    (media, frame, placing): (&Media, i32, Placing),
    role: Role,
    wanted: Window,
) -> Result<Pixels, StageError> {
    let file = context.pass(media, frame, role)?;
    let (scale, cancel) = (context.scale(), context.cancel());
    let of_file = |window: Window| -> Result<Pixels, StageError> {
        Ok(match each_kind!(&file.pixels, raster => raster.cropped(window)) {
            Pixels::Picture(picture) if role.averages() => {
                let space = media.colour.space();
                Pixels::Picture(space.converted(context.working().space(), &picture, cancel)?)
            }
            other => other,
        })
    };
    let placed = context.placed(media, frame, placing)?;
    let part = placed.pixels(wanted.scaled_up(scale.divisor()), role.averages(), cancel, of_file)?;
    Ok(part.at_scale(wanted, scale, role.averages(), cancel)?)
}
