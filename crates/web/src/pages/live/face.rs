//! What the screen says at a moment: the same words for the page as it is loaded and for each second after it.

use crate::figures;
use crate::frame::look::Look;
use crate::frame::trips::{Seen, State};
use jiff::Timestamp;
use jiff::tz::TimeZone;
use lake_hour_core::live::{
    Clue, End, FarBy, Gear, Home, KnownAs, KnownBy, Leaves, MOST, Now, Row, SURE, Trip, Warning,
};
use lake_hour_core::rig::Dial;
use lake_hour_core::units::convert::M_PER_MILE;
use lake_hour_core::units::say::Clock;
use lake_hour_core::units::system::System;
use lake_hour_core::units::{AmpHours, Hours, Metres, MetresPerSecond};
use lake_hour_core::verdict::told_capacity;
use lake_hour_formats::underway::Source;
use serde::Serialize;

/// A way home on the screen.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub(crate) struct RowFace {
    /// "Setting 7".
    pub(crate) gear: String,
    /// "home 13:52, 22 % left".
    pub(crate) says: String,
    /// How it ends: `keeps`, `reserve`, `not`; by it discs and colors are chosen.
    pub(crate) end: &'static str,
    /// The one to take.
    pub(crate) take: bool,
}

/// A warning that stands.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub(crate) struct WarningFace {
    pub(crate) key: String,
    pub(crate) title: String,
    pub(crate) does: String,
}

/// All that changes on the screen.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub(crate) struct Face {
    pub(crate) clock: String,
    /// `live`, `silent`, `hand`, `lost`.
    pub(crate) state: &'static str,
    pub(crate) heard: String,
    pub(crate) headline: String,
    pub(crate) sub: String,
    /// `calm`, `amber`, `red`.
    pub(crate) mood: &'static str,
    pub(crate) charge: String,
    pub(crate) sure: String,
    pub(crate) pace_hours: String,
    pub(crate) pace_far: String,
    pub(crate) rows: Vec<RowFace>,
    pub(crate) cells: Vec<(String, String)>,
    pub(crate) note: String,
    pub(crate) warnings: Vec<WarningFace>,
    /// Charge, its lower and upper edge, 0 to 1; floor and reserve.
    pub(crate) water: [f64; 7],
    /// Charge that goes in an hour at this pace, so that the page counts on by itself.
    pub(crate) falls: f64,
    /// Seconds until it must turn; below zero where it is on its way home, or nobody knows. Times as fast as the clock.
    pub(crate) turn: f64,
    pub(crate) plays: f64,
    /// Batteries of which nobody has said which they are.
    pub(crate) asks: usize,
}

/// How things are said to this browser.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Speaks<'a> {
    look: Look,
    /// Boats say hours, carts miles.
    boat: bool,
    /// What stands on the motor's dial.
    dial: &'a Dial,
}

impl<'a> Speaks<'a> {
    pub(crate) fn of(look: Look, trip: &'a Trip) -> Self {
        let rig = &trip.setup().plan.rig;
        Self { look, boat: rig.craft.kind.is_boat(), dial: &rig.motor.dial }
    }

    /// Of a trip that is over: gears only.
    pub(crate) const fn plain(look: Look, dial: &'a Dial) -> Self {
        Self { look, boat: true, dial }
    }

    fn far(self, far: Metres) -> String {
        figures::distance(far, self.look.units)
    }

    fn speed(self, speed: MetresPerSecond) -> String {
        figures::speed(speed, self.look.units)
    }

    pub(crate) fn gear(self, gear: Gear) -> String {
        match gear {
            Gear::Speed(v) => self.speed(v),
            Gear::Setting(s) => format!("Setting {}", figures::setting(self.dial, s)),
        }
    }

    /// In the middle of a sentence.
    fn at_gear(self, gear: Gear) -> String {
        match gear {
            Gear::Speed(_) => self.gear(gear),
            Gear::Setting(s) => format!("setting {}", figures::setting(self.dial, s)),
        }
    }
}

