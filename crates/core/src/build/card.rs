//! A card for the pocket: hours and miles left at each setting for each charge, where to turn back, what to do when it stops.
//!
//! Every figure is that of a day like any other: one stretch at the setting in calm water, or the planned day's own rounds at that
//! speed, their hills, stops and ground, with its devices on, begun at that charge; what is told is the plan's own hours at this
//! pace.

use crate::day::{Accessory, Conditions, Day, Duty, Heading, Stretch};
use crate::decide::moments::{self, Moment};
use crate::drawdown;
use crate::pack::Pack;
use crate::plan::{Plan, leads_back};
use crate::propulsion;
use crate::units::convert::MS_PER_MPH;
use crate::units::{AmpHours, Hours, Metres, MetresPerSecond, Volts};
use crate::verdict::Judge;

/// Charges that the card tells of, in hundredths, full first.
pub const LEVELS: [u32; 20] =
    [100, 95, 90, 85, 80, 75, 70, 65, 60, 55, 50, 45, 40, 35, 30, 25, 20, 15, 10, 5];
/// Those of them that are printed.
pub const PRINTED: [u32; 6] = [100, 80, 60, 50, 40, 30];
/// Speeds that a card on wheels tells of. [mph]
const SPEEDS: [f64; 5] = [5.0, 8.0, 10.0, 12.0, 15.0];
/// Settings of a stepless motor that the card tells of, fast first.
const SETTINGS: [f64; 10] = [10.0, 9.0, 8.0, 7.0, 6.0, 5.0, 4.0, 3.0, 2.0, 1.0];
/// The stretch is told in one piece of so long and begun anew: shorter ones change nothing. [h]
const PIECE: Hours = Hours::of(10.0);
/// After so long under a load volts are read. [h]
const SETTLED: f64 = 0.05;

/// What is driven at.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Pace {
    /// A setting of the motor.
    Setting(f64),
    /// A speed on the roads of the planned day. [m/s]
    Speed(MetresPerSecond),
}

/// One charge at one pace.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Left {
    /// Hours until the floor or the end; 0 at or below the floor, `None` where next to nothing is drawn. [h]
    pub hours: Option<Hours>,
    /// How far that goes; `None` where no speed can be told. [m]
    pub distance: Option<Metres>,
    /// Volts under that load after some minutes; `None` where it cannot give it. [V]
    pub volts: Option<Volts>,
}

/// A pace, and what is left at it for each of [`LEVELS`].
#[derive(Debug, Clone, PartialEq)]
pub struct Line {
    /// What is driven at.
    pub pace: Pace,
    /// Its speed in calm water or on the road, if it can be told. [m/s]
    pub speed: Option<MetresPerSecond>,
    /// For each charge.
    pub left: Vec<Left>,
}

/// Where today's route turns back.
#[derive(Debug, Clone, PartialEq)]
pub struct Turn {
    /// The stretch that leads home.
    pub home: String,
    /// When it begins by the plan, after the start. [h]
    pub at: Hours,
    /// Charge by then, by the plan, 0 to 1.
    pub charge: f64,
    /// What the way home takes of the charge, 0 to 1.
    pub takes: f64,
    /// At this charge one turns back at the latest to be home with the reserve intact, 0 to 1; above what there is by the
    /// plan where the day goes into the reserve.
    pub turn_at: f64,
}

/// The card.
#[derive(Debug, Clone, PartialEq)]
pub struct Card {
    /// Fast first.
    pub lines: Vec<Line>,
    /// Charge that stays in the battery, 0 to 1.
    pub floor: f64,
    /// Charge below which the reserve is touched on the planned day.
    pub reserve: f64,
    /// Charge below which nothing is within reach at the end of the planned day, 0 to 1.
    pub out_of_reach: f64,
    /// Volts tell something of its charge: it is lead.
    pub by_volts: bool,
    /// The way home of the planned day; `None` where nothing is driven, or it cannot be driven from there.
    pub turn: Option<Turn>,
}

impl Pace {
    /// The day that the card tells of at this pace: the plan's, one stretch long; on wheels its rounds at that speed, as far as they
    /// are told, without their pauses.
    pub fn day(self, of: &Day) -> Day {
        let one = |duty| Stretch { heading: Heading::Across, ..Stretch::new("So on", PIECE, duty) };
        let stretches = match self {
            Self::Setting(setting) => vec![one(Duty::Setting(setting))],
            Self::Speed(speed) => {
                let rounds: Vec<Stretch> =
                    of.stretches.iter().filter_map(|s| at_speed(s, speed)).collect();
                if rounds.is_empty() { vec![one(Duty::Speed(speed))] } else { rounds }
            }
        };
        let devices = of.accessory_power();
        let mut day = Day::starting_at(of.start_minute);
        day.ambient = of.ambient.or(of.conditions.air);
        day.battery_start = of.battery_start;
        day.stretches = stretches;
        if devices.value() > 0.0 {
            let name = "Devices".to_owned();
            day.accessories =
                vec![Accessory { name, power: devices, hours: None, on_house: false }];
        }
        day
    }
}

