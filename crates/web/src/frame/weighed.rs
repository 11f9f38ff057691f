//! What a decision rests on, worked out beside the requests: who comes first and what would change it, what would get each
//! pack home, how sure that is, and every pack at every moment of the day.

use crate::frame::App;
use crate::frame::error::PageError;
use crate::frame::view::View;
use lake_hour_core::decide::get_home::{self, Change, Margin};
use lake_hour_core::decide::moments::{self, Moment};
use lake_hour_core::decide::nearest::{self, Nearest};
use lake_hour_core::decide::settle::{self, Settle};
use lake_hour_core::decide::sure::{self, Chance, Measuring};
use lake_hour_core::decide::tipping::{self, Driver, Map, Tipping};
use lake_hour_core::decide::{Contest, Standing};
use lake_hour_core::pack::Shown;
use lake_hour_core::plan::Plan;
use lake_hour_core::units::system::System;
use lake_hour_core::units::{Hours, MetresPerSecond};
use lake_hour_store::{Board, PackId};
use rayon::iter::{IntoParallelIterator, IntoParallelRefIterator, ParallelIterator};
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

/// Most plans that are kept so.
const MOST_KEPT: usize = 8;
/// Cells of a map, either way.
const CELLS: usize = 60;
/// Moments of a day, about.
const MOMENTS: usize = 96;

/// All that is told of a decision besides its lanes.
#[derive(Debug)]
pub(crate) struct Weighed {
    /// The nearest change first; those that change nothing within reason last.
    pub(crate) tips: Vec<Tipping>,
    /// By packs, in the plan's order: what would get it home, and what it bears where it gets there.
    pub(crate) homes: Vec<(Vec<Change>, Option<Margin>)>,
    pub(crate) chances: Vec<Option<Chance>>,
    /// What would let a pack pass where none does.
    pub(crate) nearest: Vec<Nearest>,
    /// What nobody told of the first two packs, what to settle first in front.
    pub(crate) settle: Vec<Settle>,
    /// What to measure of the first pack.
    pub(crate) to_measure: Vec<Measuring>,
    /// When, and how fast it goes then.
    pub(crate) times: Vec<Hours>,
    pub(crate) speeds: Vec<Option<MetresPerSecond>>,
    /// By packs: all moments until it ends.
    pub(crate) moments: Vec<Vec<Moment>>,
    maps: Mutex<Vec<Arc<Map>>>,
}

impl Weighed {
    /// Shared among the cores here and nowhere below. `None` where a stretch cannot be worked out.
    fn of(plan: &Plan) -> Option<Self> {
        let contest = Contest::of(plan).ok()?;
        let judge = plan.judge().ok()?;
        let first = contest.best();
        let tips = tips(&contest);
        let homes = plan
            .packs
            .par_iter()
            .map(|pack| (get_home::get_home(plan, pack), get_home::margin(plan, pack)));
        let times = moments::times(&plan.day, MOMENTS);
        let told = plan.packs.par_iter().map(|pack| {
            let is_used = judge.in_use(pack);
            // A pack that is set aside has no day.
            if is_used {
                moments::moments(&judge, pack, &times).unwrap_or_default()
            } else {
                Vec::new()
            }
        });
        Some(Self {
            homes: homes.collect(),
            moments: told.collect(),
            chances: sure::chances(&contest).ok()?,
            nearest: nearest::nearest(&contest),
            settle: settle::settle(&contest),
            to_measure: first.map_or_else(Vec::new, |first| {
                sure::to_measure(&contest, first).unwrap_or_default()
            }),
            speeds: moments::speeds(&judge, &times),
            times,
            tips,
            maps: Mutex::default(),
        })
    }

    /// Who comes first over two drivers; worked out when it is first asked for.
    pub(crate) fn map(&self, plan: &Plan, across: Driver, down: Driver) -> Option<Arc<Map>> {
        let mut maps = self.maps.lock().unwrap_or_else(PoisonError::into_inner);
        let known = maps.iter().find(|m| (m.across.0, m.down.0) == (across, down));
        if let Some(map) = known {
            return Some(Arc::clone(map));
        }
        let map = Arc::new(tipping::map(&Contest::of(plan).ok()?, across, down, CELLS)?);
        maps.push(Arc::clone(&map));
        Some(map)
    }
}

/// What each driver does to the answer, the nearest change first.
pub(crate) fn tips(contest: &Contest) -> Vec<Tipping> {
    let mut tips: Vec<Tipping> = Driver::ALL
        .into_par_iter()
        .filter_map(|driver| tipping::tipping(contest, driver))
        .collect();
    tips.sort_by(|a, b| {
        let far = |t: &Tipping| t.distance().unwrap_or(f64::INFINITY);
        far(a).total_cmp(&far(b))
    });
    tips
}

/// The packs that stand on the Board, with the what-ifs: those put out of sight are in no contest.
#[derive(Debug, Clone)]
pub(crate) struct OnBoard {
    pub(crate) plan: Plan,
    pub(crate) ids: Vec<PackId>,
}

impl OnBoard {
    pub(crate) fn of(board: &Board, view: View, units: System) -> Self {
        Self::shown(&view.nudges.applied(&board.plan, units), board)
    }

    /// The same of a plan with all of a board's packs, changed as it may be.
    pub(crate) fn shown(plan: &Plan, board: &Board) -> Self {
        let mut plan = plan.with_parts_counted().into_owned();
        let all = std::iter::zip(std::mem::take(&mut plan.packs), &board.packs);
        let (packs, ids) = all.filter(|(pack, _)| pack.shown != Shown::Hidden).unzip();
        plan.packs = packs;
        Self { plan, ids }
    }

    /// Where each stands; nothing where no pack can be judged.
    pub(crate) fn standings(&self) -> Vec<Standing> {
        Contest::of(&self.plan).map_or_else(|_| Vec::new(), |contest| contest.standings())
    }
}

type Cell = Arc<OnceLock<Option<Weighed>>>;

/// What was weighed already, by plan; those not asked for longest are dropped.
#[derive(Debug, Clone, Default)]
pub(crate) struct Weighing(Arc<Mutex<Vec<(Plan, Cell)>>>);

impl Weighing {
    /// The place of a plan's.
    fn of(&self, plan: &Plan) -> Cell {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(at) = all.iter().position(|(known, _)| known == plan) {
            all[..=at].rotate_right(1);
            return Arc::clone(&all[0].1);
        }
        let cell = Cell::default();
        all.insert(0, (plan.clone(), Arc::clone(&cell)));
        all.truncate(MOST_KEPT);
        cell
    }
}

/// What was weighed.
#[derive(Debug, Clone)]
pub(crate) struct Scales(Cell);

impl Scales {
    /// `None` where it is not there yet, or where no pack can be judged.
    pub(crate) fn weighed(&self) -> Option<&Weighed> {
        self.0.get()?.as_ref()
    }

    /// Whether it is there, whatever came of it.
    pub(crate) fn are_ready(&self) -> bool {
        self.0.get().is_some()
    }
}

impl App {
    /// What is weighed of a Board already.
    pub(crate) fn scales(&self, board: &OnBoard) -> Scales {
        Scales(self.weighing.of(&board.plan))
    }

    /// The same, waited for. Whoever asks first works it out, the others wait.
    pub(crate) async fn scales_ready(&self, board: OnBoard) -> Result<Scales, PageError> {
        let scales = self.scales(&board);
        let Scales(cell) = scales.clone();
        self.working(move || {
            cell.get_or_init(|| Weighed::of(&board.plan));
        })
        .await?;
        Ok(scales)
    }
}
