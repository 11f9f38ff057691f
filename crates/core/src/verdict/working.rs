//! The working behind each figure: the formula, the numbers in it, and who vouches for them.

use super::Drawn;
use crate::day::Day;
use crate::house::HouseRules;
use crate::life::{Stored, ageing::after_storage};
use crate::money::{Account, not_the_labels, per_usable_kwh, typical_energy_price};
use crate::pack::Pack;
use crate::shelf::{Detail, Rating};
use crate::source::Origin;
use crate::units::say::Say;
use crate::units::system::Measure;
use crate::units::{AmpHours, Amps, Hours, Kilograms, Money};
use crate::wiring::MotorCable;

/// One number that goes into a formula.
#[derive(Debug, Clone, PartialEq)]
pub struct Term {
    /// What it is.
    pub name: String,
    /// The number with its unit.
    pub value: String,
    /// Who vouches for it.
    pub origin: Origin,
    /// Where the typical value is from, or nothing.
    pub source: &'static str,
}

/// The working of one figure.
#[derive(Debug, Clone, PartialEq)]
pub struct Line {
    /// Key of the figure it explains.
    pub figure: &'static str,
    /// What the figure is.
    pub title: &'static str,
    /// The formula in words and symbols.
    pub formula: &'static str,
    /// The same with the numbers in it.
    pub numbers: String,
    /// What comes out.
    pub result: String,
    /// What went in.
    pub terms: Vec<Term>,
}

/// One number that goes in; an empty `source` says nothing.
fn term(name: &str, value: String, origin: Origin, source: &'static str) -> Term {
    Term { name: name.to_owned(), value, origin, source }
}

/// Where the law is from.
const LAW_SOURCE: &str = "law of remembered current, found on simulated porous electrodes";
/// Said where nothing is published, so that nobody takes it for more.
const UNSOURCED: &str = "for the chemistry and the size, no published source";

/// The working of every figure shown for a pack.
pub fn working(
    pack: &Pack,
    day: &Day,
    rules: &HouseRules,
    drawn: &Drawn,
    say: Say<'_>,
) -> Vec<Line> {
    [
        Some(size(pack, drawn)),
        Some(charge_left(pack, drawn, say)),
        Some(keep(pack, rules, drawn)),
        drawn.hours_at_this_pace.map(|h| pace(day, drawn, h)),
        Some(life(pack, day, rules, drawn)),
        cost(pack, day, rules, drawn, say),
        Some(refill(day, drawn, say)),
        Some(years(pack, day, drawn)),
        Some(storage(pack, rules, drawn, say)),
    ]
    .into_iter()
    .flatten()
    .collect()
}

/// From the label's ratings to the fitted capacity.
fn size(pack: &Pack, drawn: &Drawn) -> Line {
    let fit = &drawn.fit;
    let mut terms: Vec<Term> = fit
        .ratings
        .iter()
        .zip(1..)
        .map(|(r, n)| {
            let off = match r.off * 100.0 {
                off if off.abs() < 0.05 => format!("{}, as fitted", r.rating.words()),
                off => format!("{}, {off:+.1} % from the fit", r.rating.words()),
            };
            let by = match r.rating {
                Rating::Runtime { .. } => Detail::RATINGS,
                Rating::Capacity { .. } | Rating::Energy { .. } => Detail::CAPACITY,
            };
            let name = if fit.ratings.len() == 1 { "rating" } else { &format!("rating {n}") };
            term(name, off, pack.battery.origin(by), "")
        })
        .collect();
    let rates = &fit.cell.rates;
    terms.push(term("out of reach at 1 C: a", format!("{:.2}", rates.a), fit.shape, LAW_SOURCE));
    let minutes = rates.tau() * 60.0;
    let memory =
        if minutes < 1.0 { "under a minute".to_owned() } else { format!("{minutes:.0} min") };
    terms.push(term("a current is felt for: tau", memory, fit.shape, LAW_SOURCE));
    let (by, source) = if pack.battery.others.contains_key("cell_count") {
        (Origin::Label, "")
    } else {
        (Origin::Typical, "the number sold that comes nearest to the nominal voltage")
    };
    let cells = pack.battery.cells().to_string();
    terms.push(term("cells in series in one unit", cells, by, source));
    terms.push(term(
        "resistance of one unit",
        format!("{:.1} milliohm", fit.law.ohms() * 1000.0),
        fit.resistance,
        UNSOURCED,
    ));
    terms.push(term(
        "second opinion: Peukert's exponent",
        format!("{:.3}", fit.peukert.exponent),
        if fit.ratings.len() > 1 { Origin::Label } else { Origin::Typical },
        "Peukert, Elektrotechnische Zeitschrift 20 (1897) 287",
    ));
    let (rated, share) = (fit.law.rated(), pack.health.capacity_share);
    let whole = rated * share * f64::from(pack.parallel);
    terms.push(term(
        "what one unit gives at a very slow draw",
        format!("{:.1} Ah", fit.law.q_max()),
        fit.shape,
        UNSOURCED,
    ));
    Line {
        figure: "capacity",
        title: "Amp-hours that 100 % means",
        formula: "strings x rated Ah of one unit x what wear has left of it",
        numbers: format!("{} x {rated:.1} Ah x {share:.2}", pack.parallel),
        result: format!("{whole:.1} Ah"),
        terms,
    }
}

