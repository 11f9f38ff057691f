//! What pages have worked out already: opening a panel judges no pack again.

use lake_hour_core::day::Day;
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::Pack;
use lake_hour_core::pack::limits::SetAside;
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::Rig;
use lake_hour_core::units::say::Clock;
use lake_hour_core::verdict::{Evaluation, NoDrawCurve};
use rayon::iter::{IndexedParallelIterator, IntoParallelIterator, ParallelIterator};
use std::any::Any;
use std::sync::{Arc, Mutex, PoisonError};

/// Most packs whose evaluations are kept, of all plans together: some ten kilobytes each.
const MOST_KEPT: usize = 400;

/// Evaluations by the plan they are of. A plan that was changed is another one; those not asked for longest are
/// dropped.
#[derive(Debug, Clone, Default)]
pub(crate) struct Verdicts(Arc<Mutex<Vec<Known>>>);

/// The packs that were judged on one day of one rig.
#[derive(Debug)]
struct Known {
    currency: String,
    rig: Rig,
    day: Day,
    rules: HouseRules,
    packs: Vec<(Pack, Arc<Judged>)>,
}

/// A pack's evaluation, with what was drawn of it already.
#[derive(Debug)]
pub(crate) struct Judged {
    evaluation: Evaluation,
    drawn: Mutex<Vec<(Clock, Arc<dyn Any + Send + Sync>)>>,
}

impl std::ops::Deref for Judged {
    type Target = Evaluation;

    fn deref(&self) -> &Evaluation {
        &self.evaluation
    }
}

impl Judged {
    fn of(evaluation: Evaluation) -> Arc<Self> {
        Arc::new(Self { evaluation, drawn: Mutex::default() })
    }

    /// What is drawn of it with times on this clock: made when it is first wanted. One kind of drawing is
    /// kept of each.
    pub(crate) fn drawn<T: Any + Send + Sync>(
        &self,
        clock: Clock,
        draw: impl FnOnce() -> T,
    ) -> Arc<T> {
        let mut all = self.drawn.lock().unwrap_or_else(PoisonError::into_inner);
        let kept = all.iter().find(|(known, _)| *known == clock);
        if let Some(kept) = kept.and_then(|(_, d)| Arc::clone(d).downcast().ok()) {
            return kept;
        }
        let made = Arc::new(draw());
        all.retain(|(known, _)| *known != clock);
        all.push((clock, Arc::clone(&made) as _));
        made
    }
}

impl Known {
    fn is_of(&self, plan: &Plan) -> bool {
        self.currency == plan.currency
            && self.rules == plan.rules
            && self.rig == plan.rig
            && self.day == plan.day
    }

    fn find(&self, pack: &Pack) -> Option<Arc<Judged>> {
        self.packs.iter().find(|(known, _)| known == pack).map(|(_, e)| Arc::clone(e))
    }
}

impl Verdicts {
    /// Every pack judged; all set aside, with the reason, where a stretch cannot be worked out.
    pub(crate) fn of(&self, plan: &Plan) -> Vec<Arc<Judged>> {
        let known = self.known(plan);
        let complete: Option<Vec<_>> = known.iter().cloned().collect();
        if let Some(all) = complete {
            return all;
        }
        let judge = match plan.judge() {
            Ok(judge) => judge,
            Err(unknown) => {
                return plan.packs.iter().map(|pack| set_aside(plan, pack, &unknown)).collect();
            }
        };
        // Shared among the cores here and nowhere below.
        let all: Vec<_> = (known.into_par_iter().zip(&plan.packs))
            .map(|(known, pack)| known.unwrap_or_else(|| Judged::of(judge.in_full(pack))))
            .collect();
        self.keep(plan, &all);
        all
    }

    /// What is known of a plan's packs, in their order.
    fn known(&self, plan: &Plan) -> Vec<Option<Arc<Judged>>> {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let Some(at) = all.iter().position(|known| known.is_of(plan)) else {
            return vec![None; plan.packs.len()];
        };
        // The last one asked for stands first.
        all[..=at].rotate_right(1);
        plan.packs.iter().map(|pack| all[0].find(pack)).collect()
    }

