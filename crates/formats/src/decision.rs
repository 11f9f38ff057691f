//! What a decision rests on, as documents: `lake-hour/tipping`, `lake-hour/proposals`, and `lake-hour/shared`, a plan with
//! its result in one file.

use crate::plan::{self, PlanDocument};
use crate::result::{self, ResultDocument};
use lake_hour_core::decide::tipping::{Tip, Tipping};
use lake_hour_core::decide::{Decided, Standing};
use lake_hour_core::plan::Plan;
use lake_hour_core::proposals::{Hurdle, Proposal};
use lake_hour_core::units::{Kilograms, Money};
use lake_hour_core::verdict::Evaluation;
use schemars::JsonSchema;
use serde::Serialize;

/// A plan with what it comes to, in one file. Opened again, the plan is read and the result worked out anew.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct SharedDocument {
    /// Always `lake-hour/shared`.
    pub format: &'static str,
    /// Always 1.
    pub version: u32,
    /// What was asked.
    pub plan: PlanDocument,
    /// What was answered.
    pub result: ResultDocument,
}

/// What a shared document calls itself.
pub const SHARED: &str = "lake-hour/shared";

/// A plan and its result as one document.
pub fn shared(plan: &Plan, evaluations: &[Evaluation]) -> SharedDocument {
    SharedDocument {
        format: SHARED,
        version: 1,
        plan: plan::write(plan),
        result: result::document(plan, evaluations, false),
    }
}

/// Where the answer turns, driver by driver.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct TippingDocument {
    /// Always `lake-hour/tipping`.
    pub format: &'static str,
    /// Always 1.
    pub version: u32,
    /// The pack that comes first today, by its place in the plan; `null` where none gets home.
    pub first: Option<usize>,
    /// All packs in the running, best first, by their places in the plan.
    pub order: Vec<usize>,
    /// How each pack stands, in the plan's order.
    pub standings: Vec<StandingResult>,
    /// The nearest change first; those that change nothing within reason last.
    pub drivers: Vec<DriverResult>,
}

/// How a pack stands by what is wanted.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct StandingResult {
    /// Its name.
    pub name: String,
    /// Places of the musts it fails among the wants.
    pub fails: Vec<usize>,
    /// Nices it meets.
    pub nices: usize,
    /// Another pack that is as good in all that is wanted and better in something, by its place.
    pub beaten_by: Option<usize>,
    /// Money over the years looked ahead.
    pub over_years: Option<f64>,
}

/// What one driver does to the answer.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct DriverResult {
    /// `outings`, `hours` (a multiple), `wind` (m/s), `weight` (kg more), `price_first`, `price_second`, `energy` (a kWh),
    /// `horizon` (years), `temperature` (°C), `lead_floor`, `lfp_floor`, `lfp_ceiling` (shares), `life_first`,
    /// `life_second` (multiples) or `interest` (a share).
    pub driver: &'static str,
    /// Its value today.
    pub today: f64,
    /// What is within reason.
    pub low: f64,
    /// See above.
    pub high: f64,
    /// The nearest change below today's value.
    pub below: Option<TipResult>,
    /// The nearest change above it.
    pub above: Option<TipResult>,
}

/// A change of the answer.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct TipResult {
    /// The last value found at which today's first pack stays first.
    pub stays_at: f64,
    /// The first at which it does not.
    pub turns_at: f64,
    /// The pack that comes first then, by its place; `null` where none gets home.
    pub then: Option<usize>,
    /// By what: `musts`, `home`, `fit`, `label`, `nices`, `money`, `weight` or `place`.
    pub by: &'static str,
}

const fn by(decided: Decided) -> &'static str {
    match decided {
        Decided::Musts => "musts",
        Decided::Home => "home",
        Decided::Fit => "fit",
        Decided::Label => "label",
        Decided::Nices => "nices",
        Decided::Money => "money",
        Decided::Weight => "weight",
        Decided::Place => "place",
    }
}

/// Tipping points as a document; `order` and `first` as [`lake_hour_core::decide::Contest`] has them.
pub fn tipping(
    plan: &Plan,
    standings: &[Standing],
    order: Vec<usize>,
    first: Option<usize>,
    tips: &[Tipping],
) -> TippingDocument {
    let tip = |tip: &Option<Tip>| {
        tip.map(|tip| TipResult {
            stays_at: tip.between.0,
            turns_at: tip.between.1,
            then: tip.then,
            by: by(tip.by),
        })
    };
    TippingDocument {
        format: "lake-hour/tipping",
        version: 1,
        first,
        order,
        standings: std::iter::zip(&plan.packs, standings)
            .map(|(pack, s)| StandingResult {
                name: pack.name.clone(),
                fails: s.fails.clone(),
                nices: s.nices,
                beaten_by: s.beaten_by,
                over_years: s.over_years().map(Money::value),
            })
            .collect(),
        drivers: tips
            .iter()
            .map(|t| DriverResult {
                driver: t.driver.key(),
                today: t.today,
                low: t.range.0,
                high: t.range.1,
                below: tip(&t.below),
                above: tip(&t.above),
            })
            .collect(),
    }
}

/// Every way of wiring the batteries of a plan's packs.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct ProposalsDocument {
    /// Always `lake-hour/proposals`.
    pub format: &'static str,
    /// Always 1.
    pub version: u32,
    /// By battery, in the order they first stand in the plan.
    pub proposals: Vec<ProposalResult>,
}

/// One way of wiring a battery.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct ProposalResult {
    /// The battery.
    pub battery: String,
    /// Units in each string.
    pub series: u32,
    /// Strings side by side.
    pub parallel: u32,
    /// The verdict, as in a result.
    pub outcome: &'static str,
    /// What refuses it: `volts`, `bms`, `room` and others; `null` for one that gets home.
    pub hurdle: Option<&'static str>,
    /// Charge left at the end of the day.
    pub charge_left: f64,
    /// Whether the bays take it; `null` where that is not known.
    pub fits: Option<bool>,
    /// Whether a charger aboard suits.
    pub charger_suits: bool,
    /// Whether something still moves the craft with one unit dead.
    pub moves_on: bool,
    /// Weight of all units. [kg]
    pub mass_kg: Option<f64>,
    /// Price, with a typical charger where none aboard suits.
    pub price: Option<f64>,
    /// Cost of an hour out.
    pub cost_per_lake_hour: Option<f64>,
}

/// Proposals as a document, each with the name of its battery.
pub fn proposals<'a>(all: impl Iterator<Item = (&'a str, Proposal)>) -> ProposalsDocument {
    let proposals = all.map(|(battery, p)| ProposalResult {
        battery: battery.to_owned(),
        series: p.series,
        parallel: p.parallel,
        outcome: p.outcome.key(),
        hurdle: p.hurdle.map(Hurdle::key),
        charge_left: p.charge_left,
        fits: p.fits,
        charger_suits: p.charger,
        moves_on: p.moves_on,
        mass_kg: p.mass.map(Kilograms::value),
        price: p.price.map(Money::value),
        cost_per_lake_hour: p.hourly.map(Money::value),
    });
    ProposalsDocument { format: "lake-hour/proposals", version: 1, proposals: proposals.collect() }
}
