//! Numbers as people type them, and what to say when they can't be read.

use std::ops::RangeInclusive;

/// Longest text looked at: more is never a number and is not echoed back whole.
const LONGEST: usize = 64;

/// Why a typed figure was not taken. The sentence says what is allowed.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum BadNumber {
    /// Nothing was typed.
    #[error("Type a number: from {low} to {high}{unit}.")]
    Empty {
        /// Smallest allowed.
        low: f64,
        /// Largest allowed.
        high: f64,
        /// Unit with a leading space, or nothing.
        unit: String,
    },
    /// A comma, which some read as thousands and others as the decimal mark.
    #[error("Write a point for decimals and no thousands mark, as in {suggestion}.")]
    Comma {
        /// The same figure written with a point.
        suggestion: String,
    },
    /// Letters, two points, or anything else that is no number.
    #[error("This is not a number. Type one from {low} to {high}{unit}.")]
    NotANumber {
        /// Smallest allowed.
        low: f64,
        /// Largest allowed.
        high: f64,
        /// Unit with a leading space, or nothing.
        unit: String,
    },
    /// A number, but outside what is allowed; infinities end here too.
    #[error("Type a number from {low} to {high}{unit}.")]
    OutOfRange {
        /// Smallest allowed.
        low: f64,
        /// Largest allowed.
        high: f64,
        /// Unit with a leading space, or nothing.
        unit: String,
    },
}

/// Reads one typed figure that must lie in `range`, in the unit named by `unit` (may be empty).
///
/// Space around it and a trailing copy of the unit itself ("22 A") are accepted.
///
/// # Errors
/// [`BadNumber`], whose sentence says what is allowed. NaN, `inf` and `1e309` are never let in.
///
/// ```
/// use lake_hour_core::units::parse::number;
/// assert_eq!(number("22 A", 0.0..=400.0, "A"), Ok(22.0));
/// assert!(number("0,8", 0.0..=1.0, "").unwrap_err().to_string().contains("0.8"));
/// ```
pub fn number(typed: &str, range: RangeInclusive<f64>, unit: &str) -> Result<f64, BadNumber> {
    let (low, high) = (*range.start(), *range.end());
    let shown_unit = if unit.is_empty() { String::new() } else { format!(" {unit}") };
    let mut text = typed.trim();
    if !unit.is_empty()
        && let Some(bare) = text.strip_suffix(unit)
    {
        text = bare.trim_end();
    }
    if text.is_empty() {
        return Err(BadNumber::Empty { low, high, unit: shown_unit });
    }
    if text.len() <= LONGEST
        && text.contains(',')
        && text.chars().all(|c| c.is_ascii_digit() || ",.-+".contains(c))
    {
        return Err(BadNumber::Comma { suggestion: without_comma(text) });
    }
    let plain = text.len() <= LONGEST
        && text.chars().all(|c| c.is_ascii_digit() || matches!(c, '.' | '-' | '+' | 'e' | 'E'));
    match text.parse::<f64>() {
        Ok(value) if plain && range.contains(&value) => Ok(value),
        Ok(_) if plain => Err(BadNumber::OutOfRange { low, high, unit: shown_unit }),
        _ => Err(BadNumber::NotANumber { low, high, unit: shown_unit }),
    }
}

/// Reads a whole number in `range`.
///
/// # Errors
/// [`BadNumber`], also for a fraction.
pub fn whole(typed: &str, range: RangeInclusive<u32>, unit: &str) -> Result<u32, BadNumber> {
    let (low, high) = (f64::from(*range.start()), f64::from(*range.end()));
    let value = number(typed, low..=high, unit)?;
    if value.fract() == 0.0 {
        // In range and whole, so the cast is exact.
        Ok(value as u32)
    } else {
        let unit = if unit.is_empty() { String::new() } else { format!(" {unit}") };
        Err(BadNumber::NotANumber { low, high, unit: format!("{unit}, without a fraction") })
    }
}

/// "0,8" is 0.8 and "1,250" most likely 1250: three digits after the only comma mean thousands.
fn without_comma(text: &str) -> String {
    match text.split_once(',') {
        Some((whole, rest))
            if !rest.contains([',', '.']) && rest.len() != 3 && !whole.is_empty() =>
        {
            format!("{whole}.{rest}")
        }
        _ => text.replace(',', ""),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_cannot_be_a_current_is_refused_with_what_is_allowed() {
        for (typed, says) in [
            ("", "Type a number: from 0 to 400 A."),
            ("   ", "Type a number: from 0 to 400 A."),
            ("-1", "Type a number from 0 to 400 A."),
            ("NaN", "This is not a number. Type one from 0 to 400 A."),
            ("inf", "This is not a number. Type one from 0 to 400 A."),
            ("1e309", "Type a number from 0 to 400 A."),
            ("-1e309", "Type a number from 0 to 400 A."),
            ("twelve", "This is not a number. Type one from 0 to 400 A."),
            ("0x10", "This is not a number. Type one from 0 to 400 A."),
            ("1.2.3", "This is not a number. Type one from 0 to 400 A."),
            ("22,5", "Write a point for decimals and no thousands mark, as in 22.5."),
            ("1,250", "Write a point for decimals and no thousands mark, as in 1250."),
            ("1,250,000", "Write a point for decimals and no thousands mark, as in 1250000."),
        ] {
            let got = number(typed, 0.0..=400.0, "A").expect_err(typed).to_string();
            assert_eq!(got, says, "{typed:?}");
        }
        assert!(number(&"9".repeat(100_000), 0.0..=400.0, "A").is_err());
    }

    #[test]
    fn a_figure_may_carry_its_unit_and_spaces() {
        for (typed, want) in [("22", 22.0), (" 22.5 ", 22.5), ("22 A", 22.0), (".5A", 0.5), ("1e1", 10.0)] {
            assert_eq!(number(typed, 0.0..=400.0, "A"), Ok(want), "{typed:?}");
        }
    }

    #[test]
    fn a_count_has_no_fraction() {
        assert_eq!(whole("4", 1..=64, ""), Ok(4));
        assert_eq!(whole("2.5", 1..=64, "").expect_err("fraction").to_string(),
            "This is not a number. Type one from 1 to 64, without a fraction.");
        assert!(whole("0", 1..=64, "").is_err());
        assert!(whole("65", 1..=64, "").is_err());
    }
}
