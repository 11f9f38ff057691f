//! Which of the proposals are listed: asked for, in order, counted.

use super::view::{By, PAGE_SIZE, PacksView, Want, Which};
use crate::frame::proposed::Found;
use lake_hour_core::allowed;
use lake_hour_core::proposals::{Hurdle, Proposal};
use lake_hour_core::units::parse;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::Measure;
use lake_hour_core::units::{Kilograms, Money};
use lake_hour_core::verdict::{Does, Outcome};
use std::collections::BTreeSet;

/// How far, as a share, one may miss that still nearly passes.
const NEARLY: f64 = 0.35;
/// Near misses that are looked into.
const MOST_NEAR: usize = 10;

/// One that is listed, or nearly passes.
#[derive(Debug, Clone, Copy)]
pub(super) struct Listed {
    pub(super) which: Which,
    pub(super) of: Proposal,
    pub(super) doubted: bool,
}

impl Listed {
    fn of(found: &Found) -> Self {
        let Proposal { series, parallel, .. } = found.of;
        Self {
            which: Which { battery: found.battery, series, parallel },
            of: found.of,
            doubted: found.doubted,
        }
    }
}

/// The limits that were typed, read.
#[derive(Debug, Clone, Default)]
pub(super) struct Limits {
    pub(super) weight: Option<Kilograms>,
    pub(super) price: Option<Money>,
    /// What is wrong with them.
    pub(super) weight_problem: Option<String>,
    pub(super) price_problem: Option<String>,
}

impl Limits {
    fn read(view: &PacksView, say: Say<'_>) -> Self {
        let mut limits = Self::default();
        if !view.weight.is_empty() {
            match say.units.read(&view.weight, Measure::Mass, &allowed::CRAFT_MASS) {
                Ok(kg) => limits.weight = Some(Kilograms::of(kg)),
                Err(wrong) => limits.weight_problem = Some(wrong.to_string()),
            }
        }
        if !view.price.is_empty() {
            let bare = view.price.trim_start_matches(['$', '€', '£']);
            match parse::number(bare, &allowed::PRICE) {
                Ok(price) => limits.price = Some(Money::of(price)),
                Err(wrong) => limits.price_problem = Some(wrong.to_string()),
            }
        }
        limits
    }
}

/// What of the proposals is shown.
#[derive(Debug, Clone, Default)]
pub(super) struct List {
    pub(super) rows: Vec<Listed>,
    pub(super) page: usize,
    /// How many there are on all pages.
    pub(super) matching: usize,
    pub(super) all: usize,
    pub(super) home: usize,
    pub(super) home_and_fit: usize,
    /// How many are refused by which figure, the most first.
    pub(super) refused: Vec<(usize, Hurdle)>,
    pub(super) near: Vec<Listed>,
    /// The best of each way of wiring, to be set beside the one that is opened.
    pub(super) others: Vec<Which>,
    pub(super) limits: Limits,
}

impl List {
    pub(super) fn of(found: &[Found], view: &PacksView, say: Say<'_>) -> Self {
        let limits = Limits::read(view, say);
        let narrow = |p: &Proposal| {
            view.chemistry.is_none_or(|c| p.chemistry == c)
                && view.units.is_none_or(|most| p.units() <= most)
                && !(view.wants.has(Want::NoLead) && p.chemistry.is_lead())
                && limits.weight.is_none_or(|most| p.mass.is_some_and(|m| m <= most))
                && limits.price.is_none_or(|most| p.price.is_some_and(|m| m <= most))
                && (!view.wants.has(Want::Charger) || p.charger)
                && (!view.wants.has(Want::MovesOn) || p.moves_on)
        };
        let all: Vec<&Found> = found.iter().filter(|f| narrow(&f.of)).collect();
        let gets_home = |p: &Proposal| {
            p.does < Does::NotAll
                && !matches!(p.outcome, Outcome::Stops | Outcome::Trips | Outcome::SetAside)
        };
        let wanted = |p: &Proposal| match p.hurdle {
            None => true,
            Some(Hurdle::Room | Hurdle::Gasses) => !view.wants.has(Want::Fits),
            Some(Hurdle::Bms | Hurdle::Empty | Hurdle::Work) => {
                !view.wants.has(Want::Home)
                    && (p.fits != Some(false) || !view.wants.has(Want::Fits))
            }
            Some(_) => false,
        };
        let mut listed: Vec<Listed> =
            all.iter().filter(|f| wanted(&f.of)).map(|f| Listed::of(f)).collect();
        sort(&mut listed, view.by);
        let matching = listed.len();
        let page = view.page.min(matching.saturating_sub(1) / PAGE_SIZE);
        let rows = listed.iter().skip(page * PAGE_SIZE).take(PAGE_SIZE).copied().collect();
        let mut refused: Vec<(usize, Hurdle)> = Hurdle::ALL
            .into_iter()
            .map(|hurdle| (all.iter().filter(|f| f.of.hurdle == Some(hurdle)).count(), hurdle))
            .filter(|(count, _)| *count > 0)
            .collect();
        refused.sort_by_key(|(count, _)| std::cmp::Reverse(*count));
        Self {
            rows,
            page,
            matching,
            all: found.len(),
            home: all.iter().filter(|f| gets_home(&f.of)).count(),
            home_and_fit: all
                .iter()
                .filter(|f| gets_home(&f.of) && f.of.fits == Some(true))
                .count(),
            refused,
            near: near(&all),
            others: others(&listed),
            limits,
        }
    }
}

