//! Numbers as people type them, and what to say when they can't be read.

use crate::allowed::Allowed;

/// Longest text looked at: more is never a number and is not echoed back whole.
const LONGEST: usize = 64;

/// Why a typed figure was not taken. The sentence says what is allowed.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum BadNumber {
    /// Nothing was typed.
    #[error("Type a number {0}.")]
    Empty(Allowed),
    /// A comma, which some read as thousands and others as the decimal mark.
    #[error("Write a point for decimals and no thousands mark, as in {suggestion}.")]
    Comma {
        /// The same figure written with a point.
        suggestion: String,
    },
    /// Letters, two points, or anything else that is no number.
    #[error("This is not a number. Type one {0}.")]
    NotANumber(Allowed),
    /// A number, but outside what is allowed; infinities end here too.
    #[error("Type a number {0}.")]
    OutOfRange(Allowed),
    /// A fraction where a count is wanted.
    #[error("Type a whole number {0}.")]
    Fraction(Allowed),
}

/// Reads one typed figure that must lie in the range, in its unit.
///
/// Space around it and a trailing copy of the unit itself ("22 A") are accepted.
///
/// # Errors
/// [`BadNumber`], whose sentence says what is allowed. NaN, `inf` and `1e309` are never let in.
///
/// ```
/// use lake_hour_core::{allowed, units::parse::number};
/// assert_eq!(number("22 A", &allowed::CURRENT), Ok(22.0));
/// assert!(number("0,8", &allowed::DEPTH).unwrap_err().to_string().contains("0.8"));
/// ```
pub fn number(typed: &str, allowed: &Allowed) -> Result<f64, BadNumber> {
    let mut text = typed.trim();
    if !allowed.unit.is_empty()
        && let Some(bare) = text.strip_suffix(allowed.unit)
    {
        text = bare.trim_end();
    }
    if text.is_empty() {
        return Err(BadNumber::Empty(*allowed));
    }
    let of = |also: &str| {
        text.len() <= LONGEST && text.chars().all(|c| c.is_ascii_digit() || also.contains(c))
    };
    if text.contains(',') && of(",.-+") {
        return Err(BadNumber::Comma { suggestion: without_comma(text) });
    }
    match text.parse::<f64>() {
        Ok(value) if of(".-+eE") => allowed.check(value),
        _ => Err(BadNumber::NotANumber(*allowed)),
    }
}

/// Reads a whole number in the range.
///
/// # Errors
/// [`BadNumber`], also for a fraction.
pub fn whole(typed: &str, allowed: &Allowed) -> Result<u32, BadNumber> {
    allowed.check_count(number(typed, allowed)?)
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
    use crate::allowed::{CURRENT, SERIES};

    #[test]
    fn what_cannot_be_a_current_is_refused_with_what_is_allowed() {
        let allowed = "from 0 to 2000 A.";
        for (typed, says) in [
            ("", format!("Type a number {allowed}")),
            ("   ", format!("Type a number {allowed}")),
            ("-1", format!("Type a number {allowed}")),
            ("NaN", format!("This is not a number. Type one {allowed}")),
            ("inf", format!("This is not a number. Type one {allowed}")),
            ("1e309", format!("Type a number {allowed}")),
            ("-1e309", format!("Type a number {allowed}")),
            ("twelve", format!("This is not a number. Type one {allowed}")),
            ("0x10", format!("This is not a number. Type one {allowed}")),
            ("1.2.3", format!("This is not a number. Type one {allowed}")),
            ("22,5", "Write a point for decimals and no thousands mark, as in 22.5.".into()),
            ("1,250", "Write a point for decimals and no thousands mark, as in 1250.".into()),
            (
                "1,250,000",
                "Write a point for decimals and no thousands mark, as in 1250000.".into(),
            ),
        ] {
            assert_eq!(number(typed, &CURRENT).expect_err(typed).to_string(), says, "{typed:?}");
        }
        assert!(number(&"9".repeat(100_000), &CURRENT).is_err());
    }

    #[test]
    fn a_figure_may_carry_its_unit_and_spaces() {
        for (typed, want) in
            [("22", 22.0), (" 22.5 ", 22.5), ("22 A", 22.0), (".5A", 0.5), ("1e1", 10.0)]
        {
            assert_eq!(number(typed, &CURRENT), Ok(want), "{typed:?}");
        }
        assert_eq!(whole("4", &SERIES), Ok(4));
        assert!(whole("2.5", &SERIES).is_err());
    }
}
