//! Numbers as people type them, and what to say when they can't be read.

use crate::allowed::Allowed;

/// Longest text looked at: more is never a number and is not echoed back whole.
const LONGEST: usize = 64;

/// Why a typed figure was not taken. The sentence says what is allowed.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum BadNumber {
    /// Nothing was typed.
    #[error("Type a number {0}, as in {example}.", example = .0.example())]
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
    #[error("This is not a number. Type one {0}, as in {example}.", example = .0.example())]
    NotANumber(Allowed),
    /// Not read as a length of time.
    #[error("Type how long, as in 45 min, 1:30 or 1 h 30 min ({0}).")]
    NoDuration(Allowed),
    /// A number, but outside what is allowed; infinities end here too.
    #[error("Type a number {0}, as in {example}.", example = .0.example())]
    OutOfRange(Allowed),
    /// A fraction where a count is wanted.
    #[error("Type a whole number {0}, as in {example}.", example = .0.example())]
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
            Err(BadNumber::Comma { suggestion: with_a_point(text) })
        }
        None => Err(BadNumber::NotANumber(*allowed)),
    }
}

/// What was meant by dots and commas: the last mark is for decimals where both stand, "1.289,90", else the commas are for thousands.
fn with_a_point(text: &str) -> String {
    match (text.rfind(','), text.rfind('.')) {
        (Some(comma), Some(dot)) if comma > dot => text.replace('.', "").replace(',', "."),
        _ => text.replace(',', ""),
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

/// Reads how long something lasts, as people write it: "5 h", "1h30", "1 h 30 min", "1:30", "90 min",
/// "0.5 h"; a bare number is minutes. Minutes.
///
/// # Errors
/// [`BadNumber`], whose sentence shows one that is accepted.
///
/// ```
/// use lake_hour_core::{allowed, units::parse::minutes};
/// assert_eq!(minutes("1h30", &allowed::MINUTES), Ok(90.0));
/// assert_eq!(minutes("90", &allowed::MINUTES), Ok(90.0));
/// ```
pub fn minutes(typed: &str, allowed: &Allowed) -> Result<f64, BadNumber> {
    let text = typed.trim().to_lowercase();
    if text.is_empty() {
        return Err(BadNumber::Empty(*allowed));
    }
    let bad = || BadNumber::NoDuration(*allowed);
    if let Some((hours, rest)) = text.split_once(':') {
        let whole = |t: &str, most: usize| {
            let fits = (1..=most).contains(&t.len()) && t.bytes().all(|b| b.is_ascii_digit());
            fits.then(|| t.parse::<f64>().ok()).flatten()
        };
        let rest = rest.trim_end_matches(['h', ' ']);
        let (h, m) = whole(hours, 3).zip(whole(rest, 2)).ok_or_else(bad)?;
        return if m < 60.0 { allowed.check(h * 60.0 + m) } else { Err(bad()) };
    }
    let parts = parts(&text).ok_or_else(bad)?;
    let mut total = 0.0;
    let mut after_hours = false;
    let count = parts.len();
    for (n, (value, unit)) in parts.into_iter().enumerate() {
        let unit = unit.trim_end_matches('.');
        total += match unit {
            "h" | "hr" | "hrs" | "hour" | "hours" if n == 0 => {
                after_hours = true;
                value * 60.0
            }
            "min" | "mins" | "minute" | "minutes" | "m" if n == 0 || after_hours => value,
            // "1h30": minutes behind hours; alone: minutes.
            "" if after_hours && n + 1 == count || count == 1 => value,
            _ => return Err(bad()),
        };
    }
    allowed.check(total)
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
        let allowed = "from 0 to 2000 A, as in 10.";
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
    fn lengths_of_time_are_read_as_people_write_them() {
        use crate::allowed::MINUTES;
        for (typed, want) in [
            ("90", 90.0),
            ("90 min", 90.0),
            ("1:30", 90.0),
            ("1:30 h", 90.0),
            ("1h30", 90.0),
            ("1 h 30 min", 90.0),
            ("1 h 30", 90.0),
            ("5 h", 300.0),
            ("0.5 h", 30.0),
            ("0,5 h", 30.0),
            ("1/2 h", 30.0),
            ("2 Hours", 120.0),
            ("45 m", 45.0),
        ] {
            assert_eq!(minutes(typed, &MINUTES), Ok(want), "{typed:?}");
        }
        for typed in
            ["", "soon", "1:75", "30 min 1 h", "1 h 2 h", "5 km", "h", "1:2:3", "-5 min", "1e9"]
        {
            let says = minutes(typed, &MINUTES).expect_err(typed).to_string();
            assert!(says.contains("as in"), "{typed:?}: {says}");
        }
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
