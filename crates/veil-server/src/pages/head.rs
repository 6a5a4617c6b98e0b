//! What pages share: their head, and how they are filled.

use askama::Template;
use axum::response::Html;
use serde::Deserialize;
use veil_store::{ShowRecord, Store};

use crate::error::WebError;

pub(super) fn html(template: &impl Template) -> Result<Html<String>, WebError> {
    template.render().map(Html).map_err(|error| WebError::Internal(error.to_string()))
}

/// Which show a page is about; all of them where none is said.
#[derive(Deserialize)]
pub(crate) struct ShowQuery {
    show: Option<String>,
}

/// What the head of a page needs: the shows, and which of them is chosen.
pub(super) struct Head {
    pub(super) shows: Vec<String>,
    pub(super) chosen: Option<String>,
    /// What the addresses of pages end in, so that the choice goes along: `?show=Saltglass`.
    pub(super) query: String,
}

impl Head {
    pub(super) fn of(store: &Store, asked: &ShowQuery) -> Result<Self, WebError> {
        let shows: Vec<String> = store.shows()?.into_iter().map(|show| show.name).collect();
        let is_asked =
            |show: &&String| asked.show.as_ref().is_some_and(|asked| asked.eq_ignore_ascii_case(show));
        let chosen = shows.iter().find(is_asked).cloned();
        let query = match &chosen {
            Some(show) => format!("?show={}", show.replace(' ', "+")),
            None => String::new(),
        };
        Ok(Self { shows, chosen, query })
    }

    /// Whether a show is on the page.
    pub(super) fn shows(&self, show: &str) -> bool {
        self.chosen.as_deref().is_none_or(|chosen| chosen == show)
    }

    pub(super) fn is_chosen(&self, show: &str) -> bool {
        self.chosen.as_deref() == Some(show)
    }

    pub(super) fn chosen(&self, shows: Vec<ShowRecord>) -> Vec<ShowRecord> {
        shows.into_iter().filter(|show| self.shows(&show.name)).collect()
    }
}

pub(super) fn ago(at: i64) -> String {
    let now = std::time::SystemTime::now()
        .duration_since(std::time::UNIX_EPOCH)
        .map_or(0, |time| time.as_secs() as i64);
    match now - at {
        ..60 => "a moment ago".into(),
        seconds @ 60..3600 => format!("{} min ago", seconds / 60),
        seconds @ 3600..86400 => format!("{} h ago", seconds / 3600),
        seconds => format!("{} days ago", seconds / 86400),
    }
}
