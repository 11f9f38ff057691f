//! Whether a label writes 12.8 or 12,8: decided once for all of it, never number by number.
//!
//! A mark before one or two digits is a decimal mark, whichever it is. What is left is a mark before
//! exactly three digits: thousands or decimals. The other numbers of the label decide, then volts times
//! ampere-hours against watt-hours, then what the unit makes likely. What stays open is asked.

use regex::Regex;
use std::sync::LazyLock;

/// A number that can be read two ways, and the sentence that asks.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Ask {
    /// As it stands in the text, with its unit.
    pub text: String,
    /// The question.
    pub says: String,
}

/// Which mark stands before the decimals.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Decimal {
    Point,
    Comma,
}

/// "1 280 Wh": thousands set off by a space, where the unit is one that is counted so.
static SPACED: LazyLock<Option<Regex>> = LazyLock::new(|| {
    Regex::new(r"(?i)\b([0-9]{1,3}) ([0-9]{3}) ?(wh|cycles|zyklen|ciclos|€|eur)\b").ok()
});

/// Digits with marks among them, and the letters behind. An apostrophe or a thin space sets off thousands.
static NUMBER: LazyLock<Option<Regex>> = LazyLock::new(|| {
    Regex::new(r"([0-9]+(?:[.,'\u{2019}\u{202f}\u{a0}][0-9]+)*)(\s*[A-Za-z%°µΩ]*)").ok()
});

/// One number of the text.
struct Token<'a> {
    text: &'a str,
    unit: String,
    from: usize,
    to: usize,
    /// What is known without looking at the rest: its value as it is to be written, if only one way.
    reads: Reads,
}

enum Reads {
    /// Only one way, and which mark that speaks for.
    One(String, Option<Decimal>),
    /// Thousands or decimals: both ways.
    Two { thousands: String, decimals: String, mark: Decimal },
    /// Not one number: a list of voltages, a date.
    Not,
}

fn reads(text: &str) -> Reads {
    let plain = text.replace(['\'', '\u{2019}', '\u{202f}', '\u{a0}'], "");
    let marks: Vec<char> = plain.chars().filter(|c| !c.is_ascii_digit()).collect();
    let groups: Vec<&str> = plain.split(['.', ',']).collect();
    let of = |mark: char| if mark == ',' { Decimal::Comma } else { Decimal::Point };
    let three = |groups: &[&str]| groups.iter().all(|g| g.len() == 3);
    match marks.as_slice() {
        [] => Reads::One(plain, None),
        [mark]
            if groups[1].len() == 3 && (1..=3).contains(&groups[0].len()) && groups[0] != "0" =>
        {
            Reads::Two { thousands: groups.concat(), decimals: groups.join("."), mark: of(*mark) }
        }
        [mark] => Reads::One(groups.join("."), Some(of(*mark))),
        // 1,234,567 or 1.234.567: thousands, and the other mark for decimals.
        all if all.iter().all(|m| *m == all[0]) && three(&groups[1..]) => {
            let other = if all[0] == ',' { Decimal::Point } else { Decimal::Comma };
            Reads::One(groups.concat(), Some(other))
        }
        // 1,234.5 or 1.234,5.
        all if all[..all.len() - 1].iter().all(|m| *m == all[0])
            && all[all.len() - 1] != all[0]
            && three(&groups[1..groups.len() - 1]) =>
        {
            let (whole, part) = groups.split_at(groups.len() - 1);
            let last = of(all[all.len() - 1]);
            Reads::One(format!("{}.{}", whole.concat(), part[0]), Some(last))
        }
        _ => Reads::Not,
    }
}

fn tokens(text: &str) -> Vec<Token<'_>> {
    let Some(pattern) = NUMBER.as_ref() else { return Vec::new() };
    let all = pattern.captures_iter(text).filter_map(|found| {
        let (number, unit) = (found.get(1)?, found.get(2)?);
        Some(Token {
            text: number.as_str(),
            unit: unit.as_str().trim().to_lowercase(),
            from: number.start(),
            to: number.end(),
            reads: reads(number.as_str()),
        })
    });
    all.collect()
}

/// Units that are counted in hundreds and thousands, and such as have decimals.
fn likely(unit: &str, thousands: &str) -> Option<bool> {
    match unit {
        "wh" | "cycles" | "cycle" | "zyklen" | "ciclos" | "times" | "mal" | "mm" | "cca"
        | "mah" => Some(true),
        "kwh" | "kg" | "in" | "inch" | "inches" => Some(false),
        // A battery of thousands of volts is none.
        "v" | "vdc" | "volt" | "volts" => Some(false),
        "lb" | "lbs" => Some(thousands.len() < 4),
        _ => None,
    }
}

