//! The rack.

use diesel::prelude::*;
use veil_core::setup::Tool;

use crate::schema::tools;
use crate::{Id, Store, StoreError, now};

/// A tool of the rack.
#[derive(Clone, Debug, PartialEq)]
pub struct ToolRecord {
    /// Its number in the table.
    pub id: Id,
    /// The tool.
    pub tool: Tool,
    /// Seconds since 1970.
    pub at: i64,
}

/// A tool's name and numbers.
#[derive(Clone, Debug, PartialEq)]
pub struct ToolSummary {
    /// The newest.
    pub newest: ToolRecord,
    /// All numbers there are, newest first.
    pub numbers: Vec<i32>,
}

impl Store {
    /// Every tool, by name.
    pub fn tools(&self) -> Result<Vec<ToolSummary>, StoreError> {
        let rows: Vec<(Id, String, i32, String, i64)> = tools::table
            .filter(tools::binned.eq(false))
            .order((tools::name.asc(), tools::number.desc()))
            .select((tools::id, tools::name, tools::number, tools::tool, tools::at))
            .load(&mut self.connection()?)?;
        let mut made: Vec<ToolSummary> = Vec::new();
        for (id, name, number, tool, at) in rows {
            match made.last_mut().filter(|known| known.newest.tool.about.name == name) {
                Some(known) => known.numbers.push(number),
                None => {
                    let newest = ToolRecord { id, tool: serde_json::from_str(&tool)?, at };
                    made.push(ToolSummary { newest, numbers: vec![number] });
                }
            }
        }
        Ok(made)
    }

    /// A tool.
    pub fn tool(&self, id: Id) -> Result<ToolRecord, StoreError> {
        let found: Option<(String, i64)> = tools::table
            .find(id)
            .select((tools::tool, tools::at))
            .first(&mut self.connection()?)
            .optional()?;
        let (tool, at) = found.ok_or_else(|| StoreError::Missing("such tool".into()))?;
        Ok(ToolRecord { id, tool: serde_json::from_str(&tool)?, at })
    }

    /// A tool's picture, as PNG.
    pub fn tool_picture(&self, id: Id) -> Result<Vec<u8>, StoreError> {
        let found = tools::table.find(id).select(tools::picture).first(&mut self.connection()?).optional()?;
        found.ok_or_else(|| StoreError::Missing("such tool".into()))
    }

    /// Puts a tool on the rack under the next number of its name.
    pub fn keep_tool(&self, tool: &Tool, picture: &[u8]) -> Result<ToolRecord, StoreError> {
        let (id, number) = self.connection()?.immediate_transaction(|connection| {
            let of_name = tools::table.filter(tools::name.eq(&tool.about.name));
            let newest: Option<i32> = of_name.select(diesel::dsl::max(tools::number)).first(connection)?;
            let number = newest.unwrap_or(0) + 1;
            let mut kept = tool.clone();
            kept.about.number = number as u32;
            let id = diesel::insert_into(tools::table)
                .values((
                    tools::name.eq(&tool.about.name),
                    tools::number.eq(number),
                    tools::tool.eq(serde_json::to_string(&kept)?),
                    tools::picture.eq(picture),
                    tools::at.eq(now()),
                ))
                .returning(tools::id)
                .get_result::<Id>(connection)?;
            Ok::<_, StoreError>((id, number))
        })?;
        debug_assert!(number > 0, "numbers start at 1");
        self.tool(id)
    }
}
