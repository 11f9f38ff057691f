//! All packs of a plan beside one another, and which of them comes first.

use super::pareto;
use crate::drawdown::{Ended, Fit, Summary, fit};
use crate::pack::limits::{self, SetAside};
use crate::pack::{Pack, stow};
use crate::plan::Plan;
use crate::proposals::failing::one_fails;
use crate::refill::Refill;
use crate::rig::Rig;
use crate::shelf::check::{self, DoubtKind, Sureness};
use crate::units::say::Say;
use crate::units::{Hours, Kilograms, Money};
use crate::verdict::{Does, Judge, Model, NoDrawCurve, Outcome, Survey};
use crate::wants::{Kind, Level, Want};
use std::cmp::Ordering;

/// How a pack answers one want.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Answer {
    /// Whether it has it; `None` where nothing tells.
    pub met: Option<bool>,
    /// How much of it there is, in the want's unit; `None` where nothing tells.
    pub value: Option<f64>,
}

/// A pack in the contest.
#[derive(Debug, Clone, PartialEq)]
pub struct Standing {
    /// Why it cannot be used; nothing more is told of it then.
    pub set_aside: Vec<SetAside>,
    /// Its day, its life, its money; absent when set aside.
    pub survey: Option<Survey>,
    /// One for each want, in the plan's order.
    pub answers: Vec<Answer>,
    /// Musts it does not meet, by their places among the wants.
    pub fails: Vec<usize>,
    /// Nices it meets.
    pub nices: usize,
    /// Another one that is as good in everything wanted and better in something; `None` where nothing beats it, or where
    /// it is out of the running.
    pub beaten_by: Option<usize>,
    /// Whether all its units fit the bays; `None` where no bay or no size is told. What is aboard fits.
    pub fits: Option<bool>,
    /// Its label is against physics or against itself, or it is made to start engines.
    pub doubted: bool,
    /// Weight of all its units.
    mass: Option<Kilograms>,
    slower_will_do: bool,
}

/// By what one pack comes before another.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Decided {
    /// The other one is out: it cannot be used or fails a must.
    Musts,
    /// It gets home above its floor, or at least gets home.
    Home,
    /// It fits the bays.
    Fit,
    /// Its label does not contradict itself.
    Label,
    /// It has more of what is nice to have.
    Nices,
    /// It costs less over the years looked ahead.
    Money,
    /// It is lighter.
    Weight,
    /// By its place on the Board.
    Place,
}

impl Standing {
    /// Whether it can be used and meets every must.
    pub fn is_in_the_running(&self) -> bool {
        self.survey.is_some() && self.fails.is_empty()
    }

    /// Money over the years looked ahead.
    pub fn over_years(&self) -> Option<Money> {
        Some(self.survey.as_ref()?.cost?.account.total)
    }

    /// 0 home above the floor with the day done as planned, 1 slower than that, 2 home below the floor, 3 not home, or not all done.
    ///
    /// Doing less work is never the better pack, unless its owner says that the slower speed will do.
    pub(super) fn arrives(&self) -> u8 {
        let Some(survey) = &self.survey else { return 3 };
        match (survey.outcome, survey.does) {
            (_, Does::NotAll) => 3,
            (Outcome::Home | Outcome::BelowReserve, Does::Slower) if !self.slower_will_do => 1,
            (Outcome::Home | Outcome::BelowReserve, _) => 0,
            (Outcome::BelowFloor, _) => 2,
            (Outcome::Stops | Outcome::Trips | Outcome::SetAside, _) => 3,
        }
    }

    /// Whether it gets home, all its work done, however deep.
    pub fn gets_home(&self) -> bool {
        self.arrives() < 3
    }

