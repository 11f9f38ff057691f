//! `lake-hour/result`, version 1: what a plan comes to.
//!
//! Figures that were not computed are `null`, never invented. Every number is finite.

use lake_hour_core::decide::get_home::{Change, get_home};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::proposals::failing::one_fails;
use lake_hour_core::units::convert::M_PER_MILE;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::System;
use lake_hour_core::units::{Hours, Metres};
use lake_hour_core::verdict::told_capacity;
use lake_hour_core::verdict::{self, Does, Drawn, Evaluation, How, Note, Otherwise, Outcome};
use schemars::JsonSchema;
use serde::Serialize;

/// What a document calls itself.
pub const FORMAT: &str = "lake-hour/result";
/// The version this program writes.
pub const VERSION: u32 = 1;

/// The result of a plan, pack by pack in the plan's order.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct ResultDocument {
    /// Always `lake-hour/result`.
    pub format: &'static str,
    /// Always 1.
    pub version: u32,
    /// Currency of every cost.
    pub currency: String,
    /// One entry per pack.
    pub packs: Vec<PackResult>,
}

/// What the day does to one pack.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct PackResult {
    /// Its name.
    pub name: String,
    /// `home`, `below_reserve`, `below_floor`, `stops`, `trips` or `set_aside`.
    pub outcome: &'static str,
    /// Why it was set aside, each with its figure.
    pub reasons: Vec<String>,
    /// What to know beside the verdict.
    pub notes: Vec<String>,
    /// Nominal voltage. [V]
    pub voltage_v: f64,
    /// Ampere-hours of the fitted pack over twenty hours at 25 °C, whatever its label rates over. [Ah]
    pub capacity_ah: Option<f64>,
    /// The same as watt-hours at nominal voltage. [Wh]
    pub energy_wh: Option<f64>,
    /// Ampere-hours of the pack as the label says them. [Ah]
    pub label_capacity_ah: Option<f64>,
    /// Hours that the label's ampere-hours are over; those that are usual where it does not say. [h]
    pub label_capacity_hours: Option<f64>,
    /// Weight of all units. [kg]
    pub mass_kg: Option<f64>,
    /// Paid now: batteries, extras, labor, less what is sold of what is aboard.
    pub price_total: Option<f64>,
    /// The same with all that it needs and nobody owns, by the same list of parts for every pack; what was typed of the pack counts
    /// in place of the list. `price_total` where the plan's lists count.
    pub price_with_needs: Option<f64>,
    /// Ampere-hours that every charge here is a share of: the label's (lead's over twenty hours, fitted where it rates over other
    /// times), times what wear has left of them. [Ah]
    pub rated_ah: Option<f64>,
    /// State of charge at the end: 1 less the ampere-hours taken, as a share of `rated_ah`.
    pub charge_left: Option<f64>,
    /// The same on a bad day.
    pub charge_left_low: Option<f64>,
    /// The same on a good day.
    pub charge_left_high: Option<f64>,
    /// What was taken beyond `rated_ah` by a slow draw, `charge_left` being 0. [Ah]
    pub past_label_ah: Option<f64>,
    /// Share of the charge that the way home's draw and the cold at the end keep out of reach.
    pub out_of_reach: Option<f64>,
    /// Share of the charge below which the reserve is touched that day: over the floor, or what is out of reach where that is more.
    pub reserve_level: Option<f64>,
    /// What alone widens the band most: `capacity`, `law`, `recovery`, `draw`, `cold` or `resistance`.
    pub least_sure_of: Option<&'static str>,
    /// When it stops or trips. [min from the start]
    pub stops_at_min: Option<f64>,
    /// When it stops or trips on a bad day; `null` where that day is finished. [min from the start]
    pub stops_at_min_low: Option<f64>,
    /// The same on a good day. [min from the start]
    pub stops_at_min_high: Option<f64>,
    /// When the floor is reached. [min from the start]
    pub floor_at_min: Option<f64>,
    /// When the reserve is touched. [min from the start]
    pub reserve_at_min: Option<f64>,
    /// Charge delivered. [Ah]
    pub delivered_ah: Option<f64>,
    /// Energy delivered. [Wh]
    pub delivered_wh: Option<f64>,
    /// Charge put in on the way: sun, alternator, regeneration, chargers. [Ah]
    pub charged_ah: Option<f64>,
    /// Energy put in on the way. [Wh]
    pub charged_wh: Option<f64>,
    /// Lowest voltage under load. [V]
    pub lowest_voltage_v: Option<f64>,
    /// Hours until floor or end if the day went on like this. [h]
    pub hours_at_this_pace: Option<f64>,
    /// Miles over the ground of the day; `null` where it covers none that can be told. [mi]
    pub miles: Option<f64>,
    /// Miles the pack goes on a day like this repeated until its floor or end. [mi]
    pub range_miles: Option<f64>,
    /// Hours the day could go on in the same way until floor or end; negative when they came before. [h]
    pub hours_to_spare: Option<f64>,
    /// The same as miles at the day's mean speed. [mi]
    pub miles_to_spare: Option<f64>,
    /// Highest control setting it carries on a bad day, 0 to 10.
    pub highest_safe_setting: Option<f64>,
    /// What happens, the first limit that fails, what would mend it: the same that every page says.
    pub verdict: VerdictResult,
    /// Whether the day is done to its end, and all of it that gets somewhere gets there.
    pub covers_the_distance: Option<bool>,
    /// What of the day goes otherwise than planned on this pack.
    pub otherwise: Vec<OtherwiseResult>,
    /// How it gets charged; `null` where it cannot be used.
    pub charger: Option<ChargerResult>,
    /// What is left where one unit fails; `null` where nothing moves then.
    pub one_unit_fails: Option<OneUnitFailsResult>,
    /// Share of the days tried that were finished; 0 where a place is not held or a speed not made.
    pub chance_home: Option<f64>,
    /// Price of the batteries over the most cycles on the label.
    pub naive_cost_per_cycle: Option<f64>,
    /// Years until it is replaced, or the horizon.
    pub life_years: Option<f64>,
    /// Years by the other school of ageing: with `life_years` the band.
    pub life_years_other_school: Option<f64>,
    /// Outings it serves in them.
    pub life_outings: Option<f64>,
    /// `cycles`, `calendar` or `horizon`.
    pub life_ended_by: Option<&'static str>,
    /// Cost of one outing.
    pub cost_per_cycle: Option<f64>,
    /// All money of the years looked ahead.
    pub cost_over_years: Option<f64>,
    /// Cost of a kilowatt-hour delivered.
    pub cost_per_kwh: Option<f64>,
    /// Cost of an hour out.
    pub cost_per_lake_hour: Option<f64>,
    /// Hours from take-out until it is charged again, to the ceiling, waiting for the charger's hours included; by a usual
    /// charger where none aboard suits. [h]
    pub refill_hours: Option<f64>,
    /// Energy that takes from the wall. [Wh]
    pub refill_wall_wh: Option<f64>,
    /// Whether it is charged at the day's `ready_by`; `null` when no charger aboard suits.
    pub ready_in_time: Option<bool>,
    /// The smallest single changes that would get it home above its floor; `null` where it gets there, is set aside, or more
    /// than 200 packs are asked about at once.
    pub get_home: Option<Vec<ChangeResult>>,
    /// Largest disagreement between the label's ratings, as a share.
    pub ratings_conflict: Option<f64>,
    /// Names of the figures that were filled in with what is typical.
    pub assumed: Vec<&'static str>,
    /// The working of each figure, when asked for.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub working: Option<Vec<WorkingResult>>,
}

