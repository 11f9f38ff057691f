//! Entries of the log read from their forms.

use super::super::{Problems, Reader, Typed, untouched};
use super::Which;
use crate::figures;
use crate::frame::view::Logging;
use jiff::civil::Date;
use lake_hour_core::allowed::{self, Allowed};
use lake_hour_core::drawdown::Rest;
use lake_hour_core::log::{
    CapacityTest, Charge, Chore, Did, LoadTest, Log, Logged, MOST_UNITS, Next, Outing, Owned,
    OwnedUnit, Reading, SHORTEST_TEST, Test, TestEnd, Used, as_driven_with,
};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::units::parse;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{
    AmpHours, Amps, Celsius, Hours, Metres, MetresPerSecond, Money, Ohms, Volts, WattHours,
};
use lake_hour_store::Board;

/// What is typed for a charge: a percent, amp-hours that were used, volts after a rest.
enum Said {
    Share(f64),
    Used(f64),
    Volts(f64, Rest),
}

const PERCENT: Allowed = Allowed { low: 0.0, high: 100.0, unit: "%" };

/// How long volts have rested, as it is typed after them: "rested", "rested 4 h", "rested 30 min", "rested overnight".
fn rest(tail: &str) -> Option<Rest> {
    match tail.trim().trim_start_matches("rested").trim() {
        "" | "4 h" | "4h" | "4 hours" => Some(Rest::FourHours),
        "30 min" | "30min" | "half an hour" => Some(Rest::HalfHour),
        "overnight" => Some(Rest::Overnight),
        _ => None,
    }
}

/// The same rest after a charge instead of after use.
const fn charged(rest: Rest) -> Rest {
    match rest {
        Rest::HalfHour | Rest::HalfHourCharged => Rest::HalfHourCharged,
        Rest::FourHours | Rest::FourHoursCharged => Rest::FourHoursCharged,
        Rest::Overnight | Rest::OvernightCharged => Rest::OvernightCharged,
    }
}

/// "35 %", "35", "full", "24.3 V rested 4 h", "43 Ah used".
fn charge(text: &str) -> Result<Said, String> {
    let text = text.trim().to_ascii_lowercase();
    if let Some((volts, tail)) = text.split_once('v').filter(|(number, _)| is_number(number)) {
        let rest = rest(tail).ok_or(
            "Say how long it rested: 24.3 V rested 30 min, 24.3 V rested 4 h or 24.3 V rested overnight.",
        )?;
        let volts = parse::number(volts, &allowed::VOLTAGE).map_err(|bad| bad.to_string())?;
        return Ok(Said::Volts(volts, rest));
    }
    let bare = text.trim_end_matches("used").trim();
    if bare == "full" {
        return Ok(Said::Share(1.0));
    }
    let read = |number: &str, allowed: &Allowed| {
        parse::number(number, allowed).map_err(|bad| bad.to_string())
    };
    if let Some(ah) = bare.strip_suffix("ah") {
        return read(ah, &allowed::CAPACITY).map(Said::Used);
    }
    read(bare.trim_end_matches('%'), &PERCENT).map(|p| Said::Share(p / 100.0))
}

/// Whether a text is digits and a separator, so that a "v" after it means volts.
fn is_number(text: &str) -> bool {
    let text = text.trim();
    !text.is_empty() && text.chars().all(|c| c.is_ascii_digit() || ".,".contains(c))
}

/// A charge as it is known; `feel` says how a percent is.
fn known(said: &Said, feel: bool) -> Result<Charge, &'static str> {
    Ok(match *said {
        Said::Share(share) if share >= 1.0 && !feel => Charge::Full,
        Said::Share(share) if feel => Charge::Feel(share),
        Said::Share(share) => Charge::Meter(share),
        Said::Volts(volts, rest) => Charge::Rested(Volts::of(volts), rest),
        Said::Used(_) => return Err("Type a charge here, as in 80 %, or leave it blank for full."),
    })
}

/// What an entry is read against.
pub(crate) struct Against<'a> {
    pub(crate) board: &'a Board,
    pub(crate) log: &'a Log,
    /// Nothing later is logged.
    pub(crate) today: Date,
    /// The entry as it was, where one is edited.
    pub(crate) before: Option<&'a Logged>,
}

/// An entry, and a pack that becomes owned with it.
pub(crate) struct Read {
    pub(crate) logged: Logged,
    pub(crate) bought: Option<Owned>,
}