/// A moment in seconds since 1970, by the clock of the place.
pub(crate) fn clock(at: i64, face: Clock) -> String {
    let Ok(at) = Timestamp::from_second(at) else { return String::new() };
    let at = at.to_zoned_datetime(TimeZone::system());
    face.words(u16::from(at.hour() as u8) * 60 + u16::from(at.minute() as u8))
}

impl Face {
    pub(crate) fn of(seen: &Seen, look: Look) -> Self {
        let speaks = Speaks::of(look, &seen.trip);
        let now = &seen.now;
        // What is left is counted anew each second; ways home are looked at every few.
        let left = seen.trip.left();
        let at = |later: Hours| clock(seen.clock() + (later.value() * 3600.0) as i64, look.clock);
        let warnings: Vec<WarningFace> =
            seen.trip.warnings().standing().map(|w| warned(w, seen, speaks, &at)).collect();
        let first = seen.trip.warnings().standing().next();
        let mood = match first {
            Some(Warning::ShutOff | Warning::NotHome | Warning::SwitchNear) => "red",
            Some(Warning::Silent) | None => "calm",
            Some(_) => "amber",
        };
        let over = seen.over.map(|away| ended(seen, away, look.clock));
        // What ended warns of nothing, and shows no way home from where it is by now.
        let warnings = if over.is_some() { Vec::new() } else { warnings };
        let mood = if over.is_some() { "calm" } else { mood };
        let (headline, sub) = match warnings.first().filter(|_| mood != "calm") {
            Some(warning) => (warning.title.clone(), warning.does.clone()),
            None if over.is_some() => over.unwrap_or_default(),
            None => headline(seen, speaks, &at),
        };
        let rows =
            now.home.as_ref().filter(|_| seen.over.is_none()).map_or_else(Vec::new, |home| {
                let row = |(n, row): (usize, &Row)| RowFace {
                    gear: speaks.gear(row.gear),
                    says: says(row, home, speaks, &at),
                    end: end(row),
                    take: home.take == Some(n) && gets_there(row),
                };
                home.rows.iter().enumerate().map(row).collect()
            });
        let capacity = told_capacity(seen.trip.pack()).map_or(1.0, AmpHours::value);
        let (state, heard) = state(seen);
        let turn = now.home.as_ref().and_then(|home| home.turn);
        // What is off lasts no time and leads nowhere, whatever was counted.
        let off = seen.trip.has_shut_off();
        let pace_hours = match now.lasts.0 {
            _ if off => "off".to_owned(),
            hours if hours >= MOST => "2 days or more".to_owned(),
            hours => figures::hours(hours.value()),
        };
        Self {
            clock: clock(seen.clock(), look.clock),
            state,
            heard,
            headline,
            sub,
            mood,
            charge: format!("{:.0}", left.charge * 100.0),
            sure: sure(seen, now),
            pace_hours,
            pace_far: now
                .reach
                .filter(|_| !off)
                .map_or_else(String::new, |far| figures::far(far, look.units)),
            rows,
            cells: if seen.over.is_some() { Vec::new() } else { cells(seen, speaks) },
            note: if seen.over.is_some() { String::new() } else { note(seen, speaks) },
            warnings,
            water: [
                left.charge,
                left.between.0,
                left.between.1,
                now.floor,
                now.reserve,
                if now.out_of_reach >= SEEN { now.out_of_reach } else { 0.0 },
                0.0,
            ],
            falls: if seen.over.is_some() { 0.0 } else { now.draw.value() / capacity },
            turn: turn.filter(|_| seen.over.is_none()).map_or(-1.0, |turn| turn.value() * 3600.0),
            plays: seen.plays,
            asks: seen.which.len() + usize::from(seen.trip.question().is_some_and(|q| !q.unsure)),
        }
    }
}

/// A trip that ended where it was last heard: when that was, and what the clock says since.
fn ended(seen: &Seen, away: i64, face: Clock) -> (String, String) {
    let days = away / 86_400;
    let long = if days == 1 { "a day".to_owned() } else { format!("{days} days") };
    (
        format!("This trip ended at {}, where it was last heard.", clock(seen.clock(), face)),
        format!(
            "The clock has gone on by {long} since: it jumped, or this machine was off. Nothing was counted meanwhile. Keep the trip in the log, or end it without logging."
        ),
    )
}

