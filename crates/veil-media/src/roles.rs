//! What channels of a file are for, by the names the trade gives them, and by what a show has been taught.

use std::collections::BTreeMap;

use veil_core::plates::Role;

/// Names of layers, without capitals, points and dashes, and what they are for.
pub const KNOWN: [(Role, &[&str]); 20] = [
    (Role::Depth, &["depth", "z", "zdepth", "depthz", "zbuffer", "zpass", "depthpass", "distance"]),
    (
        Role::Position,
        &[
            "position",
            "p",
            "pos",
            "worldposition",
            "positionworld",
            "pworld",
            "wpos",
            "worldpos",
            "wp",
            "point",
            "pointposition",
            "pointworld",
            "xyz",
            "worldpoint",
            "ppass",
            "positions",
            "pw",
        ],
    ),
    (
        Role::RestPosition,
        &[
            "restposition",
            "rest",
            "pref",
            "positionref",
            "refposition",
            "prefpass",
            "restpos",
            "po",
            "objectposition",
        ],
    ),
    (
        Role::Normal,
        &[
            "normal",
            "normals",
            "n",
            "nworld",
            "worldnormal",
            "normalworld",
            "worldnormals",
            "nn",
            "shadingnormal",
            "smoothnormal",
            "normalpass",
            "norm",
            "cameranormal",
            "normalcamera",
            "ncam",
            "wn",
        ],
    ),
    (
        Role::Motion,
        &[
            "motion",
            "motionvector",
            "motionvectors",
            "velocity",
            "vector",
            "vectors",
            "forward",
            "mv",
            "motionvec",
            "speed",
            "motion2d",
            "screenvelocity",
            "mvec",
            "vel",
        ],
    ),
    (
        Role::Uv,
        &[
            "uv",
            "uvs",
            "texcoord",
            "texturecoordinates",
            "st",
            "uvmap",
            "uvpass",
            "texcoords",
            "textureuv",
            "uvw",
        ],
    ),
    (Role::ObjectId, &["objectid", "id", "objid", "objectindex", "instanceid", "ids"]),
    (Role::MaterialId, &["materialid", "matid", "materialindex", "shaderid"]),
    (
        Role::Emission,
        &[
            "emission",
            "emit",
            "emissive",
            "selfillumination",
            "selfillum",
            "glow",
            "incandescence",
            "luminance",
        ],
    ),
    (Role::Direct, &["direct", "directlight", "directlighting", "directillumination", "lighting", "light"]),
    (
        Role::Indirect,
        &[
            "indirect",
            "indirectlight",
            "indirectlighting",
            "gi",
            "globalillumination",
            "bounce",
            "bouncelight",
        ],
    ),
    (
        Role::Diffuse,
        &["diffuse", "diff", "diffuselight", "diffuselighting", "directdiffuse", "diffusedirect"],
    ),
    (
        Role::Specular,
        &["specular", "spec", "specularlight", "highlights", "glossy", "directspecular", "gloss"],
    ),
    (Role::Reflection, &["reflection", "reflections", "refl", "reflect", "mirror", "indirectspecular"]),
    (Role::Refraction, &["refraction", "refractions", "refr", "refract"]),
    (Role::Transmission, &["transmission", "trans", "transmit", "translucency", "translucent"]),
    (
        Role::Subsurface,
        &["subsurface", "sss", "subsurfacescattering", "scatter", "scattering", "subsurfacescatter"],
    ),
    (
        Role::Albedo,
        &[
            "albedo",
            "basecolor",
            "basecolour",
            "diffusecolor",
            "diffusecolour",
            "texture",
            "surfacecolour",
            "unlit",
        ],
    ),
    (Role::Shadow, &["shadow", "shadows", "shadowmask", "shadowmatte", "shadowpass", "shad"]),
    (Role::Occlusion, &["occlusion", "ao", "ambientocclusion", "occ", "ambocc"]),
];

/// Names of layers that hold the picture itself.
pub const PICTURE: [&str; 9] = ["", "beauty", "rgba", "rgb", "combined", "main", "plate", "picture", "final"];

/// A name without capitals and without anything but letters and figures.
fn bare(name: &str) -> String {
    name.chars().filter(|c| c.is_alphanumeric()).collect::<String>().to_lowercase()
}

/// What a show has been taught of its layers' names; it stands before what is known anyway.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Aliases(BTreeMap<String, Role>);

