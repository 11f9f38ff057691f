//! The figures side by side: each a row, the better one of it marked.

use crate::figures;
use crate::frame::judged::Judged;
use crate::parts::decision::{self, About};
use crate::parts::lane;
use crate::parts::wants;
use lake_hour_core::decide::Standing;
use lake_hour_core::decide::sure::Chance;
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::proposals::failing::{chances, one_fails};
use lake_hour_core::units::Money;
use lake_hour_core::units::say::Say;
use lake_hour_core::verdict::{Course, Drawn};

/// One of the packs that are compared.
pub(super) struct One<'a> {
    pub(super) pack: &'a Pack,
    pub(super) evaluation: &'a Judged,
    pub(super) standing: Option<&'a Standing>,
    pub(super) chance: Option<Chance>,
    /// Figures that nobody told decide who comes first.
    pub(super) assumed: bool,
}

/// A figure of one pack.
pub(crate) struct Cell {
    pub(crate) text: String,
    /// Better than the others in this.
    pub(crate) better: bool,
}

/// A row.
pub(crate) struct Row {
    pub(crate) label: String,
    pub(crate) cells: Vec<Cell>,
}

impl Row {
    pub(crate) fn differs(&self) -> bool {
        self.cells.iter().any(|c| c.text != self.cells[0].text)
    }
}

/// Which way is better.
#[derive(Clone, Copy)]
enum Better {
    More,
    Less,
    /// Neither: it is as it is.
    Told,
}

struct Rows<'a, 'b> {
    all: Vec<Row>,
    of: &'b [One<'a>],
}

impl Rows<'_, '_> {
    /// A row of each pack's words and the figure behind them.
    fn add(
        &mut self,
        label: &str,
        better: Better,
        tell: impl Fn(&One<'_>) -> (String, Option<f64>),
    ) {
        let told: Vec<(String, Option<f64>)> = self.of.iter().map(tell).collect();
        let values = told.iter().filter_map(|(_, v)| *v);
        let best = match better {
            Better::More => values.reduce(f64::max),
            Better::Less => values.reduce(f64::min),
            Better::Told => None,
        };
        // Where all have the same none is better.
        let alike = told.iter().all(|(_, value)| *value == told[0].1);
        let cells = told
            .into_iter()
            .map(|(text, value)| Cell { better: !alike && best.is_some() && value == best, text });
        let cells = cells.collect();
        self.all.push(Row { label: label.to_owned(), cells });
    }

    /// A row of what the day of a pack tells.
    fn drawn(
        &mut self,
        label: &str,
        better: Better,
        tell: impl Fn(&Drawn) -> Option<(String, f64)>,
    ) {
        self.add(label, better, |one| match one.evaluation.drawn.as_ref().and_then(&tell) {
            Some((text, value)) => (text, Some(value)),
            None => ("-".to_owned(), None),
        });
    }
}

/// All rows, in the order owners ask.
pub(super) fn rows(plan: &Plan, course: &Course, say: Say<'_>, of: &[One<'_>]) -> Vec<Row> {
    let mut rows = Rows { all: Vec::new(), of };
    let boat = plan.rig.craft.kind.is_boat();
    if of.is_empty() {
        return Vec::new();
    }
    rows.add("what it says", Better::Told, |one| {
        let about = About { plan, pack: one.pack, course, say };
        (decision::verdict(&about, one.evaluation), None)
    });
    // Of batteries of different sizes: no share of one is better than of another.
    rows.drawn("charge left", Better::Told, |d| {
        let words = format!(
            "{} ({:.0} to {:.0})",
            figures::percent(d.summary.charge_left),
            d.band.low * 100.0,
            d.band.high * 100.0
        );
        Some((words, d.summary.charge_left))
    });
    rows.drawn("above its floor", Better::More, |d| {
        let above = d.summary.charge_left - d.floor;
        let side = if above < 0.0 { "below it" } else { "points" };
        Some((format!("{:.0} {side}", above.abs() * 100.0), above))
    });
    rows.drawn("at this pace", Better::More, |d| {
        let hours = d.hours_at_this_pace?.value();
        Some((figures::hours(hours), hours))
    });
    rows.drawn("lowest volts", Better::More, |d| {
        let volts =
            d.points.iter().filter_map(|p| p.volts).map(lake_hour_core::units::Volts::value);
        let low = volts.reduce(f64::min)?;
        Some((format!("{low:.1} V"), low))
    });
    rows.drawn("keep to setting", Better::More, |d| {
        d.highest_safe_setting?;
        // Where the day asks for no more there is nothing to keep to.
        Some(match d.keep_to {
            Some(setting) => (figures::setting(&plan.rig.motor.dial, setting), setting),
            None => ("as planned".to_owned(), 10.0),
        })
    });
    rows.add("weight", Better::Less, |one| match one.evaluation.mass {
        Some(mass) => (figures::mass(mass, say.units), Some(mass.value())),
        None => ("-".to_owned(), None),
    });
    rows.add("heaviest lift", Better::Less, |one| match one.pack.battery.mass {
        Some(mass) => (figures::mass(mass, say.units), Some(mass.value())),
        None => ("-".to_owned(), None),
    });
    money(&mut rows, plan, course, say, boat);
    rows.drawn("lasts", Better::More, |d| {
        let lasts = d.life.lasts(plan.day.outings_per_year);
        let (low, high) = d.life.lasts_between(plan.day.outings_per_year);
        let year = |y: f64| figures::amount((y * 2.0).round() / 2.0);
        Some((format!("{} years ({} to {})", year(lasts), year(low), year(high)), lasts))
    });
    rows.drawn("full again in", Better::Less, |d| {
        let hours = d.refill.elapsed.value();
        let by = d.refill.by.as_ref().map_or("a usual charger", String::as_str);
        Some((format!("{} by {by}", figures::hours(hours)), hours))
    });
    rows.add("one unit dead", Better::Told, |one| {
        let Some(rest) = one_fails(one.pack, &plan.rig) else {
            return ("nothing moves".to_owned(), None);
        };
        let judge = plan.judge().ok();
        let left = rest.pack();
        let said = judge.map(|judge| {
            let evaluation = judge.in_full(left);
            decision::verdict(&About { plan, pack: left, course, say }, &evaluation)
        });
        (said.unwrap_or_default(), None)
    });
    rows.add("stranded in a year", Better::Less, |one| {
        let stranded = chances(one.pack, &plan.rig, plan.rules.money.failing).stranded;
        (format!("{:.1} in 100", stranded * 100.0), Some(stranded))
    });
    rows.add("first of all packs", Better::More, |one| match one.chance {
        Some(c) => {
            let days = figures::days_in_100(c.best, one.assumed);
            (format!("{days} days in 100"), Some(c.best))
        }
        None => ("-".to_owned(), None),
    });
    for (n, want) in plan.wants.iter().enumerate().filter(|(_, w)| w.counts()) {
        let words = wants::words(want, say, plan.rules.horizon_years);
        rows.add(&words, Better::More, |one| {
            let Some(answer) = one.standing.and_then(|s| s.answers.get(n)) else {
                return ("-".to_owned(), None);
            };
            let has = wants::has(want, answer, say);
            let met = answer.met == Some(true);
            let yes = if met { "yes" } else { "no" };
            let text = if has.is_empty() { yes.to_owned() } else { format!("{yes}: {has}") };
            (text, Some(f64::from(met)))
        });
    }
    rows.add("build", Better::Told, |one| (lane::build(one.pack), None));
    rows.add("chemistry", Better::Told, |one| (one.pack.battery.chemistry.name().to_owned(), None));
    rows.add("tells its charge", Better::Told, |one| (yes_no(one.pack.battery.monitor), None));
    rows.add("warranty", Better::More, |one| {
        let years = one.pack.battery.warranty_total.or(one.pack.battery.warranty_full);
        let words = years.map_or("-".to_owned(), |y| format!("{} years", figures::amount(y)));
        (words, years)
    });
    rows.all
}

