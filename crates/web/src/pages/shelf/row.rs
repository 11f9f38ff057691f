//! A battery as a row of the shelf: its outline, its figures with who vouches for them, its doubts.

use super::view::{Open, ShelfView};
use crate::figures::{self, Told};
use crate::parts::source;
use lake_hour_core::life;
use lake_hour_core::money::per_usable_kwh;
use lake_hour_core::plan::Plan;
use lake_hour_core::shelf::figures::{self as list, Holds, Label, Value};
use lake_hour_core::shelf::{
    Battery, Candidate, Chemistry, Detail, Doubt, Purpose, Rest, Size, SizeClass, kinds,
};
use lake_hour_core::source::Origin;
use lake_hour_core::units::say::{Clock, Say};
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{Amps, Celsius, Money, WattHours};
use lake_hour_store::{Figure, RigId, Shelved};

/// A figure and the small mark of who vouches for it.
#[derive(Debug, Clone)]
pub(super) struct Fig {
    pub(super) words: String,
    pub(super) mark: &'static str,
    /// The mark in words, with the day.
    pub(super) says: String,
}

/// The mark behind a figure; the label's own has none here, where nearly all are.
const fn mark(by: Origin) -> &'static str {
    match by {
        Origin::Label => "",
        by => source::sign(by),
    }
}

/// The outline from the front, standing on its base line, to the scale of all rows. [px]
#[derive(Debug, Clone)]
pub(super) struct Outline {
    pub(super) known: bool,
    pub(super) left: f64,
    pub(super) top: f64,
    pub(super) width: f64,
    pub(super) height: f64,
    /// Top and height of what may be used; of a label without a capacity there is none.
    pub(super) water: Option<(f64, f64)>,
    /// Of what stays.
    pub(super) bed: Option<(f64, f64)>,
    /// Left edges of its terminals.
    pub(super) terminals: [f64; 2],
    pub(super) sentence: String,
}

/// Width and height of the picture, and how large a millimetre is in it. [px]
pub(super) const PICTURE: (f64, f64) = (122.0, 66.0);
const PX_PER_MM: f64 = 0.2;

impl Outline {
    fn of(c: &Candidate, floor: f64, units: System) -> Self {
        let size = c.battery.size;
        let (length, height) =
            size.map_or((250.0, 180.0), |s| (s.length.value(), s.height.value()));
        let base = PICTURE.1 - 2.0;
        let width = (length * PX_PER_MM).clamp(8.0, PICTURE.0 - 4.0);
        let height = (height * PX_PER_MM).clamp(6.0, base - 6.0);
        let (left, top) = ((PICTURE.0 - width) / 2.0, base - height);
        // Of a label without a capacity there is no charge to draw.
        let told = c.battery.headline().is_ok();
        let bed = height * floor;
        let usable = if told {
            format!("{} of its charge may be used", figures::percent(1.0 - floor))
        } else {
            "no Ah on the label".to_owned()
        };
        let measures = size.map_or("size unknown".to_owned(), |s| sides(&s, units));
        Self {
            known: size.is_some(),
            left,
            top,
            width,
            height,
            water: told.then_some((top, height - bed)),
            bed: told.then_some((base - bed, bed)),
            terminals: [left + width * 0.14, left + width * 0.86 - 7.0],
            sentence: format!("{measures}; {usable}"),
        }
    }
}

/// "13 x 6.8 x 8.5 in".
pub(super) fn sides(size: &Size, units: System) -> String {
    let side = |s: lake_hour_core::units::Millimetres| {
        let figure = units.figure(Measure::Side, s.value());
        let decimals = usize::from(figure < 50.0);
        figures::trimmed(format!("{figure:.decimals$}"))
    };
    let unit = units.unit(Measure::Side).name;
    format!("{} x {} x {} {unit}", side(size.length), side(size.width), side(size.height))
}

/// A doubt beside its row.
#[derive(Debug, Clone)]
pub(super) struct DoubtView {
    pub(super) key: &'static str,
    pub(super) sure: &'static str,
    pub(super) sure_key: &'static str,
    pub(super) sentence: String,
    /// "Use 66 Ah".
    pub(super) instead: Option<String>,
}

impl DoubtView {
    pub(super) fn of(doubt: Doubt) -> Self {
        Self {
            key: doubt.kind.key(),
            sure: doubt.sure.words(),
            sure_key: doubt.sure.key(),
            instead: doubt.instead.map(|s| s.words()),
            sentence: doubt.sentence,
        }
    }
}

