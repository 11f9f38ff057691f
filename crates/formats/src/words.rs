//! Lists as people write them in one field or cell: ratings, cycles, origins, replaced figures.

use lake_hour_core::allowed::{self, Allowed};
use lake_hour_core::shelf::{Correction, CyclePoint, Detail, Rating};
use lake_hour_core::source::{Origin, Vouched};
use lake_hour_core::units::parse;
use lake_hour_core::units::{AmpHours, Amps, Hours, WattHours};
use std::collections::BTreeMap;

/// A number without the noise of conversions, to twelve digits.
pub(crate) fn figure(value: f64) -> String {
    let text = format!("{value:.9}");
    let text = text.trim_end_matches('0').trim_end_matches('.');
    if text == "-0" { "0".to_owned() } else { text.to_owned() }
}

/// The pieces of a list: what stands between semicolons.
fn pieces(text: &str) -> impl Iterator<Item = &str> {
    text.split(';').map(str::trim).filter(|t| !t.is_empty())
}

/// Why a piece was not understood; it is not echoed at length.
fn not_understood(piece: &str, how: &str) -> String {
    let piece: String = piece.chars().take(40).collect();
    format!("\u{201c}{piece}\u{201d} is not understood. Write {how}, with ; between them.")
}

fn number(text: &str, unit: &str, range: &Allowed) -> Option<f64> {
    let bare = text.trim().strip_suffix(unit)?.trim();
    parse::number(bare, range).ok()
}

/// Ratings as labels print them: "207 Ah at 10 h; 115 min at 75 A; 1.4 kWh at 20 h".
pub fn ratings(ratings: &[Rating]) -> String {
    let words = ratings.iter().map(|r| match *r {
        Rating::Capacity { ah, over } => {
            format!("{} Ah at {} h", figure(ah.value()), figure(over.value()))
        }
        Rating::Runtime { at, lasted } => {
            format!("{} min at {} A", figure(lasted.minutes()), figure(at.value()))
        }
        Rating::Energy { wh, over } => {
            format!("{} kWh at {} h", figure(wh.value() / 1000.0), figure(over.value()))
        }
    });
    words.collect::<Vec<_>>().join("; ")
}

/// Reads [`ratings`] back.
///
/// # Errors
/// A sentence that shows the piece and how to write it.
pub fn read_ratings(text: &str) -> Result<Vec<Rating>, String> {
    let ratings: Vec<Rating> = pieces(text)
        .map(|piece| {
            rating(piece).ok_or_else(|| {
                not_understood(piece, "207 Ah at 10 h, 115 min at 75 A or 1.4 kWh at 20 h")
            })
        })
        .collect::<Result<_, String>>()?;
    if ratings.len() > allowed::MOST_POINTS - 2 {
        return Err(format!("At most {} ratings fit.", allowed::MOST_POINTS - 2));
    }
    Ok(ratings)
}

fn rating(piece: &str) -> Option<Rating> {
    let (first, second) = piece.split_once(" at ")?;
    let over = || number(second, "h", &allowed::RATED_HOURS).map(Hours::of);
    if let Some(kwh) = number(first, "kWh", &allowed::UNIT_ENERGY) {
        return Some(Rating::Energy { wh: WattHours::of(kwh * 1000.0), over: over()? });
    }
    if let Some(ah) = number(first, "Ah", &allowed::CAPACITY) {
        return Some(Rating::Capacity { ah: AmpHours::of(ah), over: over()? });
    }
    let minutes = number(first, "min", &allowed::RATED_MINUTES)?;
    let at = Amps::of(number(second, "A", &allowed::LIMIT_CURRENT)?);
    Some(Rating::Runtime { at, lasted: Hours::from_minutes(minutes) })
}

/// Cycles at depths: "3500 at 80 %; 6000 at 50 %".
pub fn cycles(points: &[CyclePoint]) -> String {
    let words =
        points.iter().map(|p| format!("{} at {} %", figure(p.cycles), figure(p.depth * 100.0)));
    words.collect::<Vec<_>>().join("; ")
}

