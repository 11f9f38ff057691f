//! What people type: read into the core's types, or kept as typed with a sentence beside the field.

pub(crate) mod pack;
pub(crate) mod settings;
pub(crate) mod stretch;

use crate::error::PageError;
use axum::extract::{FromRequest, Request};
use axum::http::header;
use lake_hour_core::allowed::{self, Allowed};
use lake_hour_core::units::parse;
use std::collections::BTreeMap;

/// A form as it was sent: every field as text.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(crate) struct Typed(BTreeMap<String, String>);

impl Typed {
    pub(crate) fn get(&self, name: &str) -> &str {
        self.0.get(name).map_or("", String::as_str)
    }

    /// The same with one field filled in by the program.
    pub(crate) fn with(mut self, name: &str, value: impl Into<String>) -> Self {
        self.0.insert(name.to_owned(), value.into());
        self
    }

    fn parse(body: &[u8]) -> Self {
        Self(form_urlencoded::parse(body).map(|(k, v)| (k.into_owned(), v.into_owned())).collect())
    }
}

impl<S: Send + Sync> FromRequest<S> for Typed {
    type Rejection = PageError;

    async fn from_request(request: Request, state: &S) -> Result<Self, PageError> {
        let kind = request.headers().get(header::CONTENT_TYPE).and_then(|v| v.to_str().ok());
        if kind.is_some_and(|k| !k.starts_with("application/x-www-form-urlencoded")) {
            return Err(PageError::BadForm("it must be sent as a plain web form".to_owned()));
        }
        let body = axum::body::Bytes::from_request(request, state).await.map_err(|refused| {
            if refused.status() == axum::http::StatusCode::PAYLOAD_TOO_LARGE {
                PageError::TooLarge
            } else {
                PageError::BadForm("it broke off on the way".to_owned())
            }
        })?;
        Ok(Self::parse(&body))
    }
}

/// What is wrong with each field of a form.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(crate) struct Problems(BTreeMap<&'static str, String>);

impl Problems {
    pub(crate) fn get(&self, name: &str) -> Option<&str> {
        self.0.get(name).map(String::as_str)
    }

    pub(crate) fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    pub(crate) fn count(&self) -> usize {
        self.0.len()
    }
}

/// Reads the fields of a form one by one and collects what is wrong with them.
pub(crate) struct Reader<'a> {
    typed: &'a Typed,
    problems: Problems,
}

impl<'a> Reader<'a> {
    pub(crate) fn of(typed: &'a Typed) -> Self {
        Self { typed, problems: Problems::default() }
    }

    /// What was typed, if it is text at all: bytes that are no UTF-8 arrive as replacement marks.
    fn text(&mut self, name: &'static str) -> Option<&'a str> {
        let text = self.typed.get(name);
        if text.contains('\u{fffd}') {
            self.problem(name, "Some of this is not readable text. Type it again.");
            return None;
        }
        Some(text)
    }

    pub(crate) fn problem(&mut self, name: &'static str, says: impl std::fmt::Display) {
        self.problems.0.entry(name).or_insert_with(|| says.to_string());
    }

    fn keep<T>(
        &mut self,
        name: &'static str,
        read: Result<T, impl std::fmt::Display>,
    ) -> Option<T> {
        match read {
            Ok(value) => Some(value),
            Err(bad) => {
                self.problem(name, bad);
                None
            }
        }
    }

    pub(crate) fn number(&mut self, name: &'static str, allowed: &Allowed) -> Option<f64> {
        let text = self.text(name)?;
        self.keep(name, parse::number(text, allowed))
    }

    /// A field that may stay empty. The outer `None` is a problem, the inner an empty field.
    pub(crate) fn optional(
        &mut self,
        name: &'static str,
        allowed: &Allowed,
    ) -> Option<Option<f64>> {
        if self.text(name)?.trim().is_empty() {
            return Some(None);
        }
        self.number(name, allowed).map(Some)
    }

    pub(crate) fn whole(&mut self, name: &'static str, allowed: &Allowed) -> Option<u32> {
        let text = self.text(name)?;
        self.keep(name, parse::whole(text, allowed))
    }

    pub(crate) fn name(&mut self, name: &'static str) -> Option<String> {
        let text = self.text(name)?;
        self.keep(name, allowed::name(text))
    }

    /// A mass, in pounds unless it says "kg". [kg]
    pub(crate) fn mass(&mut self, name: &'static str, allowed: &Allowed) -> Option<Option<f64>> {
        let text = self.text(name)?.trim();
        if text.is_empty() {
            return Some(None);
        }
        let kilograms = if text.ends_with("kg") {
            parse::number(text, allowed)
        } else {
            let pounds = Allowed {
                low: ceil_two(allowed.low / lake_hour_core::units::convert::KG_PER_LB),
                high: (allowed.high / lake_hour_core::units::convert::KG_PER_LB).floor(),
                unit: "lb",
            };
            parse::number(text.trim_end_matches('s'), &pounds)
                .map(|lb| lake_hour_core::units::convert::from_pounds(lb).value())
        };
        self.keep(name, kilograms).map(Some)
    }

    /// A temperature, in degrees Fahrenheit unless it says "C". [°C]
    pub(crate) fn temperature(&mut self, name: &'static str) -> Option<Option<f64>> {
        let text = self.text(name)?.trim();
        if text.is_empty() {
            return Some(None);
        }
        let bare = |unit: &str| text.trim_end_matches(unit).trim_end_matches(['°', ' ']);
        let celsius = if text.ends_with(['C', 'c']) {
            parse::number(bare(&text[text.len() - 1..]), &allowed::TEMPERATURE)
        } else {
            let fahrenheit = Allowed { low: -40.0, high: 140.0, unit: "°F" };
            parse::number(bare("F"), &fahrenheit)
                .map(|f| lake_hour_core::units::convert::from_fahrenheit(f).value())
        };
        self.keep(name, celsius).map(Some)
    }

    /// One of the keys offered.
    pub(crate) fn choice<T>(
        &mut self,
        name: &'static str,
        read: impl Fn(&str) -> Option<T>,
    ) -> Option<T> {
        let text = self.text(name)?;
        self.keep(name, read(text).ok_or("Choose one of those offered."))
    }

    /// What was read, if nothing was wrong with any field.
    pub(crate) fn finish<T>(self, read: Option<T>) -> Result<T, Problems> {
        match read {
            Some(value) if self.problems.is_empty() => Ok(value),
            _ => Err(self.problems),
        }
    }
}

fn ceil_two(value: f64) -> f64 {
    (value * 100.0).ceil() / 100.0
}

/// What a field is, apart from what stands in it.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Spec {
    pub(crate) name: &'static str,
    pub(crate) label: &'static str,
    pub(crate) unit: &'static str,
    pub(crate) hint: &'static str,
    /// What is offered; empty for a field that is typed into.
    pub(crate) options: &'static [(&'static str, &'static str)],
    /// A name or other words, not a figure.
    pub(crate) words: bool,
}

