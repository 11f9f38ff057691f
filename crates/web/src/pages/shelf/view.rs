//! What of the shelf is shown: all of it stands in the address.

use crate::frame::view::{Page, View, of_address};
use axum::extract::FromRequestParts;
use axum::http::request::Parts;
use lake_hour_core::shelf::{Build, Chemistry, SizeClass};
use lake_hour_store::{Order, RigId, ShelfQuery};
use serde::Deserialize;

/// Rows sent at once.
pub(super) const PAGE_SIZE: usize = 16;
/// Longest search that is looked for.
const LONGEST_SEARCH: usize = 80;

/// What is open on the shelf.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) enum Open {
    #[default]
    Nothing,
    /// The kinds to choose from.
    Kinds,
    /// The form for a new battery of a kind.
    New(Chemistry, Option<Build>),
    /// The text to be understood.
    Paste,
    /// Files in and out.
    Files,
    /// A file that is being looked at or taken.
    Import(u64),
    /// The figures of a battery, its doubts, its place aboard.
    Battery(i64),
    /// Its form.
    Edit(i64),
    /// Where the packs of the board go.
    Fit,
}

impl Open {
    fn read(text: &str) -> Self {
        let id = |prefix: &str| text.strip_prefix(prefix).and_then(|id| id.parse().ok());
        match text {
            "kinds" => Self::Kinds,
            "paste" => Self::Paste,
            "files" => Self::Files,
            "fit" => Self::Fit,
            _ => None
                .or_else(|| id("battery-").map(Self::Battery))
                .or_else(|| id("edit-").map(Self::Edit))
                .or_else(|| text.strip_prefix("file-")?.parse().ok().map(Self::Import))
                .or_else(|| {
                    let (chemistry, build) = text.strip_prefix("new-")?.split_once('-')?;
                    Some(Self::New(Chemistry::from_key(chemistry)?, Build::from_key(build)))
                })
                .unwrap_or_default(),
        }
    }

    pub(super) fn words(self) -> Option<String> {
        Some(match self {
            Self::Nothing => return None,
            Self::Kinds => "kinds".to_owned(),
            Self::Paste => "paste".to_owned(),
            Self::Files => "files".to_owned(),
            Self::Fit => "fit".to_owned(),
            Self::Import(id) => format!("file-{id}"),
            Self::Battery(id) => format!("battery-{id}"),
            Self::Edit(id) => format!("edit-{id}"),
            Self::New(chemistry, build) => {
                format!("new-{}-{}", chemistry.key(), build.map_or("", Build::key))
            }
        })
    }
}

/// The orders that are offered.
pub(super) const ORDERS: [(Order, &str, &str); 12] = [
    (Order::Name, "name", "name"),
    (Order::Reckoned, "usable", "cheapest usable kWh"),
    (Order::PerWh, "per-wh", "cheapest Wh"),
    (Order::PerAh, "per-ah", "cheapest Ah"),
    (Order::Price, "price", "cheapest"),
    (Order::Weight, "weight", "lightest"),
    (Order::Energy, "energy", "most Wh"),
    (Order::Capacity, "capacity", "most Ah"),
    (Order::Amps, "amps", "most amps"),
    (Order::Cycles, "cycles", "most cycles"),
    (Order::Volts, "volts", "voltage"),
    (Order::Newest, "newest", "newest"),
];

/// Everything in the address behind the path.
#[derive(Debug, Clone, Default, PartialEq, Deserialize)]
#[serde(from = "Raw")]
pub(crate) struct ShelfView {
    pub(crate) query: ShelfQuery,
    pub(crate) open: Open,
    /// How the Board is shown, so that one comes back to it as it was.
    pub(crate) board: View,
}

/// As it comes: anything unknown is as if it were not there.
#[derive(Default, Deserialize)]
#[serde(default)]
struct Raw {
    q: String,
    chem: String,
    volts: String,
    class: String,
    label: String,
    heater: String,
    monitor: String,
    hidden: String,
    group: String,
    by: String,
    p: String,
    open: String,
    order: String,
    pin: String,
    #[serde(rename = "if")]
    what_if: String,
}