fn end(row: &Row) -> &'static str {
    match row.end {
        End::Keeps => "keeps",
        End::IntoReserve | End::BelowFloor => "reserve",
        End::Short(_) | End::Backwards => "not",
    }
}

/// Whether a way home arrives, likely.
const fn gets_there(row: &Row) -> bool {
    !matches!(row.end, End::Short(_) | End::Backwards)
}

/// What is to be done where none does.
fn not_home() -> (String, String) {
    (
        "Home is unlikely at any setting.".to_owned(),
        "Make for the nearest landing now, and call for help while you can.".to_owned(),
    )
}

/// "home 13:52, 22 % left".
fn says(row: &Row, home: &Home, speaks: Speaks<'_>, at: &dyn Fn(Hours) -> String) -> String {
    if home.far.value() < 30.0 {
        return "home".to_owned();
    }
    let left = row.left.map_or(0.0, |left| left.charge);
    let arrives = row.takes.map(at).unwrap_or_default();
    let and = match row.end {
        End::Keeps => format!("{} left", figures::percent(left)),
        End::IntoReserve => format!("{}, on reserve", figures::percent(left)),
        End::BelowFloor => format!("{}, too low", figures::percent(left)),
        End::Short(far) if far.value() < BARELY => return "stops just short".to_owned(),
        End::Short(far) => return format!("stops {} short", speaks.far(far)),
        End::Backwards => return "does not arrive".to_owned(),
    };
    if row.arrives < SURE {
        return format!("home {arrives}? {:.0} in 10", (row.arrives * 10.0).floor());
    }
    format!("home {arrives}, {and}")
}

/// Nearer than this it is no figure of miles. [m]
const BARELY: f64 = 80.0;
/// Less out of reach than this is not seen. [charge]
const SEEN: f64 = 0.04;

/// How it is with what is listened to, in a word and in words.
fn state(seen: &Seen) -> (&'static str, String) {
    if seen.begun.source == Source::Hand {
        return ("hand", "by hand".to_owned());
    }
    let silent = seen.trip.silent_for().map(|h| h.value() * 3600.0);
    match (&seen.source, silent) {
        (State::Lost(_), _) => ("lost", "no source".to_owned()),
        (_, None) => ("silent", "listening".to_owned()),
        (_, Some(s)) if s < 30.0 => ("live", "live".to_owned()),
        (_, Some(s)) => ("silent", format!("silent {}", ago(s))),
    }
}

/// "40 s", "6 min".
fn ago(seconds: f64) -> String {
    if seconds < 100.0 { format!("{seconds:.0} s") } else { figures::duration(seconds / 3600.0) }
}

/// "likely 55 to 61 %: counted for 5 h since full".
fn sure(seen: &Seen, now: &Now) -> String {
    let trip = &seen.trip;
    let between = now.left.between;
    let (since, silent, full) = trip.counted();
    let lead = trip.pack().battery.chemistry.is_lead();
    let hand = seen.begun.source == Source::Hand;
    let silent = if !hand && silent.minutes() >= 2.0 {
        format!(", {} of it silent", figures::duration(silent.value()))
    } else {
        String::new()
    };
    let counted = format!(
        "{} for {}{silent}",
        if hand { "counted by your plan" } else { "counted" },
        figures::duration(since.value())
    );
    let known = trip.question().map_or(trip.known_by(), |q| KnownBy::Read(q.lower.0));
    let by = match known {
        KnownBy::Read(Clue::Count) => format!("{counted}, the lower of two"),
        KnownBy::Full => format!("{counted} since full"),
        KnownBy::Guess => format!("{counted} from the charge you typed"),
        KnownBy::Log => format!("{counted} from what your log knew"),
        KnownBy::Nothing => format!("{counted}; nobody said how full it began"),
        KnownBy::Read(Clue::Percent) => "by your meter, counted on since".to_owned(),
        KnownBy::Read(Clue::Volts) => "by the volts you read, counted on since".to_owned(),
    };
    let flat = !full && !lead && between.1 - between.0 > 0.15 && trip.question().is_none();
    let mends = if flat { "; lithium's volts can't narrow it" } else { "" };
    let (low, high) = (between.0 * 100.0, between.1 * 100.0);
    let kept = if now.out_of_reach > now.floor {
        format!("; {} out of reach at this draw", figures::percent(now.out_of_reach))
    } else {
        String::new()
    };
    format!("likely {low:.0} to {high:.0} %{kept}: {by}{mends}")
}