/// A row of the shelf.
#[derive(Debug, Clone)]
pub(super) struct RowView {
    pub(super) id: i64,
    pub(super) name: String,
    pub(super) kind: String,
    pub(super) class: Option<&'static str>,
    /// The standard size that begins here, when they stand together.
    pub(super) begins: Option<String>,
    pub(super) outline: Outline,
    pub(super) volts: Option<Fig>,
    pub(super) ah: Option<Fig>,
    pub(super) wh: Option<Told>,
    pub(super) mass: Option<Fig>,
    pub(super) sides: Option<Fig>,
    pub(super) price: Option<Fig>,
    /// What an Ah, a Wh and a usable kWh cost.
    pub(super) per: Option<Told>,
    pub(super) amps: Option<Fig>,
    pub(super) peak: Option<Fig>,
    pub(super) promises: Vec<Fig>,
    pub(super) doubts: Vec<DoubtView>,
    pub(super) more_doubts: usize,
    pub(super) corrected: Vec<String>,
    pub(super) on_board: bool,
    pub(super) hidden: bool,
    pub(super) opened: bool,
    pub(super) href: String,
    pub(super) edit: String,
}

/// Doubts told in a row; the others when it is opened.
const DOUBTS_IN_ROW: usize = 1;

/// What a row is drawn from, beside its battery.
#[derive(Clone, Copy)]
pub(super) struct About<'a> {
    pub(super) plan: &'a Plan,
    pub(super) units: System,
    pub(super) view: &'a ShelfView,
    pub(super) rig: RigId,
}

impl<'a> About<'a> {
    pub(super) fn say(&self) -> Say<'a> {
        Say { units: self.units, clock: Clock::default(), currency: &self.plan.currency }
    }
}

/// Price of a usable kWh over the life the unit has under the plan's rules.
pub(super) fn per_usable(plan: &Plan, battery: &Battery) -> Option<Money> {
    let rules = &plan.rules;
    let floor = rules.floor(battery.chemistry);
    let per_year = plan.day.outings_per_year;
    per_usable_kwh(battery, floor, per_year, rules.keeping, rules.horizon_years)
}

/// The same, to sort the shelf by.
pub(super) fn by_usable(plan: Plan) -> Figure<impl Fn(&Battery) -> Option<f64> + Send + 'static> {
    let rules = format!("{:?} {}", plan.rules, plan.day.outings_per_year);
    Figure { rules, of: move |battery: &Battery| per_usable(&plan, battery).map(Money::value) }
}

/// What an Ah, a Wh and a usable kWh of it cost, and the working of each.
fn per_told(plan: &Plan, c: &Candidate) -> Option<Told> {
    let price = c.battery.price?;
    let money = |v: Money| figures::money(v, &plan.currency);
    let ah = c.battery.headline().ok().map(|(ah, _)| (ah.value(), "Ah"));
    let wh = c.battery.energy().ok().map(|wh| (wh.value(), "Wh"));
    let (mut values, mut whys) = (Vec::new(), Vec::new());
    for (of, unit) in [ah, wh].into_iter().flatten().filter(|(of, _)| *of > 0.0) {
        values.push(format!("{}/{unit}", money(price / of)));
        whys.push(format!(
            "{} / {} {unit} = {}.",
            money(price),
            figures::amount(of),
            money(price / of)
        ));
    }
    if !whys.is_empty() {
        whys.push("These count neither what may be used nor how long it lives.".to_owned());
    }
    let mut values = values.join(" ");
    if let Some(cost) = per_usable(plan, &c.battery) {
        values = format!("{values}\n{} a usable kWh", money(cost));
        whys.push(usable_words(plan, c, cost));
    }
    (!whys.is_empty()).then(|| Told::new("", values, whys.join("\n")))
}

/// The working of a usable kWh's price.
fn usable_words(plan: &Plan, c: &Candidate, cost: Money) -> String {
    let (rules, b) = (&plan.rules, &c.battery);
    let floor = rules.floor(b.chemistry);
    let life =
        life::life(b, 1.0 - floor, plan.day.outings_per_year, rules.keeping, rules.horizon_years);
    let money = |v: Money| figures::money(v, &plan.currency);
    let kwh = b.energy().map_or(0.0, |wh| wh.value() / 1000.0);
    format!(
        "A usable kWh: price / (outings in its life x usable share x kWh) = {} / ({:.0} x {} x {kwh:.2} kWh) = {}. {:.0} outings in {:.1} years at {:.0} a year under your house rules; nothing but the battery is counted.",
        money(b.price.unwrap_or(Money::ZERO)),
        life.outings,
        figures::percent(1.0 - floor),
        money(cost),
        life.outings,
        life.years,
        plan.day.outings_per_year
    )
}

