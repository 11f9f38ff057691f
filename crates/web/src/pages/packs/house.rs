//! House and electronics on a battery of their own: the sum, what of the shelf would do, its run, the engine it starts.

use super::page::Found;
use super::view::{PacksView, Which};
use crate::figures;
use crate::frame::look::Look;
use crate::frame::proposed::{House, Starter};
use crate::parts::decision::About;
use crate::parts::picture::Picture;
use lake_hour_core::allowed::{self, Allowed};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::proposals::cranking::{By, Cranking, Starts, cranking};
use lake_hour_core::proposals::house_battery::{self, Ledger, MOST_DRAWN, Offer, VOLTS, ledger};
use lake_hour_core::shelf::{Battery, Chemistry};
use lake_hour_core::units::parse;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::{Amps, Money};
use lake_hour_core::verdict::{Course, Evaluation};
use lake_hour_store::{BatteryId, RigId};
use std::sync::Arc;

/// Batteries that are told, for the house and for the engine.
const MOST_OFFERS: usize = 5;
const MOST_STARTERS: usize = 3;
/// How long a starter turns where nothing is typed. Common practice, no source. [s]
const USUAL_SECONDS: f64 = 3.0;

/// The house battery on the page.
#[derive(Debug, Clone)]
pub(super) struct HouseView {
    /// (device, watts, amps, hours, amp-hours)
    pub(super) items: Vec<[String; 5]>,
    pub(super) volts: String,
    pub(super) sixteen: bool,
    pub(super) other_volts: String,
    pub(super) sum: String,
    pub(super) sizes: String,
    pub(super) offers: Vec<OfferView>,
    pub(super) days: String,
    pub(super) problem: Option<String>,
    /// The engine's fields with what is wrong in each.
    pub(super) starts: [StartField; 3],
    pub(super) starters: Vec<OfferView>,
    /// The engine is asked for, and what starts it is told.
    pub(super) starting: bool,
    pub(super) lane: Option<LaneView>,
}

/// A field of the engine's.
#[derive(Debug, Clone)]
pub(super) struct StartField {
    pub(super) name: &'static str,
    pub(super) label: &'static str,
    pub(super) unit: &'static str,
    pub(super) value: String,
    pub(super) usual: &'static str,
    pub(super) problem: Option<String>,
}

/// A battery of the shelf that would do.
#[derive(Debug, Clone)]
pub(super) struct OfferView {
    pub(super) name: String,
    pub(super) href: String,
    pub(super) on: bool,
    pub(super) price: String,
    pub(super) mass: String,
    pub(super) days: String,
    pub(super) starts: String,
    pub(super) doubted: bool,
}

/// The run of one house battery.
#[derive(Debug, Clone)]
pub(super) struct LaneView {
    pub(super) name: String,
    pub(super) says: String,
    pub(super) disc: &'static str,
    pub(super) full_again: String,
    pub(super) picture: Option<Arc<Picture>>,
}

/// Days between charges: as typed, or the day's own.
fn days(view: &PacksView, plan: &Plan) -> Result<f64, String> {
    if view.days.is_empty() {
        return Ok(f64::from(plan.day.days_without_charging));
    }
    parse::number(&view.days, &allowed::HOUSE_DAYS).map_err(|e| e.to_string())
}

/// The starts of an engine as typed, none where none are; and what is wrong with each of the three fields.
fn starts(view: &PacksView) -> (Option<Starts>, [Option<String>; 3]) {
    let [a_day, amps, seconds] = &view.starts;
    let mut wrong = [None, None, None];
    if view.starts.iter().all(String::is_empty) {
        return (None, wrong);
    }
    let mut read = |n: usize, text: &str, range: &Allowed, usual: Option<f64>| match (text, usual) {
        ("", Some(usual)) => Some(usual),
        _ => parse::number(text, range).map_err(|e| wrong[n] = Some(e.to_string())).ok(),
    };
    let a_day = read(0, a_day, &allowed::STARTS, Some(1.0));
    let amps = read(1, amps, &allowed::STARTER, None);
    let seconds = read(2, seconds, &allowed::STARTING, Some(USUAL_SECONDS));
    let starts = (|| Some(Starts { a_day: a_day?, amps: Amps::of(amps?), seconds: seconds? }))();
    (starts, wrong)
}

/// What is asked of a house battery, and what is wrong with how it was asked.
pub(super) fn asked(view: &PacksView, plan: &Plan) -> (House, Option<String>) {
    let (days, problem) = match days(view, plan) {
        Ok(days) => (days, None),
        Err(problem) => (1.0, Some(problem)),
    };
    let volts = VOLTS[usize::from(view.sixteen)];
    (House { days, volts, starts: starts(view).0 }, problem)
}

