//! One page, two answers: whole for a visit, one block of it for a swap.

use axum::extract::FromRequestParts;
use axum::http::request::Parts;
use std::convert::Infallible;

/// What the browser asked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Render {
    /// The whole page.
    Page,
    /// The part that changes.
    Fragment,
}

impl<S: Sync> FromRequestParts<S> for Render {
    type Rejection = Infallible;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Infallible> {
        let partial = parts.headers.get("HX-Request-Type").is_some_and(|v| v == "partial");
        Ok(if partial { Self::Fragment } else { Self::Page })
    }
}
