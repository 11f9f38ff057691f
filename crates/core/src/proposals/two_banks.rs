//! Two banks in turn: one is used to its floor, then the other, while the first is charged again; and the same two side
//! by side as one bank, to be held against it.
//!
//! Each bank goes through the law of its battery piece by piece. What charges goes to the bank that rests, and to the one
//! in use when that is full. A generator is started for the bank that rests (or for the one there is) when it is low enough
//! to be worth it, and stopped where its charge begins to taper; the rest is left to the sun and the shore. What a bank that
//! rests does not take any more, as it tapers, is lost.

use crate::day::SolarHour;
use crate::drawdown::{Bank, BankState, Demand, Ended, Guard, Leg, Summary, run_on};
use crate::pack::Pack;
use crate::plan::Plan;
use crate::refill::{self, charge::Charge};
use crate::rig::Supply;
use crate::units::{AmpHours, Amps, Hours, WattHours, Watts};

/// Longest that is gone through in one piece. [h]
const STEP: f64 = 0.25;
/// Shorter pieces are none. [h]
const SHORTEST: f64 = 1e-6;
/// A bank counts as full this near its ceiling: a taper never gets there.
const NEARLY: f64 = 0.005;
/// A bank is worth switching to with this much above its floor. A choice.
const WORTH: f64 = 0.02;
/// The generator is started for a bank this far below where it would be stopped, or half of the way up from the floor
/// where that is less. A choice.
const IN_NEED: f64 = 0.1;
/// What lead gives up of its cycles when it never gets its last part: about half. Common practice, no source.
pub const CYCLES_LEFT: f64 = 0.5;

/// What charges, and when.
#[derive(Debug, Clone, PartialEq)]
pub struct Sources {
    /// Minute of the day at which the days begin, and how long each of them is: the night is the rest. [min], [h]
    pub days: (u16, Hours),
    /// What the sun gives by the clock: as the day tells it, else by the panels of the rig.
    pub sun: Vec<SolarHour>,
    /// A generator's charger: its current into one bank, and for how many hours a day it may run. [A], [h]
    pub generator: Option<(Amps, Option<Hours>)>,
    /// A charger on shore in the nights: its current into one bank, and for how long. [A], [h]
    pub shore: Option<(Amps, Hours)>,
}

impl Sources {
    /// All that the rig and the day tell of, for a bank that is this pack.
    pub fn of(plan: &Plan, bank: &Pack) -> Self {
        let on = |supply| refill::strongest_on(&plan.rig, bank, supply);
        let night = plan.day.night();
        Self {
            days: (plan.day.start_minute, plan.day.lasts().min(Hours::of(24.0))),
            sun: match on(Supply::Solar) {
                Some((panels, amps)) if plan.day.solar.is_empty() => {
                    around_noon(bank.voltage() * amps, panels.hours.unwrap_or(SUNNY))
                }
                _ => plan.day.solar.clone(),
            },
            generator: on(Supply::Generator).map(|(charger, amps)| (amps, charger.hours)),
            shore: on(Supply::Mains)
                .map(|(charger, amps)| (amps, charger.hours.map_or(night, |h| h.min(night))))
                .filter(|(_, hours)| *hours > Hours::ZERO),
        }
    }
}

/// Hours of full sun on a fair summer's day where none are told. Typical, from memory. [h]
const SUNNY: Hours = Hours::of(5.0);

/// Panels that give their power for so many hours around noon.
fn around_noon(power: Watts, hours: Hours) -> Vec<SolarHour> {
    let half = (hours.minutes() / 2.0).min(720.0);
    let at = |minute: f64, power| SolarHour { from_minute: minute as u32, power };
    // Of the day that begins before this noon, and of one that begins after it.
    let noons = [720.0, 2160.0].into_iter();
    noons.flat_map(|noon| [at(noon - half, power), at(noon + half, Watts::ZERO)]).collect()
}

