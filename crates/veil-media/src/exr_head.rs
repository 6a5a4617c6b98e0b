//! What the header of an OpenEXR file says.

use std::path::Path;

use exr::meta::attribute::{AttributeValue, Chromaticities, Text, TimeCode};
use exr::meta::header::Header;
use veil_core::setup::ColourSpace;
use veil_core::signal::Domain;
use veil_pixels::Window;
use veil_pixels::colour::space::Primaries;

use crate::MediaError;
use crate::guard::guarded;
use crate::patient::PatientFile;
use crate::roles::{Group, split};

/// Attributes of words that the format names.
pub(crate) const OWNER: &str = "owner";
/// See above.
pub(crate) const COMMENTS: &str = "comments";
/// See above.
pub(crate) const CAPTURE_DATE: &str = "capDate";
/// The attribute that names the colours by their common name.
pub(crate) const COLOUR_NAME: &str = "colorInteropID";
/// The attribute of time, `hours:minutes:seconds:frame`.
pub(crate) const TIME_CODE: &str = "timeCode";

/// What the header of a file says.
#[derive(Clone, Debug)]
pub(crate) struct ExrHead {
    /// Display window, and the data window of the first part.
    pub(crate) domain: Domain,
    /// Data window by part.
    pub(crate) windows: Vec<Window>,
    /// Every channel, grouped by layer.
    pub(crate) groups: Vec<Group>,
    /// What is said in words and numbers, by the name of the attribute.
    pub(crate) texts: Vec<(String, String)>,
    /// Those of the first part that are words in the file, besides what tells the layers of a Cryptomatte apart.
    pub(crate) plain_texts: Vec<(String, String)>,
    /// By its common name or its chromaticities, where it has any; linear BT.709 otherwise, as the format says.
    pub(crate) colour: ColourSpace,
    /// Frames a second, where it says.
    pub(crate) fps: Option<f64>,
    /// How wide its pixels are for their height.
    pub(crate) aspect: f64,
    /// Compression of the first part, as the format calls it.
    pub(crate) compression: String,
}

pub(crate) fn read_head(path: &Path) -> Result<ExrHead, MediaError> {
    guarded(path, || {
        let reader = open(path)?;
        head(path, reader.headers())
    })
}

pub(crate) fn open(path: &Path) -> Result<exr::block::reader::Reader<PatientFile>, MediaError> {
    exr::block::read(PatientFile::open(path)?, false).map_err(|error| MediaError::exr(path, error))
}

fn head(path: &Path, headers: &[Header]) -> Result<ExrHead, MediaError> {
    let first = headers.first().ok_or_else(|| MediaError::broken(path, "it has no parts"))?;
    let display = first.shared_attributes.display_window;
    let display = window_of(path, display.position.0, display.position.1, display.size.0, display.size.1)?;
    let mut windows = Vec::new();
    let mut groups: Vec<Group> = Vec::new();
    let mut texts = Vec::new();
    for (part, header) in headers.iter().enumerate() {
        windows.push(data_window(path, header)?);
        let part_name = header.own_attributes.layer_name.as_ref().map(worded).unwrap_or_default();
        for (index, channel) in header.channels.list.iter().enumerate() {
            let (layer, name) = split(&part_name, &worded(&channel.name));
            match groups.iter_mut().find(|group| group.part == part && group.layer == layer) {
                Some(group) => group.channels.push((index, name)),
                None => groups.push(Group { part, layer, channels: vec![(index, name)] }),
            }
        }
        texts.extend(words(header));
    }
    texts.sort();
    texts.dedup();
    let compression = format!("{:?}", first.compression).to_lowercase();
    let by_place = || first.shared_attributes.chromaticities.as_ref().map(named_colours);
    let colour = commonly_named(first).or_else(by_place).unwrap_or(ColourSpace::Linear);
    // What is written from this file's pixels is of its time, and need not be of its colours.
    let is_plain = |(name, _): &(String, String)| !name.starts_with("cryptomatte/") && name != COLOUR_NAME;
    let time = first.shared_attributes.time_code.map(|time| (TIME_CODE.to_owned(), said_time(time)));
    let plain_texts = plain_words(first).filter(is_plain).chain(time.clone()).collect();
    texts.extend(time);
    let fps = first.own_attributes.frames_per_second;
    let fps = fps.filter(|(count, under)| *count > 0 && *under > 0);
    let fps = fps.map(|(count, under)| f64::from(count) / f64::from(under));
    let domain = Domain { display, data: windows[0] };
    let aspect = f64::from(first.shared_attributes.pixel_aspect);
    let aspect = if aspect.is_finite() && aspect > 0.0 { aspect } else { 1.0 };
    Ok(ExrHead { aspect, fps, domain, windows, groups, texts, plain_texts, colour, compression })
}

/// Words of a header. The format does not say how letters are coded: most programs write UTF-8, older ones Latin-1.
fn worded(text: &Text) -> String {
    std::str::from_utf8(text.as_slice()).map_or_else(|_| text.to_string(), str::to_owned)
}

/// What a part's header says in words and numbers: what the format names, and what programs add to it.
fn words(header: &Header) -> Vec<(String, String)> {
    let own = &header.own_attributes;
    let numbers = [
        ("utcOffset", own.utc_offset),
        ("focus", own.focus),
        ("expTime", own.exposure),
        ("aperture", own.aperture),
        ("isoSpeed", own.iso_speed),
        ("whiteLuminance", own.white_luminance),
    ];
    let fps = own.frames_per_second.map(|(count, seconds)| ("framesPerSecond", format!("{count}/{seconds}")));
    let numbers = numbers.into_iter().filter_map(|(name, number)| Some((name, number?.to_string())));
    let known = numbers.chain(fps).map(|(name, said)| (name.to_owned(), said));
    let others = own.other.iter().chain(&header.shared_attributes.other);
    let others = others.filter(|(_, value)| !matches!(value, AttributeValue::Text(_)));
    let others = others.filter_map(|(name, value)| Some((worded(name), said(value)?)));
    plain_words(header).chain(known).chain(others).collect()
}