    /// Which of two comes first, and by what: musts, that it gets home, that it fits, that its label can be believed, how well it
    /// gets home, nices, money over the years, weight.
    pub fn compare(&self, other: &Self) -> (Ordering, Decided) {
        let known = |a: Option<f64>, b: Option<f64>| match (a, b) {
            (Some(a), Some(b)) => a.total_cmp(&b),
            (Some(_), None) => Ordering::Less,
            (None, Some(_)) => Ordering::Greater,
            (None, None) => Ordering::Equal,
        };
        let money = |s: &Self| s.over_years().map(Money::value);
        let mass = |s: &Self| s.mass.map(Kilograms::value);
        [
            (other.is_in_the_running().cmp(&self.is_in_the_running()), Decided::Musts),
            (other.gets_home().cmp(&self.gets_home()), Decided::Home),
            ((self.fits == Some(false)).cmp(&(other.fits == Some(false))), Decided::Fit),
            (self.doubted.cmp(&other.doubted), Decided::Label),
            (self.arrives().cmp(&other.arrives()), Decided::Home),
            (other.nices.cmp(&self.nices), Decided::Nices),
            (known(money(self), money(other)), Decided::Money),
            (known(mass(self), mass(other)), Decided::Weight),
        ]
        .into_iter()
        .find(|(order, _)| order.is_ne())
        .unwrap_or((Ordering::Equal, Decided::Place))
    }
}

/// What no day changes.
#[derive(Debug, Clone, PartialEq)]
struct Fixed {
    /// Whether all its units fit; one for each want that asks.
    fits: Vec<Option<bool>>,
    /// Whether it fits anywhere.
    stows: Option<bool>,
    doubted: bool,
    moves_on: bool,
}

/// All packs of a plan, judged on its day; what is asked anew is judged anew and nothing else.
#[derive(Debug, Clone)]
pub struct Contest {
    /// The plan. Whoever changes its rig, day, rules of charge or labels calls [`Self::run`] next; prices, terms of money,
    /// outings a year and wants are heard at once.
    pub plan: Plan,
    /// How many times as long as told each pack lives.
    pub lives: Vec<f64>,
    fits: Vec<Option<Fit>>,
    fixed: Vec<Fixed>,
    runs: Vec<Run>,
}

/// One pack's day.
#[derive(Debug, Clone)]
struct Run {
    set_aside: Vec<SetAside>,
    survey: Option<Survey>,
    to_spare: Option<Hours>,
    refill: Option<Refill>,
}

impl Contest {
    /// The packs of a plan on its day, each priced with what it needs.
    ///
    /// # Errors
    /// [`NoDrawCurve`] as [`Judge::new`].
    pub fn of(plan: &Plan) -> Result<Self, NoDrawCurve> {
        let plan = plan.with_parts_counted().into_owned();
        let fits = plan.packs.iter().map(|pack| fit(&pack.battery).ok()).collect();
        let fixed = plan.packs.iter().map(|pack| fixed(&plan, pack)).collect();
        let lives = vec![1.0; plan.packs.len()];
        let mut contest = Self { plan, lives, fits, fixed, runs: Vec::new() };
        contest.run()?;
        Ok(contest)
    }

    /// What judges its packs, with what is fitted of each that can be used.
    pub(super) fn judged(&self) -> Result<(Judge, Vec<Option<Model>>), NoDrawCurve> {
        let judge = self.plan.judge()?;
        let models = std::iter::zip(&self.plan.packs, &self.fits)
            .zip(&self.runs)
            .map(|((pack, fit), run)| {
                run.survey.as_ref()?;
                Some(judge.model_of(fit.clone()?, &pack.battery))
            })
            .collect();
        Ok((judge, models))
    }

    /// Of each pack, whether a place is not held or a speed not made on it, however much it holds.
    pub(super) fn not_all_done(&self) -> Vec<bool> {
        let does = self.runs.iter().map(|run| run.survey.as_ref().map(|s| s.does));
        does.map(|does| does == Some(Does::NotAll)).collect()
    }

    /// One day of a pack as it went, in the place of the likely one.
    pub(super) fn went(&mut self, pack: usize, outcome: Outcome, summary: &Summary) {
        if let Some(survey) = &mut self.runs[pack].survey {
            survey.outcome = outcome;
            survey.summary.ended = summary.ended;
            survey.summary.charge_left = summary.charge_left;
        }
    }

    /// A pack at usual prices that lie off by these shares, of its batteries and of what it needs besides. What was told stays.
    pub(super) fn paid(&mut self, n: usize, as_planned: &Pack, batteries: f64, needs: f64) {
        let pack = &mut self.plan.packs[n];
        if as_planned.battery.price_is_usual() {
            pack.battery.price = as_planned.battery.price.map(|price| price * (1.0 + batteries));
        }
        let usual = as_planned.extras.assumed;
        if usual > Money::ZERO {
            let other = as_planned.extras.other.unwrap_or(Money::ZERO);
            pack.extras.other = Some(other + usual * needs);
        }
    }

