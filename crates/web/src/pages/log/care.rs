//! What to do tonight, what is due, lay-up and health: figures of the core in words.

use super::rows::day;
use super::{same, today};
use crate::figures;
use lake_hour_core::care::{
    Act, DayUse, Due, Evening, Reason, Tonight, by_volts, due, health, lay_up, tonight,
};
use lake_hour_core::learn::{Factor, Learned};
use lake_hour_core::log::{
    Charge as Known, Chore, Did, LeftNow, LoadVerdict, Log, Next, Owned, years,
};
use lake_hour_core::refill::Charge;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::Measure;
use lake_hour_core::units::{Amps, Celsius};
use lake_hour_store::Board;

/// The line for one owned pack.
#[derive(Debug, Clone)]
pub(super) struct TonightView {
    pub(super) id: i64,
    pub(super) name: String,
    /// "Leave it at 71 %."
    pub(super) act: String,
    /// Why, and what it is worth.
    pub(super) why: Vec<String>,
    /// It wants something done.
    pub(super) asks: bool,
    /// Its charge is not known: ask for it.
    pub(super) read: bool,
    /// The house rule may be changed to suit the next outing.
    pub(super) rule: bool,
}

/// Something that is due.
#[derive(Debug, Clone)]
pub(super) struct DueView {
    pub(super) pack: i64,
    pub(super) chore: &'static str,
    pub(super) words: String,
    pub(super) when: String,
    pub(super) late: bool,
}

/// A row of the lay-up.
#[derive(Debug, Clone)]
pub(super) struct MonthView {
    pub(super) after: String,
    pub(super) charge: String,
    pub(super) volts: String,
}

/// Lay-up of one pack.
#[derive(Debug, Clone)]
pub(super) struct LayUpView {
    pub(super) name: String,
    pub(super) lead: bool,
    pub(super) words: Vec<String>,
    pub(super) months: Vec<MonthView>,
}