fn yes_no(what: Option<bool>) -> String {
    match what {
        Some(true) => "yes",
        Some(false) => "no",
        None => "the label does not say",
    }
    .to_owned()
}

fn money(rows: &mut Rows<'_, '_>, plan: &Plan, course: &Course, say: Say<'_>, boat: bool) {
    let sum = |m: Option<Money>| match m {
        Some(m) => (say.money(m), Some(m.value())),
        None => ("-".to_owned(), None),
    };
    rows.add("price with what it needs", Better::Less, |one| sum(one.evaluation.price_total));
    let cost = |one: &One<'_>| one.evaluation.drawn.as_ref().and_then(|d| d.cost);
    let years = figures::amount(plan.rules.horizon_years);
    rows.add(&format!("over {years} years"), Better::Less, |one| {
        sum(cost(one).map(|c| c.account.total))
    });
    rows.add("bought again", Better::Less, |one| match cost(one) {
        Some(c) => {
            let words = match c.account.sets {
                0 => "never".to_owned(),
                1 => "once".to_owned(),
                n => format!("{n} times"),
            };
            (words, Some(f64::from(c.account.sets)))
        }
        None => ("-".to_owned(), None),
    });
    rows.add("a cycle", Better::Less, |one| sum(cost(one).map(|c| c.per_cycle)));
    rows.add("a cycle by the label", Better::Told, |one| {
        let (text, _) = sum(one.pack.naive_cost_per_cycle());
        let survey = one.standing.and_then(|s| s.survey.as_ref());
        let why = lane::why_not_the_labels(one.pack, survey);
        (why.map_or(text.clone(), |why| format!("{text}, but {why}")), None)
    });
    rows.add("a kWh delivered", Better::Less, |one| sum(cost(one).and_then(|c| c.per_kwh)));
    if boat {
        rows.add("an hour out", Better::Less, |one| sum(cost(one).and_then(|c| c.per_lake_hour)));
    } else {
        rows.add("a mile or km", Better::Less, |one| {
            sum(lane::per_distance(cost(one), course, plan, say))
        });
    }
}