/// One change that gets a pack home.
#[derive(Debug, Clone, Default, PartialEq, Serialize, JsonSchema)]
pub struct ChangeResult {
    /// `fewer` (minutes on a stretch), `home_at` (a share of the speed), `turn_at` (minutes from the start), `wind` (at its
    /// most), `size` (of a unit) or `one_more_string`.
    pub change: &'static str,
    /// Which stretch, by its place in the day: `fewer`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub stretch: Option<usize>,
    /// Minutes: `fewer`, `turn_at`. [min]
    #[serde(skip_serializing_if = "Option::is_none")]
    pub minutes: Option<f64>,
    /// Share of the speed: `home_at`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub share: Option<f64>,
    /// Wind at its most. [m/s]
    #[serde(skip_serializing_if = "Option::is_none")]
    pub wind_ms: Option<f64>,
    /// Size of a unit. [Ah]
    #[serde(skip_serializing_if = "Option::is_none")]
    pub unit_ah: Option<f64>,
}

/// Most packs whose ways home are looked for: each takes as long as a hundred verdicts.
const MOST_SENT_HOME: usize = 200;

fn change(change: Change) -> ChangeResult {
    let of = |change| ChangeResult { change, ..ChangeResult::default() };
    match change {
        Change::Fewer(at, less) => {
            ChangeResult { stretch: Some(at), minutes: tidy(less.minutes()), ..of("fewer") }
        }
        Change::HomeAt(share) => ChangeResult { share: tidy(share), ..of("home_at") },
        Change::TurnAt(at) => ChangeResult { minutes: tidy(at.minutes()), ..of("turn_at") },
        Change::Wind(wind) => ChangeResult { wind_ms: tidy(wind.value()), ..of("wind") },
        Change::Size(ah) => ChangeResult { unit_ah: tidy(ah.value()), ..of("size") },
        Change::OneMoreString => of("one_more_string"),
    }
}