/// Health of the pack that the log is about.
#[derive(Debug, Clone)]
pub(super) struct HealthView {
    pub(super) name: String,
    /// "86 % of its label, 83 to 89".
    pub(super) now: String,
    /// For its age; when 80 and 60 %.
    pub(super) words: Vec<String>,
    pub(super) wear: Vec<(&'static str, String)>,
    pub(super) use_words: Vec<String>,
    pub(super) band: String,
    pub(super) line: String,
    pub(super) dots: Vec<(String, String)>,
    pub(super) here: (String, String, String),
    pub(super) ticks: Vec<(String, String)>,
    pub(super) rules: Vec<(String, &'static str)>,
    pub(super) sentence: String,
    /// What the units say of each other.
    pub(super) units: Vec<(String, bool)>,
}

/// All of it.
#[derive(Debug, Clone, Default)]
pub(super) struct CareView {
    pub(super) tonight: Vec<TonightView>,
    pub(super) due: Vec<DueView>,
    pub(super) lay_up: Vec<LayUpView>,
    pub(super) health: Option<HealthView>,
}

/// Where an owned pack is kept, as warm as it is told or the house has it. [°C]
fn kept_at(owned: &Owned, board: &Board) -> Celsius {
    owned.kept_at.unwrap_or(board.plan.rules.keeping.temperature)
}

fn drain(board: &Board) -> Amps {
    board.plan.rig.standing_drain.unwrap_or(Amps::ZERO)
}

/// What the planned day takes of an owned pack, and what charges it.
pub(super) fn of_day(board: &Board, owned: &Owned) -> (Option<DayUse>, Option<Charge>) {
    let pack = same(board, &owned.pack).next().map_or(&owned.pack, |(_, pack)| pack);
    let judged = board.plan.judge().ok().and_then(|judge| judge.in_full(pack).drawn);
    let Some(drawn) = judged else { return (None, None) };
    let uses = drawn.ended_early_at().is_none().then_some(DayUse {
        likely: drawn.starts_at - drawn.summary.charge_left,
        high: drawn.starts_at - drawn.band.low,
        days: board.plan.day.days_without_charging,
    });
    (uses, drawn.refill.charge)
}

/// When it was last full.
fn last_full(log: &Log, pack: i64) -> Option<jiff::civil::Date> {
    let charged = log.tests().filter(|(_, t)| t.of == Some(pack));
    let charged = charged.filter(|(_, t)| matches!(t.did, Did::Charged(Known::Full)));
    let begun = log.outings().filter(|(_, o)| o.of == Some(pack) && o.start == Known::Full);
    charged.map(|(_, t)| t.date).chain(begun.map(|(_, o)| o.date)).max()
}

/// The evening of an owned pack.
pub(super) fn evening<'a>(
    board: &'a Board,
    log: &Log,
    (id, owned): (i64, &'a Owned),
) -> Evening<'a> {
    let (uses, charge) = of_day(board, owned);
    let (kept_at, drain) = (kept_at(owned, board), drain(board));
    Evening {
        owned,
        today: today(),
        left: log.left_now(id, today(), kept_at, drain),
        rules: &board.plan.rules,
        uses,
        charge,
        kept_at,
        drain,
        last_full: last_full(log, id),
    }
}

impl CareView {
    pub(super) fn of(
        board: &Board,
        log: &Log,
        learned: &Learned,
        current: Option<i64>,
        say: Say<'_>,
    ) -> Self {
        let owned: Vec<(i64, &Owned)> = log.owned().filter(|(_, o)| o.retired.is_none()).collect();
        let lines = owned.iter().map(|&(id, o)| {
            let evening = evening(board, log, (id, o));
            line((id, o), &evening, &tonight(&evening), say)
        });
        let mut dues: Vec<(Due, DueView)> = owned
            .iter()
            .flat_map(|&(id, o)| due(log, id).into_iter().map(move |d| (d, due_view(id, o, &d))))
            .collect();
        dues.sort_by_key(|(d, _)| d.on);
        Self {
            tonight: lines.collect(),
            due: dues.into_iter().map(|(_, view)| view).take(6).collect(),
            lay_up: owned.iter().map(|&(_, o)| lay_up_view(board, o, say)).collect(),
            health: current
                .and_then(|id| Some((id, log.pack(id)?)))
                .and_then(|(id, o)| health_view(board, log, learned, (id, o))),
        }
    }
}

/// "Sat 28 Nov".
fn weekday(date: jiff::civil::Date) -> String {
    date.strftime("%a %-d %b").to_string()
}

fn left_words(left: LeftNow) -> String {
    let unsure = (left.unsure * 100.0).round();
    let since = day(left.known.date);
    match unsure {
        u if u < 1.0 => format!("{} since {since}", figures::percent(left.charge)),
        u => format!("{}, give or take {u:.0}, known {since}", figures::percent(left.charge)),
    }
}

fn line((id, o): (i64, &Owned), e: &Evening<'_>, t: &Tonight, say: Say<'_>) -> TonightView {
    let at = |next: Next| format!("{} {}", weekday(next.date), say.clock.words(next.minute));
    let lasts = |hours: Option<lake_hour_core::units::Hours>| {
        hours.map_or_else(
            || ". Nothing aboard charges it: see Packs for a charger".to_owned(),
            |h| format!(": {}", figures::hours(h.value())),
        )
    };
    let now = e.left.map_or(0.0, |left| left.charge);
    let act = match t.act {
        Act::Read => "how full is it?".to_owned(),
        Act::Leave => format!("leave it at {}", figures::percent(now)),
        Act::ChargeNow { to, takes } => match to >= 1.0 {
            true => format!("charge it now, to full{}", lasts(takes)),
            false => format!("charge it now, to {}{}", figures::percent(to), lasts(takes)),
        },
        Act::ChargeBy { to, takes, by, in_time } => {
            let to = if to >= 1.0 { "full".to_owned() } else { figures::percent(to) };
            match by {
                Some(by) if in_time => format!(
                    "charge it to {to}: plug in by {}{}",
                    at(by),
                    lasts(takes).replace(": ", ", ")
                ),
                Some(_) => format!(
                    "plug it in now: {to} takes {}, and it leaves before that",
                    lasts(takes).trim_start_matches(": ")
                ),
                None => format!("charge it to {to}{}", lasts(takes)),
            }
        }
        Act::RestAt(to) => format!("use it down to about {} when you can", figures::percent(to)),
    };
    let mut why = Vec::new();
    if let Some(left) = e.left {
        why.push(figures::capital(&left_words(left)));
    }
    let takes = e.uses.zip(o.next).map(|(uses, next)| {
        format!(
            "{} takes {} to {}{}",
            weekday(next.date),
            figures::percent(uses.likely),
            figures::percent(uses.high),
            t.needs.map_or_else(String::new, |needs| format!(
                ", and with the reserve asks for {}",
                figures::percent(needs)
            ))
        )
    });
    match t.why {
        Reason::Unknown => {
            why.push("Read its meter, or lead's volts after four hours of rest".into());
        }
        Reason::Lead => why.push(
            "Lead is charged after every outing, at once: left part empty it sulfates".into(),
        ),
        Reason::Full => why.push("It is full".into()),
        Reason::Enough | Reason::Needed => why.extend(takes),
        Reason::DaysInARow => why.push("More than one day without charging is planned".into()),
        Reason::HouseRule => {
            why.push("The rule of the house: full after every outing".into());
        }
        Reason::Balance => why.push(
            "Its cells are balanced at full every three months: let the charger end by itself"
                .into(),
        ),
        Reason::NearEmpty => {
            why.push(
                "Near empty lithium must not stand: its BMS goes to sleep, and cells die".into(),
            );
        }
        Reason::Rests => why.push("Nothing is planned, and full and warm is what ages it".into()),
        Reason::RestsWell => why.push("Nothing is planned; it rests well like that".into()),
    }
    if let Some(low) = t.too_cold {
        why.push(format!(
            "First bring it above {}: charged frozen, lithium is ruined",
            figures::measure(say.units, Measure::Temperature, low.value(), 0)
        ));
    }
    let full = matches!(t.why, Reason::HouseRule | Reason::Rests | Reason::Enough);
    if let Some(more) = t.half_gives.filter(|more| *more > 0.3 && full) {
        why.push(format!("Resting at half instead of full would give {more:.1} more years"));
    }
    TonightView {
        id,
        name: o.pack.name.clone(),
        act,
        why,
        asks: !matches!(t.act, Act::Leave),
        read: t.act == Act::Read,
        rule: t.why == Reason::HouseRule,
    }
}

/// What a chore is called.
pub(super) const fn chore(chore: Chore) -> &'static str {
    match chore {
        Chore::Water => "Look at the water: distilled only, after charging",
        Chore::Equalize => "Equalize, caps off, vented, by its maker's volts",
        Chore::Balance => "Charge to full and leave the charger on until it ends by itself",
        Chore::TopUp => "Unused for three months: read its charge and top it up",
        Chore::Clean => "Clean, dry and torque the posts",
        Chore::Test => "Capacity test, once a year",
    }
}