/// What a part's header says in words that are words in the file, too.
fn plain_words(header: &Header) -> impl Iterator<Item = (String, String)> {
    let own = &header.own_attributes;
    let named = [(OWNER, &own.owner), (COMMENTS, &own.comments), (CAPTURE_DATE, &own.capture_date)];
    let named = named.into_iter().filter_map(|(name, text)| Some((name.to_owned(), worded(text.as_ref()?))));
    let others = own.other.iter().chain(&header.shared_attributes.other);
    named.chain(others.filter_map(|(name, value)| match value {
        AttributeValue::Text(text) => Some((worded(name), worded(text))),
        _ => None,
    }))
}

/// An attribute in words; none for those that are no words and no number.
fn said(value: &AttributeValue) -> Option<String> {
    match value {
        AttributeValue::Text(text) => Some(worded(text)),
        AttributeValue::F32(number) => Some(number.to_string()),
        AttributeValue::F64(number) => Some(number.to_string()),
        AttributeValue::I32(number) => Some(number.to_string()),
        AttributeValue::Rational((count, by)) => Some(format!("{count}/{by}")),
        AttributeValue::IntVec2(pair) => Some(format!("{} {}", pair.0, pair.1)),
        AttributeValue::FloatVec2(pair) => Some(format!("{} {}", pair.0, pair.1)),
        _ => None,
    }
}

/// The space that a header names by its common name, where it is one of ours.
fn commonly_named(header: &Header) -> Option<ColourSpace> {
    let all = header.shared_attributes.other.iter().chain(&header.own_attributes.other);
    let named = all.filter(|(name, _)| worded(name) == COLOUR_NAME).find_map(|(_, value)| said(value));
    match named?.as_str() {
        "lin_rec709_scene" => Some(ColourSpace::Linear),
        "lin_rec2020_scene" => Some(ColourSpace::Linear2020),
        "lin_ap1_scene" => Some(ColourSpace::AcesCg),
        "lin_ap0_scene" => Some(ColourSpace::Aces2065),
        "srgb_rec709_scene" => Some(ColourSpace::Srgb),
        "g22_rec709_scene" => Some(ColourSpace::Gamma22),
        _ => None,
    }
}

fn said_time(time: TimeCode) -> String {
    format!("{:02}:{:02}:{:02}:{:02}", time.hours, time.minutes, time.seconds, time.frame)
}

/// A time as [`said_time`] says it.
pub(crate) fn time_of(said: &str) -> Option<TimeCode> {
    let parts: Vec<u8> = said.split(':').map(str::parse).collect::<Result<_, _>>().ok()?;
    let [hours, minutes, seconds, frame] = parts[..] else { return None };
    (hours < 24 && minutes < 60 && seconds < 60 && frame < 30).then(|| time(hours, minutes, seconds, frame))
}

/// The time of a frame by its number; none where a second has more frames than a time can count.
pub(crate) fn time_of_frame(frame: i32, fps: f64) -> Option<TimeCode> {
    let rate = fps.round() as i32;
    if frame < 0 || !(1..=30).contains(&rate) {
        return None;
    }
    let seconds = frame / rate;
    let hours = (seconds / 3600) % 24;
    Some(time(hours as u8, (seconds / 60 % 60) as u8, (seconds % 60) as u8, (frame % rate) as u8))
}

fn time(hours: u8, minutes: u8, seconds: u8, frame: u8) -> TimeCode {
    TimeCode {
        hours,
        minutes,
        seconds,
        frame,
        drop_frame: false,
        color_frame: false,
        field_phase: false,
        binary_group_flags: [false; 3],
        binary_groups: [0; 8],
    }
}

/// The linear space of chromaticities; linear BT.709 where they are no known ones.
fn named_colours(given: &Chromaticities) -> ColourSpace {
    let near = |space: &ColourSpace| {
        let Primaries { red, green, blue, white } = space.space().primaries;
        let pairs = [(given.red, red), (given.green, green), (given.blue, blue), (given.white, white)];
        pairs
            .iter()
            .all(|(a, b)| (f64::from(a.0) - b[0]).abs() < 2e-3 && (f64::from(a.1) - b[1]).abs() < 2e-3)
    };
    let linear = [ColourSpace::Linear, ColourSpace::Linear2020, ColourSpace::AcesCg, ColourSpace::Aces2065];
    linear.into_iter().find(near).unwrap_or(ColourSpace::Linear)
}

/// Where a part's pixels are. Deep ones are refused.
pub(crate) fn data_window(path: &Path, header: &Header) -> Result<Window, MediaError> {
    if header.deep {
        return Err(MediaError::Unsupported { path: path.into(), why: "deep data".into() });
    }
    let (at, size) = (header.own_attributes.layer_position, header.layer_size);
    window_of(path, at.0, at.1, size.0, size.1)
}

fn window_of(path: &Path, x: i32, y: i32, width: usize, height: usize) -> Result<Window, MediaError> {
    MediaError::check_size(path, width, height, 1)?;
    let far = |from: i32, length: usize| from.checked_add(length as i32);
    match (far(x, width), far(y, height)) {
        (Some(x1), Some(y1)) => Ok(Window::new(x, y, x1, y1)),
        _ => Err(MediaError::broken(path, "its windows lie beyond any picture")),
    }
}
