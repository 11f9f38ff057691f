//! A few questions that lead to a rig, its day, packs of typical batteries and a Board.

use super::{Typed, have};
use lake_hour_core::allowed;
use lake_hour_core::day::{Day, Duty, templates};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::{Had, Pack, Taken};
use lake_hour_core::plan::Plan;
use lake_hour_core::proposals::Proposal;
use lake_hour_core::rig::{CraftKind, Rig};
use lake_hour_core::shelf::{Battery, Candidate, Chemistry};
use lake_hour_core::units::convert::{M_PER_KM, M_PER_MILE, N_PER_LBF};
use lake_hour_core::units::{Amps, Hours, Metres, Money, Newtons, Volts, parse};
use lake_hour_core::verdict::{Does, Outcome};
use lake_hour_core::wants::Preset;

/// Batteries that are typical of their size and kind: so that a Board begins with something to compare.
const TYPICAL: &[u8] = include_bytes!("../../../../demo/typical.shelf.json");

/// What was typed, and what is wrong with it.
#[derive(Debug, Clone, Default)]
pub(crate) struct Answers {
    pub(crate) kind: String,
    pub(crate) volts: String,
    pub(crate) motor: String,
    pub(crate) how_long: String,
    /// What is aboard now, by its chemistry; how many years old.
    pub(crate) has: String,
    pub(crate) years: String,
    pub(crate) problems: Vec<(&'static str, String)>,
}

impl Answers {
    pub(crate) fn of(typed: &Typed) -> Self {
        let text = |name: &str| typed.get(name).trim().to_owned();
        Self {
            kind: text("kind"),
            volts: text("volts"),
            motor: text("motor"),
            how_long: text("how_long"),
            has: text("has"),
            years: text("years"),
            problems: Vec::new(),
        }
    }

    pub(crate) fn problem(&self, name: &str) -> Option<&str> {
        self.problems.iter().find(|(of, _)| *of == name).map(|(_, says)| says.as_str())
    }

    fn wrong(&mut self, name: &'static str, says: impl Into<String>) {
        self.problems.push((name, says.into()));
    }

    /// The plan that they come to, still without packs; `None` where something is wrong.
    pub(crate) fn plan(&mut self) -> Option<Plan> {
        let kind = CraftKind::from_key(&self.kind);
        if kind.is_none() {
            self.wrong("kind", "Choose what moves.");
        }
        let kind = kind?;
        let volts = self.read_volts(kind);
        let mut rig = Rig::new(name_of(kind), kind, volts.unwrap_or(kind.usual_volts()));
        self.read_motor(&mut rig);
        let day = self.read_day(kind);
        let has = self.read_has(rig.motor.system_voltage);
        if !self.problems.is_empty() {
            return None;
        }
        Some(Plan {
            currency: "USD".to_owned(),
            rig,
            day: day?,
            rules: HouseRules::default(),
            packs: has.into_iter().collect(),
            wants: if kind.is_boat() { Preset::WeekendAngler } else { Preset::Campground }.wants(),
            build: Default::default(),
        })
    }

    fn read_volts(&mut self, kind: CraftKind) -> Option<Volts> {
        if self.volts.is_empty() {
            return Some(kind.usual_volts());
        }
        match parse::number(self.volts.trim_end_matches(['V', 'v']), &allowed::SYSTEM_VOLTAGE) {
            Ok(volts) => Some(Volts::of(volts)),
            Err(bad) => {
                self.wrong("volts", bad.to_string());
                None
            }
        }
    }

    /// What is aboard now: as many 12 V batteries as the motor's volts take, unknown but for their kind and age.
    fn read_has(&mut self, system: Volts) -> Option<Pack> {
        if self.has.is_empty() {
            if !self.years.is_empty() {
                self.wrong("years", "Choose what you have now, or leave this empty.");
            }
            return None;
        }
        let chemistry = Chemistry::from_key(&self.has);
        if chemistry.is_none() {
            self.wrong("has", "Choose one of the list.");
        }
        let years = match parse::number(&self.years, &allowed::HAD_YEARS) {
            Ok(years) => Some(years),
            Err(parse::BadNumber::Empty(_)) => None,
            Err(bad) => {
                self.wrong("years", bad.to_string());
                None
            }
        };
        let each = [12.0, 8.0, 6.0].into_iter().find(|v| (system.value() / v).fract().abs() < 1e-9);
        let volts = Volts::of(each.unwrap_or(system.value()));
        let count = (system / volts).round() as u32;
        let pack = have::of(chemistry?, volts, count, None, system)?;
        let had = Had { years, symptom: None };
        Some(if years.is_some() { pack.had(had) } else { pack })
    }

    /// Amps, watts, horsepower, or pounds of thrust.
    fn read_motor(&mut self, rig: &mut Rig) {
        const SAYS: &str = "Type its max amps, as in 50; or its thrust, as in 55 lb; or 3 kW. Leave it empty if you do not know.";
        /// 1 hp: NIST SP 811 B.8. [W]
        const HORSEPOWER: f64 = 745.699_9;
        if self.motor.is_empty() {
            // To ten amps.
            let usual = rig.craft.kind.usual_power() / rig.motor.system_voltage;
            rig.motor.max_current = Some(Amps::of((usual.value() / 10.0).round() * 10.0));
            rig.motor.max_is_typical = true;
            return;
        }
        let volts = rig.motor.system_voltage.value();
        let parts = parse::parts(&self.motor);
        let Some([(figure, unit)]) = parts.as_deref() else { return self.wrong("motor", SAYS) };
        let unit = unit.to_lowercase();
        let amps = match unit.as_str() {
            "" | "a" | "amps" | "amp" => *figure,
            "w" => figure / volts,
            "kw" => figure * 1000.0 / volts,
            "hp" => figure * HORSEPOWER / volts,
            "lb" | "lbs" | "lbf" => {
                let newtons = figure * N_PER_LBF;
                match allowed::THRUST.check(newtons) {
                    Ok(newtons) => rig.motor.thrust = Some(Newtons::of(newtons)),
                    Err(_) => self.wrong("motor", SAYS),
                }
                return;
            }
            _ => return self.wrong("motor", SAYS),
        };
        match allowed::LIMIT_CURRENT.check(amps) {
            Ok(amps) => rig.motor.max_current = Some(Amps::of(amps)),
            Err(_) => self.wrong("motor", SAYS),
        }
    }