/// A time in which one bank was used, or the generator ran.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Span {
    /// From the start. [h]
    pub from: Hours,
    /// Likewise. [h]
    pub to: Hours,
}

/// One bank through the days.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Lane {
    /// Its charge, 0 to 1, at hours from the start.
    pub charge: Vec<(Hours, f64)>,
    /// When it was used.
    pub used: Vec<Span>,
    /// The most that it held since it was first used to its floor; `None` where it never was, or had no time to be filled.
    pub highest_since: Option<f64>,
    /// Drawn from it, and put in. [Ah]
    pub drawn: AmpHours,
    /// Put in. [Ah]
    pub charged: AmpHours,
}

/// Banks through the days: two in turn, or one.
#[derive(Debug, Clone, PartialEq)]
pub struct Run {
    /// Bank by bank.
    pub lanes: Vec<Lane>,
    /// When the generator ran.
    pub generator: Vec<Span>,
    /// When all were at their floor and the rest could not be done. [h]
    pub out_at: Option<Hours>,
    /// Drawn in all. [Wh]
    pub energy: WattHours,
    /// Put in by sun, generator and shore. [Ah]
    pub by_source: [AmpHours; 3],
}

impl Run {
    /// How long the generator ran. [h]
    pub fn generator_hours(&self) -> Hours {
        self.generator.iter().map(|s| s.to - s.from).sum()
    }

    /// How often another bank was taken.
    pub fn switches(&self) -> usize {
        self.lanes.iter().map(|l| l.used.len()).sum::<usize>().saturating_sub(1)
    }

    /// The lowest charge of any bank, 0 to 1.
    pub fn lowest(&self) -> f64 {
        let all = self.lanes.iter().flat_map(|l| &l.charge);
        all.map(|(_, charge)| *charge).fold(1.0, f64::min)
    }
}

/// What it costs that a bank never gets its last part.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct NeverFull {
    /// The most that it held again, 0 to 1.
    pub highest: f64,
    /// What cannot be used of it each time. [Ah]
    pub lost: AmpHours,
    /// How long the generator would run for it, at a current that tapers; `None` where there is no generator. [h]
    pub generator: Option<Hours>,
}

/// Two banks, in turn and side by side.
#[derive(Debug, Clone, PartialEq)]
pub struct TwoBanks {
    /// For how long. [h]
    pub lasts: Hours,
    /// Of each, where it stays for its life, and up to where it is charged: shares.
    pub between: (f64, f64),
    /// One after the other.
    pub in_turn: Run,
    /// Side by side as one.
    pub together: Run,
    /// Told of lead that is not filled in these days.
    pub never_full: Option<NeverFull>,
}

/// Goes through the days of a plan with two banks, each of which is this pack; `None` where a day's draw or a battery's
/// capacity is not known, or there is nothing to go through.
pub fn two_banks(plan: &Plan, bank: &Pack, sources: &Sources) -> Option<TwoBanks> {
    // What charges is handed out here, and not in the legs.
    let mut bare = plan.clone();
    bare.day.solar.clear();
    bare.day.charging.clear();
    bare.day.charge_overnight = false;
    let judge = bare.judge().ok()?;
    let both = Pack { parallel: bank.parallel * 2, ..bank.clone() };
    let (one, guard, legs) = judge.bank_and_legs(bank, &both).ok()?;
    let (doubled, wide, _) = judge.bank_and_legs(&both, &both).ok()?;
    let lasts: Hours = legs.iter().map(|l| l.hours).sum();
    if lasts <= Hours::ZERO {
        return None;
    }
    let ceiling = plan.rules.ceiling(bank.battery.chemistry);
    let run = |bank: &Bank, count: usize, guard: &Guard| {
        let from = plan.day.start_charge.unwrap_or(ceiling);
        let banks = Banks { bank, guard, ceiling, sources };
        banks.run(&legs, vec![bank.at(from); count])
    };
    let in_turn = run(&one, 2, &guard);
    let highest = in_turn.lanes.iter().filter_map(|l| l.highest_since).reduce(f64::min);
    let facts = bank.battery.chemistry.facts();
    let charges = !sources.sun.is_empty() || sources.generator.is_some() || sources.shore.is_some();
    let never_full =
        highest.filter(|h| charges && facts.lead && *h < ceiling - WORTH).map(|highest| {
            let whole = AmpHours::of(one.amp_hours(1.0));
            let generator = sources.generator.and_then(|(current, _)| {
                let charge = Charge { capacity: whole, current, accepts: facts.acceptance };
                Some(charge.hours(highest, ceiling)?.total())
            });
            NeverFull { highest, lost: whole * (ceiling - highest), generator }
        });
    Some(TwoBanks {
        lasts,
        between: (guard.floor, ceiling),
        in_turn,
        together: run(&doubled, 1, &wide),
        never_full,
    })
}