/// The working of one figure.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct WorkingResult {
    /// Which figure.
    pub figure: &'static str,
    /// What it is.
    pub title: &'static str,
    /// The formula.
    pub formula: &'static str,
    /// The formula with the numbers in it.
    pub numbers: String,
    /// What comes out.
    pub result: String,
    /// What went in.
    pub terms: Vec<TermResult>,
}

/// One number in a formula.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct TermResult {
    /// What it is.
    pub name: String,
    /// The number with its unit.
    pub value: String,
    /// `measured`, `label`, `set` (by you), `told` (to you) or `typical`.
    pub origin: &'static str,
    /// Where a typical value is from.
    pub source: &'static str,
}

/// What happens, and why.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct VerdictResult {
    /// `home`, `home_slower`, `home_too_deep`, `stops`, `shuts_off`, `cannot_hold`, `cannot_make` or `ruled_out`.
    pub what: &'static str,
    /// The first limit that fails by the clock: `motor`, `reserve`, `lowest_charge`, `bms`, `empty` or `figure`; `null` where none does.
    pub limit: Option<&'static str>,
    /// When it does. [min from the start]
    pub at_min: Option<f64>,
    /// The stretch that is not done as planned, by its name.
    pub stretch: Option<String>,
    /// The smallest change that mends it, the first of `get_home`.
    pub remedy: Option<ChangeResult>,
}

/// A stretch that goes otherwise than planned.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct OtherwiseResult {
    /// Its name.
    pub stretch: String,
    /// `longer`, `slower`, `cannot_hold` or `cannot_make`.
    pub how: &'static str,
    /// How much longer it takes. [min]
    pub minutes: Option<f64>,
    /// Speed over the ground as planned. [m/s]
    pub planned_ms: Option<f64>,
    /// What is reached; negative when blown back. [m/s]
    pub reached_ms: Option<f64>,
}

/// How a pack gets charged.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct ChargerResult {
    /// Whether one aboard suits.
    pub suits: bool,
    /// Its name.
    pub name: Option<String>,
    /// Why those aboard do not, a sentence each.
    pub why_not: Vec<String>,
    /// How long it takes, pauses included. [h]
    pub hours: Option<f64>,
}

/// What is left where one unit fails.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct OneUnitFailsResult {
    /// Volts that are left. [V]
    pub voltage_v: f64,
    /// `home` and so on, as `outcome`, of the day on what is left.
    pub outcome: &'static str,
    /// Whether all of the day is done on it.
    pub covers_the_distance: bool,
}

