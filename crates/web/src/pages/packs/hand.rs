//! A pack built by hand: any arrangement, an odd unit, another pack beside it; what comes of it, in sentences.

use super::pack_of;
use super::view::{PacksView, Which};
use crate::figures;
use lake_hour_core::allowed;
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::shelf::Battery;
use lake_hour_core::units::parse;
use lake_hour_core::wiring::mixed::{self, Beside, Danger, Odd};
use lake_hour_store::BatteryId;
use std::collections::BTreeMap;

/// Batteries that are offered to choose from.
pub(super) const MOST_NAMES: usize = 300;

/// A pack as it was built by hand.
#[derive(Debug, Clone)]
pub(super) struct Built {
    pub(super) pack: Pack,
    /// What comes of it.
    pub(super) says: Vec<String>,
    /// Why it must not be built.
    pub(super) danger: Option<String>,
    /// What is wrong with what was typed for the odd unit.
    pub(super) problem: Option<String>,
}

/// The form.
#[derive(Debug, Clone)]
pub(super) struct HandView {
    /// (number, name, chosen for the pack, for the odd unit, for the pack beside)
    pub(super) names: Vec<(i64, String, bool, bool, bool)>,
    pub(super) series: String,
    pub(super) parallel: String,
    pub(super) series_problem: Option<String>,
    pub(super) parallel_problem: Option<String>,
    pub(super) second: (String, String),
}

impl HandView {
    pub(super) fn of(
        names: &[(BatteryId, String)],
        which: Option<Which>,
        view: &PacksView,
    ) -> Self {
        let chosen = |of: Option<BatteryId>, id: BatteryId| of == Some(id);
        let (battery, second) = (which.map(|w| w.battery), view.second.map(|w| w.battery));
        let names = names.iter().map(|(id, name)| {
            let of = |one| chosen(one, *id);
            (id.0, name.clone(), of(battery), of(view.odd_unit), of(second))
        });
        let counts = |w: Which| (w.series.to_string(), w.parallel.to_string());
        let (series, parallel) =
            view.wrong.clone().or(which.map(counts)).unwrap_or_else(|| ("1".into(), "1".into()));
        let problem =
            |typed: &str| parse::whole(typed, &allowed::SERIES).err().map(|e| e.to_string());
        let (mut series_problem, parallel_problem) = (problem(&series), problem(&parallel));
        if let Some(which) = which.filter(|w| !is_small(*w)) {
            let units = which.series * which.parallel;
            series_problem = Some(format!("A pack has at most 64 batteries, this is {units}."));
        }
        Self {
            names: names.collect(),
            series_problem,
            parallel_problem,
            series,
            parallel,
            second: view.second.map_or_else(|| ("1".into(), "1".into()), counts),
        }
    }
}

/// Whether a pack has no more batteries than one may have.
pub(super) const fn is_small(which: Which) -> bool {
    which.series * which.parallel <= allowed::SERIES.high as u32
}

impl Built {
    /// `None` where its battery is gone.
    pub(super) fn of(
        plan: &Plan,
        labels: &BTreeMap<BatteryId, Battery>,
        which: Which,
        view: &PacksView,
    ) -> Option<Self> {
        let pack = pack_of(plan, labels.get(&which.battery)?, which);
        let mut built = Self { pack, says: Vec::new(), danger: None, problem: None };
        if view.open != Some(which) {
            return Some(built);
        }
        if let Some(other) = view.odd_unit.and_then(|id| labels.get(&id)) {
            match mixed::odd(&built.pack, other) {
                Ok(odd) => built.take(odd, &format!("one {}", other.name)),
                Err(danger) => built.danger = Some(words(&danger)),
            }
        } else if !view.odd.is_empty() {
            let share = allowed::WEAK_SHARE;
            let percent =
                allowed::Allowed { low: share.low * 100.0, high: share.high * 100.0, unit: "%" };
            match parse::number(view.odd.trim_end_matches('%').trim_end(), &percent) {
                Ok(left) => built.take(mixed::worn(&built.pack, left / 100.0), "the worn one"),
                Err(wrong) => built.problem = Some(wrong.to_string()),
            }
        }
        let second = view.second.and_then(|w| Some(pack_of(plan, labels.get(&w.battery)?, w)));
        if let Some(second) = second {
            match mixed::beside(&built.pack, &second) {
                Ok(Some(beside)) => built.says.push(together(&second, &beside)),
                Ok(None) => {}
                Err(danger) => built.danger = built.danger.take().or(Some(words(&danger))),
            }
        }
        Some(built)
    }

    fn take(&mut self, odd: Option<Odd>, name: &str) {
        let Some(odd) = odd else { return };
        self.pack.weak_unit = odd.weak;
        let ah = |ah: lake_hour_core::units::AmpHours| figures::amount(ah.value());
        let alone = self.pack.units() == 1;
        let first = if odd.weak.is_none() {
            format!(
                "What {name} has beyond the others is of no use: a string gives what its least unit does, {} Ah.",
                ah(odd.string)
            )
        } else if alone {
            format!("It gives {} Ah of {}.", ah(odd.string), ah(odd.sound))
        } else {
            format!(
                "Its string gives {} Ah, what {name} does, and not {}: amp-hours in series are the lowest, never a sum.",
                ah(odd.string),
                ah(odd.sound)
            )
        };
        self.says.push(first);
        if !alone && self.pack.series > 1 {
            self.says.push(
                "The odd one is empty first and full first: charge each unit by itself, and watch the one whose voltage strays.".to_owned(),
            );
        }
    }
}

fn together(second: &Pack, beside: &Beside) -> String {
    let percent = |share: f64| figures::percent(share);
    let uneven = (beside.other_gives / beside.other_has - 1.0).abs() > 0.1;
    let uneven = if uneven {
        " They share unevenly: the stiffer one is drawn down first and the other follows; fuse each by itself."
    } else {
        " Fuse each by itself."
    };
    format!(
        "Side by side with {}: {} Ah together; that one gives {} of the current and has {} of the charge.{uneven} Bring both to full before they are joined. Told here, not judged on the day.",
        second.name,
        figures::amount(beside.together.value()),
        percent(beside.other_gives),
        percent(beside.other_has)
    )
}

fn words(danger: &Danger) -> String {
    let volts = |v: &lake_hour_core::units::Volts| figures::typed(v.value());
    match danger {
        Danger::InOneString { ours, other } => format!(
            "Never {} and {} in one string: full for one is overcharged for the other, and it can burn or burst.",
            ours.name(),
            other.name()
        ),
        Danger::OddVolts { ours, other } => format!(
            "A unit of {} V does not belong among those of {} V: nothing charges that string right.",
            volts(other),
            volts(ours)
        ),
        Danger::SideBySide { ours, other } => format!(
            "Never {} and {} side by side: they want other volts to be full and stand at others at rest, so that one keeps charging the other.",
            ours.name(),
            other.name()
        ),
        Danger::VoltsSideBySide { ours, other, amps } => format!(
            "Never {} V and {} V side by side: about {} A would run from one into the other the moment they are joined.",
            volts(ours),
            volts(other),
            figures::amount(amps.value())
        ),
    }
}
