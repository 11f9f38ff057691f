//! What people type: read into the core's types, or kept as typed with a sentence beside the field.

pub(crate) mod list;
pub(crate) mod merge;

use crate::frame::error::PageError;
use axum::extract::{FromRequest, Request};
use axum::http::header;
use lake_hour_core::allowed::{self, Allowed};
use lake_hour_core::day;
use lake_hour_core::units::parse;
use lake_hour_core::units::system::{Measure, System};
use std::collections::BTreeMap;

/// A form as it was sent: every field as text.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(crate) struct Typed {
    fields: BTreeMap<String, String>,
    /// What its window last saw in the fields, where it says so.
    seen: Option<merge::Seen>,
    /// The units that its page was drawn in, where it says so: another window may have chosen others.
    units: Option<System>,
}

impl Typed {
    pub(crate) fn get(&self, name: &str) -> &str {
        self.fields.get(name).map_or("", String::as_str)
    }

    /// Whether the form had this field at all.
    pub(crate) fn has(&self, name: &str) -> bool {
        self.fields.contains_key(name)
    }

    /// The same with one field filled in by the program.
    pub(crate) fn with(mut self, name: &str, value: impl Into<String>) -> Self {
        self.fields.insert(name.to_owned(), value.into());
        self
    }

    /// The number of the row whose Remove was pressed.
    pub(crate) fn taken_out(&self) -> Option<usize> {
        self.get("take-out").parse().ok()
    }

    /// The same without that row: those behind it move up.
    pub(crate) fn without_row(&self, gone: usize) -> Self {
        Self { fields: moved_up(&self.fields, gone), ..Self::default() }
    }

    /// The units its figures are in; `usual` where it does not say.
    pub(crate) fn units_or(&self, usual: System) -> System {
        self.units.unwrap_or(usual)
    }

    fn parse(body: &[u8]) -> Self {
        let fields = form_urlencoded::parse(body);
        let mut fields: BTreeMap<String, String> =
            fields.map(|(k, v)| (k.into_owned(), v.into_owned())).collect();
        // What cannot be read says nothing.
        let seen = fields.remove("seen").and_then(|seen| serde_json::from_str(&seen).ok());
        let units = fields.remove("units").and_then(|key| System::from_key(&key));
        Self { fields, seen, units }
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

/// Fields of a list when one of its rows has gone: those behind it move up.
fn moved_up(fields: &BTreeMap<String, String>, gone: usize) -> BTreeMap<String, String> {
    let moved = fields.iter().filter_map(|(name, value)| {
        let numbered =
            name.rsplit_once("_").and_then(|(stem, n)| Some((stem, n.parse::<usize>().ok()?)));
        let name = match numbered {
            Some((_, n)) if n == gone => return None,
            Some((stem, n)) if n > gone => format!("{stem}_{}", n - 1),
            _ if name == "take-out" => return None,
            _ => name.clone(),
        };
        Some((name, value.clone()))
    });
    moved.collect()
}

/// What is wrong with each field of a form.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(crate) struct Problems(BTreeMap<String, String>);

impl Problems {
    /// One thing wrong with one field.
    pub(crate) fn one(name: &str, says: impl Into<String>) -> Self {
        Self(BTreeMap::from([(name.to_owned(), says.into())]))
    }

    /// The same with one more.
    pub(crate) fn and(mut self, name: &str, says: &str) -> Self {
        self.0.entry(name.to_owned()).or_insert_with(|| says.to_owned());
        self
    }

    pub(crate) fn get(&self, name: &str) -> Option<&str> {
        self.0.get(name).map(String::as_str)
    }

    pub(crate) fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    pub(crate) fn count(&self) -> usize {
        self.0.len()
    }

    /// The same when a row has gone.
    pub(crate) fn without_row(&self, gone: usize) -> Self {
        Self(moved_up(&self.0, gone))
    }
}

/// Reads the fields of a form one by one and collects what is wrong with them.
pub(crate) struct Reader<'a> {
    pub(crate) typed: &'a Typed,
    pub(crate) units: System,
    /// Put behind every name: the number of a row in a list.
    row: String,
    problems: Problems,
}

impl<'a> Reader<'a> {
    pub(crate) fn of(typed: &'a Typed, units: System) -> Self {
        Self { typed, units, row: String::new(), problems: Problems::default() }
    }

