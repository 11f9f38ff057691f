//! What is read and not worked with: about the model, words and formulas. The files of the documentation themselves.

use crate::frame::App;
use crate::frame::error::PageError;
use crate::frame::head::Head;
use crate::frame::look::Look;
use askama::Template;
use axum::Router;
use axum::http::HeaderMap;
use axum::response::{Html, IntoResponse, Response};
use axum::routing::get;
use pulldown_cmark::{Event, Options, Parser, Tag, TagEnd};

const MODEL: &str = include_str!("../../../../docs/model.md");
const GLOSSARY: &str = include_str!("../../../../docs/glossary.md");

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/model", get(async |headers: HeaderMap| page("About the model", MODEL, &headers)))
        .route(
            "/glossary",
            get(async |headers: HeaderMap| page("Words and formulas", GLOSSARY, &headers)),
        )
}

#[derive(Template)]
#[template(path = "reading.html")]
struct ReadingPage {
    head: Head,
    html: String,
}

fn page(title: &str, text: &str, headers: &HeaderMap) -> Result<Response, PageError> {
    let head = Head::plain(title, Look::of(headers));
    let page = ReadingPage { head, html: html(text) };
    Ok(Html(page.render().map_err(|_| PageError::Broken)?).into_response())
}

/// A text of the documentation as a page: its headings may be linked to, nothing in it is taken for HTML.
fn html(text: &str) -> String {
    let events: Vec<Event<'_>> = Parser::new_ext(text, Options::ENABLE_TABLES).collect();
    let mut all = Vec::with_capacity(events.len());
    for (n, event) in events.iter().enumerate() {
        match event {
            Event::Start(Tag::Heading { level, .. }) => {
                let end =
                    events[n..].iter().position(|e| matches!(e, Event::End(TagEnd::Heading(_))));
                let words: String = events[n..n + end.unwrap_or(0)]
                    .iter()
                    .filter_map(|e| match e {
                        Event::Text(t) | Event::Code(t) => Some(t.as_ref()),
                        _ => None,
                    })
                    .collect();
                all.push(Event::Start(Tag::Heading {
                    level: *level,
                    id: Some(slug(&words).into()),
                    classes: Vec::new(),
                    attrs: Vec::new(),
                }));
            }
            Event::Html(text) | Event::InlineHtml(text) => all.push(Event::Text(text.clone())),
            other => all.push(other.clone()),
        }
    }
    let mut out = String::new();
    pulldown_cmark::html::push_html(&mut out, all.into_iter());
    // Columns of figures scroll by themselves on a phone.
    out.replace(
        "<table>",
        "<div class=\"reading-table\" tabindex=\"0\" role=\"group\" aria-label=\"A table\"><table>",
    )
    .replace("</table>", "</table></div>")
    // A head without words is no head.
    .replace("<th></th>", "<td></td>")
    .replace("<pre>", "<pre tabindex=\"0\">")
}

/// "1. A unit" as "1-a-unit".
fn slug(words: &str) -> String {
    let kept = words
        .to_lowercase()
        .chars()
        .map(|c| if c.is_alphanumeric() { c } else { '-' })
        .collect::<String>();
    kept.split('-').filter(|part| !part.is_empty()).collect::<Vec<_>>().join("-")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_text_is_a_page_with_headings_to_link_to_and_no_html_of_its_own() {
        let page = html(
            "# A <b>b</b>\n\n## 1. A unit\n\n<script>x</script>\n\n| a | b |\n|---|---|\n| 1 | `2 < 3` |\n",
        );
        assert!(page.contains("<h2 id=\"1-a-unit\">1. A unit</h2>"));
        assert!(!page.contains("<script>") && !page.contains("<b>"));
        assert!(page.contains("<td>1</td>") && page.contains("2 &lt; 3"));
        for text in [MODEL, GLOSSARY] {
            let page = html(text);
            assert_eq!(page.matches("<h1").count(), 1);
            assert!(page.matches("<h2").count() > 4);
        }
    }
}
