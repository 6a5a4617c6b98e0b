//! Only requests that were meant for this server: a page of another site must not reach it by a name that
//! it made point here.

use std::net::SocketAddr;
use std::sync::Arc;

use axum::extract::{Request, State};
use axum::http::{HeaderMap, StatusCode, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};

/// The names that this server answers to.
#[derive(Clone, Debug)]
pub struct Hosts {
    names: Arc<Vec<String>>,
}

impl Hosts {
    /// The listening address, `localhost`, and the names given.
    pub fn new(address: SocketAddr, names: &[String]) -> Self {
        let port = address.port();
        let mut all = vec![address.to_string(), format!("localhost:{port}"), format!("127.0.0.1:{port}")];
        for name in names {
            all.push(name.to_lowercase());
            all.push(format!("{}:{port}", name.to_lowercase()));
        }
        Self { names: Arc::new(all) }
    }

    fn knows(&self, host: &str) -> bool {
        self.names.iter().any(|name| name.eq_ignore_ascii_case(host))
    }

    fn accepts(&self, headers: &HeaderMap) -> bool {
        let text = |name| headers.get(name).map(|value| value.to_str().unwrap_or_default());
        let host = text(header::HOST).is_some_and(|host| self.knows(host));
        let origin = text(header::ORIGIN).is_none_or(|origin| {
            let bare = origin.strip_prefix("http://").or_else(|| origin.strip_prefix("https://"));
            bare.is_some_and(|bare| self.knows(bare))
        });
        host && origin
    }

    /// Whether a request is one that a page of another site makes of its own accord. Such a page may lead here, by a link
    /// that a person follows, and nothing else.
    fn is_from_elsewhere(headers: &HeaderMap) -> bool {
        let is = |name: &str, wanted: &[&str]| {
            headers.get(name).is_some_and(|value| wanted.iter().any(|wanted| value == wanted))
        };
        is("sec-fetch-site", &["cross-site", "same-site"]) && !is("sec-fetch-mode", &["navigate"])
    }
}

pub(crate) async fn check(State(hosts): State<Hosts>, request: Request, next: Next) -> Response {
    if hosts.accepts(request.headers()) && !Hosts::is_from_elsewhere(request.headers()) {
        return next.run(request).await;
    }
    let message = "refused: this server answers to its own address, localhost, and names given with --host";
    (StatusCode::FORBIDDEN, message).into_response()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_its_own_names_are_answered_to() {
        let hosts = Hosts::new(([127, 0, 0, 1], 7474).into(), &["veil.studio".into()]);
        let accepts = |host: &str, origin: Option<&str>| {
            let mut headers = HeaderMap::new();
            headers.insert(header::HOST, host.parse().unwrap());
            if let Some(origin) = origin {
                headers.insert(header::ORIGIN, origin.parse().unwrap());
            }
            hosts.accepts(&headers)
        };
        assert!(accepts("127.0.0.1:7474", None));
        assert!(accepts("localhost:7474", Some("http://localhost:7474")));
        assert!(accepts("veil.studio", None));
        assert!(!accepts("evil.example:7474", None));
        assert!(!accepts("localhost:7474", Some("http://evil.example")));
        assert!(!accepts("localhost:7474", Some("null")));
        assert!(!accepts("localhost:80", None));
    }
}
