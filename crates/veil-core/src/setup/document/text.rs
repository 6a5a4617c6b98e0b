//! Setups, braids and what belongs to them as JSON text. What reads and writes so many types is large, so it is compiled here,
//! once, and not in every crate that keeps or sends them.

use crate::braid::Braid;

use crate::setup::{Command, Edit, Setting, Setup, Tool};

macro_rules! as_text {
    ($($kind:ty),*) => {
        $(
            impl $kind {
                /// Reads JSON text.
                pub fn from_json(text: &str) -> Result<Self, serde_json::Error> {
                    serde_json::from_str(text)
                }

                /// As JSON text.
                pub fn to_json(&self) -> Result<String, serde_json::Error> {
                    serde_json::to_string(self)
                }
            }
        )*
    };
}

as_text!(Setup, Edit, Tool, Command, Setting);

impl Braid {
    /// As JSON text.
    pub fn to_json(&self) -> Result<String, serde_json::Error> {
        serde_json::to_string(self)
    }
}