    /// A usual day of the kind, as long as was said: hours, or miles on wheels.
    fn read_day(&mut self, kind: CraftKind) -> Option<Day> {
        let mut day = templates(kind).into_iter().next()?.day;
        day.ambient = None;
        if self.how_long.is_empty() {
            return Some(day);
        }
        let says = if kind.is_boat() {
            "Type hours on the water, as in 5 h."
        } else {
            "Type miles, as in 8 mi, or hours, as in 2 h."
        };
        let told: Vec<_> = parse::parts(&self.how_long).unwrap_or_default();
        let longest = lake_hour_core::day::LONGEST.value();
        let scaled = match told.as_slice() {
            [(miles, unit)]
                if !kind.is_boat() && ["", "mi", "mile", "miles"].contains(&unit.as_str()) =>
            {
                by_distance(&mut day, miles * M_PER_MILE)
            }
            [(km, unit)] if !kind.is_boat() && unit == "km" => by_distance(&mut day, km * M_PER_KM),
            _ => match parse::minutes(&hours(&self.how_long), &allowed::MINUTES) {
                Ok(minutes) if minutes / 60.0 <= longest => {
                    by(&mut day, minutes / 60.0 / day_hours(kind))
                }
                _ => false,
            },
        };
        if !scaled {
            self.wrong("how_long", says);
            return None;
        }
        Some(day)
    }
}

/// Hours are meant where nothing stands behind the figure.
fn hours(typed: &str) -> String {
    if typed.bytes().all(|b| b.is_ascii_digit() || b == b'.' || b == b',') {
        format!("{typed} h")
    } else {
        typed.to_owned()
    }
}

fn day_hours(kind: CraftKind) -> f64 {
    templates(kind).first().map_or(1.0, |t| t.day.lasts().value())
}

/// Every stretch so many times as long, and as far.
fn by(day: &mut Day, times: f64) -> bool {
    if !(0.01..=100.0).contains(&times) {
        return false;
    }
    *day = day.clone().as_long(times);
    day.lasts() <= lake_hour_core::day::LONGEST && day.lasts() > Hours::ZERO
}

fn by_distance(day: &mut Day, metres: f64) -> bool {
    let whole: f64 = day
        .stretches
        .iter()
        .map(|s| match s.duty {
            Duty::Distance(far) => far.value(),
            Duty::Speed(v) => Metres::of(v.value() * s.lasts.value() * 3600.0).value(),
            _ => 0.0,
        })
        .sum();
    whole > 0.0 && by(day, metres / whole)
}

fn name_of(kind: CraftKind) -> &'static str {
    match kind {
        CraftKind::Kayak => "My kayak",
        CraftKind::Canoe => "My canoe",
        CraftKind::Motorbike => "My motorbike",
        CraftKind::GoKart => "My kart",
        CraftKind::Conversion | CraftKind::Lsv => "My vehicle",
        kind if kind.is_boat() => "My boat",
        _ => "My cart",
    }
}

/// The batteries that are typical.
pub(crate) fn typical() -> Vec<Candidate> {
    // A file of our own, read by a test.
    lake_hour_formats::shelf::read(TYPICAL).unwrap_or_default()
}

/// Packs to begin with, at most four: of each family those that get home, feed the motor whole and cost least. Each
/// of another battery.
pub(crate) fn proposed(plan: &Plan, batteries: &[Battery]) -> Vec<Pack> {
    let Ok(judge) = plan.judge() else { return Vec::new() };
    // What gets home; of those, what can give the motor its highest amps; of those, the cheapest.
    let by_rank = |a: &Proposal, b: &Proposal| {
        let rank = |p: &Proposal| {
            (p.does == Does::NotAll, !p.within_reason, p.outcome, p.does, !p.full_throttle)
        };
        let price = |p: &Proposal| p.price.map_or(f64::MAX, Money::value);
        rank(a).cmp(&rank(b)).then(price(a).total_cmp(&price(b)))
    };
    let mut found: Vec<(&Battery, Proposal)> = Vec::new();
    for battery in batteries {
        let all = judge.proposals(plan, battery).into_iter();
        let usable = all.filter(|p| p.outcome != Outcome::SetAside);
        found.extend(usable.min_by(by_rank).map(|p| (battery, p)));
    }
    found.sort_by(|(_, a), (_, b)| by_rank(a, b));
    let mut packs = Vec::new();
    for lead in [false, true] {
        let family = found.iter().filter(|(b, _)| b.chemistry.is_lead() == lead);
        packs.extend(family.take(2).map(|(battery, p)| Pack {
            from: Some(Taken::of(&*battery.name)),
            ..p.pack(plan, battery)
        }));
    }
    packs
}