fn wh_words(c: &Candidate) -> String {
    let ah = c.battery.headline().map_or(0.0, |(ah, _)| ah.value());
    format!(
        "{} V x {} Ah, {}.",
        figures::typed(c.battery.nominal_voltage.value()),
        figures::typed(ah),
        c.battery.origin(Detail::CAPACITY).words()
    )
}

/// "LFP, prismatic cells; deep-cycle".
pub(super) fn kind(c: &Candidate) -> String {
    let mut words = match c.battery.build {
        Some(_) => kinds::chemistry(c.battery.chemistry, c.battery.build).name.to_owned(),
        None => c.battery.chemistry.name().to_owned(),
    };
    if let Some(purpose) = c.battery.purpose {
        words = format!("{words}; {}", Purpose::name(purpose));
    }
    words
}

/// What a battery is said not to have takes no room in its row; it is told when it is opened.
fn lacks(c: &Candidate, detail: Detail) -> bool {
    match detail {
        Detail::HEATER => c.battery.heater == Some(false),
        Detail::MONITOR => c.battery.monitor == Some(false),
        _ => false,
    }
}

impl RowView {
    pub(super) fn new(shelved: &Shelved, about: About<'_>, rest: &Rest) -> Self {
        let About { plan, units, view, rig } = about;
        let c = &shelved.candidate;
        let b = &c.battery;
        let fig = |detail| figure(c, detail, units, &plan.currency);
        let id = shelved.id.0;
        let mut doubts: Vec<DoubtView> =
            c.doubts_in(about.say(), Some(rest)).into_iter().map(DoubtView::of).collect();
        let more_doubts = doubts.len().saturating_sub(DOUBTS_IN_ROW);
        doubts.truncate(DOUBTS_IN_ROW);
        let wh = b.energy().ok().map(WattHours::value);
        let promised = [
            Detail::CYCLES,
            Detail::WARRANTY,
            Detail::COLD_CUTOFF,
            Detail::HEATER,
            Detail::MONITOR,
            Detail::INGRESS,
            Detail::TERMINALS,
        ];
        let opened = view.open == Open::Battery(id) || view.open == Open::Edit(id);
        let open = if opened { Open::Nothing } else { Open::Battery(id) };
        Self {
            id,
            name: b.name.clone(),
            kind: kind(c),
            class: c.battery.size_class.map(SizeClass::name),
            begins: None,
            outline: Outline::of(c, plan.rules.floor(b.chemistry), units),
            volts: fig(Detail::VOLTS),
            ah: fig(Detail::CAPACITY),
            wh: wh.map(|wh| Told::new("", format!("{} Wh", figures::amount(wh)), wh_words(c))),
            mass: fig(Detail::MASS),
            sides: fig(Detail::SIZE),
            price: fig(Detail::PRICE),
            per: per_told(plan, c),
            amps: fig(Detail::CONTINUOUS),
            peak: fig(Detail::PEAK).map(|f| Fig { words: format!("peak {}", f.words), ..f }),
            promises: promised.into_iter().filter(|d| !lacks(c, *d)).filter_map(fig).collect(),
            doubts,
            more_doubts,
            corrected: b.corrected.iter().map(ToString::to_string).collect(),
            on_board: plan.packs.iter().any(|p| p.battery.name == b.name),
            hidden: c.hidden,
            opened,
            href: view.opening(open).address(rig),
            edit: view.opening(Open::Edit(id)).address(rig),
        }
    }
}

/// A figure of the label in words, with its mark; `None` where the label does not say.
pub(super) fn figure(c: &Candidate, detail: Detail, units: System, currency: &str) -> Option<Fig> {
    let words = value(&c.battery, detail, units, currency)?;
    let vouched = c.battery.origins.get(&detail);
    let by = c.battery.origin(detail);
    let on = vouched.and_then(|v| v.on).map(|day| format!(", {day}")).unwrap_or_default();
    let says = format!("{}{on}", by.words());
    Some(Fig { words, mark: mark(by), says })
}

