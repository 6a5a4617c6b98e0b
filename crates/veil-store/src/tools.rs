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
    /// Whether the newest came with the program.
    pub shipped: bool,
}

impl Store {
    /// Every tool, by name.
    pub fn tools(&self) -> Result<Vec<ToolSummary>, StoreError> {
        let rows: Vec<(Id, String, i32, String, i64, bool)> = tools::table
            .filter(tools::binned.eq(false))
            .order((tools::name.asc(), tools::number.desc()))
            .select((tools::id, tools::name, tools::number, tools::tool, tools::at, tools::shipped))
            .load(&mut self.connection()?)?;
        let mut made: Vec<ToolSummary> = Vec::new();
        for (id, name, number, tool, at, shipped) in rows {
            match made.last_mut().filter(|known| known.newest.tool.about.name == name) {
                Some(known) => known.numbers.push(number),
                None => {
                    let newest = ToolRecord { id, tool: Tool::from_json(&tool)?, at };
                    made.push(ToolSummary { newest, numbers: vec![number], shipped });
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
        Ok(ToolRecord { id, tool: Tool::from_json(&tool)?, at })
    }

    /// A tool's picture, as PNG or WebP.
    pub fn tool_picture(&self, id: Id) -> Result<Vec<u8>, StoreError> {
        let found = tools::table.find(id).select(tools::picture).first(&mut self.connection()?).optional()?;
        found.ok_or_else(|| StoreError::Missing("such tool".into()))
    }

    /// Puts a tool on the rack under the next number of its name.
    pub fn keep_tool(&self, tool: &Tool, picture: &[u8]) -> Result<ToolRecord, StoreError> {
        let kept = self
            .connection()?
            .immediate_transaction(|connection| insert(connection, tool, picture, Origin::Own))?;
        self.tool(kept)
    }

    /// Puts a tool that comes with the program on the rack, unless it is there as it is. Numbers that a person kept under
    /// its name stay; it comes after them then.
    pub fn ship_tool(&self, tool: &Tool, picture: &[u8]) -> Result<(), StoreError> {
        self.write(|connection| {
            let shipped: Vec<(Id, String)> = tools::table
                .filter(tools::name.eq(&tool.about.name).and(tools::shipped.eq(true)))
                .select((tools::id, tools::tool))
                .load(connection)?;
            for (id, text) in shipped {
                let mut known = Tool::from_json(&text)?;
                known.about.number = tool.about.number;
                if known == *tool {
                    diesel::update(tools::table.find(id))
                        .set(tools::picture.eq(picture))
                        .execute(connection)?;
                    return Ok(());
                }
            }
            insert(connection, tool, picture, Origin::Shipped).map(drop)
        })
    }
}

/// Who made a tool.
#[derive(Clone, Copy, PartialEq)]
enum Origin {
    Own,
    Shipped,
}

fn insert(
    connection: &mut SqliteConnection,
    tool: &Tool,
    picture: &[u8],
    origin: Origin,
) -> Result<Id, StoreError> {
    let of_name = tools::table.filter(tools::name.eq(&tool.about.name));
    let newest: Option<i32> = of_name.select(diesel::dsl::max(tools::number)).first(connection)?;
    let number = newest.unwrap_or(0) + 1;
    let mut kept = tool.clone();
    kept.about.number = number as u32;
    Ok(diesel::insert_into(tools::table)
        .values((
            tools::name.eq(&tool.about.name),
            tools::number.eq(number),
            tools::tool.eq(kept.to_json()?),
            tools::picture.eq(picture),
            tools::at.eq(now()),
            tools::shipped.eq(origin == Origin::Shipped),
        ))
        .returning(tools::id)
        .get_result(connection)?)
}