/// The cheapest first, those whose labels are doubted last.
pub(super) fn best(all: &[(BatteryId, Offer, bool)]) -> Vec<(BatteryId, Offer, bool)> {
    let mut best = all.to_vec();
    best.sort_by(|a, b| by_price((a.2, a.1.price, a.0), (b.2, b.1.price, b.0)));
    best.truncate(MOST_OFFERS);
    best
}

/// The same of those that start the engine.
pub(super) fn cheapest(all: &[Starter]) -> Vec<Starter> {
    let mut best = all.to_vec();
    let key = |s: &Starter| (s.doubted, s.price, s.battery);
    best.sort_by(|a, b| by_price(key(a), key(b)));
    best.truncate(MOST_STARTERS);
    best
}

fn by_price(
    a: (bool, Option<Money>, BatteryId),
    b: (bool, Option<Money>, BatteryId),
) -> std::cmp::Ordering {
    let price = |p: Option<Money>| p.map_or(f64::INFINITY, Money::value);
    a.0.cmp(&b.0).then(price(a.1).total_cmp(&price(b.1))).then(a.2.cmp(&b.2))
}

/// "3 days", "2.5 days", "one day".
fn in_days(days: f64) -> String {
    match days {
        1.0 => "one day".to_owned(),
        n => format!("{} days", figures::typed_coarse(n)),
    }
}

/// Days that a battery lasts, never more than it does.
fn lasts(days: f64) -> String {
    match days {
        d if d < 9.95 => format!("{} days", figures::typed_coarse((d * 10.0).floor() / 10.0)),
        d => format!("{} days", figures::amount(d.floor())),
    }
}

/// "550 A cold, about 11.1 V at 0 °F".
fn told(cranks: &Cranking) -> String {
    let amps = figures::amount(cranks.gives.value());
    let by = match cranks.by {
        By::Cold => "cold".to_owned(),
        By::Peak(seconds) => format!("for {} s", figures::typed_coarse(seconds)),
        By::Continuous => "without end".to_owned(),
    };
    match cranks.volts {
        Some(volts) => format!("{amps} A {by}, about {:.1} V meanwhile", volts.value()),
        None => format!("{amps} A {by}"),
    }
}

impl HouseView {
    /// `None` where no device has a battery of its own and no engine is to be started.
    pub(super) fn of(found: &Found, look: Look, view: &PacksView, rig: RigId) -> Option<Self> {
        let (plan, say) = (&found.plan, look.say(&found.plan.currency));
        let (House { days: count, volts, starts: engine }, problem) = asked(view, plan);
        let sum = ledger(&plan.day, volts, engine);
        let (_, wrong) = starts(view);
        let typed = view.starts.iter().any(|text| !text.is_empty());
        if sum.is_none() && !plan.rig.main_engine && !typed {
            return None;
        }
        let offers = found.house.0.iter().filter_map(|(id, offer, doubted)| {
            let battery = found.labels.get(id)?;
            let which = Which { battery: *id, series: 1, parallel: offer.parallel };
            let two = if offer.parallel > 1 { "two " } else { "" };
            let cranks = engine.and_then(|s| cranking(battery, offer.parallel, &s));
            Some(OfferView {
                name: format!("{two}{}", battery.name),
                href: PacksView { house: Some(which), ..view.clone() }.address(rig),
                on: view.house == Some(which),
                price: offer.price.map_or_else(|| "-".to_owned(), |p| say.money(p)),
                mass: offer.mass.map_or_else(|| "-".to_owned(), |m| figures::mass(m, say.units)),
                days: lasts(offer.days),
                starts: cranks.as_ref().map(told).unwrap_or_default(),
                doubted: *doubted,
            })
        });
        let mut offers: Vec<OfferView> = offers.collect();
        let starters = found.house.1.iter().filter_map(|one| {
            let battery = found.labels.get(&one.battery)?;
            Some(OfferView {
                name: battery.name.clone(),
                href: String::new(),
                on: false,
                price: one.price.map_or_else(|| "-".to_owned(), |p| say.money(p)),
                mass: battery.mass.map_or_else(|| "-".to_owned(), |m| figures::mass(m, say.units)),
                days: String::new(),
                starts: told(&one.cranks),
                doubted: one.doubted,
            })
        });
        let shown = looked_at(found, view);
        let lane = shown.zip(sum.as_ref());
        let lane = lane.and_then(|(which, sum)| lane_of(found, sum, which, count, say));
        if view.house.is_none()
            && let Some(first) = offers.first_mut()
        {
            first.on = lane.is_some();
        }
        let size = |sum: &Ledger, chemistry: Chemistry| {
            let size = sum.size(&plan.rules, chemistry, count).sold;
            format!("{} {} Ah", chemistry.name(), figures::amount(size.value()))
        };
        let [a, b, c] = wrong;
        let field = |n: usize, name, label, unit, usual, problem| StartField {
            name,
            label,
            unit,
            value: view.starts[n].clone(),
            usual,
            problem,
        };
        let volts_words = figures::amount(volts.value());
        Some(Self {
            items: sum.iter().flat_map(items).collect(),
            volts: volts_words.clone(),
            sixteen: view.sixteen,
            other_volts: PacksView { sixteen: !view.sixteen, house: None, ..view.clone() }
                .address(rig),
            sum: sum.as_ref().map_or_else(String::new, |sum| {
                format!(
                    "{} Ah at {volts_words} V for {} between charges",
                    figures::amount(sum.a_day.value() * count),
                    in_days(count)
                )
            }),
            sizes: sum.as_ref().map_or_else(String::new, |sum| {
                format!(
                    "Size to buy with floor and reserve kept: {} or {}.",
                    size(sum, Chemistry::Agm),
                    size(sum, Chemistry::Lfp)
                )
            }),
            offers,
            days: figures::typed_coarse(count),
            problem,
            starts: [
                field(0, "cranks", "starts a day", "", "1", a),
                field(1, "starter", "starter", "A", "150", b),
                field(2, "cs", "each", "s", "3", c),
            ],
            starters: starters.collect(),
            starting: engine.is_some(),
            lane,
        })
    }
}

