//! `inspect`, `check`, `stages` and `schema`.

use std::path::Path;

use serde_json::{Value, json};
use veil_core::setup::{Setup, Tool};
use veil_core::stages;

use crate::Done;
use crate::error::ProgramError;
use crate::out::say;

pub(crate) fn inspect(file: &Path) -> Done {
    say!("{:#}", json!(veil_media::inspect(file)?));
    Ok(())
}

/// A setup's file, read and checked.
pub(crate) fn read_setup(file: &Path) -> Result<Setup, ProgramError> {
    let text = std::fs::read_to_string(file).map_err(ProgramError::io(file))?;
    let broken =
        |error: serde_json::Error| ProgramError::NoDocument { path: file.into(), why: error.to_string() };
    let value: Value = serde_json::from_str(&text).map_err(broken)?;
    // Newer formats may have other fields, so the format is looked at first.
    let format = value["format"].as_u64().unwrap_or(0);
    if format > u64::from(veil_core::setup::FORMAT) {
        let source = veil_core::setup::SetupError::Format(format as u32);
        return Err(ProgramError::Setup { path: file.into(), source });
    }
    let setup = Setup::from_json(&text).map_err(broken)?;
    setup.check().map_err(|source| ProgramError::Setup { path: file.into(), source })?;
    Ok(setup)
}

pub(crate) fn check(file: &Path) -> Done {
    let text = std::fs::read_to_string(file).map_err(ProgramError::io(file))?;
    let is_tool = serde_json::from_str::<Value>(&text).is_ok_and(|value| value.get("about").is_some());
    if is_tool {
        let broken =
            |error: serde_json::Error| ProgramError::NoDocument { path: file.into(), why: error.to_string() };
        let tool = Tool::from_json(&text).map_err(broken)?;
        tool.check().map_err(|source| ProgramError::Tool { path: file.into(), source })?;
        say!("{}: a tool, {} rows, valid", file.display(), tool.stages.len());
    } else {
        let setup = read_setup(file)?;
        say!("{}: a setup, {} rows, valid", file.display(), setup.stages.len());
    }
    Ok(())
}

pub(crate) fn stages(as_json: bool) -> Done {
    if as_json {
        let listed: Vec<Value> = stages::all()
            .map(|stage| {
                let spec = stage.spec();
                json!({
                    "id": spec.id, "name": spec.name, "family": spec.family, "help": spec.help,
                    "main": spec.main, "slots": spec.slots, "controls": spec.controls,
                    "amount": spec.amount, "proxy_tolerance": spec.proxy_tolerance,
                })
            })
            .collect();
        say!("{:#}", Value::from(listed));
    } else {
        for stage in stages::all() {
            say!("{:<16}{}", stage.spec().name, stage.spec().help);
        }
    }
    Ok(())
}

pub(crate) fn stages_page() -> Done {
    say!("{}", veil_core::listing::stages_page().trim_end());
    Ok(())
}

pub(crate) fn schema(tool: bool) -> Done {
    say!("{}", if tool { veil_core::setup::tool_schema() } else { veil_core::setup::setup_schema() });
    Ok(())
}

/// Copies the database of a data folder.
pub(crate) fn backup(data: &Path, to: &Path) -> Done {
    let database = data.join("veil.db");
    if !database.is_file() {
        return Err(ProgramError::Bad(format!(
            "`{}` is not there; is this the data folder?",
            database.display()
        )));
    }
    veil_store::Store::open(veil_store::DataFolder::at(data)?)?.backup(to)?;
    say!("`{}` holds everything but media, renders and bakes, which are plain files", to.display());
    Ok(())
}