/// What nobody has typed is never called theirs: a rule that is as it comes is typical.
fn set_unless(value: f64, usual: f64) -> Origin {
    if (value - usual).abs() < 1e-9 { Origin::Typical } else { Origin::SetByYou }
}

/// What is left at the end, `s = s0 - (Ah drawn - Ah stored) / rated Ah`, with the band and the lowest voltage.
fn charge_left(pack: &Pack, drawn: &Drawn, say: Say<'_>) -> Line {
    let whole = drawn.fit.law.rated() * pack.health.capacity_share * f64::from(pack.parallel);
    let gone = drawn.summary.delivered;
    let band = &drawn.band;
    let mut terms = vec![
        term("drawn through the day", format!("{gone:.1}"), drawn.draws_by, ""),
        term(
            "on a bad day, on a good one",
            format!("{:.0} % to {:.0} %", band.low * 100.0, band.high * 100.0),
            Origin::Typical,
            "48 days spread over what is not known; the worst and best tenth left out",
        ),
        term(
            "days of them finished",
            format!("{:.0} %", band.days_finished * 100.0),
            Origin::Typical,
            "",
        ),
    ];
    if let Some(unknown) = band.widest {
        let value = unknown.words().to_owned();
        terms.push(term("least sure of", value, Origin::Typical, ""));
    }
    if let Some(cable) = drawn.cable {
        let MotorCable { gauge, length, ohms } = cable;
        let most = drawn.points.iter().map(|p| p.amps.value()).fold(0.0, f64::max);
        let long = say.units.say(Measure::Length, length.value(), 1);
        let value = format!(
            "AWG {}, {long} one way, {:.1} milliohm: {:.2} V less at the motor at {most:.0} A",
            gauge.awg,
            ohms.value() * 1000.0,
            ohms.value() * most
        );
        terms.push(term("cable to the motor", value, Origin::SetByYou, "ABYC E-11"));
    }
    if let Some(volts) = drawn.summary.lowest_voltage {
        let value = format!("{volts:.1}");
        terms.push(term("lowest voltage under load", value, Origin::Typical, ""));
    }
    if drawn.starts_at < 1.0 {
        let value = format!("{:.0} %", drawn.starts_at * 100.0);
        terms.push(term("begins the day with", value, Origin::SetByYou, ""));
    }
    if drawn.summary.charged > AmpHours::ZERO {
        let value = format!("{:.1}, {:.0}", drawn.summary.charged, drawn.summary.energy_in);
        terms.push(term("put in on the way", value, Origin::SetByYou, ""));
    }
    if drawn.heavier_by.value().abs() > 0.5 {
        let by = say.units.say(Measure::Mass, drawn.heavier_by.value().abs(), 0);
        let than = if drawn.heavier_by > Kilograms::ZERO { "heavier" } else { "lighter" };
        let value = format!("{by} {than} than what is aboard: its load follows");
        terms.push(term("the pack", value, Origin::Label, ""));
    }
    if drawn.out_of_reach >= 0.005 {
        let value = format!("{:.0} % of the charge", drawn.out_of_reach * 100.0);
        terms.push(term("out of reach of the way home", value, Origin::Typical, LAW_SOURCE));
    }
    if drawn.summary.past_label > 0.002 {
        let more = drawn.summary.past_label * whole;
        terms.push(term(
            "taken past its label",
            format!("{more:.1} Ah"),
            Origin::Typical,
            LAW_SOURCE,
        ));
    }
    let coldest = drawn.legs.iter().map(|l| l.cold.reach).fold(1.0, f64::min);
    if coldest < 0.995 {
        terms.push(term(
            "of that the cold keeps, at any draw",
            format!("{:.0} % of the charge", (1.0 - coldest) * 100.0),
            Origin::Typical,
            if pack.battery.chemistry.is_lead() {
                "IEC 60896, IEEE 485"
            } else {
                "makers' datasheets"
            },
        ));
    }
    let stored = drawn.summary.charged * pack.battery.chemistry.facts().acceptance.coulombic;
    let (formula, out) = if stored > AmpHours::ZERO {
        ("start - (Ah drawn - Ah stored) / rated Ah", format!("({gone:.1} - {stored:.1})"))
    } else {
        ("start - Ah drawn / rated Ah", format!("{gone:.1}"))
    };
    Line {
        figure: "charge_left",
        title: "Charge left at the end",
        formula,
        numbers: format!("{:.2} - {out} / {whole:.1} Ah", drawn.starts_at),
        result: format!("{:.0} %", drawn.summary.charge_left * 100.0),
        terms,
    }
}