    /// Keeps the evaluations of a plan's packs, in their order: those of packs that are not in it any more are
    /// not asked for again.
    fn keep(&self, plan: &Plan, all: &[Arc<Judged>]) {
        let packs = std::iter::zip(&plan.packs, all).map(|(p, e)| (p.clone(), Arc::clone(e)));
        let now = Known {
            currency: plan.currency.clone(),
            rig: plan.rig.clone(),
            day: plan.day.clone(),
            rules: plan.rules,
            packs: packs.collect(),
        };
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        kept.retain(|known| !known.is_of(plan));
        kept.insert(0, now);
        let mut count = 0;
        kept.retain(|known| {
            count += known.packs.len();
            count <= MOST_KEPT
        });
    }
}

fn set_aside(plan: &Plan, pack: &Pack, NoDrawCurve { index, name }: &NoDrawCurve) -> Arc<Judged> {
    let reason = SetAside::NoDraw { index: *index, name: name.clone() };
    Judged::of(Evaluation::set_aside(pack, vec![reason], &plan.rules.money))
}

#[cfg(test)]
mod tests {
    use super::*;
    use lake_hour_core::units::{Amps, Money};

    fn plan() -> Plan {
        let demo = include_bytes!("../../../../demo/heron-pond.plan.json");
        lake_hour_formats::plan::read(demo).expect("the demo")
    }

    #[test]
    fn only_what_changed_is_judged_again() {
        let (verdicts, mut plan) = (Verdicts::default(), plan());
        plan = plan.with_parts_counted().into_owned();
        let first = verdicts.of(&plan);
        assert_eq!(
            first.iter().map(|e| e.evaluation.clone()).collect::<Vec<_>>(),
            plan.with_parts_counted().evaluate().unwrap()
        );
        let same = |a: &[Arc<Judged>], b: &[Arc<Judged>]| -> Vec<bool> {
            std::iter::zip(a, b).map(|(a, b)| Arc::ptr_eq(a, b)).collect()
        };
        assert!(same(&first, &verdicts.of(&plan)).iter().all(|same| *same));
        plan.packs[2].battery.price = Some(Money::of(1.0));
        let second = verdicts.of(&plan);
        let kept = same(&first, &second);
        assert!(kept.iter().enumerate().all(|(n, same)| *same == (n != 2)), "{kept:?}");
        // Another day is another plan; the first is known still.
        let mut windy = plan.clone();
        windy.day.stretches.pop();
        assert!(same(&second, &verdicts.of(&windy)).iter().all(|same| !same));
        assert!(same(&second, &verdicts.of(&plan)).iter().all(|same| *same));
    }

    #[test]
    fn a_drawing_is_made_once_for_each_clock() {
        let judged =
            Judged::of(Evaluation::set_aside(&plan().packs[0], Vec::new(), &plan().rules.money));
        let draw = |clock: Clock, text: &str| judged.drawn(clock, || text.to_owned());
        let first = draw(Clock::Hours24, "13:00");
        assert!(Arc::ptr_eq(&first, &draw(Clock::Hours24, "never")));
        assert_eq!(*draw(Clock::Hours12, "1 PM"), "1 PM");
        assert!(Arc::ptr_eq(&first, &draw(Clock::Hours24, "never")));
    }

    #[test]
    fn no_more_is_kept_than_fits() {
        let (verdicts, mut plan) = (Verdicts::default(), plan());
        for outings in 0..60_u32 {
            plan.day.outings_per_year = f64::from(outings);
            plan.rig.motor.max_current = Some(Amps::of(50.0));
            verdicts.of(&plan);
        }
        let kept: usize = verdicts.0.lock().unwrap().iter().map(|k| k.packs.len()).sum();
        assert!((MOST_KEPT - plan.packs.len()..=MOST_KEPT).contains(&kept), "{kept}");
    }
}
