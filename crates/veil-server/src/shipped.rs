//! The tools that come with the program.

use rust_embed::RustEmbed;
use veil_core::setup::Tool;
use veil_store::Store;

use crate::error::ServeError;

/// The tools that come with the program, each with its picture.
#[derive(RustEmbed)]
#[folder = "../../tools"]
struct Shipped;

/// Every tool that comes with the program, with its picture.
pub(crate) fn shipped() -> Result<Vec<(Tool, Vec<u8>)>, ServeError> {
    let broken = |file: &str, why: String| ServeError::Shipped { file: file.into(), why };
    let mut names: Vec<String> =
        Shipped::iter().filter(|name| name.ends_with(".json")).map(String::from).collect();
    names.sort();
    names
        .into_iter()
        .map(|file| {
            let bytes = |name: &str| Shipped::get(name).map(|found| found.data.into_owned());
            let text = bytes(&file).ok_or_else(|| broken(&file, "it is missing".into()))?;
            let text = String::from_utf8_lossy(&text);
            let tool = Tool::from_json(&text).map_err(|error| broken(&file, error.to_string()))?;
            tool.check().map_err(|error| broken(&file, error.to_string()))?;
            let picture = bytes(&file.replace(".json", ".webp"));
            Ok((tool, picture.ok_or_else(|| broken(&file, "its picture is missing".into()))?))
        })
        .collect()
}

/// Puts them on the rack of a data folder.
pub(crate) fn ship(store: &Store) -> Result<(), ServeError> {
    for (tool, picture) in shipped()? {
        store.ship_tool(&tool, &picture)?;
    }
    Ok(())
}
