//! What a stage may ask while it works.

use std::sync::Arc;

use veil_pixels::warp::perspective::Homography;
use veil_pixels::{Cancel, Edge, Field, Map, Picture, Window};

use super::asked::Asked;
use super::faulty::{Faulty, Mending};
use super::{Ride, Stage, StageError};
use crate::camera::CameraAt;
use crate::colour::Working;
use crate::controls::ControlSet;
use crate::feed::Moment;
use crate::ids::MediaId;
use crate::key::{ContentHash, Key};
use crate::media::Media;
use crate::picture::Frames;
use crate::placing::{Placed, Placing, told_of_size};
use crate::plates::{IdKind, Plates, Role};
use crate::signal::{Domain, Pixels, Scale, Signal, SignalKind, Take};
use crate::spec::MAIN;

/// One frame of a rendered plate.
pub struct Rendered<'a> {
    /// The plate.
    pub media: &'a Media,
    /// The frame of its own numbering.
    pub frame: i32,
    plates: &'a dyn Plates,
    cancel: &'a Cancel,
}

impl Rendered<'_> {
    /// Equal as long as the file is the same.
    pub fn fingerprint(&self) -> Result<u64, StageError> {
        Ok(self.plates.fingerprint(self.media, self.frame, self.cancel)?)
    }

    /// Where it exists, shown in the frame of the shot.
    pub fn domain(&self, context: &Context<'_>, placing: Placing) -> Result<Domain, StageError> {
        let placed = context.placed(self.media, self.frame, placing)?;
        let display = context.everywhere().display;
        Ok(Domain { display, data: placed.window().scaled_down(context.scale().divisor()) })
    }
}

/// A stage at a frame, with its values and inputs.
#[derive(Clone, Copy)]
pub struct Context<'a> {
    stage: &'a dyn Stage,
    asked: &'a dyn Asked,
}

impl<'a> Context<'a> {
    pub(crate) const fn new(stage: &'a dyn Stage, asked: &'a dyn Asked) -> Self {
        Self { stage, asked }
    }

    /// The stage's controls at this frame.
    pub fn controls<C: ControlSet>(&self) -> Result<C, StageError> {
        C::read(self.asked.values()).ok_or_else(mistyped)
    }

    /// The stage's controls at each moment that it is seen in; at the frame alone where it is seen sharp or does not change.
    pub fn over_shutter<C: ControlSet>(&self) -> Result<Vec<C>, StageError> {
        let mut all = Vec::new();
        self.asked.over_shutter(&mut |values| all.push(C::read(values)));
        all.into_iter().map(|read| read.ok_or_else(mistyped)).collect()
    }

    /// The stage's controls as they are at another frame.
    pub fn controls_at<C: ControlSet>(&self, frame: f64) -> Result<C, StageError> {
        C::read(&self.asked.values_at(frame)).ok_or_else(mistyped)
    }

    /// The frame; may lie between frames.
    pub fn frame(&self) -> f64 {
        self.asked.moment().now
    }

    /// Frames since the shot's start.
    pub fn since(&self) -> f64 {
        self.asked.moment().since
    }

    /// The proxy scale.
    pub fn scale(&self) -> Scale {
        self.asked.scale()
    }

    /// A move of full-resolution places as one of this scale's.
    pub fn at_scale(&self, forth: Homography) -> Homography {
        let small = 1.0 / f64::from(self.scale().divisor());
        Homography::scale(1.0 / small, 1.0 / small).then(forth).then(Homography::scale(small, small))
    }

    /// The frame's width and height at full resolution.
    pub fn size(&self) -> [f64; 2] {
        let shot = self.asked.shot();
        [shot.width, shot.height].map(f64::from)
    }

    /// The colours that the show works in.
    pub fn working(&self) -> Working {
        self.asked.shot().working
    }

