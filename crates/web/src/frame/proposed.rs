//! What was proposed of the shelf for a rig: worked out piece by piece, kept while nothing changes.

use super::App;
use super::error::PageError;
use super::view::Nudges;
use lake_hour_core::plan::Plan;
use lake_hour_core::proposals::Proposal;
use lake_hour_core::proposals::cranking::{Cranking, Starts, cranking};
use lake_hour_core::proposals::house_battery::{Offer, is_for, ledger};
use lake_hour_core::shelf::check::DoubtKind;
use lake_hour_core::units::system::System;
use lake_hour_core::units::{Metres, Money, Volts};
use lake_hour_core::verdict::NoDrawCurve;
use lake_hour_store::{BatteryId, Board, RigId, Shelved};
use rayon::iter::{IntoParallelRefIterator, ParallelIterator};
use std::sync::{Arc, Mutex as Quick, PoisonError};
use std::time::{Duration, Instant};
use tokio::sync::Mutex;

/// Batteries read and judged at once.
const AT_ONCE: usize = 500;
/// How long a request goes on with it before it answers with what there is.
const PATIENCE: Duration = Duration::from_millis(180);
/// Rigs whose proposals are kept.
const MOST_KEPT: usize = 3;

/// A proposal and the battery it is of.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Found {
    pub(crate) battery: BatteryId,
    pub(crate) of: Proposal,
    /// Its label is doubted, by itself or against the rest of the shelf.
    pub(crate) doubted: bool,
}

/// All proposals for a rig, or as many as there are yet.
#[derive(Debug, Clone, Default)]
pub(crate) struct Proposals {
    pub(crate) found: Arc<Vec<Found>>,
    /// Batteries that would do as a house battery; whether their labels are doubted.
    pub(crate) house: Arc<Vec<(BatteryId, Offer, bool)>>,
    /// Batteries with cranking amps that would start the engine.
    pub(crate) starters: Arc<Vec<Starter>>,
    /// Batteries judged, of how many.
    pub(crate) judged: usize,
    pub(crate) of: usize,
    /// Those of them that are not put out of sight.
    pub(crate) shown: usize,
    /// The last one read; `None` before the first.
    last: Option<BatteryId>,
    pub(crate) done: bool,
}

/// A battery that starts the engine.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Starter {
    pub(crate) battery: BatteryId,
    pub(crate) cranks: Cranking,
    pub(crate) price: Option<Money>,
    /// Its label is doubted.
    pub(crate) doubted: bool,
}

/// What of one battery.
enum Of {
    Pack(Found),
    House(BatteryId, Offer, bool),
    Starter(Starter),
}

/// What they are of: a rig, all as it stands there and on the shelf, and the what-ifs.
#[derive(Debug, Clone, PartialEq)]
struct Key {
    rig: RigId,
    now: String,
    what_if: WhatIf,
}

/// What is asked of a rig besides what stands there.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct WhatIf {
    pub(crate) nudges: Nudges,
    /// How much more wind a what-if means is round in these.
    pub(crate) units: System,
    /// A cable to the motor of another length.
    pub(crate) lead: Option<Metres>,
    /// Of the house battery.
    pub(crate) house: House,
}

/// What is asked of a house battery.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct House {
    /// Days between charges.
    pub(crate) days: f64,
    /// What the devices are meant for.
    pub(crate) volts: Volts,
    /// An engine that it starts as well.
    pub(crate) starts: Option<Starts>,
}

/// Proposals by what they are of, those last asked for first.
#[derive(Debug, Clone, Default)]
pub(crate) struct Proposed(Arc<Quick<Vec<Known>>>);

/// One of them. Whoever works at it holds the lock, so that two windows do it once.
type Known = (Key, Arc<Mutex<Proposals>>);

impl Proposed {
    fn of(&self, key: Key) -> Arc<Mutex<Proposals>> {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        match all.iter().position(|(known, _)| *known == key) {
            Some(at) => all[..=at].rotate_right(1),
            None => {
                // What the rig or the shelf was before is never asked for again.
                all.retain(|(known, _)| known.rig != key.rig || known.now == key.now);
                all.truncate(MOST_KEPT - 1);
                all.insert(0, (key, Arc::default()));
            }
        }
        all[0].1.clone()
    }
}

