//! One page, two answers: whole for a visit, one block of it for a swap.

use crate::frame::error::PageError;
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

/// The block of a page that is swapped in, and the title that goes with it.
pub(crate) fn block(
    title: &str,
    block: Result<String, askama::Error>,
) -> Result<String, PageError> {
    let block = block.map_err(|_| PageError::Broken)?;
    let title = askama::filters::escape(format!("{title} - Lake Hour"), askama::filters::Html);
    let title = title.map_err(|_| PageError::Broken)?;
    Ok(format!("<title>{title}</title>{block}"))
}

impl<S: Sync> FromRequestParts<S> for Render {
    type Rejection = Infallible;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Infallible> {
        let partial = parts.headers.get("HX-Request-Type").is_some_and(|v| v == "partial");
        Ok(if partial { Self::Fragment } else { Self::Page })
    }
}