    /// What was typed, if it is text at all: bytes that are no UTF-8 arrive as replacement marks.
    pub(crate) fn text(&mut self, name: &str) -> Option<&'a str> {
        let text = self.typed.get(&format!("{name}{}", self.row));
        if text.contains('\u{fffd}') {
            self.problem(name, "Some of this is not readable text. Type it again.");
            return None;
        }
        Some(text)
    }

    pub(crate) fn problem(&mut self, name: &str, says: impl std::fmt::Display) {
        let name = format!("{name}{}", self.row);
        self.problems.0.entry(name).or_insert_with(|| says.to_string());
    }

    pub(crate) fn keep<T>(
        &mut self,
        name: &str,
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

    pub(crate) fn has_problem(&self, name: &str) -> bool {
        self.problems.0.contains_key(&format!("{name}{}", self.row))
    }

    pub(crate) fn is_blank(&self, name: &str) -> bool {
        self.typed.get(&format!("{name}{}", self.row)).trim().is_empty()
    }

    pub(crate) fn number(&mut self, name: &str, allowed: &Allowed) -> Option<f64> {
        let text = self.text(name)?;
        self.keep(name, parse::number(text, allowed))
    }

    /// A field that may stay empty. The outer `None` is a problem, the inner an empty field.
    pub(crate) fn optional(&mut self, name: &str, allowed: &Allowed) -> Option<Option<f64>> {
        if self.text(name)?.trim().is_empty() {
            return Some(None);
        }
        self.number(name, allowed).map(Some)
    }

    pub(crate) fn whole(&mut self, name: &str, allowed: &Allowed) -> Option<u32> {
        let text = self.text(name)?;
        self.keep(name, parse::whole(text, allowed))
    }

    /// A count that is `usual` where nothing was typed.
    pub(crate) fn whole_or(&mut self, name: &str, allowed: &Allowed, usual: u32) -> Option<u32> {
        if self.text(name)?.trim().is_empty() { Some(usual) } else { self.whole(name, allowed) }
    }

    pub(crate) fn name(&mut self, name: &str) -> Option<String> {
        self.text_of(name, allowed::NAME_LENGTH)
    }

    /// Words on one line, of at most so many characters.
    pub(crate) fn text_of(&mut self, name: &str, most: usize) -> Option<String> {
        let text = self.text(name)?;
        self.keep(name, allowed::text(text, most))
    }

    /// A name that is `usual` where nothing was typed.
    pub(crate) fn name_or(&mut self, name: &str, usual: &str) -> Option<String> {
        if self.text(name)?.trim().is_empty() { Some(usual.to_owned()) } else { self.name(name) }
    }

    /// A measure in the units shown, or in the unit typed behind it. SI.
    pub(crate) fn measure(&mut self, name: &str, of: Measure, allowed: &Allowed) -> Option<f64> {
        let text = self.text(name)?;
        self.keep(name, self.units.read(text, of, allowed))
    }

    /// A measure that may stay empty.
    pub(crate) fn measure_if(
        &mut self,
        name: &str,
        of: Measure,
        allowed: &Allowed,
    ) -> Option<Option<f64>> {
        if self.text(name)?.trim().is_empty() {
            return Some(None);
        }
        self.measure(name, of, allowed).map(Some)
    }

    /// How long something lasts, in minutes.
    pub(crate) fn minutes(&mut self, name: &str, allowed: &Allowed) -> Option<f64> {
        let text = self.text(name)?;
        self.keep(name, parse::minutes(text, allowed))
    }

    /// A clock time that may stay empty.
    pub(crate) fn clock_if(&mut self, name: &str) -> Option<Option<u16>> {
        let text = self.text(name)?.trim();
        if text.is_empty() {
            return Some(None);
        }
        let read = day::clock(text).ok_or("Type a clock time, as in 7:00, 1300 or 1:00 PM.");
        self.keep(name, read).map(Some)
    }

    /// A day of the calendar.
    pub(crate) fn date(&mut self, name: &str) -> Option<jiff::civil::Date> {
        let text = self.text(name)?.trim();
        let read =
            text.parse().ok().filter(|d: &jiff::civil::Date| (1990..=2100).contains(&d.year()));
        self.keep(name, read.ok_or("Type a day between 1990 and 2100, as in 2026-09-22."))
    }

    /// A day that may stay empty.
    pub(crate) fn date_if(&mut self, name: &str) -> Option<Option<jiff::civil::Date>> {
        if self.text(name)?.trim().is_empty() {
            return Some(None);
        }
        self.date(name).map(Some)
    }

    pub(crate) fn ticked(&self, name: &str) -> bool {
        !self.is_blank(name)
    }

    /// One of the keys offered.
    pub(crate) fn choice<T>(&mut self, name: &str, read: impl Fn(&str) -> Option<T>) -> Option<T> {
        let text = self.text(name)?;
        self.keep(name, read(text).ok_or("Choose one of those offered."))
    }

    /// Reads a list typed as numbered rows: the first `kept` are there already and go only by the number
    /// that came with `take-out`; behind them those left blank are not there. `blank` names the fields
    /// that make a row one.
    pub(crate) fn rows<T>(
        &mut self,
        blank: &[&str],
        kept: usize,
        most: usize,
        mut read: impl FnMut(&mut Self, usize) -> Option<T>,
    ) -> Option<Vec<T>> {
        let removed = self.typed.taken_out();
        let (mut rows, mut whole) = (Vec::new(), true);
        for n in 0..=most {
            self.row = format!("_{n}");
            let there = n < kept && self.typed.has(&format!("{}_{n}", blank[0]));
            if removed == Some(n) || !there && blank.iter().all(|name| self.is_blank(name)) {
                continue;
            }
            if rows.len() == most {
                self.problem(blank[0], format!("At most {most} fit: remove one first."));
                whole = false;
                break;
            }
            match read(self, n) {
                Some(row) => rows.push(row),
                None => whole = false,
            }
        }
        self.row.clear();
        whole.then_some(rows)
    }

    /// Reads fields that all have this behind their names.
    pub(crate) fn beside<T>(&mut self, row: &str, read: impl FnOnce(&mut Self) -> T) -> T {
        let before = std::mem::replace(&mut self.row, row.to_owned());
        let value = read(self);
        self.row = before;
        value
    }

    /// Words that may stay empty, of at most so many characters.
    pub(crate) fn words_if(&mut self, name: &str, most: usize) -> Option<String> {
        if self.text(name)?.trim().is_empty() {
            Some(String::new())
        } else {
            self.text_of(name, most)
        }
    }

    /// What was read, if nothing was wrong with any field.
    pub(crate) fn finish<T>(self, read: Option<T>) -> Result<T, Problems> {
        match read {
            Some(value) if self.problems.is_empty() => Ok(value),
            _ => Err(self.problems),
        }
    }
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
    /// What it measures, where the unit follows the set that is shown.
    pub(crate) measure: Option<Measure>,
    /// On or off.
    pub(crate) tick: bool,
    /// What is typed holds more than digits and a point: a colon, a minus, a unit.
    pub(crate) signs: bool,
    /// A day of the calendar.
    pub(crate) date: bool,
}

impl Spec {
    /// Whether a keypad of digits has all that is typed here.
    pub(crate) fn wants_digits(&self) -> bool {
        !self.words && !self.signs && self.measure != Some(Measure::Temperature)
    }