impl Against<'_> {
    fn plan(&self) -> &Plan {
        &self.board.plan
    }

    /// A pack of the Board that has become owned since the form was opened, in another window or by a second press, is that one.
    fn owned_by_now(&self, which: Which) -> Which {
        let Which::OnBoard(n) = which else { return which };
        let pack = self.plan().packs.get(n);
        let same = |o: &Owned| {
            pack.is_some_and(|p| o.pack.name == p.name && o.pack.is_built_like(p))
                && o.retired.is_none()
        };
        let owned = self.log.owned().find(|(_, o)| same(o));
        owned.map_or(which, |(id, _)| Which::Owned(id))
    }

    fn pack(&self, which: Which) -> Option<&Pack> {
        match which {
            Which::Owned(id) => self.log.pack(id).map(|o| &o.pack),
            Which::OnBoard(n) => self.plan().packs.get(n),
        }
    }
}

/// Reads an entry of a kind.
pub(crate) fn read(
    typed: &Typed,
    units: System,
    kind: Logging,
    against: &Against<'_>,
) -> Result<Read, Problems> {
    let mut r = Reader::of(typed, units);
    if kind == Logging::Owned {
        let owned = read_owned(&mut r, against);
        let read = owned.map(|o| Read { logged: Logged::Owned(Box::new(o)), bought: None });
        return r.finish(read);
    }
    let which = Which::read(typed.get("of"), against.board, against.log);
    let which = which.map(|which| against.owned_by_now(which));
    if which.is_none() {
        r.problem("of", "Choose the pack it was.");
    }
    let date = r.date("date");
    if date.is_some_and(|date| date > against.today) {
        r.problem("date", "That day has not come yet.");
    }
    let note = r.words_if("note", allowed::TEXT_LENGTH);
    let made = match kind {
        Logging::Outing => {
            read_outing(&mut r, against, which).map(|outing| Logged::Outing(Box::new(outing)))
        }
        _ => read_test(&mut r, kind, which.and_then(|w| against.pack(w))).map(|test| {
            let recorded = match against.before {
                Some(Logged::Test(before)) => before.recorded,
                _ => None,
            };
            Logged::Test(Box::new(Test { recorded, ..test }))
        }),
    };
    let read = (|| {
        let (mut logged, which, date, note) = (made?, which?, date?, note?);
        let of = match which {
            Which::Owned(id) => Some(id),
            Which::OnBoard(_) => None,
        };
        match &mut logged {
            Logged::Outing(o) => (o.date, o.note, o.of) = (date, note, of),
            Logged::Test(t) => (t.date, t.note, t.of) = (date, note, of),
            Logged::Owned(_) => {}
        }
        if against.before.is_none() && against.log.has(&logged) {
            r.problem("date", "The same is logged already. Change what differs, or add a note.");
        }
        let pack = against.pack(which).filter(|_| of.is_none());
        let bought = pack.map(|pack| Owned::of(as_owned(pack), date));
        Some(Read { logged, bought })
    })();
    r.finish(read)
}

/// A pack of the Board as one that is owned: what the Board makes of it is left there.
pub(crate) fn as_owned(pack: &Pack) -> Pack {
    let shown = lake_hour_core::pack::Shown::Full;
    Pack { chosen: false, aboard: true, shown, ..lake_hour_core::log::unlearned(pack) }
}