/// Reads [`cycles`] back; a bare figure is meant at 80 %.
///
/// # Errors
/// A sentence that shows the piece and how to write it.
pub fn read_cycles(text: &str) -> Result<Vec<CyclePoint>, String> {
    let point = |piece: &str| {
        let (cycles, depth) = match piece.split_once(" at ") {
            Some((cycles, depth)) => (cycles, number(depth, "%", &PERCENT)? / 100.0),
            None => (piece, CyclePoint::USUAL_DEPTH),
        };
        let cycles = cycles.trim().trim_end_matches("cycles");
        Some(CyclePoint { depth, cycles: parse::number(cycles, &allowed::CYCLES).ok()? })
    };
    pieces(text)
        .take(allowed::MOST_POINTS)
        .map(|piece| {
            point(piece).ok_or_else(|| not_understood(piece, "3500 at 80 %, or only 3500"))
        })
        .collect()
}

const PERCENT: Allowed = Allowed { low: 1.0, high: 100.0, unit: "%" };

/// Who vouches for which figure: "capacity: measured 2026-05-01; price: told".
pub fn origins(origins: &BTreeMap<Detail, Vouched>) -> String {
    let words = origins.iter().map(|(detail, v)| {
        let on = v.on.map(|day| format!(" {day}")).unwrap_or_default();
        format!("{}: {}{on}", detail.key(), v.by.key())
    });
    words.collect::<Vec<_>>().join("; ")
}

/// Reads [`origins`] back.
///
/// # Errors
/// A sentence that shows the piece and how to write it.
pub fn read_origins(text: &str) -> Result<BTreeMap<Detail, Vouched>, String> {
    let origin = |piece: &str| {
        let (detail, by) = piece.split_once(':')?;
        let (by, on) = match by.trim().split_once(' ') {
            Some((by, on)) => (by, Some(on.trim().parse().ok()?)),
            None => (by.trim(), None),
        };
        Some((Detail::from_key(detail.trim())?, Vouched { by: Origin::from_key(by)?, on }))
    };
    pieces(text)
        .map(|piece| {
            origin(piece).ok_or_else(|| not_understood(piece, "capacity: measured 2026-05-01"))
        })
        .collect()
}

/// Replaced figures: "capacity: 300 is 100".
pub fn corrected(all: &[Correction]) -> String {
    let words =
        all.iter().map(|c| format!("{}: {} is {}", c.detail.key(), figure(c.said), figure(c.used)));
    words.collect::<Vec<_>>().join("; ")
}

/// Reads [`corrected`] back.
///
/// # Errors
/// A sentence that shows the piece and how to write it.
pub fn read_corrected(text: &str) -> Result<Vec<Correction>, String> {
    let correction = |piece: &str| {
        let (detail, figures) = piece.split_once(':')?;
        let (said, used) = figures.split_once(" is ")?;
        let number = |text| parse::number(text, &allowed::CORRECTED).ok();
        let detail = Detail::from_key(detail.trim())?;
        Some(Correction { detail, said: number(said)?, used: number(used)? })
    };
    pieces(text)
        .map(|piece| correction(piece).ok_or_else(|| not_understood(piece, "capacity: 300 is 100")))
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use lake_hour_core::units::Volts;

    #[test]
    fn further_ratings_are_typed_as_labels_print_them() {
        let read = read_ratings("207 Ah at 10 h; 115 min at 75 A; 1.35 kWh at 20 h").expect("good");
        assert_eq!(read.len(), 3);
        assert_eq!(read[2].amp_hours(Volts::of(6.0)), AmpHours::of(225.0));
        for bad in ["207 Ah", "207 Ah at ten h", "115 min at 75 h", "; x ; ", "-1 Ah at 5 h"] {
            assert!(read_ratings(bad).expect_err(bad).contains("is not understood"), "{bad}");
        }
    }

    #[test]
    fn lists_are_read_back_as_they_were_written() {
        let text = "capacity: measured 2026-05-01; price: told";
        assert_eq!(origins(&read_origins(text).expect("good")), text);
        let text = "3500 at 80 %; 6000 at 50 %";
        assert_eq!(cycles(&read_cycles(text).expect("good")), text);
        assert!((read_cycles("4,000 cycles").expect("bare")[0].depth - 0.8).abs() < 1e-12);
        let text = "capacity: 300 is 100; volts: 12 is 12.8";
        assert_eq!(corrected(&read_corrected(text).expect("good")), text);
        assert!(read_origins("capacity: guessed").is_err());
        assert!(read_origins("price: told 2026-13-01").is_err());
        assert!(read_cycles("lots").is_err() && read_cycles("3500 at 0 %").is_err());
        assert!(read_corrected("capacity: 300").is_err());
    }
}