fn due_view(id: i64, o: &Owned, d: &Due) -> DueView {
    DueView {
        pack: id,
        chore: d.chore.key(),
        words: format!("{} ({})", chore(d.chore), o.pack.name),
        when: day(d.on),
        late: d.on <= today(),
    }
}

/// Months of a winter that are looked at, and how much colder its worst day is than where it is kept. [°C] Estimate.
const MONTHS: u32 = 7;
const COLDER: f64 = 25.0;

fn lay_up_view(board: &Board, o: &Owned, say: Say<'_>) -> LayUpView {
    let kept = kept_at(o, board);
    let drain = drain(board);
    let coldest = Celsius::of(kept.value() - COLDER);
    let plan = lay_up(o, MONTHS, kept, coldest, drain);
    let lead = o.pack.battery.chemistry.is_lead();
    let t = |c: Celsius| figures::measure(say.units, Measure::Temperature, c.value(), 0);
    let mut words = vec![match lead {
        true => "Put it away full, cool, and keep it so".to_owned(),
        false => format!("Put it away at {}, cool", figures::percent(plan.at)),
    }];
    words.push(match plan.until {
        Some(until) if lead => {
            format!("It is under 12.4 V a 12 V unit after {until:.1} months: charge it before")
        }
        Some(until) => format!("Its BMS may go to sleep after {until:.1} months: charge it before"),
        None => "It lasts two years so, but read it every three months".to_owned(),
    });
    if let Some(flat) = plan.drained_in {
        words.push(format!(
            "Take off what cannot be switched off: {} mA empties it in {flat:.1} months",
            figures::amount(drain.value() * 1000.0)
        ));
    }
    match (plan.too_cold, plan.freezes_at) {
        (Some(low), _) => words.push(format!(
            "Bring it in before it falls under {}, the least its maker allows",
            t(low)
        )),
        (None, Some(freezes)) => words.push(format!(
            "Full lead stands hard frost; down to its floor it freezes at {}",
            t(freezes)
        )),
        _ => {}
    }
    words.push(
        "Disconnect it, clean and dry, out of children's reach; check torque when it comes back"
            .to_owned(),
    );
    let months = plan.months.iter().map(|m| MonthView {
        after: match m.after {
            0 => "now".to_owned(),
            1 => "1 month".to_owned(),
            n => format!("{n} months"),
        },
        charge: m.charge.map_or_else(|| "flat".to_owned(), figures::percent),
        volts: m.volts.map_or_else(String::new, |v| format!("{:.2} V", v.value())),
    });
    LayUpView { name: o.pack.name.clone(), lead, words, months: months.collect() }
}