impl From<Raw> for ShelfView {
    fn from(raw: Raw) -> Self {
        let order = ORDERS.iter().find(|(_, key, _)| *key == raw.by).map(|(order, ..)| *order);
        Self {
            query: ShelfQuery {
                words: raw.q.trim().chars().take(LONGEST_SEARCH).collect(),
                chemistry: Chemistry::from_key(&raw.chem),
                system: raw.volts.parse().ok(),
                size_class: SizeClass::from_name(&raw.class),
                doubtful: match raw.label.as_str() {
                    "doubtful" => Some(true),
                    "plausible" => Some(false),
                    _ => None,
                },
                heater: !raw.heater.is_empty(),
                monitor: !raw.monitor.is_empty(),
                hidden: !raw.hidden.is_empty(),
                grouped: !raw.group.is_empty(),
                order: order.unwrap_or_default(),
                page: raw.p.parse::<usize>().map_or(0, |p| p.saturating_sub(1)),
                page_size: PAGE_SIZE,
            },
            open: Open::read(&raw.open),
            board: View::of_the_board(raw.order, raw.pin, raw.what_if),
        }
    }
}

impl<S: Sync> FromRequestParts<S> for ShelfView {
    type Rejection = std::convert::Infallible;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Self::Rejection> {
        Ok(of_address(&parts.uri))
    }
}

impl ShelfView {
    /// The Packs page, which sets the Board's packs out in the bays; the Board's view goes with it.
    pub(super) fn will_they_fit(&self, rig: RigId) -> String {
        let packs = self.board.on(Page::Packs).address(rig);
        format!("{packs}{}fits=yes", if packs.contains('?') { '&' } else { '?' })
    }

    /// The same with something else open.
    pub(super) fn opening(&self, open: Open) -> Self {
        Self { query: self.query.clone(), open, board: self.board }
    }

    /// The same on another page.
    pub(super) fn at(&self, page: usize) -> Self {
        Self {
            query: ShelfQuery { page, ..self.query.clone() },
            open: Open::Nothing,
            board: self.board,
        }
    }

    /// For a form's address: what to show when it has been taken.
    pub(super) fn query(&self) -> String {
        let q = &self.query;
        let mut out = form_urlencoded::Serializer::new(String::new());
        let mut put = |name: &str, value: &str| {
            if !value.is_empty() {
                out.append_pair(name, value);
            }
        };
        put("q", &q.words);
        put("chem", q.chemistry.map_or("", Chemistry::key));
        put("volts", &q.system.map(|v| v.to_string()).unwrap_or_default());
        put("class", q.size_class.map_or("", SizeClass::name));
        put("label", q.doubtful.map_or("", |yes| if yes { "doubtful" } else { "plausible" }));
        for (name, on) in [
            ("heater", q.heater),
            ("monitor", q.monitor),
            ("hidden", q.hidden),
            ("group", q.grouped),
        ] {
            put(name, if on { "yes" } else { "" });
        }
        let by = ORDERS.iter().find(|(order, ..)| *order == q.order && q.order != Order::Name);
        put("by", by.map_or("", |(_, key, _)| key));
        put("p", &if q.page > 0 { (q.page + 1).to_string() } else { String::new() });
        put("open", &self.open.words().unwrap_or_default());
        for (name, value) in self.board.kept() {
            put(name, &value);
        }
        let query = out.finish();
        if query.is_empty() { query } else { format!("?{query}") }
    }

    /// Address of the shelf shown like this.
    pub(super) fn address(&self, rig: RigId) -> String {
        format!("/rigs/{}/shelf{}", rig.0, self.query())
    }

    /// Whether anything is searched for or filtered.
    pub(super) fn is_narrowed(&self) -> bool {
        let q = &self.query;
        !q.words.is_empty()
            || q.chemistry.is_some()
            || q.system.is_some()
            || q.size_class.is_some()
            || q.doubtful.is_some()
            || q.heater
            || q.monitor
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn view(query: &str) -> ShelfView {
        let uri: axum::http::Uri = format!("/?{query}").parse().expect("an address");
        of_address(&uri)
    }

    #[test]
    fn what_is_shown_stands_in_the_address_and_comes_back_from_it() {
        for query in [
            "",
            "?q=marl+%26+point&chem=lfp&volts=12&class=31&label=doubtful&by=usable&p=3",
            "?heater=yes&monitor=yes&hidden=yes&group=yes&open=battery-7",
            "?open=new-agm-spiral",
            "?open=new-nmc-",
            "?open=file-4",
            "?q=marl&order=light&pin=3&if=wind-slower",
        ] {
            assert_eq!(view(query.trim_start_matches('?')).query(), query);
        }
        let odd = view("q=%20&chem=x&volts=-1&class=99&label=?&by=x&p=0&open=%3Cb%3E");
        assert_eq!(odd.query(), "");
    }
}
