//! What a text does not say outright: the chemistry, with the reason for it, and a short name.

use super::{Found, Understood};
use lake_hour_core::shelf::Chemistry;
use lake_hour_core::shelf::figures::Label;
use regex::Regex;
use std::sync::LazyLock;

static SEALED: LazyLock<Option<Regex>> = LazyLock::new(|| {
    Regex::new(r"(?i)\b(sla|vrla|sealed lead|maintenance[\s-]free|wartungsfrei|sans entretien|sin mantenimiento)\b").ok()
});
static LEAD: LazyLock<Option<Regex>> =
    LazyLock::new(|| Regex::new(r"(?i)\b(lead([\s-]acid)?|blei\w*|plomb|plomo)\b").ok());
static ELECTRONICS: LazyLock<Option<Regex>> =
    LazyLock::new(|| Regex::new(r"(?i)\b(bms|bluetooth|self-?\s?heat\w*|low[\s-]temp\w*)\b").ok());

fn says(pattern: &LazyLock<Option<Regex>>, text: &str) -> Option<String> {
    Some(pattern.as_ref()?.find(text)?.as_str().to_owned())
}

/// Nominal voltages that only some chemistry's cells make, from 2 to 32 of them. [V]
fn by_volts(volts: f64) -> Option<Chemistry> {
    let whole = |cell: f64| {
        let cells = (volts / cell).round();
        (2.0..=32.0).contains(&cells) && (volts - cells * cell).abs() < 0.051
    };
    if (volts / 2.0).fract() < 1e-9 {
        // Lead's own, which is also how lithium is often named: says nothing.
        return None;
    }
    match (whole(3.2), whole(3.7) || whole(3.6)) {
        (true, _) => Some(Chemistry::Lfp),
        (false, true) => Some(Chemistry::Nmc),
        _ => None,
    }
}

/// Fills in the chemistry where the text does not name one, with the reason; asks where nothing tells.
pub(super) fn chemistry(text: &str, all: &mut Understood) {
    let label = &all.label;
    if label.text("chemistry").is_some() {
        return;
    }
    let figure = |key: &str| label.number(key);
    let (volts, ah, printed) =
        (figure("nominal_voltage_v"), figure("capacity_ah"), figure("energy_wh"));
    let by_energy = printed.zip(ah).map(|(wh, ah)| ((wh / ah) * 10.0).round() / 10.0);
    let energy = printed.or(volts.zip(ah).map(|(volts, ah)| volts * ah));
    let density = energy.zip(figure("mass_kg")).map(|(wh, kg)| wh / kg);
    let lead = says(&LEAD, text);
    let guess = if let Some(word) = says(&SEALED, text) {
        Some((Chemistry::Agm, word, "sealed lead is AGM as a rule"))
    } else if lead.is_some() && figure("cranking_a").is_some() {
        Some((
            Chemistry::Flooded,
            lead.unwrap_or_default(),
            "lead with cranking amps is flooded as a rule",
        ))
    } else if let Some(word) = lead {
        Some((
            Chemistry::Flooded,
            word,
            "plain lead is flooded as a rule: choose AGM or gel if it is sealed",
        ))
    } else if let Some((c, volts)) = volts.and_then(|v| Some((by_volts(v)?, v))) {
        Some((c, format!("{volts} V"), "only its cells make these volts"))
    } else if let (Some(c), Some(wh), Some(ah)) = (by_energy.and_then(by_volts), printed, ah) {
        Some((c, format!("{wh} Wh / {ah} Ah"), "only its cells make the volts that come out"))
    } else if figure("cranking_a").is_some() || figure("reserve_minutes_25a").is_some() {
        Some((
            Chemistry::Flooded,
            "cranking or reserve figures".to_owned(),
            "lead's labels have them: choose AGM or gel if it is sealed",
        ))
    } else if let Some(word) = says(&ELECTRONICS, text) {
        Some((Chemistry::Lfp, word, "lithium has this, and LFP is the usual one of this trade"))
    } else {
        match density {
            Some(d) if (70.0..=170.0).contains(&d) => {
                Some((Chemistry::Lfp, "its weight".to_owned(), "as light for its energy as LFP"))
            }
            Some(d) if d < 55.0 => Some((
                Chemistry::Flooded,
                "its weight".to_owned(),
                "as heavy for its energy as lead: choose AGM or gel if it is sealed",
            )),
            _ => None,
        }
    };
    match guess {
        Some((chemistry, text, why)) => {
            all.label.put("chemistry", chemistry.key());
            let meaning = format!("chemistry: {}, since {why}", chemistry.name());
            all.found.push(Found { text, meaning });
        }
        None => all.asks.push(super::Ask {
            text: "chemistry".to_owned(),
            says: "The text does not say the chemistry, and nothing in it tells: choose it."
                .to_owned(),
        }),
    }
}

/// "12 V" on a lithium label stands for cells that make 12.8: the volts that the watt-hours fit win.
pub(super) fn volts(all: &mut Understood) {
    let label = &all.label;
    let Some(volts) = label.number("nominal_voltage_v") else { return };
    if label.text("chemistry") != Some(Chemistry::Lfp.key())
        || volts <= 0.0
        || (volts / 12.0).fract() > 1e-9
    {
        return;
    }
    let cells = volts / 12.0 * 12.8;
    let fits = |v: f64| {
        let (wh, ah) = (label.number("energy_wh")?, label.number("capacity_ah")?);
        Some((wh - v * ah).abs() / (v * ah))
    };
    if fits(cells).is_some_and(|off| off > 0.04) && fits(volts).is_some_and(|off| off <= 0.03) {
        return;
    }
    let text = format!("{volts} V");
    let cells = (cells * 10.0).round() / 10.0;
    let meaning = format!("nominal voltage {cells} V: that is what {volts} V of LFP cells make");
    all.label.put("nominal_voltage_v", cells);
    all.found.push(Found { text, meaning });
}

/// Longest name made of a text. [characters]
const LONGEST_NAME: usize = 40;

/// A short name out of the first line: up to where its specifications begin.
pub(super) fn short(line: &str) -> String {
    let end = line
        .find([',', '|', '(', ';', '['])
        .into_iter()
        .chain(line.find(" - "))
        .chain(line.find(" \u{2013} "))
        .min();
    let head = line[..end.unwrap_or(line.len())].trim();
    let head = if head.chars().count() < 3 { line.trim() } else { head };
    let mut name = String::new();
    for word in head.split_whitespace() {
        if !name.is_empty() && name.chars().count() + 1 + word.chars().count() > LONGEST_NAME {
            break;
        }
        if !name.is_empty() {
            name.push(' ');
        }
        name.extend(word.chars().filter(|c| !c.is_control()).take(LONGEST_NAME));
    }
    name
}

/// A name out of the figures, where the text has none: "12.8 V 100 Ah LFP".
pub(super) fn by_figures(label: &Label) -> Option<String> {
    let (volts, ah) = (label.number("nominal_voltage_v")?, label.number("capacity_ah")?);
    let chemistry =
        label.text("chemistry").and_then(Chemistry::from_key).map_or("", Chemistry::name);
    Some(format!("{volts} V {ah} Ah {chemistry}").trim_end().to_owned())
}