fn headline(seen: &Seen, speaks: Speaks<'_>, at: &dyn Fn(Hours) -> String) -> (String, String) {
    let now = &seen.now;
    let Some(home) = &now.home else {
        return (
            format!("{} at this pace.", figures::hours(now.lasts.0.value())),
            "Tell the motor's amps on the Rig page for the way home.".to_owned(),
        );
    };
    let taken = home.take.and_then(|n| home.rows.get(n));
    if home.far.value() < 30.0 {
        let sub = if seen.trip.is_homeward() {
            "End the trip, and it is in your log."
        } else {
            "Have a good one."
        };
        return ("At the launch.".to_owned(), sub.to_owned());
    }
    let Some(row) = taken else { return ("No way home is known.".to_owned(), String::new()) };
    if !gets_there(row) {
        return not_home();
    }
    let gear = speaks.at_gear(row.gear);
    let left = row.left.map_or(0.0, |left| left.charge);
    match home.turn {
        None => {
            let arrives = row.takes.map(at).unwrap_or_default();
            let sub = match home.leaves {
                Leaves::Reserve => format!("At {gear}, the reserve untouched."),
                Leaves::Floor => format!("At {gear}, on the reserve: no faster."),
                Leaves::Home => format!("At {gear}, below what you keep in it: no faster."),
                Leaves::Nothing => {
                    format!("At {gear}, and not surely: the nearest landing is safer.")
                }
            };
            (format!("Home {arrives} with {}.", figures::percent(left)), sub)
        }
        Some(turn) if turn.value() >= 24.0 => (
            "No need to turn yet.".to_owned(),
            format!("At this pace a day lasts; home at {gear}."),
        ),
        Some(turn) if turn.minutes() < 1.0 => {
            let with = match home.leaves {
                Leaves::Reserve => "the reserve untouched",
                Leaves::Floor => "on the reserve",
                Leaves::Home | Leaves::Nothing => "below what you keep in it",
            };
            let sub = format!("Home at {gear} with {}, {with}.", figures::percent(left));
            ("Turn for home now.".to_owned(), sub)
        }
        Some(turn) => {
            // How far the way home is by then is not how far it is now: no setting is named that may not do.
            let more = figures::duration(turn.value());
            let sub = format!("{more} more out here, then home with the reserve.");
            (format!("Turn for home by {}.", at(turn)), sub)
        }
    }
}

/// Where a figure comes from, in a word.
const fn known_as(known: KnownAs) -> &'static str {
    match known {
        KnownAs::Measured => "\u{25aa} measured",
        KnownAs::Typed => "\u{25e6} you read",
        KnownAs::Assumed => "~ assumed",
    }
}

/// Draw, volts, home, and what is against it.
fn cells(seen: &Seen, speaks: Speaks<'_>) -> Vec<(String, String)> {
    let now = &seen.now;
    let mut cells = vec![
        (
            format!("{} A", figures::amount(now.draw.value())),
            format!("draw, {}", known_as(seen.trip.draw_known())),
        ),
        (
            format!("{:.1} V", seen.trip.volts().value()),
            format!("pack, {}", known_as(seen.trip.volts_known())),
        ),
    ];
    if let Some(home) = &now.home {
        let by = match home.by {
            FarBy::Position => "home",
            FarBy::Speed => "home, by speed",
            FarBy::Hand => "home, as typed",
            FarBy::Plan => "home, by plan",
        };
        cells.push((speaks.far(home.far), by.to_owned()));
    }
    if speaks.boat {
        let push = seen.trip.push();
        let words = if push.value() < 0.0 { "against, going home" } else { "helps going home" };
        cells.push((speaks.speed(MetresPerSecond::of(push.value().abs())), words.to_owned()));
    } else {
        cells.push((figures::percent(seen.trip.takes()), "of planned draw".to_owned()));
    }
    cells
}