impl Aliases {
    /// From layers' names as files have them.
    pub fn new<'n>(taught: impl IntoIterator<Item = (&'n str, Role)>) -> Self {
        Self(taught.into_iter().map(|(name, role)| (bare(name), role)).collect())
    }

    /// What a layer of this name is for; `None` where the name says nothing, or says that it is the picture.
    pub fn role(&self, layer: &str) -> Option<Role> {
        let last = bare(layer.rsplit(['.', '/']).next().unwrap_or_default());
        if let Some(role) = self.0.get(&bare(layer)).or_else(|| self.0.get(&last)) {
            return Some(*role);
        }
        KNOWN.iter().find(|(_, names)| names.contains(&last.as_str())).map(|(role, _)| *role)
    }

    /// Tells these aliases from others; 0 where nothing has been taught.
    pub fn print(&self) -> u64 {
        if self.0.is_empty() {
            return 0;
        }
        let hash = blake3::hash(format!("{:?}", self.0).as_bytes());
        let mut short = [0; 8];
        short.copy_from_slice(&hash.as_bytes()[..8]);
        u64::from_le_bytes(short)
    }
}

/// A group of channels of one part: those that share everything before the last dot.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Group {
    /// Which part of the file.
    pub part: usize,
    /// The layer's name, as the file has it; empty for the plain channels.
    pub layer: String,
    /// Index in the part, and name after the last dot, of each channel.
    pub channels: Vec<(usize, String)>,
}

impl Group {
    /// The channel of one of these names, letters of either case.
    pub(crate) fn channel(&self, names: &[&str]) -> Option<usize> {
        let named = |name: &str| self.channels.iter().find(|(_, channel)| channel.eq_ignore_ascii_case(name));
        names.iter().find_map(|name| named(name)).map(|(index, _)| *index)
    }

    /// What it is for; by the layer's name, or by the channels of the plain layer.
    pub fn role(&self, aliases: &Aliases) -> Option<Role> {
        let last = bare(self.layer.rsplit(['.', '/']).next().unwrap_or_default());
        aliases
            .role(&self.layer)
            .or_else(|| PICTURE.contains(&last.as_str()).then(|| self.plain_role()).flatten())
    }

    fn plain_role(&self) -> Option<Role> {
        if self.channel(&["R", "Y", "red"]).is_some() && self.channel(&["X"]).is_none() {
            Some(Role::Beauty)
        } else if self.channel(&["X"]).is_some() && self.channel(&["Y"]).is_some() {
            Some(Role::Motion)
        } else {
            None
        }
    }

    /// The channels of a role, in the order of its floats; none for those that are absent.
    pub fn channels_for(&self, role: Role) -> Vec<Option<usize>> {
        match role {
            Role::Depth | Role::ObjectId | Role::MaterialId => {
                let only = self.channels.first().map(|(index, _)| *index);
                vec![self.channel(&["Z", "depth", "id", "V", "Y", "X", "R"]).or(only)]
            }
            Role::Motion => vec![self.channel(&["X", "u", "R"]), self.channel(&["Y", "v", "G"])],
            Role::Uv => {
                vec![self.channel(&["u", "s", "X", "R"]), self.channel(&["v", "t", "Y", "G"]), None, None]
            }
            Role::Position | Role::RestPosition | Role::Normal => vec![
                self.channel(&["X", "R"]),
                self.channel(&["Y", "G"]),
                self.channel(&["Z", "B"]),
                self.channel(&["A"]),
            ],
            _ => {
                let grey = self.channel(&["Y", "V", "L"]);
                vec![
                    self.channel(&["R", "red"]).or(grey),
                    self.channel(&["G", "green"]).or(grey),
                    self.channel(&["B", "blue"]).or(grey),
                    self.channel(&["A", "alpha"]),
                ]
            }
        }
    }
}

/// Channels that make up a plain picture or map; any other plain channel is a layer of its own.
const PLAIN: [&str; 12] = ["r", "g", "b", "a", "y", "ry", "by", "x", "red", "green", "blue", "alpha"];

/// Splits a channel's name into layer and channel; the part's own name stands before it.
pub fn split(part_name: &str, channel: &str) -> (String, String) {
    let (layer, last) = channel.rsplit_once('.').unwrap_or(("", channel));
    let layer = match (part_name, layer) {
        ("", "") => plain_layer(last),
        (part, "") => part.to_owned(),
        ("", layer) => layer.to_owned(),
        (part, layer) if part == layer => layer.to_owned(),
        (part, layer) => format!("{part}.{layer}"),
    };
    (layer, last.to_owned())
}

/// The layer of a channel that names none: a `Z` beside red, green and blue is depth, `u` and `v` are one pass.
fn plain_layer(channel: &str) -> String {
    let small = channel.to_lowercase();
    match small.as_str() {
        "u" | "v" => "uv".into(),
        plain if PLAIN.contains(&plain) => String::new(),
        _ => channel.to_owned(),
    }
}
