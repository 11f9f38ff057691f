//! What a decision rests on, worked out beside the requests: who comes first and what would change it, what would get each
//! pack home, how sure that is, and every pack at every moment of the day.

use crate::frame::App;
use crate::frame::error::PageError;
use crate::frame::heavy::{CalledOff, Work};
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
use std::sync::{Arc, Mutex, MutexGuard, OnceLock, PoisonError};

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
    fn of(plan: &Plan, work: &Work) -> Result<Option<Self>, CalledOff> {
        let (Ok(contest), Ok(judge)) = (Contest::of(plan), plan.judge()) else { return Ok(None) };
        let first = contest.best();
        let tips = tips(&contest, work)?;
        let homes = plan.packs.par_iter().map(|pack| {
            work.goes_on()?;
            Ok((get_home::get_home(plan, pack), get_home::margin(plan, pack)))
        });
        let times = moments::times(&plan.day, MOMENTS);
        let told = plan.packs.par_iter().map(|pack| {
            work.goes_on()?;
            let is_used = judge.in_use(pack);
            // A pack that is set aside has no day.
            Ok(if is_used {
                moments::moments(&judge, pack, &times).unwrap_or_default()
            } else {
                Vec::new()
            })
        });
        let homes = work.shared(|| homes.collect::<Result<_, CalledOff>>())?;
        let moments = work.shared(|| told.collect::<Result<_, CalledOff>>())?;
        work.goes_on()?;
        let Ok(chances) = sure::chances(&contest) else { return Ok(None) };
        work.goes_on()?;
        let nearest = nearest::nearest(&contest);
        work.goes_on()?;
        let settle = settle::settle(&contest);
        work.goes_on()?;
        let to_measure = first
            .map_or_else(Vec::new, |first| sure::to_measure(&contest, first).unwrap_or_default());
        Ok(Some(Self {
            homes,
            moments,
            chances,
            nearest,
            settle,
            to_measure,
            speeds: moments::speeds(&judge, &times),
            times,
            tips,
            maps: Mutex::default(),
        }))
    }

    fn maps(&self) -> MutexGuard<'_, Vec<Arc<Map>>> {
        self.maps.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Who comes first over two drivers, where that was worked out.
    pub(crate) fn map(&self, across: Driver, down: Driver) -> Option<Arc<Map>> {
        self.maps().iter().find(|m| (m.across.0, m.down.0) == (across, down)).map(Arc::clone)
    }
}

/// What each driver does to the answer, the nearest change first.
pub(crate) fn tips(contest: &Contest, work: &Work) -> Result<Vec<Tipping>, CalledOff> {
    let each = Driver::ALL.into_par_iter().map(|driver| {
        work.goes_on()?;
        Ok(tipping::tipping(contest, driver))
    });
    let all: Vec<Option<Tipping>> = work.shared(|| each.collect::<Result<_, CalledOff>>())?;
    let mut tips: Vec<Tipping> = all.into_iter().flatten().collect();
    tips.sort_by(|a, b| {
        let far = |t: &Tipping| t.distance().unwrap_or(f64::INFINITY);
        far(a).total_cmp(&far(b))
    });
    Ok(tips)
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

/// The place of one plan's: filled once, by one at a time.
#[derive(Debug, Default)]
struct Place {
    done: OnceLock<Option<Weighed>>,
    doing: tokio::sync::Mutex<()>,
}

type Cell = Arc<Place>;

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
        self.0.done.get()?.as_ref()
    }

    /// Whether it is there, whatever came of it.
    pub(crate) fn are_ready(&self) -> bool {
        self.0.done.get().is_some()
    }
}

impl App {
    /// What is weighed of a Board already.
    pub(crate) fn scales(&self, board: &OnBoard) -> Scales {
        Scales(self.weighing.of(&board.plan))
    }

    /// The same, waited for. Whoever asks first has it worked out, the others wait; where the first one goes, the next one does.
    pub(crate) async fn scales_ready(&self, board: OnBoard) -> Result<Scales, PageError> {
        let scales = self.scales(&board);
        let Scales(cell) = scales.clone();
        let _doing = cell.doing.lock().await;
        if !scales.are_ready() {
            let weighed = self.heavy.does(move |work| Weighed::of(&board.plan, work)).await?;
            let _ = cell.done.set(weighed);
        }
        Ok(scales)
    }

    /// The map over two drivers, where the plan is weighed already: worked out beside the pages.
    pub(crate) async fn map_ready(
        &self,
        board: OnBoard,
        (across, down): (Driver, Driver),
    ) -> Result<(), PageError> {
        let scales = self.scales(&board);
        let known =
            |scales: &Scales| scales.weighed().is_none_or(|w| w.map(across, down).is_some());
        if known(&scales) {
            return Ok(());
        }
        let Scales(cell) = scales.clone();
        let _doing = cell.doing.lock().await;
        if known(&scales) {
            return Ok(());
        }
        let map = self.heavy.does(move |work| {
            let goes_on = || work.goes_on().is_ok();
            let contest = Contest::of(&board.plan).ok();
            let map = contest.and_then(|c| tipping::map(&c, across, down, CELLS, &goes_on));
            work.goes_on()?;
            Ok(map)
        });
        if let (Some(map), Some(weighed)) = (map.await?, scales.weighed()) {
            weighed.maps().push(Arc::new(map));
        }
        Ok(())
    }
}