    /// The same for a figure with more than digits in it.
    pub(crate) const fn with_signs(self) -> Self {
        Self { signs: true, ..self }
    }

    pub(crate) const fn figure(
        name: &'static str,
        label: &'static str,
        unit: &'static str,
        hint: &'static str,
    ) -> Self {
        Self {
            name,
            label,
            unit,
            hint,
            options: &[],
            words: false,
            measure: None,
            tick: false,
            signs: false,
            date: false,
        }
    }

    pub(crate) const fn measure(
        name: &'static str,
        label: &'static str,
        measure: Measure,
        hint: &'static str,
    ) -> Self {
        Self { measure: Some(measure), ..Self::figure(name, label, "", hint) }
    }

    pub(crate) const fn words(name: &'static str, label: &'static str) -> Self {
        Self { words: true, ..Self::figure(name, label, "", "") }
    }

    pub(crate) const fn choice(
        name: &'static str,
        label: &'static str,
        options: &'static [(&'static str, &'static str)],
    ) -> Self {
        Self { options, ..Self::figure(name, label, "", "") }
    }

    pub(crate) const fn date(name: &'static str, label: &'static str) -> Self {
        Self { date: true, words: true, ..Self::figure(name, label, "", "") }
    }

    pub(crate) const fn tick(name: &'static str, label: &'static str) -> Self {
        Self { tick: true, ..Self::figure(name, label, "", "") }
    }
}

impl Spec {
    /// Whether nothing chosen is one of the choices.
    fn may_be_blank(&self) -> bool {
        self.options.iter().any(|(key, _)| key.is_empty())
    }
}

/// A field as a page shows it.
#[derive(Debug, Clone)]
pub(crate) struct Field {
    pub(crate) spec: Spec,
    /// As it is sent.
    pub(crate) name: String,
    /// Unique on the page.
    pub(crate) id: String,
    pub(crate) unit: &'static str,
    pub(crate) value: String,
    pub(crate) problem: Option<String>,
}

impl Field {
    /// Whether a choice has still to be made.
    pub(crate) fn unchosen(&self) -> bool {
        self.value.is_empty() && !self.spec.may_be_blank()
    }
}

/// A group of fields under a heading.
#[derive(Debug, Clone)]
pub(crate) struct Group {
    pub(crate) title: &'static str,
    pub(crate) fields: Vec<Field>,
}

/// A form's fields from what stands in them and what is wrong with it.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Shown<'a> {
    pub(crate) typed: &'a Typed,
    pub(crate) problems: &'a Problems,
    pub(crate) units: System,
}