    /// Judges all packs anew.
    ///
    /// # Errors
    /// As [`Self::of`].
    pub fn run(&mut self) -> Result<(), NoDrawCurve> {
        let judge = self.plan.judge()?;
        let wanted = |kind: Kind| self.plan.wants.iter().any(|w| w.counts() && w.kind == kind);
        let (long, full) = (wanted(Kind::Long), wanted(Kind::FullBy));
        self.runs = std::iter::zip(&self.plan.packs, &self.fits)
            .map(|(pack, fit)| run(&judge, pack, fit.as_ref(), long, full))
            .collect();
        Ok(())
    }

    /// Where every pack stands, in the plan's order.
    pub fn standings(&self) -> Vec<Standing> {
        let rules = self.plan.rules_filled();
        let per_year = self.plan.day.outings_per_year;
        let mut all: Vec<Standing> = (0..self.plan.packs.len())
            .map(|n| {
                let (pack, run) = (&self.plan.packs[n], &self.runs[n]);
                let lived = |s: Survey| s.lived(pack, &rules, per_year, self.lives[n]);
                let survey = run.survey.clone().map(lived);
                self.standing(pack, survey, run, &self.fixed[n])
            })
            .collect();
        let beaten = pareto::beaten(&self.plan.wants, &all);
        for (standing, by) in std::iter::zip(&mut all, beaten) {
            standing.beaten_by = by;
        }
        all
    }

    fn standing(&self, pack: &Pack, survey: Option<Survey>, run: &Run, fixed: &Fixed) -> Standing {
        let mut fits = fixed.fits.iter();
        let answers: Vec<Answer> = (self.plan.wants.iter())
            .map(|want| {
                let fits = if want.kind == Kind::Fits { fits.next().copied() } else { None };
                match &survey {
                    Some(survey) => answer(
                        want,
                        pack,
                        survey,
                        run,
                        (fits.flatten(), fixed.moves_on),
                        &self.plan,
                    ),
                    None => Answer { met: None, value: None },
                }
            })
            .collect();
        let of = |level: Level| {
            std::iter::zip(&self.plan.wants, &answers)
                .enumerate()
                .filter(move |(_, (want, _))| want.level == level)
        };
        let fails = of(Level::Must).filter(|(_, (_, a))| a.met != Some(true)).map(|(n, _)| n);
        let fails = if survey.is_some() { fails.collect() } else { Vec::new() };
        let nices = of(Level::Nice).filter(|(_, (_, a))| a.met == Some(true)).count();
        Standing {
            set_aside: run.set_aside.clone(),
            survey,
            fails,
            nices,
            beaten_by: None,
            fits: fixed.stows,
            doubted: fixed.doubted,
            mass: pack.mass(),
            slower_will_do: self.plan.day.slower_will_do,
            answers,
        }
    }

    /// The places of all packs that are in the running, best first.
    pub fn order(standings: &[Standing]) -> Vec<usize> {
        let mut order: Vec<usize> =
            (0..standings.len()).filter(|n| standings[*n].is_in_the_running()).collect();
        order.sort_by(|a, b| standings[*a].compare(&standings[*b]).0);
        order
    }

    /// The pack that comes first of those that get home and fit; `None` where none does.
    pub fn best(&self) -> Option<usize> {
        Self::first(&self.standings())
    }

    /// The same of standings that are known.
    pub fn first(standings: &[Standing]) -> Option<usize> {
        let first = Self::order(standings).first().copied();
        first.filter(|n| standings[*n].gets_home() && standings[*n].fits != Some(false))
    }
}