/// Width and height of the health picture, and what it shows of the capacity.
const WIDE: f64 = 520.0;
const HIGH: f64 = 150.0;
const LEFT: f64 = 46.0;

fn health_view(
    board: &Board,
    log: &Log,
    learned: &Learned,
    (id, o): (i64, &Owned),
) -> Option<HealthView> {
    let told = o.pack.health.capacity_share;
    let has = learned.factor(Factor::Capacity).map(|f| f * told);
    let h = health(log, id, today(), &board.plan.rules, has)?;
    let now = years(today());
    let bought = years(o.bought);
    let age = now - bought;
    let lasts = h.life.lasts(h.per_year);
    let end = (age * 1.6).max(lasts.min(age + 12.0)).max(1.0);
    let lowest = 0.5;
    let x = |year: f64| LEFT + (year / end).clamp(0.0, 1.0) * (WIDE - LEFT - 10.0);
    let y = |share: f64| 8.0 + (1.05 - share.clamp(lowest, 1.05)) / (1.05 - lowest) * (HIGH - 30.0);
    let (short, long) = h.life.lasts_between(h.per_year);
    let at = |year: f64, lasts: f64| (1.0 - 0.2 * year / lasts).max(lowest);
    let edge = |lasts: f64| -> Vec<String> {
        (0..=24)
            .map(|n| end * f64::from(n) / 24.0)
            .map(|year| format!("{:.1},{:.1}", x(year), y(at(year, lasts))))
            .collect()
    };
    let band: Vec<String> = edge(short).into_iter().chain(edge(long).into_iter().rev()).collect();
    let tests = log.tests().filter(|(_, t)| t.of == Some(id) && t.unit.is_none());
    let dots: Vec<(String, String)> = tests
        .filter_map(|(_, t)| match &t.did {
            Did::Capacity(test) => Some((years(t.date), test.found(&o.pack, 1.0).ok()?.share?)),
            _ => None,
        })
        .map(|(at, share)| (format!("{:.1}", x(at - bought)), format!("{:.1}", y(share))))
        .collect();
    let ends = |b: [f64; 3]| format!("{} to {}", figures::percent(b[0]), figures::percent(b[2]));
    let year = today().year();
    let in_years =
        |y: f64| i32::from(year) + (y + f64::from(today().day_of_year()) / 366.0).floor() as i32;
    let mut words = vec![format!("For its age and use {} is likely", ends(h.predicted))];
    for (at, until) in [(80, h.until[0]), (60, h.until[1])] {
        words.push(match until {
            Some([short, likely, long]) => format!(
                "{at} % in {} ({} to {})",
                in_years(likely),
                in_years(short),
                in_years(long)
            ),
            None => format!(
                "it is below {at} %{}",
                if at == 80 { ": replace it when it no longer does its day" } else { "" }
            ),
        });
    }
    let points = |share: f64| format!("{:.1}", share * 100.0);
    let wear = vec![
        ("years as such", points(h.wear.resting)),
        ("warm or full at rest", points(h.wear.full_or_warm)),
        ("cycling", points(h.wear.cycling)),
    ];
    let hours = |h: f64| figures::amount(h.round());
    let depths: Vec<String> = ["to 20 %", "to 40 %", "to 60 %", "to 80 %", "deeper"]
        .into_iter()
        .zip(h.depths)
        .filter(|(_, n)| *n > 0.0)
        .map(|(depth, n)| format!("{} {depth}", figures::amount(n)))
        .collect();
    let mut use_words = vec![
        format!("{} full cycles in all", figures::amount(h.full_cycles)),
        format!("cycles by depth: {}", depths.join(", ")),
        format!("{} h above 90 %, {} h below 20 %", hours(h.hours.0), hours(h.hours.1)),
    ];
    if let Some(more) = h.wear.half_gives {
        use_words.push(format!("resting at half would give {more:.1} more years"));
    }
    let known = learned.knows_capacity();
    let now_words = match known {
        true => format!("{} of its label, {}", figures::percent(has[1]), ends(has)),
        false => "its capacity is not tested yet".to_owned(),
    };
    Some(HealthView {
        name: o.pack.name.clone(),
        sentence: format!(
            "{}: {now_words} after {age:.1} years. {}.",
            o.pack.name,
            words.join("; ")
        ),
        now: now_words,
        words,
        wear,
        use_words,
        band: band.join(" "),
        line: edge(lasts).join(" "),
        dots,
        here: (
            format!("{:.1}", x(age)),
            format!("{:.1}", y(has[1])),
            if known { figures::percent(has[1]) } else { "likely".to_owned() },
        ),
        ticks: (0..=4)
            .map(|n| end * f64::from(n) / 4.0)
            .map(|year| {
                let calendar =
                    f64::from(o.bought.year()) + (f64::from(o.bought.day_of_year()) / 366.0) + year;
                (format!("{:.1}", x(year)), format!("{calendar:.0}"))
            })
            .collect(),
        rules: [(1.0, "100 %"), (0.8, "80 %"), (0.6, "60 %")]
            .map(|(share, words)| (format!("{:.1}", y(share)), words))
            .to_vec(),
        units: units(log, (id, o)),
    })
}