/// A stretch at another speed, as far as before; `None` where it is not told how far it is.
fn at_speed(stretch: &Stretch, speed: MetresPerSecond) -> Option<Stretch> {
    let far = match stretch.duty {
        Duty::Distance(far) => far.value(),
        _ if stretch.far.is_some() => stretch.far?.value(),
        Duty::Speed(v) => v.value() * stretch.lasts.value() * 3600.0 * stretch.share,
        _ => return None,
    };
    let lasts = Hours::of(far / speed.value() / 3600.0);
    (far > 0.0).then(|| Stretch { lasts, duty: Duty::Speed(speed), share: 1.0, ..stretch.clone() })
}

/// The paces of a plan that its motor can drive.
fn paces(plan: &Plan) -> Vec<Pace> {
    let motor = &plan.rig.motor;
    if !plan.rig.craft.kind.is_boat() {
        let all = SPEEDS.into_iter().rev().map(|mph| MetresPerSecond::of(mph * MS_PER_MPH));
        let rig = plan.rig_as_measured();
        let drives = |speed: &MetresPerSecond| {
            let rounds = Pace::Speed(*speed).day(&plan.day).stretches;
            let drawn = |s| propulsion::drawn(&rig, s, &Conditions::CALM);
            rounds.iter().all(|s| drawn(s).is_some_and(|implied| !implied.too_much))
        };
        return all.filter(drives).map(Pace::Speed).collect();
    }
    if !motor.draw_is_known() {
        return Vec::new();
    }
    let mut settings: Vec<f64> = SETTINGS.iter().map(|s| motor.nearest_setting(*s)).collect();
    settings.dedup();
    settings.into_iter().map(Pace::Setting).collect()
}

/// The card of a pack on a plan; `None` where it cannot be used, or what its motor draws is not known.
pub fn card(plan: &Plan, pack: &Pack) -> Option<Card> {
    let judge = plan.judge().ok()?;
    if !judge.in_use(pack) {
        return None;
    }
    let lines: Option<Vec<Line>> = paces(plan).into_iter().map(|p| line(plan, pack, p)).collect();
    let lines = lines?;
    let rules = judge.rules();
    let chemistry = pack.battery.chemistry;
    let (bank, guard, legs) = judge.bank_and_legs(pack, pack).ok()?;
    let out_of_reach = crate::verdict::unreachable(&bank, &legs).max(0.0);
    let reserve = guard.reserve;
    Some(Card {
        lines,
        floor: rules.floor(chemistry),
        reserve,
        out_of_reach,
        by_volts: chemistry.is_lead(),
        turn: turn(&judge, pack, reserve),
    })
}

fn line(plan: &Plan, pack: &Pack, pace: Pace) -> Option<Line> {
    let day = pace.day(&plan.day);
    let judge = Judge::beside(&plan.rig, &day, &plan.rules_filled(), plan.aboard()).ok()?;
    let (bank, guard, legs) = judge.bank_and_legs(pack, pack).ok()?;
    let implied = propulsion::of_day(judge.rig(), &day);
    let speed = implied.first()?.as_ref()?.speed;
    let left = LEVELS.iter().map(|percent| {
        let share = f64::from(*percent) / 100.0;
        let from = bank.at(share);
        let hours = drawdown::hours_at_this_pace(&bank, &from, &legs, &guard, crate::day::LONGEST);
        let mut volts = None;
        let first = legs.first().map(|leg| drawdown::Leg { hours: Hours::of(SETTLED), ..*leg });
        let (summary, _) = drawdown::run_watched(&bank, &from, first.as_slice(), &guard, |point| {
            volts = point.volts;
        });
        let whole = summary.delivered > AmpHours::ZERO;
        Left {
            hours,
            distance: hours.and_then(|h| Some(Metres::of(speed?.value() * h.value() * 3600.0))),
            volts: volts.filter(|_| whole),
        }
    });
    Some(Line { pace, speed, left: left.collect() })
}

/// Where the planned day turns for home, on wheels where its last round begins, as [`moments`] has it.
fn turn(judge: &Judge, pack: &Pack, reserve: f64) -> Option<Turn> {
    let day = judge.day();
    let home = leads_back(judge.rig(), day)?.start;
    let at: Hours = day.stretches[..home].iter().map(|s| s.lasts).sum();
    let told = moments::moments(judge, pack, &[Hours::ZERO, at]).ok()?;
    let Moment { charge, home_with, .. } = *told.last().filter(|_| told.len() == 2)?;
    let takes = charge - home_with?;
    let turn_at = reserve + takes;
    Some(Turn { home: day.stretches[home].name.clone(), at, charge, takes, turn_at })
}