/// Where the reserve begins: `max(floor, out of reach) + reserve x (1 - floor)`, shares of the charge.
fn keep(pack: &Pack, rules: &HouseRules, drawn: &Drawn) -> Line {
    let chemistry = pack.battery.chemistry;
    let floor = rules.floor(chemistry);
    let usual = HouseRules::default();
    Line {
        figure: "reserve",
        title: "Where the reserve begins",
        formula: "the floor, or what is out of reach where that is more, + reserve x (1 - floor)",
        numbers: format!(
            "{:.2} + {:.2} x (1 - {floor:.2})",
            floor.max(drawn.out_of_reach),
            rules.reserve
        ),
        result: format!("{:.0} %", drawn.reserve * 100.0),
        terms: vec![
            term(
                "floor",
                format!("{:.0} %", floor * 100.0),
                set_unless(floor, usual.floor(chemistry)),
                "house rules",
            ),
            term(
                "reserve",
                format!("{:.0} % of what may be used", rules.reserve * 100.0),
                set_unless(rules.reserve, usual.reserve),
                "house rules",
            ),
        ],
    }
}

/// How long it lasts at the day's pace, down to its floor.
fn pace(day: &Day, drawn: &Drawn, hours: Hours) -> Line {
    Line {
        figure: "hours_at_this_pace",
        title: "Hours at this pace",
        formula: "the day repeated until the floor is reached or the pack stops",
        numbers: format!("a day of {}, floor {:.0} %", time(day.lasts()), drawn.floor * 100.0),
        result: time(hours),
        terms: Vec::new(),
    }
}

/// More cycles than this nobody ever drives.
const MANY: f64 = 20_000.0;

/// A count of cycles; what no one will live to see is only said to be many.
fn many(cycles: f64) -> String {
    if cycles > MANY { "over 20,000".to_owned() } else { format!("{cycles:.0}") }
}

/// A depth in percent.
fn shallow(depth: f64) -> String {
    if depth < 1.0 { "under 1 %".to_owned() } else { format!("{depth:.0} %") }
}

/// A time as it is said: "2.4 h", "20 min".
fn time(hours: Hours) -> String {
    if hours < Hours::of(0.95) {
        format!("{:.0} min", hours.minutes())
    } else {
        format!("{hours:.1}")
    }
}