/// The result document of evaluated packs.
pub fn document(plan: &Plan, evaluations: &[Evaluation], with_working: bool) -> ResultDocument {
    let say = Say::plain(&plan.currency);
    let course = verdict::course(&plan.rig_as_measured(), &plan.day);
    let judge = plan.judge().ok();
    let packs = std::iter::zip(&plan.packs, evaluations).map(|(pack, evaluation)| {
        let working = evaluation
            .drawn
            .as_ref()
            .filter(|_| with_working)
            .map(|drawn| verdict::working(pack, &plan.day, &plan.rules_filled(), drawn, say));
        let mut result = pack_result(plan, pack, &course, evaluation);
        result.price_with_needs = judge.as_ref().and_then(|judge| {
            let pack = Pack { extras: plan.needs_of(pack, judge), ..pack.clone() };
            sum(plan.rules.money.paid_now(&pack)?)
        });
        result.one_unit_fails = judge.as_ref().and_then(|judge| {
            let left = one_fails(pack, judge.rig())?;
            let told = judge.in_full(left.pack());
            Some(OneUnitFailsResult {
                voltage_v: tidy(left.pack().voltage().value())?,
                outcome: told.outcome.key(),
                covers_the_distance: told.covers_the_distance(),
            })
        });
        let undone = evaluation.drawn.as_ref().is_some_and(|d| d.work.does() == Does::NotAll);
        let short = undone
            || matches!(evaluation.outcome, Outcome::BelowFloor | Outcome::Stops | Outcome::Trips);
        if short && plan.packs.len() <= MOST_SENT_HOME {
            let ways = get_home(plan, pack);
            let ways: Vec<ChangeResult> = ways.into_iter().map(change).collect();
            result.verdict.remedy = ways.first().cloned();
            result.get_home = Some(ways);
        }
        result.working = working.map(|lines| lines.into_iter().map(working_result).collect());
        result
    });
    ResultDocument {
        format: FORMAT,
        version: VERSION,
        currency: plan.currency.clone(),
        packs: packs.collect(),
    }
}

fn otherwise(o: &Otherwise, name_of: &dyn Fn(usize) -> Option<String>) -> Option<OtherwiseResult> {
    let (how, minutes) = match o.how {
        How::Longer(more) => ("longer", tidy(more.minutes())),
        How::Slower => ("slower", None),
        How::CannotHold => ("cannot_hold", None),
        How::CannotMake => ("cannot_make", None),
    };
    Some(OtherwiseResult {
        stretch: name_of(o.stretch)?,
        how,
        minutes,
        planned_ms: tidy(o.planned.value()),
        reached_ms: tidy(o.reached.value()),
    })
}