/// What the units say of each other, and whether something is to be done.
fn units(log: &Log, (id, o): (i64, &Owned)) -> Vec<(String, bool)> {
    let mut said = Vec::new();
    let of = |t: &&lake_hour_core::log::Test| t.of == Some(id);
    let latest = log.tests().rev().map(|(_, t)| t).filter(of).find_map(|t| match &t.did {
        Did::Volts(volts) if volts.len() > 1 => Some((t.date, volts)),
        _ => None,
    });
    if let Some((date, volts)) = latest {
        let ranked = by_volts(&o.pack, volts);
        if let Some(lowest) = ranked.first() {
            let below = format!("{:.0} mV", lowest.below * 1000.0);
            let points = lowest.charge_below.map_or_else(String::new, |p| {
                format!(", about {} points of charge", figures::amount((p * 100.0).round()))
            });
            let words = match (lowest.strays, volts.len()) {
                (false, _) => {
                    format!("rested {}: the units lie within {below}, as sound ones do", day(date))
                }
                (true, 2) => format!(
                    "rested {}: unit {} lies {below} below the other{points}. Charge both full and read again; of two, volts cannot tell which is the odd one",
                    day(date),
                    lowest.unit
                ),
                (true, _) => format!(
                    "rested {}: unit {} lies {below} below the middle of the others{points}. Charge it alone and read again; if it falls back, replace it: it pulls the string down",
                    day(date),
                    lowest.unit
                ),
            };
            said.push((words, lowest.strays));
        }
    }
    let mut loads: Vec<(u32, jiff::civil::Date, LoadVerdict, f64)> = Vec::new();
    for (_, t) in log.tests().rev() {
        if let (Some(unit), Did::Load(load)) = (t.unit, &t.did)
            && t.of == Some(id)
            && loads.iter().all(|l| l.0 != unit)
            && let Ok(found) = load.found(&o.pack, 1, 1)
        {
            loads.push((unit, t.date, found.verdict, found.resistance.value()));
        }
    }
    loads.sort_by_key(|l| l.0);
    for (unit, date, verdict, ohms) in loads {
        let words = match verdict {
            LoadVerdict::Pass => "bears its load",
            LoadVerdict::Weak => "is weak under load: test its capacity",
            LoadVerdict::Dead => "collapses under load: replace it",
            LoadVerdict::NotCharged => "was not charged for its load test",
        };
        let asks = matches!(verdict, LoadVerdict::Weak | LoadVerdict::Dead);
        said.push((format!("unit {unit} {words} ({:.0} mΩ, {})", ohms * 1000.0, day(date)), asks));
    }
    said
}