/// Years and outings, and which of cycles, calendar and horizon ends them.
fn life(pack: &Pack, day: &Day, rules: &HouseRules, drawn: &Drawn) -> Line {
    let life = &drawn.life;
    let depth = (drawn.between.1 - drawn.between.0) * 100.0;
    let source = "middle of makers' curves and of common practice";
    Line {
        figure: "life",
        title: "Life",
        formula: "the first of: cycles at this depth / outings a year, calendar, horizon",
        numbers: format!(
            "first of {} / {:.0} a year, {:.1} years, {:.0} years",
            many(life.cycles.value),
            day.outings_per_year,
            life.calendar_years.value,
            rules.horizon_years
        ),
        result: format!("{:.1} years, {:.0} outings{}", life.years, life.outings, day.days_each()),
        terms: vec![
            term(
                &format!("cycles at {} depth", shallow(depth)),
                many(life.cycles.value),
                life.cycles.origin,
                if pack.battery.cycles.is_empty() { source } else { "" },
            ),
            term(
                "calendar",
                format!("{:.1} years", life.calendar_years.value),
                life.calendar_years.origin,
                if pack.battery.calendar_years.is_none() { source } else { "" },
            ),
            term(
                "by the other school of ageing",
                format!("{:.1} years", life.other_school_years),
                Origin::Typical,
                "Zsoldos et al., J. Electrochem. Soc. 171 (2024) 080527, for the order of the windows",
            ),
            term(
                "outings a year",
                format!("{:.0}{}", day.outings_per_year, day.days_each()),
                Origin::SetByYou,
                "",
            ),
            term(
                "looked ahead",
                format!("{:.0} years", rules.horizon_years),
                set_unless(rules.horizon_years, HouseRules::default().horizon_years),
                "",
            ),
        ],
    }
}

/// Cost per cycle from all the money of the years looked ahead; `None` without a price.
fn cost(pack: &Pack, day: &Day, rules: &HouseRules, drawn: &Drawn, say: Say<'_>) -> Option<Line> {
    let cost = drawn.cost?;
    let a = &cost.account;
    let mut result = vec![format!("{} a cycle", say.money(cost.per_cycle))];
    let years = format!("{} in {:.0} years", say.money(a.total), a.used.horizon);
    result.extend(cost.per_kwh.map(|kwh| format!("{} a kWh delivered", say.money(kwh))));
    result.extend(cost.per_lake_hour.map(|hour| format!("{} an hour", say.money(hour))));
    result.push(years);
    Some(Line {
        figure: "cost",
        title: "Cost per cycle",
        formula: "one outing is one cycle at this depth: (price with what it needs + bought again + what runs - what is left) / outings in the years looked ahead",
        numbers: format!(
            "({} + {} + {} - {}) / {:.0}{}",
            say.money(a.bought),
            say.money(a.replaced),
            say.money(a.all_running()),
            say.money(a.left),
            a.outings(),
            if rules.money.discount > 0.0 { " in today's worth" } else { "" },
        ),
        result: result.join(", "),
        terms: [
            Some(term(
                "batteries",
                format!("{} x {}", pack.units(), say.money(a.batteries / f64::from(pack.units()))),
                pack.battery.origin(Detail::PRICE),
                "",
            )),
            Some(match pack.extras.now() {
                Some(extras) => {
                    // A sum of typed and typical prices is no surer than its parts.
                    let from = "what you typed; else usual prices, from memory";
                    term("what it needs besides", say.money(extras), Origin::Typical, from)
                }
                None => term(
                    "charger, meter, cables",
                    "not entered, so not counted".to_owned(),
                    Origin::Typical,
                    "",
                ),
            }),
            (rules.money.sale > Money::ZERO && !pack.aboard).then(|| {
                term("less what you sell", say.money(rules.money.sale), Origin::SetByYou, "")
            }),
            Some(term(
                "bought again",
                match a.sets {
                    0 => format!("never in {:.0} years", a.used.horizon),
                    1 => format!("once, after {:.1} years", a.used.lasts),
                    n => format!("{n} times, every {:.1} years", a.used.lasts),
                },
                drawn.life.calendar_years.origin,
                "",
            )),
            Some(energy(a, day, rules, say)),
            (a.upkeep > Money::ZERO).then(|| {
                let words = format!("{} a year", say.money(a.upkeep));
                term("water and cleaning", words, Origin::Typical, "common practice, no source")
            }),
            Some(failures(a, rules, say)),
            (a.left > Money::ZERO).then(|| {
                let words = format!("{} for the unused years of the last set", say.money(a.left));
                term("left at the end", words, Origin::Typical, "")
            }),
            Some(term(
                "delivered on an outing",
                format!("{:.0}", drawn.summary.energy),
                Origin::Typical,
                LAW_SOURCE,
            )),
            label_cost(pack, drawn, say),
            simple(pack, rules, day, say),
        ]
        .into_iter()
        .flatten()
        .collect(),
    })
}