/// Banks alike on the way through the days.
struct Banks<'a> {
    bank: &'a Bank,
    guard: &'a Guard,
    ceiling: f64,
    sources: &'a Sources,
}

/// What charges in one piece of time. [W], [A], [A]
#[derive(Clone, Copy)]
struct Given {
    sun: Watts,
    generator: Amps,
    shore: Amps,
}

/// Where a piece ended for the bank in use.
struct Used {
    state: BankState,
    hours: f64,
    /// At its floor, or opened.
    spent: bool,
    did: Summary,
}

impl Banks<'_> {
    fn share(&self, state: &BankState) -> f64 {
        self.bank.charge_share(state)
    }

    /// What the sun gives at a time of the days, each told as the first: nothing before its first hour, nor in the night
    /// after its last. [W]
    fn sun(&self, at: f64) -> Watts {
        let since = at.rem_euclid(24.0);
        let (start, lasts) = self.sources.days;
        let minute = f64::from(start) + since * 60.0;
        let told = &self.sources.sun;
        let now = told.iter().rposition(|s| f64::from(s.from_minute) <= minute + 1e-6);
        let over = now.is_some_and(|n| n + 1 == told.len()) && since >= lasts.value();
        now.filter(|_| !over).map_or(Watts::ZERO, |n| told[n].power)
    }

    /// The next time after `at` at which sun, shore or the day change. [h]
    fn next_cut(&self, at: f64) -> f64 {
        let day = (at / 24.0).floor() * 24.0;
        let (start, lasts) = (f64::from(self.sources.days.0), self.sources.days.1.value());
        let mut cuts = vec![lasts, 24.0];
        cuts.extend(self.sources.sun.iter().map(|s| (f64::from(s.from_minute) - start) / 60.0));
        cuts.extend(self.sources.shore.map(|(_, hours)| lasts + hours.value()));
        let after = cuts.iter().map(|c| day + c).filter(|c| *c > at + SHORTEST);
        after.fold(day + 24.0, f64::min)
    }

    /// A bank that may be charged, for a piece; never above its ceiling. The state, and what went in. [Ah]
    fn charged(
        &self,
        state: &BankState,
        leg: &Leg,
        given: Given,
        hours: f64,
    ) -> (BankState, AmpHours) {
        let demand = Demand::OFF.fed(given.generator + given.shore, given.sun);
        let leg = Leg { hours: Hours::of(hours), demand, ..*leg };
        let (summary, next) = run_on(self.bank, state, &[leg], &Guard::NONE);
        if summary.charge_left <= self.ceiling {
            return (next, summary.charged);
        }
        // Charge rises straight while nothing tapers, and slower after: by halving to the ceiling.
        let below = |h: f64| {
            let leg = Leg { hours: Hours::of(h), ..leg };
            run_on(self.bank, state, &[leg], &Guard::NONE).0.charge_left < self.ceiling
        };
        let until = crate::numeric::halved((0.0, hours), 40, below).0;
        let leg = Leg { hours: Hours::of(until), ..leg };
        let (summary, next) = run_on(self.bank, state, &[leg], &Guard::NONE);
        (next, summary.charged)
    }

    /// The bank in use, fed by what is left over, for a piece: until it is spent, or full again.
    fn used(&self, state: &BankState, leg: &Leg, given: Given, hours: f64) -> Used {
        let demand = leg.demand.fed(given.generator + given.shore, given.sun);
        let begins = self.share(state);
        let takes_charge = leg.takes_charge && begins < self.ceiling - NEARLY;
        let of = |hours: f64| {
            let leg = Leg { hours: Hours::of(hours), demand, takes_charge, ..*leg };
            run_on(self.bank, state, &[leg], self.guard)
        };
        let used = |hours: f64, spent: bool| {
            let (did, state) = of(hours);
            Used { state, hours, spent, did }
        };
        let whole = used(hours, false);
        let ends = match whole.did.ended {
            Ended::DayDone => None,
            Ended::Stopped { at, .. } | Ended::Tripped { at, .. } => Some(at),
        };
        // What is charged more than it gives is not spent, however low it begins.
        let floor = whole.did.floor_at.filter(|_| whole.did.charge_left < begins);
        match [floor, ends].into_iter().flatten().reduce(Hours::min) {
            Some(at) => used(at.value(), true),
            None if begins < self.ceiling && whole.did.charge_left > self.ceiling => {
                let below = |h: f64| of(h).0.charge_left < self.ceiling;
                used(crate::numeric::halved((0.0, hours), 40, below).0, false)
            }
            None => whole,
        }
    }

    fn run(&self, legs: &[Leg], mut states: Vec<BankState>) -> Run {
        let alone = states.len() == 1;
        let mut run = Run {
            lanes: vec![Lane::default(); states.len()],
            generator: Vec::new(),
            out_at: None,
            energy: WattHours::ZERO,
            by_source: [AmpHours::ZERO; 3],
        };
        let tapers_at = self.bank.stores_up_to().min(self.ceiling);
        let (mut at, mut now, mut running, mut ran_today) = (0.0_f64, 0_usize, false, 0.0_f64);
        let mut low_since: Vec<Option<f64>> = vec![None; states.len()];
        // Banks that were taken in vain, one after another.
        let (mut in_vain, mut today) = (0, 0.0_f64);
        let in_need = IN_NEED.min(0.5 * (tapers_at - self.guard.floor));
        self.note(&mut run, &states, at);
        for leg in legs {
            let mut left = leg.hours.value();
            while left > SHORTEST {
                let rests = if alone { now } else { 1 - now };
                // Pieces end where days do, to the last digits.
                let day = (at / 24.0 + SHORTEST).floor();
                if day > today {
                    (today, ran_today) = (day, 0.0);
                }
                let may = self
                    .sources
                    .generator
                    .map_or(0.0, |(_, h)| h.map_or(f64::INFINITY, Hours::value));
                let share = self.share(&states[rests]);
                let needs = share < tapers_at - if running { SHORTEST } else { in_need };
                running = needs && may - ran_today > SHORTEST;
                let mut hours = left.min(STEP).min(self.next_cut(at) - at);
                if running {
                    hours = hours.min(may - ran_today);
                }
                let since = at.rem_euclid(24.0);
                let night = since - self.sources.days.1.value();
                let shore = self
                    .sources
                    .shore
                    .filter(|(_, h)| (-SHORTEST..h.value() - SHORTEST).contains(&night));
                let given = Given {
                    sun: self.sun(at),
                    generator: self
                        .sources
                        .generator
                        .filter(|_| running)
                        .map_or(Amps::ZERO, |(a, _)| a),
                    shore: shore.map_or(Amps::ZERO, |(a, _)| a),
                };
                // The resting bank first: where the generator is to be stopped ends the piece.
                let full = share >= self.ceiling - NEARLY;
                let nothing = Given { sun: Watts::ZERO, generator: Amps::ZERO, shore: Amps::ZERO };
                let (to_rest, to_use) =
                    if alone || full { (nothing, given) } else { (given, nothing) };
                if running && !alone {
                    let reaches =
                        |h: f64| self.share(&self.charged(&states[rests], leg, to_rest, h).0);
                    if reaches(hours) > tapers_at {
                        hours =
                            crate::numeric::halved((0.0, hours), 40, |h| reaches(h) < tapers_at).1;
                    }
                }
                let used = self.used(&states[now], leg, to_use, hours);
                let hours = used.hours;
                let before = states[now];
                states[now] = used.state;
                run.lanes[now].drawn += used.did.delivered;
                run.lanes[now].charged += used.did.charged;
                run.energy += used.did.energy;
                let mut put_in = used.did.charged;
                if !alone {
                    let (next, charged) = self.charged(&states[rests], leg, to_rest, hours);
                    states[rests] = next;
                    run.lanes[rests].charged += charged;
                    put_in += charged;
                }
                let volts = self.bank.volts(&before, 0.0);
                share_out(&mut run.by_source, put_in, given, volts);
                let ends = at + hours;
                extend(&mut run.lanes[now].used, at, ends);
                if running {
                    extend(&mut run.generator, at, ends);
                    ran_today += hours;
                }
                at = ends;
                left -= hours;
                self.note(&mut run, &states, at);
                for (n, since) in low_since.iter().enumerate() {
                    let (lane, share) = (&mut run.lanes[n], self.share(&states[n]));
                    let highest = |h: f64| h.max(share);
                    lane.highest_since = since.map(|_| lane.highest_since.map_or(share, highest));
                }
                in_vain = if hours > SHORTEST { 0 } else { in_vain + 1 };
                if used.spent {
                    low_since[now].get_or_insert(at);
                    let other = if alone { None } else { Some(1 - now) };
                    let worth = |n: &usize| self.share(&states[*n]) > self.guard.floor + WORTH;
                    match other.filter(worth) {
                        Some(other) if in_vain < 2 => now = other,
                        // Alone it may be carried by a generator that is started now.
                        None if alone
                            && !running
                            && may - ran_today > SHORTEST
                            && hours > SHORTEST => {}
                        _ => {
                            run.out_at = Some(Hours::of(at));
                            return had_a_chance(run, &low_since, at);
                        }
                    }
                }
            }
        }
        had_a_chance(run, &low_since, at)
    }

    fn note(&self, run: &mut Run, states: &[BankState], at: f64) {
        for (lane, state) in std::iter::zip(&mut run.lanes, states) {
            lane.charge.push((Hours::of(at), self.share(state)));
        }
    }
}