/// What else is worth a line.
fn note(seen: &Seen, speaks: Speaks<'_>) -> String {
    let mut all = Vec::new();
    if let Some(home) = &seen.now.home {
        if let Some((gear, speed)) = home.cheapest.filter(|_| home.far.value() > 100.0) {
            let slow = home.too_slow.map_or_else(String::new, |gear| {
                format!("; at {} or less you drift back", speaks.at_gear(gear))
            });
            all.push(format!(
                "Thriftiest a {} home: {}, {}{slow}.",
                if speaks.look.units == System::Metric { "kilometer" } else { "mile" },
                speaks.at_gear(gear),
                speaks.speed(speed)
            ));
        }
        if let Some((grade, amps)) = home.hill {
            all.push(format!("The hill home, {}: {:.0} A.", figures::percent(grade), amps.value()));
        }
        if let Some(fades) = home.fades.filter(|f| *f < 0.97) {
            all.push(format!(
                "On arrival the motor gives {} of its power.",
                figures::percent(fades)
            ));
        }
    }
    if let (Some(rounds), false) = (rounds(seen), speaks.boat) {
        all.push(format!("{} of this day's left.", figures::capital(&figures::rounds(rounds))));
    }
    all.extend(differs(seen));
    if seen.unwritten {
        all.push("The disk refuses: what is heard waits to be written.".to_owned());
    }
    if seen.passed_over > 0 {
        all.push("The source tells more than is looked at.".to_owned());
    }
    all.truncate(3);
    all.join(" ")
}

/// A meter and a count that differ and are not asked about: which one is used, and what would set both.
fn differs(seen: &Seen) -> Option<String> {
    let trip = &seen.trip;
    if let Some(asked) = trip.question() {
        let of = |(clue, share): (Clue, f64)| {
            let who = match clue {
                Clue::Percent => "the meter",
                Clue::Count => "the count",
                Clue::Volts => "the volts",
            };
            format!("{who} {}", figures::percent(share))
        };
        let (lower, higher) = (of(asked.lower), of(asked.higher));
        return asked
            .unsure
            .then(|| format!("We use the lower: {lower}, {higher}. A full charge settles both."));
    }
    let meter = trip.told().meter?;
    let left = trip.left().charge;
    ((meter - left).abs() > 0.08).then(|| {
        format!("Your meter says {}, we use {}.", figures::percent(meter), figures::percent(left))
    })
}

/// How many rounds of a cart's day what is left allows.
fn rounds(seen: &Seen) -> Option<f64> {
    let plan = &seen.trip.setup().plan;
    let rounds = plan.day.rounds();
    let course = lake_hour_core::verdict::course(&plan.rig, &plan.day);
    let far = course.distance().value();
    (rounds > 1 && far > M_PER_MILE / 10.0).then_some(())?;
    Some(seen.now.reach?.value() / (far / rounds as f64))
}