/// What the energy of a year costs.
fn energy(a: &Account, day: &Day, rules: &HouseRules, say: Say<'_>) -> Term {
    let Some(kwh) = rules.money.energy_price else {
        let words = format!("no price of a kWh is known in {}, so not counted", say.currency);
        return term("energy", words, Origin::Typical, "");
    };
    let words = format!(
        "{} a year: {:.0} outings x {:.2} kWh x {}",
        say.money(a.energy),
        day.outings_per_year,
        a.used.wall.value() / 1000.0,
        say.money(kwh)
    );
    let usual = typical_energy_price(say.currency) == Some(kwh);
    let (by, source) =
        if usual { (Origin::Typical, "a household, from memory") } else { (Origin::SetByYou, "") };
    term("energy", words, by, source)
}

/// What failures before their time cost in a year, and what the warranty saves.
fn failures(a: &Account, rules: &HouseRules, say: Say<'_>) -> Term {
    let saved = if a.warranty > Money::ZERO {
        format!("; the warranty pays another {}", say.money(a.warranty))
    } else {
        String::new()
    };
    let words = format!(
        "{} a year, {:.1} units in 100 failing{saved}",
        say.money(a.failures),
        rules.money.failing * 100.0
    );
    term("failures before their time", words, Origin::Typical, "from memory: makers publish none")
}

/// Price over the label's cycles, and why an outing costs something else.
fn label_cost(pack: &Pack, drawn: &Drawn, say: Say<'_>) -> Option<Term> {
    let naive = pack.naive_cost_per_cycle()?;
    let why =
        not_the_labels(pack.label_cycles()?, &drawn.life, pack.extras.now().unwrap_or(Money::ZERO));
    let why = why.map_or_else(String::new, |why| format!("; yours differs: {}", why.words()));
    let words = format!("{} by the label's cycles{why}", say.money(naive));
    Some(term("price / label cycles", words, Origin::Label, ""))
}

/// The sums that people do in a shop, of one unit.
fn simple(pack: &Pack, rules: &HouseRules, day: &Day, say: Say<'_>) -> Option<Term> {
    let battery = &pack.battery;
    let floor = rules.floor(battery.chemistry);
    let HouseRules { keeping, horizon_years, .. } = *rules;
    let usable = per_usable_kwh(battery, floor, day.outings_per_year, keeping, horizon_years);
    let all = [
        (battery.price_per_rated_cycle(), "per rated cycle"),
        (battery.price_per_ah(), "per Ah"),
        (battery.price_per_wh(), "per Wh"),
        (usable, "per usable kWh over its life"),
    ];
    let said: Vec<String> =
        all.into_iter().filter_map(|(sum, of)| Some(format!("{} {of}", say.money(sum?)))).collect();
    let origin = battery.origin(Detail::PRICE);
    (!said.is_empty()).then(|| term("one battery by its label", said.join(", "), origin, ""))
}

/// Hours on the charger, bulk and tail, and what comes from the wall.
fn refill(day: &Day, drawn: &Drawn, say: Say<'_>) -> Line {
    let refill = &drawn.refill;
    let (charger, origin) = match &refill.by {
        Some(name) => (name.clone(), Origin::SetByYou),
        None => (
            "none entered that fits: a fifth of the ampere-hours is usual".to_owned(),
            Origin::Typical,
        ),
    };
    let ready = match (day.ready_by, refill.ready) {
        (Some(by), Some(ready)) => {
            format!("; {} by {}", if ready { "ready" } else { "not ready" }, say.clock.words(by))
        }
        _ => String::new(),
    };
    Line {
        figure: "refill",
        title: "Back to full",
        formula: "bulk: (s - s0) C / (efficiency x I); tail: tau ln(I / I end)",
        numbers: format!(
            "{} at {:.0}, then {} tapering",
            time(refill.bulk),
            refill.amps,
            time(refill.tail)
        ),
        result: format!("{} on the charger{ready}", time(refill.hours())),
        terms: vec![
            term("charger", charger, origin, ""),
            term("starts from", format!("{:.0} %", refill.from * 100.0), Origin::Typical, ""),
            term(
                "put in",
                format!("{:.0}", refill.amp_hours_in),
                Origin::Typical,
                "coulombic efficiency, handbooks",
            ),
            term(
                "from the wall",
                format!("{:.2} kWh", refill.wall.value() / 1000.0),
                Origin::Typical,
                "battery and charger efficiency, handbooks",
            ),
        ],
    }
}

