//! The pages. Each is a template filled with what the store holds.

mod bin;
mod plates;
mod rack;
mod renders;
mod wall;

use askama::Template;
use axum::extract::State;
use axum::response::Html;
use serde::Deserialize;
use veil_store::{ShowRecord, Store};

pub(crate) use bin::bin;
pub(crate) use plates::plates;
pub(crate) use rack::rack;
pub(crate) use renders::renders;
pub(crate) use wall::wall;

use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;
use crate::setups::{ShotPath, load};

fn html(template: &impl Template) -> Result<Html<String>, WebError> {
    template.render().map(Html).map_err(|error| WebError::Internal(error.to_string()))
}

/// Which show a page is about; all of them where none is said.
#[derive(Deserialize)]
pub(crate) struct ShowQuery {
    show: Option<String>,
}

/// What the head of a page needs: the shows, and which of them is chosen.
struct Head {
    shows: Vec<String>,
    chosen: Option<String>,
    /// What the addresses of pages end in, so that the choice goes along: `?show=Saltglass`.
    query: String,
}

impl Head {
    fn of(store: &Store, asked: &ShowQuery) -> Result<Self, WebError> {
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
    fn shows(&self, show: &str) -> bool {
        self.chosen.as_deref().is_none_or(|chosen| chosen == show)
    }

    fn is_chosen(&self, show: &str) -> bool {
        self.chosen.as_deref() == Some(show)
    }

    fn chosen(&self, shows: Vec<ShowRecord>) -> Vec<ShowRecord> {
        shows.into_iter().filter(|show| self.shows(&show.name)).collect()
    }
}

fn ago(at: i64) -> String {
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

#[derive(Template)]
#[template(path = "workbench.html")]
struct Workbench {
    /// Every show there is.
    shows: Vec<String>,
    show: String,
    code: String,
    title: String,
}

pub(crate) async fn workbench(State(app): State<App>, path: ShotPath) -> Result<Html<String>, WebError> {
    let shot = load(&app, path).await?;
    let shows = blocking(move || Ok(app.store.shows()?.into_iter().map(|show| show.name).collect())).await?;
    html(&Workbench { shows, show: shot.show, code: shot.code, title: shot.title })
}