/// What a warning says, and what to do.
fn warned(
    warning: Warning,
    seen: &Seen,
    speaks: Speaks<'_>,
    at: &dyn Fn(Hours) -> String,
) -> WarningFace {
    let home = seen.now.home.as_ref();
    let taken = home.and_then(|h| h.rows.get(h.take?));
    let slower = taken.filter(|row| gets_there(row)).map(|row| {
        let left = row.left.map_or(0.0, |left| left.charge);
        let arrives = row.takes.map(at).unwrap_or_default();
        let sure = figures::percent((row.arrives * 100.0).floor() / 100.0);
        let gear = speaks.at_gear(row.gear);
        (gear, format!("home {arrives} with {}: {sure} sure", figures::percent(left)))
    });
    let homeward = seen.trip.is_homeward();
    let (title, does) = match warning {
        Warning::ShutOff => ("It has shut off.".to_owned(), shut_off(seen)),
        Warning::NotHome => not_home(),
        Warning::SwitchNear => (
            "The battery is about to shut off.".to_owned(),
            match &slower {
                Some((gear, home)) => format!("Ease off now: {gear}, {home}."),
                None => "Ease off now.".to_owned(),
            },
        ),
        Warning::Floor => (
            "Below what you keep in it.".to_owned(),
            "It still runs; going on costs life. Charge it tonight.".to_owned(),
        ),
        Warning::Knee => (
            "It may give out any time now.".to_owned(),
            match &slower {
                Some((gear, home)) if homeward => format!("Slowest that gets there: {gear}, {home}."),
                _ => "Lithium falls off without a sign: go home now.".to_owned(),
            },
        ),
        Warning::Turn if !homeward => (
            "Turn for home now.".to_owned(),
            slower.map_or_else(String::new, |(gear, home)| format!("At {gear}: {home}.")),
        ),
        Warning::Turn => match slower {
            Some((gear, home)) => (format!("Slow to {gear}."), format!("{}.", figures::capital(&home))),
            None => ("Slow down.".to_owned(), String::new()),
        },
        Warning::Reserve => (
            "On the reserve.".to_owned(),
            if homeward {
                slower.map_or_else(String::new, |(gear, home)| format!("At {gear}: {home}."))
            } else {
                "What is left is for the way home: go now.".to_owned()
            },
        ),
        Warning::Strays => strays(seen),
        Warning::Hot => (
            "The battery is hot.".to_owned(),
            "Ease off and let air to it; it shuts off when it gets hotter.".to_owned(),
        ),
        Warning::Cold => (
            "The battery is cold.".to_owned(),
            "It gives less, and shuts off when it gets colder. Never charge lithium below freezing."
                .to_owned(),
        ),
        Warning::Silent => {
            let silent = seen.trip.silent_for().map_or(0.0, |h| h.value() * 3600.0);
            (
                "Nothing is heard.".to_owned(),
                format!(
                    "Last heard {} ago: counting on at {} A. Look at the monitor and its network.",
                    ago(silent),
                    figures::amount(seen.now.draw.value())
                ),
            )
        }
    };
    WarningFace { key: warning.key().to_owned(), title, does }
}

/// A warning in a word or two, of a trip that is over.
pub(crate) const fn title(warning: Warning) -> &'static str {
    match warning {
        Warning::ShutOff => "It shut off",
        Warning::NotHome => "Home unlikely at any setting",
        Warning::SwitchNear => "About to shut off",
        Warning::Floor => "Below what is kept in it",
        Warning::Knee => "May give out any time",
        Warning::Turn => "Turn, or slow down",
        Warning::Reserve => "On the reserve",
        Warning::Strays => "A unit fell behind",
        Warning::Hot => "Hot",
        Warning::Cold => "Cold",
        Warning::Silent => "Nothing was heard",
    }
}

fn strays(seen: &Seen) -> (String, String) {
    let (unit, below) = seen.trip.behind().unwrap_or((0, 0.0));
    (
        format!("Unit {} falls behind.", unit + 1),
        format!(
            "{below:.2} V below the others: it ends the pack early. Slow down, and test it at home."
        ),
    )
}

/// What to try when its switch has opened.
fn shut_off(seen: &Seen) -> String {
    let plan = &seen.trip.setup().plan;
    let lead = seen.trip.pack().battery.chemistry.is_lead();
    let mut tries = Vec::new();
    if lead {
        tries.push("Everything off for ten minutes gives lead a little back".to_owned());
    } else {
        tries.push("Motor to zero, wait a minute, then switch it on or plug a charger in to reset it: a reset gives minutes, no more".to_owned());
    }
    let lower = plan.rig.motor.also_accepts.iter().filter(|v| **v < plan.rig.motor.system_voltage);
    if let Some(volts) = lower.copied().reduce(lake_hour_core::units::Volts::max) {
        tries.push(format!(
            "the motor takes {} V too, from fewer units, wired as Build shows it",
            figures::typed(volts.value())
        ));
    }
    tries.push(if plan.rig.craft.kind.is_boat() {
        "a spare or the paddle; call before you drift far".to_owned()
    } else {
        "roll it clear of the road, and call for a tow".to_owned()
    });
    format!("{}.", tries.join("; "))
}