fn fixed(plan: &Plan, pack: &Pack) -> Fixed {
    let wants = plan.wants.iter().filter(|w| w.kind == Kind::Fits);
    let holds = |room: stow::Room| room.most >= pack.units();
    let anywhere = stow::room(&plan.rig, &pack.battery).map(holds);
    let fits = wants.map(|w| match &w.bay {
        None => anywhere,
        Some(name) => {
            let bays = plan.rig.bays.iter().filter(|b| b.name == *name).cloned().collect();
            stow::room(&Rig { bays, ..plan.rig.clone() }, &pack.battery).map(holds)
        }
    });
    let fits = fits.collect();
    let stows = if pack.aboard { Some(true) } else { anywhere };
    let doubts = check::doubts(&pack.battery, None, Say::plain(&plan.currency));
    // Whoever measured it need not believe its label.
    let measured = pack.aboard || pack.health.doubt < 1.0;
    let doubted = !measured
        && doubts
            .iter()
            .any(|d| d.sure == Sureness::CannotBe || d.kind == DoubtKind::MadeForStarting);
    Fixed { fits, stows, doubted, moves_on: one_fails(pack, &plan.rig).is_some() }
}

fn run(judge: &Judge, pack: &Pack, fit: Option<&Fit>, long: bool, full: bool) -> Run {
    let set_aside = limits::set_aside(pack, judge.rig());
    let Some(fit) = fit.filter(|_| set_aside.is_empty()) else {
        return Run { set_aside, survey: None, to_spare: None, refill: None };
    };
    let model = judge.model_of(fit.clone(), &pack.battery);
    let survey = judge.survey(pack, &model);
    let to_spare = if long { judge.hours_to_spare(pack, &model) } else { None };
    let refill = full.then(|| judge.refill(pack, &model, &survey.summary));
    Run { set_aside, survey: Some(survey), to_spare, refill }
}

/// How a pack that can be used answers a want.
fn answer(
    want: &Want,
    pack: &Pack,
    survey: &Survey,
    run: &Run,
    (fits, moves_on): (Option<bool>, bool),
    plan: &Plan,
) -> Answer {
    let at_least =
        |value: Option<f64>| Answer { met: value.map(|v| v >= want.limit - 1e-9), value };
    let at_most = |value: Option<f64>| Answer { met: value.map(|v| v <= want.limit + 1e-9), value };
    let is = |met: Option<bool>| Answer { met, value: met.map(f64::from) };
    match want.kind {
        Kind::HomeWith if survey.summary.ended != Ended::DayDone || survey.does == Does::NotAll => {
            Answer { met: Some(false), value: None }
        }
        // What is out of reach, or below the lowest charge for its life, brings nobody home.
        Kind::HomeWith => {
            let floor = plan.rules.floor(pack.battery.chemistry);
            let left = survey.summary.charge_left - survey.kept_back;
            at_least(Some((left - floor).max(0.0)))
        }
        // Nothing drawn at all goes on for ever.
        Kind::Long => at_least(Some(run.to_spare.map_or(f64::INFINITY, Hours::value))),
        Kind::Light => at_most(pack.mass().map(Kilograms::value)),
        Kind::Liftable => at_most(pack.battery.mass.map(Kilograms::value)),
        Kind::Fits => is(fits),
        Kind::CheapNow => at_most(plan.rules.money.paid_now(pack).map(Money::value)),
        Kind::CheapOverYears => at_most(survey.cost.map(|c| c.account.total.value())),
        Kind::MovesOn => is(Some(moves_on)),
        Kind::FullBy => full_by(want.limit, run.refill.as_ref(), plan),
        Kind::Monitor => is(pack.battery.monitor),
        Kind::Warranty => at_least(pack.battery.warranty_total.or(pack.battery.warranty_full)),
        Kind::Few => at_most(Some(f64::from(pack.units()))),
        Kind::NoLead => is(Some(!pack.battery.chemistry.is_lead())),
    }
}

/// Whether a charger aboard has it charged by a minute of the day after take-out; its value the hours that takes.
fn full_by(minute: f64, refill: Option<&Refill>, plan: &Plan) -> Answer {
    let Some(refill) = refill.filter(|r| r.by.is_some()) else {
        return Answer { met: None, value: None };
    };
    let take_out = f64::from(plan.day.start_minute) + plan.day.span().minutes();
    let wait = Hours::from_minutes((minute - take_out).rem_euclid(1440.0));
    let full = refill.reached >= refill.to - 0.005;
    Answer { met: Some(full && refill.elapsed <= wait), value: Some(refill.elapsed.value()) }
}