/// What capacity is left after one, three and more years of this use.
fn years(pack: &Pack, day: &Day, drawn: &Drawn) -> Line {
    use crate::life::ageing::capacity_after;
    let at = |years: f64| capacity_after(&drawn.life, day.outings_per_year, years) * 100.0;
    Line {
        figure: "capacity_over_years",
        title: "Capacity left over the years",
        formula: "1 - 0.2 x years / (years to 80 %), cycles or calendar, the nearer",
        numbers: format!(
            "after 1, 2, 3, 5, 10 years at {:.0} outings{}",
            day.outings_per_year,
            day.days_each()
        ),
        result: [1.0, 2.0, 3.0, 5.0, 10.0].map(|y| format!("{:.0}", at(y))).join(", ") + " %",
        terms: vec![term(
            "worn out at",
            "80 % of the rated capacity".to_owned(),
            Origin::Typical,
            if pack.battery.chemistry.is_lead() { "IEEE 450, IEEE 1188" } else { "datasheets" },
        )],
    }
}

/// What a winter's storage leaves of a full charge.
fn storage(pack: &Pack, rules: &HouseRules, drawn: &Drawn, say: Say<'_>) -> Line {
    let chemistry = pack.battery.chemistry;
    let ceiling = rules.ceiling(chemistry);
    let rests_at =
        if chemistry.is_lead() { ceiling } else { rules.keeping.resting_charge.min(ceiling) };
    let loss = crate::life::ageing::self_discharge(&pack.battery);
    let months = [1.0, 3.0, 6.0];
    let drain = drawn.standing_drain.unwrap_or(Amps::ZERO);
    let whole = AmpHours::of(drawn.fit.q20 * f64::from(pack.parallel));
    let at = |m: f64| {
        let t = rules.keeping.temperature;
        match after_storage(&pack.battery, rests_at, m, t, drain, whole) {
            Stored::Left(charge) => format!("{:.0} %", charge * 100.0),
            Stored::Flat => "flat".to_owned(),
            Stored::Ruined => "flat and ruined".to_owned(),
        }
    };
    Line {
        figure: "storage",
        title: "Put away: charge left",
        formula: "charge x (1 - loss a month)^months less what is drawn; the loss doubles every 18 °F (10 °C)",
        numbers: format!(
            "from {:.0} % at {}, after 1, 3, 6 months",
            rests_at * 100.0,
            say.units.say(Measure::Temperature, rules.keeping.temperature.value(), 0)
        ),
        result: months.map(at).join(", "),
        terms: vec![
            match drawn.standing_drain {
                Some(drain) => {
                    let value = format!("{:.0} mA", drain.value() * 1000.0);
                    term(
                        "drawn all the time by what cannot be switched off",
                        value,
                        Origin::SetByYou,
                        "",
                    )
                }
                None => term(
                    "drawn all the time by what cannot be switched off",
                    "nothing told".to_owned(),
                    Origin::Typical,
                    "",
                ),
            },
            term(
                "lost in a month",
                format!("{:.1} %", loss.value * 100.0),
                loss.origin,
                if loss.origin == Origin::Typical { "handbooks" } else { "" },
            ),
            term(
                "advice",
                if chemistry.is_lead() {
                    "store full, top up every three months; flat for months ruins it"
                } else {
                    "store near half, cool; never charge it below freezing"
                }
                .to_owned(),
                Origin::Typical,
                "common practice",
            ),
        ],
    }
}
