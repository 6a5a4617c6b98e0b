//! A matte of named things, from a Cryptomatte.

use veil_pixels::{Edge, Window};

use crate::controls::{ControlSet, ControlSpec, MediaSort, Unit};
use crate::ids::MediaId;
use crate::key::Key;
use crate::media::Media;
use crate::placing::Placing;
use crate::plates::IdKind;
use crate::signal::{Domain, Pixels, Scale, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, Ride, Stage, StageError};
use crate::{controls, each_kind};

/// The slot of a picture that the things travel with.
const PICTURE: &str = "picture";

controls! {
    struct IdControls {
        media: Option<MediaId> = ControlSpec::media("plate", MediaSort::Plate).help("The rendered plate that carries the Cryptomatte."),
        of: IdKind = ControlSpec::choice("kind", IdKind::Object).help("Which of the plate's Cryptomattes."),
        names: Vec<String> = ControlSpec::names("things")
            .help("What is covered, by name; * stands for any letters. Pick on the picture or from the list."),
        shift: i32 = ControlSpec::whole("start offset", 0, -10_000, 10_000).unit(Unit::Frames)
            .help("Frame 1001 of the shot shows frame 1001 minus this of the plate."),
        placed: Placing = ControlSpec::choice("placed", Placing::TopLeft)
            .help("How a plate of another size than the shot stands in it."),
    }
}

pub(super) struct IdPick {
    spec: StageSpec,
}

impl IdPick {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "id_pick",
                name: "ID pick",
                family: Family::Field,
                help: "Covers the picked things of a rendered plate, edges and all; with a picture plugged, where that picture went.",
                main: None,
                slots: vec![SlotSpec::new(PICTURE, "picture", Accepts::Picture)],
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: IdControls::specs(),
                proxy_tolerance: 1e-3,
            },
        }
    }
}

impl Stage for IdPick {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        if context.domain_of(PICTURE).is_none() {
            let controls: IdControls = context.controls()?;
            key.add(&context.rendered(controls.media, controls.shift)?.fingerprint()?);
        }
        Ok(())
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        if let Some(domain) = context.domain_of(PICTURE) {
            return Ok(domain);
        }
        let controls: IdControls = context.controls()?;
        context.rendered(controls.media, controls.shift)?.domain(context, controls.placed)
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: IdControls = context.controls()?;
        let things = Ride::Things(controls.of, controls.names.clone());
        if let Some(travelled) = context.ride(PICTURE, &things, wanted)? {
            return Ok(travelled);
        }
        let plate = context.rendered(controls.media, controls.shift)?;
        let file = (plate.media, plate.frame, controls.placed);
        from_file(context, file, (controls.of, &controls.names), wanted)
    }
}

/// Coverage as its file has it, at the proxy scale.
pub(in crate::stages) fn from_file(
    context: &Context<'_>,
    (media, frame, placing): (&Media, i32, Placing),
    (kind, names): (IdKind, &[String]),
    wanted: Window,
) -> Result<Pixels, StageError> {
    let (scale, cancel) = (context.scale(), context.cancel());
    let placed = context.placed(media, frame, placing)?;
    // Where whole pixels stay whole ones, it is read as small as it is wanted.
    if let Some([right, down]) = placed.shift_at(scale) {
        let coverage = context.id_coverage(media, frame, kind, names, scale)?;
        return Ok(each_kind!(&coverage.pixels, raster => {
            let placed = raster.clone().shifted(right, down);
            placed.extended(wanted, placed.window(), Edge::Clear)
        }));
    }
    let coverage = context.id_coverage(media, frame, kind, names, Scale::FULL)?;
    let of_file = |window: Window| -> Result<Pixels, StageError> {
        Ok(each_kind!(&coverage.pixels, raster => raster.cropped(window)))
    };
    let part = placed.pixels(wanted.scaled_up(scale.divisor()), true, cancel, of_file)?;
    Ok(part.at_scale(wanted, scale, true, cancel)?)
}