impl Shown<'_> {
    /// The fields of a form; `prefix` keeps their ids apart.
    pub(crate) fn fields(&self, prefix: &str, specs: &[Spec]) -> Vec<Field> {
        self.numbered(prefix, specs, "")
    }

    pub(crate) fn numbered(&self, prefix: &str, specs: &[Spec], row: &str) -> Vec<Field> {
        specs
            .iter()
            .map(|spec| {
                let name = format!("{}{row}", spec.name);
                Field {
                    spec: *spec,
                    id: format!("{prefix}-{name}"),
                    unit: spec.measure.map_or(spec.unit, |m| self.units.unit(m).name),
                    value: self.typed.get(&name).to_owned(),
                    problem: self.problems.get(&name).map(str::to_owned),
                    name,
                }
            })
            .collect()
    }

    /// The rows of a list that are there, and a blank one behind them.
    pub(crate) fn rows(&self, prefix: &str, specs: &[Spec], count: usize) -> Vec<Vec<Field>> {
        let mut rows: Vec<_> =
            (0..=count).map(|n| self.numbered(prefix, specs, &format!("_{n}"))).collect();
        // A new row begins with the first of what can be chosen.
        for field in rows.iter_mut().last().into_iter().flatten().filter(|f| f.unchosen()) {
            if let Some((key, _)) = field.spec.options.first() {
                (*key).clone_into(&mut field.value);
            }
        }
        rows
    }
}

/// An SI value as it stands in its field.
pub(crate) fn shown(units: System, measure: Measure, si: f64) -> String {
    let figure = units.figure(measure, si);
    let digits = if figure.abs() < 10.0 { 2 } else { 1 };
    crate::figures::trimmed(format!("{figure:.digits$}"))
}

/// A measure that was not touched keeps its exact value, not the rounded one its field showed.
pub(crate) fn untouched(
    units: System,
    measure: Measure,
    before: Option<f64>,
    typed: &str,
    read: Option<f64>,
) -> Option<f64> {
    match before {
        Some(si) if shown(units, measure, si) == typed.trim() => Some(si),
        _ => read,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_row_goes_by_its_remove_only_and_bad_ones_are_told_by_their_number() {
        let typed = Typed::parse(
            b"name_0=Sonar&watts_0=18&name_2=Light&watts_2=x&name_3=Pump&watts_3=9&name_4=",
        );
        let read = |typed: &Typed| {
            let mut r = Reader::of(typed, System::Us);
            let rows = r.rows(&["name", "watts"], 4, 12, |r, _| {
                Some((r.name("name")?, r.number("watts", &allowed::POWER)?))
            });
            r.finish(rows)
        };
        let problems = read(&typed).expect_err("a letter");
        assert!(problems.get("watts_2").expect("told").contains("not a number"));
        assert_eq!(problems.count(), 1);
        let rows = read(&typed.with("take-out", "2")).expect("good");
        assert_eq!(rows, [("Sonar".to_owned(), 18.0), ("Pump".to_owned(), 9.0)]);
    }

    #[test]
    fn bytes_that_are_no_text_are_refused_beside_their_field() {
        let typed = Typed::parse(b"name=Out%ff&minutes=10");
        let mut r = Reader::of(&typed, System::Us);
        let name = r.name("name");
        let problems = r.finish(name).expect_err("not text");
        assert!(problems.get("name").expect("said").contains("not readable text"));
        assert_eq!(typed.get("minutes"), "10");
    }
}
