//! A signal in cells of one value each.

use veil_pixels::Window;
use veil_pixels::filter::mosaic::{CellValue, Mosaic};

use crate::controls::{ControlSet, ControlSpec, NumberSpec, Unit};
use crate::signal::{Domain, Pixels};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls, each_kind};

const fn side(name: &'static str) -> ControlSpec<NumberSpec> {
    ControlSpec::number(name, 24.0, (1.0, 200.0)).within(1.0, 2000.0).unit(Unit::Px)
}

controls! {
    struct MosaicControls {
        wide: f64 = side("cell width").help("How wide a cell is; a cell as wide as one pixel leaves the rows fine."),
        high: f64 = side("cell height").help("How high a cell is."),
        corner: [f64; 2] = ControlSpec::point("corner", [0.0, 0.0]).help("Where the corner of one cell lies."),
        value: CellValue = ControlSpec::choice("shows", CellValue::Mean)
            .help("The mean of its pixels, the one in its middle, or means that flow into each other."),
    }
}

choice! {
    CellValue {
        Mean = "mean", "the mean";
        Sample = "sample", "one sample";
        Smooth = "smooth", "smooth";
    }
}

fn mosaic(controls: &MosaicControls, context: &Context<'_>) -> Mosaic {
    let scale = context.scale();
    Mosaic {
        cell: [controls.wide, controls.high].map(|side| scale.length(side)),
        corner: controls.corner.map(|at| scale.length(at)),
        value: controls.value,
    }
}

pub(super) struct MosaicStage {
    spec: StageSpec,
}

impl MosaicStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "mosaic",
                name: "Mosaic",
                family: Family::Field,
                help: "Cuts a signal into cells of one value each, of their own width and height.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: MosaicControls::specs(),
                proxy_tolerance: 0.1,
            },
        }
    }
}

impl Stage for MosaicStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("tiles", &[("wide", 32.0), ("high", 32.0)]),
            Preset::of("bands", &[("wide", 2000.0), ("high", 8.0)]),
            Preset::of("shards", &[("wide", 90.0), ("high", 6.0)]),
        ]
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.main_domain().unwrap_or(Domain { data: Window::EMPTY, ..context.everywhere() }))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let mosaic = mosaic(&context.controls()?, context);
        let data = context.main_domain().map_or(Window::EMPTY, |main| main.data);
        let main = context.main(mosaic.reads(wanted, data))?;
        Ok(each_kind!(&main.pixels, raster => mosaic.apply(raster, data, wanted, context.cancel())?))
    }
}