impl Spec {
    pub(crate) const fn figure(
        name: &'static str,
        label: &'static str,
        unit: &'static str,
        hint: &'static str,
    ) -> Self {
        Self { name, label, unit, hint, options: &[], words: false }
    }

    pub(crate) const fn words(name: &'static str, label: &'static str) -> Self {
        Self { name, label, unit: "", hint: "", options: &[], words: true }
    }

    pub(crate) const fn choice(
        name: &'static str,
        label: &'static str,
        options: &'static [(&'static str, &'static str)],
    ) -> Self {
        Self { name, label, unit: "", hint: "", options, words: false }
    }
}

/// A field as a page shows it.
#[derive(Debug, Clone)]
pub(crate) struct Field {
    pub(crate) spec: Spec,
    /// Unique on the page.
    pub(crate) id: String,
    pub(crate) value: String,
    pub(crate) problem: Option<String>,
}

/// A group of fields under a heading.
#[derive(Debug, Clone)]
pub(crate) struct Group {
    pub(crate) title: &'static str,
    pub(crate) fields: Vec<Field>,
}

/// The fields of a form with what stands in them and what is wrong.
pub(crate) fn fields(
    prefix: &str,
    specs: &[Spec],
    typed: &Typed,
    problems: &Problems,
) -> Vec<Field> {
    specs
        .iter()
        .map(|spec| Field {
            spec: *spec,
            id: format!("{prefix}-{}", spec.name),
            value: typed.get(spec.name).to_owned(),
            problem: problems.get(spec.name).map(str::to_owned),
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn masses_and_temperatures_are_read_in_either_unit() {
        let read = |text: &str| {
            let typed = Typed::default().with("m", text);
            let mut r = Reader::of(&typed);
            let mass = r.mass("m", &allowed::UNIT_MASS);
            r.finish(mass)
        };
        assert_eq!(read(""), Ok(None));
        assert_eq!(read("11.5 kg"), Ok(Some(11.5)));
        for pounds in ["100", "100 lb", "100lbs"] {
            assert!((read(pounds).expect(pounds).expect("typed") - 45.359_237).abs() < 1e-9);
        }
        assert_eq!(
            read("0").expect_err("too light").get("m"),
            Some("Type a number from 0.12 to 4409 lb.")
        );
        let read = |text: &str| {
            let typed = Typed::default().with("t", text);
            let mut r = Reader::of(&typed);
            let t = r.temperature("t");
            r.finish(t)
        };
        for (text, celsius) in
            [("14 C", 14.0), ("14°C", 14.0), ("32", 0.0), ("32 F", 0.0), ("32 °F", 0.0)]
        {
            assert!((read(text).expect(text).expect("typed") - celsius).abs() < 1e-9, "{text}");
        }
        assert!(read("300").is_err());
    }

    #[test]
    fn bytes_that_are_no_text_are_refused_beside_their_field() {
        let typed = Typed::parse(b"name=Out%ff&minutes=10");
        let mut r = Reader::of(&typed);
        let name = r.name("name");
        let problems = r.finish(name).expect_err("not text");
        assert!(problems.get("name").expect("said").contains("not readable text"));
        assert_eq!(typed.get("minutes"), "10");
    }
}
