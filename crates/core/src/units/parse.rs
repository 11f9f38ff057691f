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
    /// A comma that is neither a thousands mark nor a decimal mark.
    #[error(
        "It is not clear what the comma means. Write a point for decimals, as in {suggestion}."
    )]
    Comma {
        /// The same figure without commas.
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
/// Space around it and a trailing copy of the unit itself ("22 A") are accepted, a decimal comma,
/// thousands set off by commas, and fractions ("1/2", "5 1/2").
///
/// # Errors
/// [`BadNumber`], whose sentence says what is allowed. NaN, `inf` and `1e309` are never let in.
///
/// ```
/// use lake_hour_core::{allowed, units::parse::number};
/// assert_eq!(number("22 A", &allowed::CURRENT), Ok(22.0));
/// assert_eq!(number("0,8", &allowed::DEPTH), Ok(0.8));
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
    match figure(text) {
        Some(value) => allowed.check(value),
        None if text.len() <= LONGEST
            && text.contains(',')
            && text.chars().all(|c| c.is_ascii_digit() || ",.-+".contains(c)) =>
        {
            Err(BadNumber::Comma { suggestion: text.replace(',', "") })
        }
        None => Err(BadNumber::NotANumber(*allowed)),
    }
}

/// One figure without a unit; `None` if it is none. Too large becomes infinite, which no range allows.
fn figure(text: &str) -> Option<f64> {
    if text.len() > LONGEST {
        return None;
    }
    match text.split_once(char::is_whitespace) {
        // "5 1/2"
        Some((whole, part)) if part.contains('/') => {
            let whole: u32 = whole.parse().ok()?;
            Some(f64::from(whole) + fraction(part.trim())?)
        }
        Some(_) => None,
        None if text.contains('/') => fraction(text),
        None => plain(text),
    }
}

/// "1/2".
fn fraction(text: &str) -> Option<f64> {
    let (above, below) = text.split_once('/')?;
    let (above, below): (u32, u32) = (above.trim().parse().ok()?, below.trim().parse().ok()?);
    (below > 0).then(|| f64::from(above) / f64::from(below))
}

/// A figure in digits, with a point or a comma for decimals, or commas between thousands.
fn plain(text: &str) -> Option<f64> {
    let allowed = |c: char| c.is_ascii_digit() || ".,-+eE".contains(c);
    if !text.chars().all(allowed) {
        return None;
    }
    let Some((first, rest)) = text.split_once(',') else { return text.parse().ok() };
    let thousands = |group: &str| group.len() == 3 && group.bytes().all(|b| b.is_ascii_digit());
    let (groups, decimals) = rest.split_once('.').unwrap_or((rest, ""));
    let lead = first.trim_start_matches(['-', '+']);
    // "0,800" can only be a decimal: nobody writes eight hundred so.
    if groups.split(',').all(thousands) && (1..=3).contains(&lead.len()) && lead != "0" {
        return format!("{}{}.{decimals}", first, groups.replace(',', "")).parse().ok();
    }
    if rest.contains([',', '.']) || lead.is_empty() {
        return None;
    }
    format!("{first}.{rest}").parse().ok()
}

/// Most pieces of one typed measure: feet, inches, a fraction.
const MOST_PARTS: usize = 4;

/// Figures with the unit behind each, in the order typed: "14 ft 6 in" is (14, ft), (6, in). `None` if
/// it is anything else.
pub fn parts(typed: &str) -> Option<Vec<(f64, String)>> {
    if typed.len() > LONGEST {
        return None;
    }
    let in_figure = |c: char| c.is_ascii_digit() || ".,-+/".contains(c) || c.is_whitespace();
    let mut rest = typed.trim();
    let mut parts = Vec::new();
    while !rest.is_empty() {
        if parts.len() == MOST_PARTS {
            return None;
        }
        let end = rest.find(|c| !in_figure(c)).unwrap_or(rest.len());
        let value = figure(rest[..end].trim())?;
        rest = &rest[end..];
        // A unit goes on to the next digit or space; "m/s" and "km/h" hold a stroke.
        let end =
            rest.find(|c: char| c.is_ascii_digit() || c.is_whitespace()).unwrap_or(rest.len());
        parts.push((value, rest[..end].to_owned()));
        rest = rest[end..].trim_start();
    }
    Some(parts)
}

/// Reads a whole number in the range.
///
/// # Errors
/// [`BadNumber`], also for a fraction.
pub fn whole(typed: &str, allowed: &Allowed) -> Result<u32, BadNumber> {
    allowed.check_count(number(typed, allowed)?)
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
            ("1/0", format!("This is not a number. Type one {allowed}")),
            (
                "1,25,0",
                "It is not clear what the comma means. Write a point for decimals, as in 1250."
                    .into(),
            ),
        ] {
            assert_eq!(number(typed, &CURRENT).expect_err(typed).to_string(), says, "{typed:?}");
        }
        assert!(number(&"9".repeat(100_000), &CURRENT).is_err());
    }

    #[test]
    fn a_figure_may_carry_its_unit_and_spaces() {
        for (typed, want) in [
            ("22", 22.0),
            (" 22.5 ", 22.5),
            ("22 A", 22.0),
            (".5A", 0.5),
            ("1e1", 10.0),
            ("22,5", 22.5),
            ("0,800", 0.8),
            ("1,250", 1250.0),
            ("1,250.5 A", 1250.5),
            ("1/2", 0.5),
            ("5 1/2", 5.5),
        ] {
            assert_eq!(number(typed, &CURRENT), Ok(want), "{typed:?}");
        }
        assert_eq!(whole("4", &SERIES), Ok(4));
        assert!(whole("2.5", &SERIES).is_err());
    }
}