fn read_outing(r: &mut Reader<'_>, against: &Against<'_>, which: Option<Which>) -> Option<Outing> {
    let before = match against.before {
        Some(Logged::Outing(before)) => Some(&**before),
        _ => None,
    };
    let feel = r.typed.get("by") == "feel";
    let name = r.name_or("name", "Outing");
    let start = read_charge(r, "start", feel, Some(Charge::Full), which, against);
    let used = read_used(r, feel, which, against);
    let hours = r.optional("hours", &allowed::OUTING_HOURS);
    let measure = |r: &mut Reader<'_>, name, of, allowed, kept: Option<f64>| {
        let read = r.measure_if(name, of, allowed);
        read.map(|v| untouched(r.units, of, kept, r.typed.get(name), v))
    };
    let kept = before.and_then(|b| b.distance).map(Metres::value);
    let distance = measure(r, "distance", Measure::Distance, &allowed::OUTING_DISTANCE, kept);
    let kept = before.and_then(|b| b.wind).map(MetresPerSecond::value);
    let wind = measure(r, "wind", Measure::Speed, &allowed::SPEED, kept);
    let setting = super::super::dial::setting_if(r, "setting", &against.plan().rig.motor.dial);
    let amps = r.optional("amps", &allowed::CURRENT);
    let reading = match (setting, amps) {
        (Some(None), Some(None)) => Some(None),
        (Some(Some(setting)), Some(Some(amps))) => {
            Some(Some(Reading { setting, current: Amps::of(amps) }))
        }
        (Some(None), Some(Some(_))) => {
            r.problem("setting", "At which setting was that? As in 5.");
            None
        }
        (Some(Some(_)), Some(None)) => {
            r.problem("amps", "Type the amps you read there, or clear the setting.");
            None
        }
        _ => None,
    };
    let pack = against.pack(which?)?;
    let plan = match before {
        // What it was driven by stays with it; only the pack may have been another one.
        Some(before) if which.is_some_and(|w| before.of.map(Which::Owned) == Some(w)) => {
            before.plan.clone()
        }
        Some(before) => as_driven_with(&before.plan, &as_owned(pack)),
        None => as_driven_with(against.plan(), &as_owned(pack)),
    };
    let outing = Outing {
        date: Date::ZERO,
        name: name?,
        hours: hours?.map(Hours::of),
        distance: distance?.map(Metres::of),
        start: start?,
        used: used?,
        wind: wind?.map(MetresPerSecond::of),
        reading: reading?,
        note: String::new(),
        of: None,
        recorded: before.and_then(|b| b.recorded),
        hot: before.and_then(|b| b.hot),
        counts: !r.ticked("out"),
        practice: before.is_some_and(|b| b.practice),
        plan,
    };
    if let Ok((used, _)) = outing.share_used() {
        if used < 0.0 {
            r.problem("end", "It ended fuller than it began: are start and end swapped?");
        } else if used > 1.02 {
            r.problem("end", "That is more than a full pack holds. Check the amp-hours.");
        }
    }
    Some(outing)
}

fn read_charge(
    r: &mut Reader<'_>,
    name: &str,
    feel: bool,
    blank: Option<Charge>,
    which: Option<Which>,
    against: &Against<'_>,
) -> Option<Charge> {
    let text = r.text(name)?;
    if text.trim().is_empty() {
        if blank.is_none() {
            r.problem(name, "Type how full it was, as in 35 % or full.");
        }
        return blank;
    }
    let said = charge(text);
    let said = r.keep(name, said)?;
    let charge = r.keep(name, known(&said, feel))?;
    rests(r, name, charge, which, against)
}

/// Volts tell the charge of lead only, and only volts that such a pack has.
fn rests(
    r: &mut Reader<'_>,
    name: &str,
    charge: Charge,
    which: Option<Which>,
    against: &Against<'_>,
) -> Option<Charge> {
    let Charge::Rested(volts, _) = charge else { return Some(charge) };
    let pack = against.pack(which?)?;
    if !pack.battery.chemistry.is_lead() {
        r.problem(
            name,
            "Volts tell the charge of lead only: type what its meter says, as in 35 %.",
        );
        return None;
    }
    let (low, high) = (pack.voltage().value() * 0.8, pack.voltage().value() * 1.25);
    if !(low..=high).contains(&volts.value()) {
        let (low, high) = (figures::amount(low), figures::amount(high));
        r.problem(name, format!("Rested volts of the whole pack lie between {low} and {high} V."));
        return None;
    }
    Some(charge)
}

fn read_used(
    r: &mut Reader<'_>,
    feel: bool,
    which: Option<Which>,
    against: &Against<'_>,
) -> Option<Used> {
    let text = r.text("end")?;
    if text.trim().is_empty() {
        r.problem("end", "How full did it end, or how much was used? As in 35 % or 43 Ah.");
        return None;
    }
    let said = charge(text);
    let said = r.keep("end", said)?;
    if let Said::Used(ah) = said {
        return Some(Used::AmpHours(AmpHours::of(ah)));
    }
    let charge = r.keep("end", known(&said, feel))?;
    rests(r, "end", charge, which, against).map(Used::Left)
}