/// The house battery that is looked at: as chosen, else the best.
pub(super) fn looked_at(found: &Found, view: &PacksView) -> Option<Which> {
    let best = found.house.0.first().map(|(battery, offer, _)| Which {
        battery: *battery,
        series: 1,
        parallel: offer.parallel,
    });
    view.house.or(best)
}

/// The devices of a sum, and the starts among them.
fn items(sum: &Ledger) -> Vec<[String; 5]> {
    let devices = sum.items.iter().map(|i| {
        let figures = [i.watts.value(), i.amps.value(), i.hours.value(), i.amp_hours.value()];
        let [w, a, h, ah] = figures.map(figures::amount);
        [i.name.clone(), w, a, h, ah]
    });
    let starts = sum.starts.iter().map(|s| {
        [
            format!("Engine, {} starts", figures::typed_coarse(s.a_day)),
            "-".to_owned(),
            figures::amount(s.amps.value()),
            format!("{} s each", figures::typed_coarse(s.seconds)),
            figures::amount(s.charge().value()),
        ]
    });
    devices.chain(starts).collect()
}

/// The run of one of them between two charges.
fn lane_of(found: &Found, sum: &Ledger, which: Which, days: f64, say: Say<'_>) -> Option<LaneView> {
    let battery: &Battery = found.labels.get(&which.battery)?;
    let pack = Pack::of(battery.clone(), which.series, which.parallel);
    let name = match which.parallel {
        1 => battery.name.clone(),
        n => format!("{n} x {} side by side", battery.name),
    };
    let Some(plan) = house_battery::plan(&found.plan, sum, days) else {
        let says = format!("Longer than {MOST_DRAWN} days: by the sum alone");
        let (disc, full_again) = ("half", String::new());
        return Some(LaneView { name, says, disc, full_again, picture: None });
    };
    let judged = plan.judge().ok()?.in_full(&pack);
    let drawn = judged.drawn.as_ref()?;
    let course = Course::default();
    let about = About { plan: &plan, pack: &pack, course: &course, say };
    let refill = &drawn.refill;
    let full_again = match &refill.by {
        Some(by) => format!("full again in {} by {by}", figures::hours(refill.hours().value())),
        None => "no charger aboard fits it".to_owned(),
    };
    Some(LaneView {
        name,
        says: says(&judged, days),
        disc: super::row::disc(judged.outcome),
        full_again,
        picture: Some(Arc::new(Picture::of(drawn, judged.outcome, about))),
    })
}

/// "lasts 3 days, 42 % left", "at its floor after 1.4 days".
fn says(judged: &Evaluation, days: f64) -> String {
    let Some(drawn) = &judged.drawn else { return String::new() };
    let after = |hours: f64| lasts(hours / 24.0);
    let left = figures::percent(drawn.summary.charge_left);
    match (drawn.ended_early_at(), drawn.summary.floor_at, drawn.summary.reserve_at) {
        (Some(at), ..) => format!("empty after {}", after(at.value())),
        (None, Some(at), _) => format!("at its floor after {}, {left} left", after(at.value())),
        (None, None, Some(_)) => format!("lasts {} on its reserve, {left} left", in_days(days)),
        (None, None, None) => format!("lasts {}, {left} left", in_days(days)),
    }
}