impl App {
    /// The proposals for a rig with the what-ifs in `plan`: all of them where that takes no time, else as far as they
    /// are; ask again for more.
    ///
    /// # Errors
    /// [`NoDrawCurve`] inside, where no pack can be judged.
    pub(crate) async fn proposals(
        &self,
        board: &Board,
        what_if: WhatIf,
        plan: &Plan,
    ) -> Result<Result<Proposals, NoDrawCurve>, PageError> {
        let began = Instant::now();
        let now = board.now.clone();
        let key = Key { rig: board.rig, now, what_if };
        let asked = what_if.house;
        let known = self.proposed.of(key);
        let mut proposals = known.lock().await;
        if proposals.done {
            return Ok(Ok(proposals.clone()));
        }
        let judge = match plan.judge() {
            Ok(judge) => Arc::new(judge),
            Err(unknown) => return Ok(Err(unknown)),
        };
        let of_plan =
            Arc::new(Plan { packs: plan.aboard().cloned().into_iter().collect(), ..plan.clone() });
        proposals.of = self.store.batteries().await?;
        let rest = self.store.usual().await?;
        while !proposals.done && (proposals.judged == 0 || began.elapsed() < PATIENCE) {
            let slice = self.store.batteries_after(proposals.last, AT_ONCE).await?;
            let (read, last) = (slice.batteries.len() + slice.unreadable.len(), slice.last);
            let shown = slice.batteries.iter().filter(|one| !one.candidate.hidden).count();
            let (judge, plan_of) = (Arc::clone(&judge), Arc::clone(&of_plan));
            let ledger = ledger(&plan.day, asked.volts, asked.starts);
            let rules = plan.rules;
            let of = move |one: &Shelved| -> Vec<Of> {
                let of = &one.candidate;
                let usual = rest.of(of.battery.chemistry);
                let doubts = of.doubts(Some(usual));
                let doubted = !doubts.is_empty();
                // To start an engine is what it is made for.
                let for_starts = doubts.iter().any(|d| d.kind != DoubtKind::MadeForStarting);
                let all = judge.proposals(&plan_of, &of.battery).into_iter();
                let packs = all.map(|of| Of::Pack(Found { battery: one.id, of, doubted }));
                let sum = ledger.as_ref();
                let battery = &one.candidate.battery;
                let house = sum.and_then(|l| l.offer(&rules, battery, asked.days));
                let house = house.map(|offer| Of::House(one.id, offer, doubted));
                let starter = asked.starts.filter(|_| is_for(battery, asked.volts));
                let starter = starter.and_then(|s| cranking(battery, 1, &s)).filter(|c| c.does);
                let starter = starter.filter(|_| battery.cranking.is_some()).map(|cranks| {
                    let price = battery.price;
                    Of::Starter(Starter { battery: one.id, cranks, price, doubted: for_starts })
                });
                packs.chain(house).chain(starter).collect()
            };
            let batteries = slice.batteries;
            let more: Vec<Of> = self
                .working(move || {
                    let shown = batteries.par_iter().filter(|one| !one.candidate.hidden);
                    shown.flat_map_iter(of).collect()
                })
                .await?;
            // All at once and last: whoever goes away meanwhile leaves it as it was, and nothing is passed over.
            proposals.judged += read;
            proposals.shown += shown;
            (proposals.last, proposals.done) = (last.or(proposals.last), last.is_none());
            for one in more {
                match one {
                    Of::Pack(found) => Arc::make_mut(&mut proposals.found).push(found),
                    Of::House(id, offer, doubted) => {
                        Arc::make_mut(&mut proposals.house).push((id, offer, doubted));
                    }
                    Of::Starter(starter) => Arc::make_mut(&mut proposals.starters).push(starter),
                }
            }
        }
        Ok(Ok(proposals.clone()))
    }
}
