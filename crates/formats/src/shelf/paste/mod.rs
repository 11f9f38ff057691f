//! Label text or a shop's specification table, as it is pasted: the figures in it, with their units.
//!
//! Nothing is guessed from a bare number. What was understood is told piece by piece, so that it can be
//! looked at before it is kept; what can be read two ways is asked.
//!
//! - `marks` decides whether the label writes 12.8 or 12,8
//! - `patterns` what the pieces look like, `rules` takes them from a line
//! - `guess` the chemistry that is not named, and a short name

/// A pattern made when it is first needed; none where it does not compile, which a test would show.
macro_rules! pattern {
    ($name:ident, $text:expr) => {
        pub(super) static $name: LazyLock<Option<Regex>> = LazyLock::new(|| Regex::new($text).ok());
    };
}

mod guess;
mod marks;
mod patterns;
mod rules;

pub use marks::Ask;

use lake_hour_core::shelf::figures::Label;
use lake_hour_core::units::system::System;
use regex::Regex;
use std::sync::LazyLock;

/// Longest text looked at. [bytes]
pub const LONGEST: usize = 64 * 1024;
/// Most lines, and longest line, looked at.
const MOST_LINES: usize = 400;
const LONGEST_LINE: usize = 600;

/// A piece of the text and what it was taken for.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Found {
    /// As it stands in the text.
    pub text: String,
    /// What it was taken for.
    pub meaning: String,
}

/// What was understood of a text.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Understood {
    /// The figures; whether they are allowed is not looked at yet.
    pub label: Label,
    /// Piece by piece.
    pub found: Vec<Found>,
    /// What can be read two ways, or is not told: looked at before it is kept.
    pub asks: Vec<Ask>,
    /// Lines with figures in them that were not understood.
    pub left: Vec<String>,
}

pattern!(SCRIPTS, r"(?is)<script\b.*?(</script>|\z)|<style\b.*?(</style>|\z)|<!--.*?(-->|\z)");
pattern!(BREAKS, r"(?i)<\s*(br|/p|/tr|/li|/div|/h\d)\b[^>]*>");
pattern!(CELLS, r"(?i)<\s*/t[dh]\s*>");
pattern!(TAGS, r"(?s)<[^<>]{0,2000}>");
// "Weight (kg): 11.5" and "Weight [kg] 11.5": the unit goes behind its number.
pattern!(
    UNIT_FIRST,
    r"(?i)^([^\d\[(]*?)[\[(]\s*(v|ah|wh|kwh|kg|lbs?|a|m\s?ohm|milliohm|mm|cm|in|inch|min|minutes|years?|jahre|ans|a\u{f1}os|%)\s*[\])]\W{0,4}([\d.,]+(?:\s*x\s*[\d.,]+){0,2})\s*$"
);

/// Plain text of what was pasted.
fn plain(text: &str) -> String {
    let mut cut = text.len().min(LONGEST);
    while !text.is_char_boundary(cut) {
        cut -= 1;
    }
    let mut plain = text[..cut].to_owned();
    if plain.contains('<') {
        for (pattern, with) in [(&SCRIPTS, " "), (&BREAKS, "\n"), (&CELLS, "\t"), (&TAGS, " ")] {
            if let Some(pattern) = pattern.as_ref() {
                plain = pattern.replace_all(&plain, with).into_owned();
            }
        }
        for (mark, sign) in [
            ("&nbsp;", " "),
            ("&quot;", "\""),
            ("&deg;", "\u{b0}"),
            ("&times;", "x"),
            ("&amp;", "&"),
        ] {
            plain = plain.replace(mark, sign);
        }
    }
    plain.replace(['\u{201d}', '\u{2033}', '\u{201c}'], "\"").replace(['\u{2212}', '\u{2013}'], "-")
}

/// Lines as they are read: a table's head with its units goes with the bare numbers below it.
fn lines(text: &str) -> Vec<String> {
    let mut out: Vec<String> = Vec::new();
    let mut head: Option<Vec<&str>> = None;
    for line in text.lines().filter(|l| !l.trim().is_empty()).take(MOST_LINES) {
        let cells: Vec<&str> = line.split(['\t', '|']).map(str::trim).collect();
        let bare = |cell: &&&str| cell.chars().all(|c| c.is_ascii_digit() || ".,x ".contains(c));
        let has_unit = |cell: &&&str| cell.ends_with([')', ']']);
        if cells.len() > 2 && cells.iter().filter(has_unit).count() > 1 {
            head = Some(cells);
            continue;
        }
        match &head {
            Some(units) if units.len() == cells.len() && cells.iter().filter(bare).count() > 1 => {
                let joined = std::iter::zip(units, &cells).map(|(u, c)| format!("{u} {c}"));
                out.extend(joined.filter(|l| l.len() < LONGEST_LINE));
            }
            _ => out
                .push(line.trim().replace(['\t', '|'], ": ").chars().take(LONGEST_LINE).collect()),
        }
    }
    let turned = out.into_iter().map(|line| match UNIT_FIRST.as_ref() {
        Some(pattern) => pattern.replace(&line, "$1: $3 $2").into_owned(),
        None => line,
    });
    turned.take(MOST_LINES).collect()
}

/// Reads a text. Whatever it is, the answer is what was understood of it, said in some units.
pub fn read(text: &str, units: System) -> Understood {
    let (text, asks) = marks::settled(&plain(text));
    let mut all = Understood { asks, ..Understood::default() };
    for (n, line) in lines(&text).into_iter().enumerate() {
        let any = rules::one_line(&line, &mut all, units);
        let name = guess::short(&line);
        if n == 0 && !line.contains(": ") && !name.is_empty() {
            all.found.insert(0, Found { text: name.clone(), meaning: "name".to_owned() });
            all.label.put("name", name);
        } else if !any && line.bytes().any(|b| b.is_ascii_digit()) {
            all.left.push(line.chars().take(120).collect());
        }
    }
    guess::chemistry(&text, &mut all);
    guess::volts(&mut all);
    if all.label.text("name").is_none()
        && let Some(name) = guess::by_figures(&all.label)
    {
        all.label.put("name", name);
    }
    all
}

#[cfg(test)]
mod tests;