    /// To be checked in long work.
    pub fn cancel(&self) -> &'a Cancel {
        self.asked.cancel()
    }

    /// The shot's frame at this scale, with pixels everywhere in it.
    pub fn everywhere(&self) -> Domain {
        let display = self.asked.display();
        Domain { display, data: display }
    }

    /// The frames of the shot.
    pub fn frames(&self) -> Frames {
        self.asked.shot().frames
    }

    /// The frames at which what a slot takes is looked at: those that the stage says, or its own moment.
    pub(crate) fn looks(&self, slot: &str) -> Result<Vec<f64>, StageError> {
        Ok(self.stage.looks_at(self, slot)?.unwrap_or_else(|| vec![self.frame()]))
    }

    /// The signal of a slot at one of the frames that the stage says, for at least a window, as far as it exists; `None`
    /// where nothing is plugged.
    pub fn signal_at(
        &self,
        slot: &str,
        frame: f64,
        window: Window,
    ) -> Result<Option<Arc<Signal>>, StageError> {
        if !self.looks(slot)?.iter().any(|look| look.to_bits() == frame.to_bits()) {
            return Err(StageError::Fault(format!(
                "looks at frame {frame} of `{slot}` without having said so"
            )));
        }
        let Some(take) = self.asked.plugged(slot) else { return Ok(None) };
        let Some(signal) = self.asked.signal(slot, frame, window)? else { return Ok(None) };
        let Some(take) = take else { return Ok(Some(signal)) };
        match &signal.pixels {
            Pixels::Picture(picture) => {
                let field = take.apply(picture, self.working(), self.cancel())?;
                Ok(Some(Arc::new(Signal { domain: signal.domain, pixels: Pixels::Field(field) })))
            }
            Pixels::Field(_) => Ok(Some(signal)),
            Pixels::Map(_) => Err(StageError::Fault(format!("a map is plugged in `{slot}`"))),
        }
    }

    /// The kind that the main input brings; `None` where nothing is plugged.
    pub fn main_kind(&self) -> Option<SignalKind> {
        self.asked.plugged(MAIN)?;
        self.asked.kind_in(MAIN)
    }

    /// Where the main input exists; `None` where nothing is plugged.
    pub fn main_domain(&self) -> Option<Domain> {
        self.domain_of(MAIN)
    }

    /// Where the input of a slot exists, at any of the frames that it is looked at; `None` where nothing is plugged.
    pub fn domain_of(&self, slot: &str) -> Option<Domain> {
        let domains = self.looks(slot).ok()?.into_iter().filter_map(|frame| self.asked.domain(slot, frame));
        domains.reduce(|all, this| Domain { data: all.data.union(this.data), ..all })
    }

    /// The signal of a slot for at least a window, as far as it exists; `None` where nothing is plugged.
    pub fn signal(&self, slot: &str, window: Window) -> Result<Option<Arc<Signal>>, StageError> {
        self.signal_at(slot, self.frame(), window)
    }

    /// The main signal for at least a window; where nothing is plugged an empty one, of the kind that an input of a tool
    /// would bring, else a picture.
    pub fn main(&self, window: Window) -> Result<Arc<Signal>, StageError> {
        Ok(self.signal(MAIN, window)?.unwrap_or_else(|| {
            let kind = self.asked.kind_in(MAIN).unwrap_or(SignalKind::Picture);
            Arc::new(Signal { domain: self.nowhere(), pixels: Pixels::clear(kind, Window::EMPTY) })
        }))
    }

    /// The picture of a slot for at least a window; empty where nothing is plugged.
    pub fn picture(&self, slot: &str, window: Window) -> Result<Picture, StageError> {
        match self.signal(slot, window)?.map(|signal| signal.over(window)) {
            Some(Pixels::Picture(picture)) => Ok(picture),
            None => Ok(Picture::clear(window)),
            Some(_) => Err(StageError::Fault(format!("what is in `{slot}` is no picture"))),
        }
    }

    /// The map of a slot over a window; zero where nothing is plugged.
    pub fn map(&self, slot: &str, window: Window) -> Result<Map, StageError> {
        match self.signal(slot, window)?.map(|signal| signal.over(window)) {
            Some(Pixels::Map(map)) => Ok(map),
            None => Ok(Map::clear(window)),
            Some(_) => Err(StageError::Fault(format!("what is in `{slot}` is no map"))),
        }
    }

    /// The field of a slot with what `edge` reads for a window, and where it exists; `None` where
    /// nothing is plugged.
    pub fn field(
        &self,
        slot: &str,
        window: Window,
        edge: Edge,
    ) -> Result<Option<(Field, Domain)>, StageError> {
        let Some(domain) = self.domain_of(slot) else { return Ok(None) };
        let reads = edge.reads_window(window, domain.data);
        match self.signal(slot, reads)?.map(|signal| signal.over(reads)) {
            Some(Pixels::Field(field)) => Ok(Some((field, domain))),
            Some(Pixels::Picture(picture)) => {
                Ok(Some((Take::Luma.apply(&picture, self.working(), self.cancel())?, domain)))
            }
            _ => Err(StageError::Fault(format!("what is in `{slot}` is no field"))),
        }
    }

    /// The field of a slot as coverage 0–1 over a window; `None` where nothing is plugged.
    pub fn coverage(&self, slot: &str, window: Window) -> Result<Option<Field>, StageError> {
        match self.signal(slot, window)?.map(|signal| signal.over(window)) {
            None => Ok(None),
            Some(Pixels::Field(mut field)) => {
                field.change(self.cancel(), |value| if value > 0.0 { value.min(1.0) } else { 0.0 })?;
                Ok(Some(field))
            }
            Some(_) => Err(StageError::Fault(format!("what is in `{slot}` is no field"))),
        }
    }

    /// Amount of the row, for a stage that scales a move by it.
    pub fn amount(&self) -> f32 {
        self.asked.amount() as f32
    }

    /// Matte of the row over a window, for a stage that scales a move by it.
    pub fn matte(&self, window: Window) -> Result<Option<Field>, StageError> {
        self.asked.matte(window)
    }

    /// What travels with the picture in a slot, over a window; `None` where nothing is plugged.
    pub fn ride(&self, slot: &str, ride: &Ride, window: Window) -> Result<Option<Pixels>, StageError> {
        self.ride_at(slot, self.frame(), ride, window)
    }

    /// The same at one of the frames that the stage says.
    pub fn ride_at(
        &self,
        slot: &str,
        frame: f64,
        ride: &Ride,
        window: Window,
    ) -> Result<Option<Pixels>, StageError> {
        self.asked.ride(slot, frame, ride, window)
    }

    /// Equal as long as what a slot takes is the same at one of the frames that the stage says.
    pub fn print_at(&self, slot: &str, frame: f64) -> Result<Option<ContentHash>, StageError> {
        self.asked.print_at(slot, frame)
    }

    /// What `make` gives where it exists, kept for the next request by a key that says all that it is made of.
    pub fn kept(
        &self,
        key: Key,
        domain: Domain,
        make: &mut dyn FnMut() -> Result<Pixels, StageError>,
    ) -> Result<Arc<Signal>, StageError> {
        self.asked.kept(key, domain, make)
    }

    /// Equal as long as what a slot takes is the same all over the shot.
    pub fn print_of_shot(&self, slot: &str) -> Result<Option<ContentHash>, StageError> {
        self.asked.print_of_shot(slot)
    }

    /// The mean of a slot's map over its pixels and over frames spread over the shot; zero where nothing is plugged.
    pub fn mean_over_shot(&self, slot: &str) -> Result<[f32; 2], StageError> {
        Ok(self.asked.mean_over_shot(slot)?.unwrap_or_default())
    }

    /// A fault of this row.
    pub fn fault(&self, what: &str) -> StageError {
        StageError::Fault(format!("`{}` {what}", self.asked.name()))
    }

    fn nowhere(&self) -> Domain {
        Domain { data: Window::EMPTY, ..self.everywhere() }
    }

    /// A medium of the setup.
    pub fn medium(&self, id: Option<MediaId>) -> Result<&'a Media, StageError> {
        let id = id.ok_or_else(|| self.fault("has no plate yet; choose one on the bench"))?;
        let medium = self.asked.medium(id);
        medium.ok_or_else(|| self.fault("uses a plate that the setup does not list"))
    }

    /// A camera of the setup as it is at a frame of the shot, or the setup's first where none is named; with how many frames
    /// sooner or later it is seen.
    pub fn camera(&self, media: Option<MediaId>, frame: f64, shift: f64) -> Result<CameraAt, StageError> {
        let medium = match media {
            Some(_) => self.medium(media)?,
            None => self.asked.camera().ok_or_else(|| {
                self.fault("has no camera; bring one in as glTF or as a table, or set it by hand")
            })?,
        };
        let shot = self.asked.shot();
        let camera = self.plates().camera(medium, shot.fps)?;
        let own = camera.own_frame(frame, shot.frames.first, shot.frames.last) + shift;
        camera.at(own).ok_or_else(|| self.fault("has a camera without a frame"))
    }

    /// The frame of a rendered plate that is seen here; the nearest one outside of its range.
    pub fn rendered(&self, media: Option<MediaId>, shift: i32) -> Result<Rendered<'a>, StageError> {
        let media = self.medium(media)?;
        let frame = media.held_frame(self.frame(), shift);
        Ok(Rendered { media, frame, plates: self.plates(), cancel: self.cancel() })
    }

    /// Where a plate's frame stands in the shot.
    pub fn placed(&self, media: &Media, frame: i32, placing: Placing) -> Result<Placed, StageError> {
        let (plates, cancel) = (self.plates(), self.cancel());
        let (file, about) = (plates.domain(media, frame, cancel)?, plates.about(media, frame, cancel)?);
        Ok(Placed::of(placing, file, about, self.asked.shot()))
    }

    /// Whether a control of the row was set, to its default or anything else.
    pub fn is_set(&self, control: &str) -> bool {
        self.asked.is_set(control)
    }

    /// What tells that a plate's frame is of another size than the shot; none where it is of the same.
    pub fn other_size(&self, media: &Media, frame: i32, placing: Placing) -> Option<String> {
        let (plates, cancel) = (self.plates(), self.cancel());
        let (file, about) =
            (plates.domain(media, frame, cancel).ok()?, plates.about(media, frame, cancel).ok()?);
        told_of_size(placing, &media.name, file, about, self.asked.shot())
    }

    /// The files.
    pub fn plates(&self) -> &'a dyn Plates {
        self.asked.plates()
    }

    /// A pass at full resolution, kept for the next request.
    pub fn pass(&self, media: &Media, frame: i32, role: Role) -> Result<Arc<Signal>, StageError> {
        let plates = self.plates();
        let cancel = self.cancel();
        let (print, domain) =
            (plates.fingerprint(media, frame, cancel)?, plates.domain(media, frame, cancel)?);
        self.asked.kept(Key::of("pass").with(&print).with(&role), domain, &mut || {
            Ok(plates.pass(media, frame, role, self.cancel())?)
        })
    }

    /// The picture itself, as [`Self::pass`] gives it, but with 0 for what is no number and the largest half for what is
    /// infinite; these are counted.
    pub fn plate(&self, media: &Media, frame: i32) -> Result<Arc<Signal>, StageError> {
        let plates = self.plates();
        let cancel = self.cancel();
        let (print, domain) =
            (plates.fingerprint(media, frame, cancel)?, plates.domain(media, frame, cancel)?);
        self.asked.kept(Key::of("plate").with(&print), domain, &mut || {
            let Pixels::Picture(picture) = plates.pass(media, frame, Role::Beauty, cancel)? else {
                return Err(StageError::Fault(format!("`{}` is no picture", media.name)));
            };
            let mending = Mending::default();
            let mended = mending.picture(picture, cancel)?;
            self.asked.note_flaws_of(print, mending.found());
            Ok(Pixels::Picture(mended))
        })
    }

    /// The means of blocks of the picture that [`Self::plate`] gives, which are counted from the file's origin.
    pub fn plate_at(&self, media: &Media, frame: i32, scale: Scale) -> Result<Arc<Signal>, StageError> {
        let plates = self.plates();
        let (cancel, divisor) = (self.cancel(), scale.divisor());
        let (print, domain) =
            (plates.fingerprint(media, frame, cancel)?, plates.domain(media, frame, cancel)?);
        let key = Key::of("smaller plate").with(&print).with(&scale);
        self.asked.kept(key, domain.scaled_down(divisor), &mut || {
            let mending = Mending::default();
            let smaller = plates.smaller(media, frame, divisor, &|run| mending.run(run), cancel)?;
            self.asked.note_flaws_of(print, mending.found());
            Ok(Pixels::Picture(smaller))
        })
    }

    /// How many values of a plate's frame were no numbers or infinite; none until it has been read.
    pub fn flaws(&self, media: &Media, frame: i32) -> Faulty {
        let print = self.plates().fingerprint(media, frame, self.cancel());
        print.map_or(Faulty::default(), |print| self.asked.flaws_of(print))
    }

    /// Remembers how many numbers of this stage's result were none, as it is here: of these inputs, at this scale.
    pub fn note_flaws(&self, count: usize) {
        self.asked.note_flaws(count);
    }

    /// What [`Self::note_flaws`] was told of this result; of its regions, the most.
    pub fn noted_flaws(&self) -> usize {
        self.asked.noted_flaws()
    }

    /// The moment it is asked at.
    pub fn moment(&self) -> Moment {
        self.asked.moment()
    }

    /// Summed coverage of named IDs, kept for the next request: the means of blocks that are counted from the file's origin.
    pub fn id_coverage(
        &self,
        media: &Media,
        frame: i32,
        kind: IdKind,
        names: &[String],
        scale: Scale,
    ) -> Result<Arc<Signal>, StageError> {
        let plates = self.plates();
        let (cancel, divisor) = (self.cancel(), scale.divisor());
        let (print, domain) =
            (plates.fingerprint(media, frame, cancel)?, plates.domain(media, frame, cancel)?);
        let key = Key::of("things").with(&print).with(&kind).with(names).with(&scale);
        self.asked.kept(key, domain.scaled_down(divisor), &mut || {
            let ids = plates.things(media, frame, kind)?.ids(names);
            Ok(Pixels::Field(plates.coverage(media, frame, kind, &ids, divisor, cancel)?))
        })
    }
}

fn mistyped() -> StageError {
    StageError::Fault("its controls do not have the types it declares".into())
}