/// How full a bank became again is told only where it had the time for it: a day since it was first low, or until it was
/// taken again.
fn had_a_chance(mut run: Run, low_since: &[Option<f64>], ends: f64) -> Run {
    for (lane, since) in std::iter::zip(&mut run.lanes, low_since) {
        let again = |since: f64| lane.used.iter().any(|s| s.from.value() > since);
        let chance = since.is_some_and(|since| ends - since >= 24.0 || again(since));
        lane.highest_since = lane.highest_since.filter(|_| chance);
    }
    run
}

/// Who put in how much of it: by the amperes of each.
fn share_out(by: &mut [AmpHours; 3], put_in: AmpHours, given: Given, volts: f64) {
    let amps = [given.sun.value() / volts, given.generator.value(), given.shore.value()];
    let all: f64 = amps.iter().sum();
    if all > 0.0 {
        for (sum, amps) in std::iter::zip(by, amps) {
            *sum += put_in * (amps / all);
        }
    }
}

/// A time that goes on, or a new one.
fn extend(spans: &mut Vec<Span>, from: f64, to: f64) {
    match spans.last_mut() {
        Some(last) if (last.to.value() - from).abs() < SHORTEST => last.to = Hours::of(to),
        _ if to - from > SHORTEST => spans.push(Span { from: Hours::of(from), to: Hours::of(to) }),
        _ => {}
    }
}