/// Unknown figures come last.
fn known(value: Option<f64>) -> f64 {
    value.unwrap_or(f64::INFINITY)
}

fn sort(listed: &mut [Listed], by: By) {
    let hourly = |l: &Listed| known(l.of.hourly.map(Money::value));
    let mass = |l: &Listed| known(l.of.mass.map(Kilograms::value));
    let key = |l: &Listed| -> (usize, f64, f64) {
        // What must be throttled comes behind what need not.
        // More batteries than owners build into a craft come behind what they do; who asks for the lightest gets that.
        let heap = 1000 * usize::from(!l.of.within_reason);
        let outcome = heap
            + 32 * usize::from(l.of.does == Does::NotAll)
            + 4 * l.of.outcome as usize
            + 2 * usize::from(!l.of.full_throttle)
            + usize::from(l.of.does > Does::AsPlanned);
        match by {
            By::Home => (outcome, hourly(l), mass(l)),
            By::Light => (0, mass(l), hourly(l)),
            By::Cheap => (0, hourly(l), mass(l)),
            By::Small => (0, known(l.of.litres), mass(l)),
            By::Sure => (outcome + if l.of.moves_on { 0 } else { 100 }, hourly(l), mass(l)),
        }
    };
    listed.sort_by(|a, b| {
        // What rests on a label that is doubted comes last, whatever it promises.
        let ((a0, a1, a2), (b0, b1, b2)) = (key(a), key(b));
        let names = |l: &Listed| (l.which.battery, l.which.series, l.which.parallel);
        (a.doubted
            .cmp(&b.doubted)
            .then(a0.cmp(&b0))
            .then(a1.total_cmp(&b1))
            .then(a2.total_cmp(&b2)))
        .then(names(a).cmp(&names(b)))
    });
}

/// Those that miss by least, one of each battery: refused by one figure that a small change mends.
fn near(all: &[&Found]) -> Vec<Listed> {
    let nearly = |p: &Proposal| {
        let mends = match p.hurdle {
            // What has no room is no near miss where it does not get home either.
            Some(Hurdle::Room) => matches!(p.outcome, Outcome::Home | Outcome::BelowReserve),
            Some(Hurdle::Bms | Hurdle::Empty) => p.fits != Some(false),
            Some(Hurdle::Weight) => true,
            _ => false,
        };
        mends && p.short > 0.0 && p.short <= NEARLY
    };
    let mut near: Vec<Listed> =
        all.iter().filter(|f| nearly(&f.of)).map(|f| Listed::of(f)).collect();
    near.sort_by(|a, b| a.of.short.total_cmp(&b.of.short));
    let mut seen = BTreeSet::new();
    near.retain(|l| seen.insert(l.which.battery));
    near.truncate(MOST_NEAR);
    near
}

/// The first of a single unit, of several in series, and of strings side by side.
fn others(listed: &[Listed]) -> Vec<Which> {
    let kinds: [fn(&Proposal) -> bool; 3] =
        [|p| p.units() == 1, |p| p.series > 1 && p.parallel == 1, |p| p.parallel > 1];
    let first = |is: fn(&Proposal) -> bool| listed.iter().find(|l| is(&l.of)).map(|l| l.which);
    kinds.into_iter().filter_map(first).collect()
}