fn pack_result(plan: &Plan, pack: &Pack, course: &verdict::Course, e: &Evaluation) -> PackResult {
    let drawn = e.drawn.as_ref();
    let told = e.verdict(&plan.day);
    let name_of = |n: usize| plan.day.stretches.get(n).map(|s| s.name.clone());
    let spare = drawn.and_then(|d| d.spare(course));
    let miles = |d: Metres| tidy(d.value() / M_PER_MILE);
    let of = |pick: fn(&Drawn) -> f64| drawn.map(pick).and_then(tidy);
    let minutes =
        |pick: fn(&Drawn) -> Option<Hours>| drawn.and_then(pick).and_then(|h| tidy(h.minutes()));
    let cost = drawn.and_then(|d| d.cost);
    PackResult {
        name: pack.name.clone(),
        outcome: e.outcome.key(),
        reasons: e.reasons.iter().map(|r| r.sentence(System::Us)).collect(),
        notes: e.notes.iter().map(|n| n.sentence(System::Us)).collect(),
        voltage_v: tidy(e.voltage.value()).unwrap_or_default(),
        capacity_ah: e.capacity.and_then(|c| tidy(c.value())),
        energy_wh: e.energy.and_then(|w| tidy(w.value())),
        label_capacity_ah: e.label_capacity.and_then(|(ah, _)| tidy(ah.value())),
        label_capacity_hours: e.label_capacity.and_then(|(_, over)| tidy(over.value())),
        mass_kg: e.mass.and_then(|m| tidy(m.value())),
        price_total: e.price_total.and_then(sum),
        price_with_needs: None,
        rated_ah: drawn.and_then(|_| told_capacity(pack)).and_then(|ah| tidy(ah.value())),
        charge_left: of(|d| d.summary.charge_left),
        charge_left_low: of(|d| d.band.low),
        charge_left_high: of(|d| d.band.high),
        past_label_ah: drawn
            .and_then(|d| tidy(told_capacity(pack)?.value() * d.summary.past_label)),
        out_of_reach: of(|d| d.out_of_reach),
        reserve_level: of(|d| d.reserve),
        least_sure_of: drawn.and_then(|d| d.band.widest).map(verdict::Unknown::key),
        stops_at_min: minutes(Drawn::ended_early_at),
        stops_at_min_low: minutes(|d| d.band.stops.0),
        stops_at_min_high: minutes(|d| d.band.stops.1),
        floor_at_min: minutes(|d| d.summary.floor_at),
        reserve_at_min: minutes(|d| d.summary.reserve_at),
        delivered_ah: of(|d| d.summary.delivered.value()),
        delivered_wh: of(|d| d.summary.energy.value()),
        charged_ah: of(|d| d.summary.charged.value()),
        charged_wh: of(|d| d.summary.energy_in.value()),
        lowest_voltage_v: drawn
            .and_then(|d| d.summary.lowest_voltage)
            .and_then(|v| tidy(v.value())),
        hours_at_this_pace: drawn.and_then(|d| d.hours_at_this_pace).and_then(|h| tidy(h.value())),
        miles: miles(course.distance()).filter(|m| *m > 0.0),
        range_miles: drawn.and_then(|d| d.range(course)).and_then(miles),
        hours_to_spare: spare.and_then(|s| tidy(s.hours.value())),
        miles_to_spare: spare.and_then(|s| s.distance).and_then(miles),
        highest_safe_setting: drawn.and_then(|d| d.highest_safe_setting).and_then(tidy),
        verdict: VerdictResult {
            what: told.what.key(),
            limit: told.limit.map(|(limit, _)| limit.key()),
            at_min: told.limit.and_then(|(_, at)| tidy(at?.minutes())),
            stretch: told.stretch.and_then(name_of),
            remedy: None,
        },
        covers_the_distance: drawn.map(|_| e.covers_the_distance()),
        otherwise: drawn.map_or_else(Vec::new, |d| {
            d.work.otherwise.iter().filter_map(|o| otherwise(o, &name_of)).collect()
        }),
        charger: drawn.map(|d| ChargerResult {
            suits: d.refill.by.is_some(),
            name: d.refill.by.clone(),
            why_not: (e.notes.iter())
                .filter_map(|note| match note {
                    Note::Misfit(misfit) if d.refill.by.is_none() => Some(misfit.to_string()),
                    _ => None,
                })
                .collect(),
            hours: d.refill.by.as_ref().and_then(|_| tidy(d.refill.elapsed.value())),
        }),
        one_unit_fails: None,
        chance_home: drawn.and_then(|d| match d.work.does() {
            Does::NotAll => Some(0.0),
            _ => tidy(d.band.days_finished),
        }),
        naive_cost_per_cycle: pack.naive_cost_per_cycle().and_then(sum),
        life_years: of(|d| d.life.years),
        life_years_other_school: of(|d| d.life.other_school_years),
        life_outings: of(|d| d.life.outings),
        life_ended_by: drawn.map(|d| d.life.ended_by.key()),
        cost_per_cycle: cost.and_then(|c| sum(c.per_cycle)),
        cost_over_years: cost.and_then(|c| sum(c.account.total)),
        cost_per_kwh: cost.and_then(|c| c.per_kwh).and_then(sum),
        cost_per_lake_hour: cost.and_then(|c| c.per_lake_hour).and_then(sum),
        refill_hours: of(|d| d.refill.elapsed.value()),
        refill_wall_wh: of(|d| d.refill.wall.value()),
        ready_in_time: drawn.and_then(|d| d.refill.ready),
        get_home: None,
        ratings_conflict: of(|d| d.fit.conflict()),
        assumed: e.assumed.clone(),
        working: None,
    }
}

fn working_result(line: verdict::Line) -> WorkingResult {
    WorkingResult {
        figure: line.figure,
        title: line.title,
        formula: line.formula,
        numbers: line.numbers,
        result: line.result,
        terms: line
            .terms
            .into_iter()
            .map(|t| TermResult {
                name: t.name,
                value: t.value,
                origin: t.origin.key(),
                source: t.source,
            })
            .collect(),
    }
}

fn sum(of: lake_hour_core::units::Money) -> Option<f64> {
    tidy(of.value())
}

/// Six significant digits, so that files differ only where results do; nothing for NaN or infinity, which JSON cannot say.
fn tidy(value: f64) -> Option<f64> {
    if !value.is_finite() {
        return None;
    }
    format!("{value:.5e}").parse().ok()
}
