//! What to do tonight, what is due, lay-up: figures of the core in words.

use super::health::{HealthView, health_view};
use super::rows::day;
use super::today;
use crate::figures;
use crate::parts::outings::{drain, kept_at};
use lake_hour_core::care::{
    Act, DayUse, Due, Evening, Health, Reason, Tonight, due, lay_up, tonight,
};
use lake_hour_core::learn::Learned;
use lake_hour_core::log::{Charge as Known, Chore, Did, LeftNow, Log, Next, Owned};
use lake_hour_core::refill::Charge;
use lake_hour_core::units::Celsius;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::Measure;
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

/// All of it.
#[derive(Debug, Clone, Default)]
pub(super) struct CareView {
    pub(super) tonight: Vec<TonightView>,
    pub(super) due: Vec<DueView>,
    pub(super) lay_up: Vec<LayUpView>,
    pub(super) health: Option<HealthView>,
}

/// What the planned day takes of an owned pack, and what charges it.
pub(super) fn of_day(board: &Board, owned: &Owned) -> (Option<DayUse>, Option<Charge>) {
    let pack = board.plan.built_like(&owned.pack).unwrap_or(&owned.pack);
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
        (learned, health): (&Learned, Option<&Health>),
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
            health: log
                .about()
                .zip(health)
                .map(|(about, h)| health_view(log, learned, about, h, (&board.plan, say))),
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

pub(super) fn line(
    (id, o): (i64, &Owned),
    e: &Evening<'_>,
    t: &Tonight,
    say: Say<'_>,
) -> TonightView {
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