/// The text with every number written one way, with a point; and what could not be decided.
pub(super) fn settled(text: &str) -> (String, Vec<Ask>) {
    let text = &match SPACED.as_ref() {
        Some(spaced) => spaced.replace_all(text, "$1$2 $3"),
        None => std::borrow::Cow::Borrowed(text),
    };
    let all = tokens(text);
    let speaks = |of: Decimal| {
        let for_it = |t: &&Token<'_>| matches!(&t.reads, Reads::One(_, Some(mark)) if *mark == of);
        all.iter().filter(for_it).count()
    };
    let (points, commas) = (speaks(Decimal::Point), speaks(Decimal::Comma));
    let known = match (points, commas) {
        (0, 0) => None,
        (_, 0) => Some(Decimal::Point),
        (0, _) => Some(Decimal::Comma),
        _ => None,
    };
    // Volts times ampere-hours, where both can be read only one way.
    let first = |units: &[&str]| {
        let mut of = all.iter().filter(|t| units.contains(&t.unit.as_str()));
        of.find_map(|t| match &t.reads {
            Reads::One(value, _) => value.parse::<f64>().ok(),
            Reads::Two { .. } | Reads::Not => None,
        })
    };
    let energy = first(&["v", "vdc", "volt", "volts"]).zip(first(&["ah"])).map(|(v, ah)| v * ah);
    let (mut out, mut asks, mut done) = (String::with_capacity(text.len()), Vec::new(), 0);
    for token in &all {
        let value = match &token.reads {
            Reads::One(value, _) => value.clone(),
            Reads::Not => continue,
            Reads::Two { thousands, decimals, mark } => {
                let fits = |text: &String, scale: f64| {
                    let value = text.parse::<f64>().ok()? * scale;
                    Some((value - energy?).abs() / energy? < 0.15)
                };
                let by_energy = match token.unit.as_str() {
                    "wh" if fits(thousands, 1.0) == Some(true) => Some(true),
                    "wh" if fits(decimals, 1.0) == Some(true) => Some(false),
                    "kwh" if fits(decimals, 1000.0) == Some(true) => Some(false),
                    _ => None,
                };
                let by_mark = known.map(|known| known != *mark);
                let whole = by_energy.or(by_mark).or_else(|| likely(&token.unit, thousands));
                let whole = whole.unwrap_or_else(|| {
                    let text = format!("{} {}", token.text, token.unit).trim_end().to_owned();
                    let says =
                        format!("{text}: is it {thousands} or {decimals}? Taken for {thousands}.");
                    // A comma before three digits is thousands to most who write so.
                    asks.push(Ask { text, says });
                    true
                });
                if whole { thousands.clone() } else { decimals.clone() }
            }
        };
        out.push_str(&text[done..token.from]);
        out.push_str(&value);
        done = token.to;
    }
    out.push_str(&text[done..]);
    asks.dedup();
    (out, asks)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn commas_and_points_are_decided_for_the_whole_label() {
        for (text, want) in [
            ("12,8 V 120 Ah 1.536 Wh 13,4 kg", "12.8 V 120 Ah 1536 Wh 13.4 kg"),
            ("12.8 V 120 Ah 1,536 Wh 29.5 lb", "12.8 V 120 Ah 1536 Wh 29.5 lb"),
            ("25,6V 50Ah 1,28kWh", "25.6V 50Ah 1.28kWh"),
            ("51.2 V 100 Ah 5.120 kWh", "51.2 V 100 Ah 5.120 kWh"),
            ("51.2 V 100 Ah 5.120 Wh", "51.2 V 100 Ah 5120 Wh"),
            ("12 V 100 Ah, 1.280 Wh", "12 V 100 Ah, 1280 Wh"),
            ("3.500 Zyklen", "3500 Zyklen"),
            ("1'280 Wh, 12.8 V", "1280 Wh, 12.8 V"),
            ("1.234.567 Wh", "1234567 Wh"),
            ("$1,299.99", "$1299.99"),
            ("1.299,99 EUR", "1299.99 EUR"),
            ("24,36,48 V", "24,36,48 V"),
            ("0,005 Ohm; 0.800", "0.005 Ohm; 0.800"),
            ("100 Ah, 12 V", "100 Ah, 12 V"),
        ] {
            assert_eq!(settled(text), (want.to_owned(), Vec::new()), "{text}");
        }
    }

    #[test]
    fn what_cannot_be_decided_is_asked() {
        let (text, asks) = settled("Price 1.299");
        assert_eq!(text, "Price 1299");
        assert_eq!(asks.len(), 1);
        assert!(asks[0].says.contains("is it 1299 or 1.299?"), "{asks:?}");
        // Digits of other scripts are letters here.
        assert_eq!(settled("٣,٤ V").0, "٣,٤ V");
        assert!(settled("").1.is_empty() && settled("9".repeat(500).as_str()).1.is_empty());
    }
}