fn read_test(r: &mut Reader<'_>, kind: Logging, pack: Option<&Pack>) -> Option<Test> {
    let units = pack.map_or(MOST_UNITS as u32, Pack::units);
    let unit = match r.optional("unit", &allowed::UNIT_NUMBER) {
        Some(Some(n)) if n.fract() != 0.0 || n > f64::from(units) => {
            r.problem("unit", format!("A whole number from 1 to {units}, or blank for the pack."));
            None
        }
        read => read,
    };
    let warm = |r: &mut Reader<'_>| {
        let read = r.measure_if("warm", Measure::Temperature, &allowed::TEMPERATURE);
        read.map(|t| t.map(Celsius::of))
    };
    let did = match kind {
        Logging::Charged => {
            let feel = r.typed.get("by") == "feel";
            let text = r.text("end")?;
            let said = charge(text);
            let said = r.keep("end", said)?;
            let charge = match r.keep("end", known(&said, feel))? {
                Charge::Rested(volts, rest) => Charge::Rested(volts, charged(rest)),
                other => other,
            };
            if matches!(charge, Charge::Rested(..))
                && pack.is_some_and(|p| !p.battery.chemistry.is_lead())
            {
                r.problem("end", "Volts tell the charge of lead only: type a percent, as in 80 %.");
            }
            Did::Charged(charge)
        }
        Logging::Capacity => {
            let current = r.number("amps", &allowed::CURRENT);
            let lasted = r.minutes("lasted", &TEST_MINUTES);
            let stop = r.number("stop", &allowed::VOLTAGE);
            let ended = r.choice("ended", |key| match key {
                "reached" => Some(TestEnd::Reached),
                "short" => Some(TestEnd::CutShort),
                _ => None,
            });
            if ended == Some(TestEnd::Reached)
                && lasted.is_some_and(|minutes| minutes < SHORTEST_TEST * 60.0)
            {
                r.problem(
                    "lasted",
                    "Minutes say nothing of the capacity: run it for 15 min at least, hours are better. A few seconds are a load test.",
                );
            }
            let temperature = warm(r);
            let energy = r.optional("wh", &allowed::METERED_ENERGY);
            let current = current.filter(|amps| *amps > 0.0).or_else(|| {
                r.problem("amps", "The test's current, as in 5.");
                None
            });
            Did::Capacity(CapacityTest {
                current: Amps::of(current?),
                lasted: Hours::from_minutes(lasted?),
                stop: Volts::of(stop?),
                ended: ended?,
                temperature: temperature?,
                energy: energy?.map(WattHours::of),
            })
        }
        Logging::Load => {
            let before = r.number("before", &allowed::VOLTAGE);
            let under = r.number("under", &allowed::VOLTS_UNDER_LOAD);
            let current = r.number("amps", &allowed::LIMIT_CURRENT);
            let seconds = r.number("seconds", &allowed::LOAD_SECONDS);
            let temperature = warm(r);
            let (before, under) = (before?, under?);
            if under > before {
                r.problem("under", "Volts fall under a load: are the two swapped?");
            }
            Did::Load(LoadTest {
                before: Volts::of(before),
                under: Volts::of(under),
                current: Amps::of(current?),
                seconds: seconds?,
                temperature: temperature?,
            })
        }
        Logging::Care => {
            let chore = r.choice("chore", Chore::from_key);
            let later = r.date_if("later");
            Did::Care(chore?, later?)
        }
        _ => read_each(r)?,
    };
    let unit = unit?.map(|n| n as u32);
    Some(Test { date: Date::ZERO, of: None, unit, did, recorded: None, note: String::new() })
}

const TEST_MINUTES: Allowed = Allowed { low: 0.6, high: 24_000.0, unit: "min" };

/// "12.71, 12.70" or "12.71 V 12.70 V": volts of each unit; "82 %, 79 %" its charge; "5.1 mΩ, 5.3 mΩ" its resistance.
fn read_each(r: &mut Reader<'_>) -> Option<Did> {
    const EXAMPLE: &str =
        "Type one figure of each unit: 12.71, 12.70 for volts, 82 %, 79 % or 5.1 mΩ, 5.3 mΩ.";
    let text = r.text("volts")?;
    let lower = text.to_lowercase();
    let (allowed, words): (_, &[&str]) = if lower.contains('%') {
        (&PERCENT, &["%"])
    } else if lower.contains("m\u{3c9}") || lower.contains("ohm") {
        (&MILLIOHMS, &["m\u{3c9}", "milliohms", "milliohm", "mohms", "mohm"])
    } else {
        (&allowed::VOLTS_UNDER_LOAD, &["volts", "volt", "v"])
    };
    let bare = words.iter().fold(lower, |text, word| text.replace(word, " "));
    let pieces: Vec<&str> = bare
        .split([' ', ';', '/'])
        .flat_map(|t| t.split(", "))
        .map(|t| t.trim_matches([',', ' ']))
        .filter(|t| !t.is_empty())
        .collect();
    if pieces.is_empty() || pieces.len() > MOST_UNITS {
        r.problem("volts", EXAMPLE);
        return None;
    }
    let mut all = Vec::new();
    for piece in pieces {
        all.push(r.keep("volts", parse::number(piece, allowed))?);
    }
    Some(match words[0] {
        "%" => Did::Charges(all.into_iter().map(|percent| percent / 100.0).collect()),
        "volts" => Did::Volts(all.into_iter().map(Volts::of).collect()),
        _ => Did::Resistances(all.into_iter().map(|m| Ohms::of(m / 1000.0)).collect()),
    })
}