/// A figure in words: those of its own where it has some, else its fields one after another.
fn value(b: &Battery, detail: Detail, units: System, currency: &str) -> Option<String> {
    match detail {
        Detail::CAPACITY => {
            let (ah, over) = b.headline().ok()?;
            let usual = Chemistry::usual_rating_hours(b.chemistry);
            let unusual = (over.value() - usual).abs() > 0.05;
            let over = if unusual {
                format!(" at {} h", figures::typed((over.value() * 10.0).round() / 10.0))
            } else {
                String::new()
            };
            Some(format!("{} Ah{over}", figures::amount(ah.value())))
        }
        Detail::RESERVE => {
            let reserve = b.ratings.iter().find(|r| r.is_reserve())?;
            Some(format!("{:.0} min at 25 A", reserve.hours().minutes()))
        }
        Detail::RATINGS => {
            let all = lake_hour_formats::words::ratings(&b.ratings);
            (b.ratings.len() > 1).then_some(all)
        }
        Detail::CONTINUOUS => b.max_continuous.map(|a| amps(b, a)),
        Detail::PEAK => b.peak.map(|p| format!("{}, {:.0} s", amps(b, p.current), p.seconds)),
        Detail::MASS => b.mass.map(|m| figures::mass(m, units)),
        Detail::SIZE => b.size.as_ref().map(|s| sides(s, units)),
        Detail::PRICE => b.price.map(|p| figures::money(p, currency)),
        Detail::CYCLES => {
            let most = b.cycles.iter().max_by(|a, b| a.cycles.total_cmp(&b.cycles))?;
            let depth = figures::percent(most.depth);
            Some(format!("{} cycles to {depth}", figures::amount(most.cycles)))
        }
        Detail::SELF_DISCHARGE => {
            b.self_discharge.map(|s| format!("{} % a month", figures::typed(s * 100.0)))
        }
        Detail::COLD_CUTOFF => {
            let degrees = |t: Celsius| figures::measure(units, Measure::Temperature, t.value(), 0);
            match b.charge_window() {
                (Some(low), Some(high)) => {
                    Some(format!("no charge under {} or above {}", degrees(low), degrees(high)))
                }
                (Some(low), None) => Some(format!("no charge under {}", degrees(low))),
                (None, high) => high.map(|high| format!("no charge above {}", degrees(high))),
            }
        }
        Detail::HEATER => b.heater.map(|on| if on { "heater" } else { "no heater" }.to_owned()),
        Detail::MONITOR => {
            b.monitor.map(|on| if on { "battery monitor" } else { "no monitor" }.to_owned())
        }
        Detail::WARRANTY => match (b.warranty_full, b.warranty_total) {
            (Some(full), Some(total)) if total > full => Some(format!(
                "warranty {} full, prorated to {}",
                years(full),
                figures::typed(total)
            )),
            (Some(full), _) => Some(format!("warranty {} full", years(full))),
            (None, total) => total.map(|total| format!("warranty {}", years(total))),
        },
        Detail::YEARS => b.calendar_years.map(years),
        Detail::MAX_SERIES => b.max_series.map(|n| format!("{n} in series")),
        _ => by_its_fields(b, detail, units),
    }
}

/// "100 A (1 C)": with the C figure, amps for each ampere-hour.
fn amps(b: &Battery, a: Amps) -> String {
    let ah = b.headline().ok().map(|(ah, _)| ah.value()).filter(|ah| *ah > 0.0);
    let c = ah.map(|ah| format!(" ({} C)", figures::trimmed(format!("{:.1}", a.value() / ah))));
    format!("{} A{}", figures::amount(a.value()), c.unwrap_or_default())
}

/// "14.6 V", "used from -4 °F, used up to 140 °F": what stands in a figure's fields.
fn by_its_fields(b: &Battery, detail: Detail, units: System) -> Option<String> {
    let figure = list::figure(detail)?;
    let label = Label::of(b);
    let several = figure.fields.len() > 1;
    let said = figure.fields.iter().filter_map(|field| {
        let words = match (label.get(field.key)?, &field.holds) {
            (Value::Number(v), Holds::Number(n)) => match n.measure {
                Some(measure) => figures::measure(units, measure, *v, 0),
                None => {
                    let (range, times) = n.typed();
                    let v = v * times;
                    let figure = if v < 1000.0 { figures::typed(v) } else { figures::amount(v) };
                    format!("{figure} {}", range.unit).trim_end().to_owned()
                }
            },
            (Value::Text(text), _) => text.clone(),
            (Value::Flag(yes), _) => if *yes { "yes" } else { "no" }.to_owned(),
            _ => return None,
        };
        Some(if several { format!("{} {words}", field.label.to_lowercase()) } else { words })
    });
    let said: Vec<String> = said.collect();
    (!said.is_empty()).then(|| said.join(", "))
}

/// "3 years", "1 year".
fn years(years: f64) -> String {
    let one = (years - 1.0).abs() < 1e-9;
    format!("{} year{}", figures::typed(years), if one { "" } else { "s" })
}
