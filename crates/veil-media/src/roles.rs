//! What channels of a file are for, by the names the trade gives them.

use veil_core::plates::Role;

/// A group of channels of one part: those that share everything before the last dot.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Group {
    /// Which part of the file.
    pub(crate) part: usize,
    /// The layer's name, as the file has it; empty for the plain channels.
    pub(crate) layer: String,
    /// Index in the part, and name after the last dot, of each channel.
    pub(crate) channels: Vec<(usize, String)>,
}

impl Group {
    /// The channel of one of these names, letters of either case.
    pub(crate) fn channel(&self, names: &[&str]) -> Option<usize> {
        let named = |name: &str| self.channels.iter().find(|(_, channel)| channel.eq_ignore_ascii_case(name));
        names.iter().find_map(|name| named(name)).map(|(index, _)| *index)
    }

    /// What it is for; by the layer's name, or by the channels of the plain layer.
    pub(crate) fn role(&self) -> Option<Role> {
        let last = self.layer.rsplit(['.', '/']).next().unwrap_or_default();
        let plain: String = last.chars().filter(|c| c.is_alphanumeric()).collect::<String>().to_lowercase();
        match plain.as_str() {
            "depth" | "z" | "zdepth" | "depthz" => Some(Role::Depth),
            "position" | "p" | "pos" | "worldposition" | "pworld" | "wpos" | "point" => Some(Role::Position),
            "normal" | "normals" | "n" | "nworld" | "worldnormal" => Some(Role::Normal),
            "motion" | "motionvector" | "motionvectors" | "velocity" | "vector" | "forward" => {
                Some(Role::Motion)
            }
            "emission" | "emit" | "emissive" => Some(Role::Emission),
            "" | "beauty" | "rgba" | "rgb" | "combined" | "main" | "plate" => self.plain_role(),
            _ => None,
        }
    }

    fn plain_role(&self) -> Option<Role> {
        if self.channel(&["R", "Y", "red"]).is_some() {
            Some(Role::Beauty)
        } else if self.channel(&["Z"]).is_some() {
            Some(Role::Depth)
        } else {
            None
        }
    }

    /// The channels of a role, in the order of its floats; none for those that are absent.
    pub(crate) fn channels_for(&self, role: Role) -> Vec<Option<usize>> {
        match role {
            Role::Depth => {
                let only = self.channels.first().map(|(index, _)| *index);
                vec![self.channel(&["Z", "depth", "V", "Y", "R"]).or(only)]
            }
            Role::Motion => vec![self.channel(&["X", "u", "R"]), self.channel(&["Y", "v", "G"])],
            Role::Position | Role::Normal => vec![
                self.channel(&["X", "R"]),
                self.channel(&["Y", "G"]),
                self.channel(&["Z", "B"]),
                self.channel(&["A"]),
            ],
            Role::Beauty | Role::Emission => {
                let grey = self.channel(&["Y"]);
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

/// Splits a channel's name into layer and channel; the part's own name stands before it.
pub(crate) fn split(part_name: &str, channel: &str) -> (String, String) {
    let (layer, last) = channel.rsplit_once('.').unwrap_or(("", channel));
    let layer = match (part_name, layer) {
        (part, "") => part.to_owned(),
        ("", layer) => layer.to_owned(),
        (part, layer) if part == layer => layer.to_owned(),
        (part, layer) => format!("{part}.{layer}"),
    };
    (layer, last.to_owned())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_names_that_files_carry_lead_to_the_role() {
        let group = |layer: &str, channels: &[&str]| Group {
            part: 0,
            layer: layer.into(),
            channels: channels.iter().enumerate().map(|(index, name)| (index, (*name).to_owned())).collect(),
        };
        for (layer, channels, role) in [
            ("", &["A", "B", "G", "R"][..], Some(Role::Beauty)),
            ("", &["Z"], Some(Role::Depth)),
            ("depth", &["Z"], Some(Role::Depth)),
            ("view.motion_vectors", &["X", "Y"], Some(Role::Motion)),
            ("P", &["X", "Y", "Z"], Some(Role::Position)),
            ("crypto_object00", &["R", "G", "B", "A"], None),
        ] {
            assert_eq!(group(layer, channels).role(), role, "{layer}");
        }
        assert_eq!(group("", &["A", "B", "G", "R"]).channels_for(Role::Beauty), [3, 2, 1, 0].map(Some));
        assert_eq!(split("", "depth.Z"), ("depth".into(), "Z".into()));
    }
}