/// What a unit's resistance may be, by a meter.
const MILLIOHMS: Allowed = Allowed { low: 0.01, high: 10_000.0, unit: "m\u{3a9}" };

fn read_owned(r: &mut Reader<'_>, against: &Against<'_>) -> Option<Owned> {
    let before = match against.before {
        Some(Logged::Owned(before)) => Some(&**before),
        _ => None,
    };
    let bought = r.date("bought");
    let shop = r.words_if("shop", allowed::TEXT_LENGTH);
    let paid = r.optional("paid", &allowed::PRICE);
    let full = r.optional("full", &allowed::WARRANTY);
    let prorated = r.optional("prorated", &allowed::WARRANTY);
    let kept = before.and_then(|b| b.kept_at).map(Celsius::value);
    let kept_at = r.measure_if("kept", Measure::Temperature, &allowed::TEMPERATURE);
    let kept_at =
        kept_at.map(|t| untouched(r.units, Measure::Temperature, kept, r.typed.get("kept"), t));
    let next = r.date_if("next");
    let leaves = r.clock_if("leaves");
    let retired = r.date_if("retired");
    let note = r.words_if("note", allowed::TEXT_LENGTH);
    if let (Some(Some(full)), Some(Some(prorated))) = (full, prorated)
        && prorated <= full
    {
        r.problem("prorated", "Counted since it was bought: more years than the full warranty.");
    }
    let pack = match before {
        Some(before) => Some(before.pack.clone()),
        None => {
            let which = Which::read(r.typed.get("of"), against.board, against.log);
            let pack = which.and_then(|w| against.pack(w)).map(as_owned);
            if pack.is_none() {
                r.problem("of", "Choose the pack you own. Its label is put on the Board first.");
            }
            pack
        }
    };
    let count = before.map_or(0, |b| b.units.len());
    let units = if before.is_some() {
        r.rows(&["number", "serial", "place", "since", "out"], count, MOST_UNITS, |r, _| {
            let number = r.name("number");
            let serial = r.words_if("serial", allowed::TEXT_LENGTH);
            let place = r.optional("place", &allowed::UNIT_NUMBER);
            let since = r.date_if("since");
            let retired = r.date_if("out");
            Some(OwnedUnit {
                number: number?,
                serial: serial?,
                place: place?.map(|p| p as u32),
                since: since?,
                retired: retired?,
            })
        })
    } else {
        Some(Vec::new())
    };
    let bought = bought?;
    let (pack, units) = (pack?, units?);
    let units = if before.is_some() { units } else { Owned::of(pack.clone(), bought).units };
    Some(Owned {
        pack,
        bought,
        shop: shop?,
        paid: paid?.map(Money::of),
        full_years: full?,
        prorated_years: prorated?,
        kept_at: kept_at?.map(Celsius::of),
        next: match (next?, leaves?) {
            (Some(date), leaves) => Some(Next { date, minute: leaves.unwrap_or(7 * 60) }),
            (None, Some(_)) => {
                r.problem("next", "Which day does it leave?");
                return None;
            }
            (None, None) => None,
        },
        units,
        retired: retired?,
        note: note?,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_charge_is_said_as_owners_say_it() {
        let said = |text: &str| match charge(text) {
            Ok(Said::Share(share)) => format!("{share}"),
            Ok(Said::Used(ah)) => format!("{ah} Ah"),
            Ok(Said::Volts(volts, rest)) => format!("{volts} V {}", figures::rested(rest)),
            Err(_) => "no".to_owned(),
        };
        for (text, means) in [
            ("35 %", "0.35"),
            ("35", "0.35"),
            ("Full", "1"),
            ("43 Ah used", "43 Ah"),
            ("43Ah", "43 Ah"),
            ("24.3 V rested", "24.3 V 4 h"),
            ("24.3 V rested overnight", "24.3 V overnight"),
            ("24.3v 30 min", "24.3 V 30 min"),
            ("24,3 V", "24.3 V 4 h"),
            ("140 %", "no"),
            ("half", "no"),
            ("-5", "no"),
        ] {
            assert_eq!(said(text), means, "{text}");
        }
    }
}