/// All that is due of a rig as a calendar.
pub(super) fn calendar(board: &Board, log: &Log, say: Say<'_>) -> String {
    use icalendar::{Alarm, Calendar, Component, Event, EventLike};
    let stamp =
        today().to_zoned_datetime(jiff::tz::TimeZone::UTC).map(|z| utc(&z)).unwrap_or_default();
    let rig = board.rig.0;
    let alarm = |what: &str, (rig, id): (i64, i64), summary: &str, hours, stamp: &str| {
        let mut alarm = Alarm::display(summary, -chrono::TimeDelta::hours(hours));
        // The same each time it is asked for.
        alarm.add_property("UID", format!("alarm-{what}-{rig}-{id}@lake-hour"));
        alarm.add_property("DTSTAMP", stamp);
        alarm.done()
    };
    let mut calendar = Calendar::empty();
    calendar
        .append_property(("VERSION", "2.0"))
        .append_property(("PRODID", "-//Lake Hour//Care//EN"))
        .append_property(("CALSCALE", "GREGORIAN"));
    calendar.name(&format!("{}: care", board.plan.rig.name));
    let event = |uid: String, summary: &str, notes: &str| {
        let mut event = Event::new();
        event.uid(&uid).summary(summary).description(notes).add_property("DTSTAMP", &stamp);
        event
    };
    let date = |d: jiff::civil::Date| d.strftime("%Y%m%d").to_string();
    let all_day = |event: &mut Event, on: jiff::civil::Date| {
        let mut start = icalendar::Property::new("DTSTART", date(on));
        start.append_parameter(icalendar::Parameter::new("VALUE", "DATE"));
        event.append_property(start);
    };
    for (id, o) in log.owned().filter(|(_, o)| o.retired.is_none()) {
        for d in due(log, id) {
            let name = chore(d.chore);
            let summary = format!("{}: {name}", o.pack.name);
            let uid = format!("{}-{rig}-{id}@lake-hour", d.chore.key());
            let mut one = event(uid, &summary, "Done or put off on the Log page of Lake Hour.");
            all_day(&mut one, d.on);
            one.add_property("RRULE", format!("FREQ=DAILY;INTERVAL={}", d.every));
            one.alarm(alarm(d.chore.key(), (rig, id), &summary, 6, &stamp));
            calendar.push(one.done());
        }
        let e = evening(board, log, (id, o));
        let t = tonight(&e);
        if let Act::ChargeBy { by: Some(by), .. } = t.act
            && let Ok(at) = by
                .date
                .at((by.minute / 60) as i8, (by.minute % 60) as i8, 0, 0)
                .to_zoned_datetime(jiff::tz::TimeZone::system())
        {
            let words = line((id, o), &e, &t, say);
            let summary = format!("{}: {}", o.pack.name, words.act);
            let uid = format!("charge-{rig}-{id}@lake-hour");
            let mut one = event(uid, &summary, &words.why.join(". "));
            one.add_property("DTSTART", utc(&at));
            one.alarm(alarm("charge", (rig, id), &summary, 1, &stamp));
            calendar.push(one.done());
        }
        if let Some(on) = warranty_ends(o) {
            let uid = format!("warranty-{rig}-{id}@lake-hour");
            let summary = format!("{}: its warranty ends; test it before", o.pack.name);
            let mut one = event(uid, &summary, "");
            all_day(&mut one, on);
            calendar.push(one.done());
        }
    }
    calendar.done().to_string()
}

fn warranty_ends(o: &Owned) -> Option<jiff::civil::Date> {
    use lake_hour_core::log::Warranty;
    match o.warranty(today()) {
        Warranty::Full(to) | Warranty::Prorated(_, to) => Some(to),
        Warranty::Untold | Warranty::Over(_) => None,
    }
}

/// "20260922T051500Z".
fn utc(at: &jiff::ZonedDateTime) -> String {
    at.with_time_zone(jiff::tz::TimeZone::UTC).strftime("%Y%m%dT%H%M%SZ").to_string()
}
