//! What is to be told of a trip now: what is left, and by which way it gets home.

use super::home::Way;
use super::trip::{FarBy, Trip};
use super::watch::{Is, Warning};
use super::ways::Gear;
use super::{Left, Live};
use crate::drawdown::temperature::discharge_window;
use crate::propulsion::best_speed_against;
use crate::rig::Motor;
use crate::units::{Amps, Celsius, Hours, Metres, MetresPerSecond, Watts};
use crate::verdict::devices_draw;

/// Longer than this nobody looks ahead. [h]
pub const MOST: Hours = Hours::of(48.0);
/// Likelier than this it is called sure; a time to turn is reckoned with more, because what is said of it is read late.
pub const SURE: f64 = 0.90;
const SURE_TO_TURN: f64 = 0.97;
/// Less likely than this it does not arrive.
const AS_LIKELY: f64 = 0.5;
/// Slower than this over ground it gets nowhere. [m/s]
const NOWHERE: f64 = 0.1;
/// How far a cart's draw over the way home may be off, as a share of its speed: hills, stops and tires. Estimate.
const CART: f64 = 0.12;

/// How a way home ends, likely.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum End {
    /// Home, the reserve untouched.
    Keeps,
    /// Home on the reserve.
    IntoReserve,
    /// Home below the floor: it costs life.
    BelowFloor,
    /// It gives out so far from home. [m]
    Short(Metres),
    /// It does not get nearer.
    Backwards,
}

/// What is surely left on arrival.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Leaves {
    /// The reserve.
    Reserve,
    /// What stays in for its life.
    Floor,
    /// It gets home, and no more.
    Home,
    /// Not even that is sure.
    Nothing,
}

/// One way home.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Row {
    /// How it is driven.
    pub gear: Gear,
    /// What it takes of the pack. [A]
    pub current: Amps,
    /// Over ground. [m/s]
    pub speed: MetresPerSecond,
    /// How long it takes; `None` where it gets nowhere. [h]
    pub takes: Option<Hours>,
    /// The chance to arrive, 0 to 1.
    pub arrives: f64,
    /// The chance to arrive above the floor, and with the reserve untouched.
    pub keeps: (f64, f64),
    /// What is left on arrival.
    pub left: Option<Left>,
    /// How it ends, likely.
    pub end: End,
}

/// The way home.
#[derive(Debug, Clone, PartialEq)]
pub struct Home {
    /// How far it is. [m]
    pub far: Metres,
    /// How that is known.
    pub by: FarBy,
    /// Ways to drive it, the fastest first.
    pub rows: Vec<Row>,
    /// The one to take, by its place: the fastest that surely keeps the reserve, else that surely stays above the floor, else that
    /// surely arrives, else the likeliest.
    pub take: Option<usize>,
    /// How long it may go on as it does until it must turn to be home with the reserve, nothing where it should have turned by
    /// now; `None` on its way home. [h]
    pub turn: Option<Hours>,
    /// What that surely leaves.
    pub leaves: Leaves,
    /// The setting or speed that takes least a mile.
    pub cheapest: Option<(Gear, MetresPerSecond)>,
    /// At this and below it is driven back.
    pub too_slow: Option<Gear>,
    /// The steepest part of a cart's way: its grade, and what it takes there at the way to take. [A]
    pub hill: Option<(f64, Amps)>,
    /// What is left of the motor's power on arrival, of lead. [1]
    pub fades: Option<f64>,
}

/// All of it.
#[derive(Debug, Clone, PartialEq)]
pub struct Now {
    /// What is left.
    pub left: Left,
    /// What is drawn. [A]
    pub draw: Amps,
    /// How long it lasts at this pace, down to its floor: likely, and between which eight times in ten. [h]
    pub lasts: (Hours, [Hours; 2]),
    /// How far that is; `None` where it stands. [m]
    pub reach: Option<Metres>,
    /// Charge that stays in for its life.
    pub floor: f64,
    /// Charge of the reserve on the way home to take: as [`crate::house::HouseRules::reserve_level_over`].
    pub reserve: f64,
    /// Charge below which nothing is within reach at what is drawn now, in the cold that it began with, 0 to 1.
    pub out_of_reach: f64,
    /// The way home; `None` where its rig tells no way to drive.
    pub home: Option<Home>,
}

impl Trip {
    /// What is to be told now.
    pub fn now(&self) -> Now {
        let rules = &self.setup.plan.rules;
        let chemistry = self.pack.battery.chemistry;
        let floor = rules.floor(chemistry);
        let draw = self.live.draws();
        let lasts = self.live.lasts(draw, floor, MOST);
        let speed = self.speed().value();
        let reach = (speed > 0.2 && draw.value() > 0.0)
            .then(|| Metres::of(speed * lasts.0.value() * 3600.0));
        let home = self.home(floor);
        let taken = home.as_ref().and_then(|home| home.rows.get(home.take?));
        let reserve = self.reserve(taken.map_or(draw, |row| row.current));
        let out_of_reach = self.live.unreachable(draw).max(0.0);
        Now { left: self.left(), draw, lasts, reach, floor, reserve, out_of_reach, home }
    }

    /// Charge of the reserve on a way home at a current: what can be drawn of it then.
    fn reserve(&self, current: Amps) -> f64 {
        let chemistry = self.pack.battery.chemistry;
        self.setup.plan.rules.reserve_level_over(chemistry, self.live.unreachable(current))
    }

    fn home(&self, floor: f64) -> Option<Home> {
        let (far, by) = self.distance();
        let boat = self.setup.plan.rig.craft.kind.is_boat();
        let (parts, thirst) = (self.graded(), self.thirst());
        let ways = self.ways.all().filter_map(|(gear, amps, still)| {
            let way = if boat {
                let (speed, unsure) = self.pace.home(still);
                Way { current: amps, speed, unsure }
            } else {
                let (amps, _) = self.ways.over(still, &parts)?;
                Way { current: amps * thirst, speed: still, unsure: still * CART }
            };
            Some((gear, way))
        });
        let ways: Vec<(Gear, Way)> = ways.collect();
        if ways.is_empty() {
            return None;
        }
        let rows: Vec<Row> =
            ways.iter().map(|(gear, way)| self.row(*gear, *way, far, floor)).collect();
        let surely = |of: fn(&Row) -> f64| rows.iter().position(|row| of(row) >= SURE);
        let found = (surely(|row| row.keeps.1).map(|n| (Leaves::Reserve, n)))
            .or_else(|| surely(|row| row.keeps.0).map(|n| (Leaves::Floor, n)))
            .or_else(|| surely(|row| row.arrives).map(|n| (Leaves::Home, n)));
        let likeliest = || {
            let chances = rows.iter().enumerate();
            chances.max_by(|a, b| a.1.arrives.total_cmp(&b.1.arrives)).map(|(n, _)| n)
        };
        let (leaves, take) = match found {
            Some((leaves, n)) => (leaves, Some(n)),
            None => (Leaves::Nothing, likeliest()),
        };
        let outward = Way {
            current: self.live.draws(),
            speed: self.outward(),
            unsure: MetresPerSecond::ZERO,
        };
        // The thriftiest first: where that is sure no other is asked.
        let mut home: Vec<Way> = ways.iter().map(|(_, way)| *way).collect();
        home.retain(|way| way.speed.value() > NOWHERE);
        let a_metre = |w: &Way| w.current.value() / w.speed.value();
        home.sort_by(|a, b| a_metre(a).total_cmp(&a_metre(b)));
        home.truncate(2);
        let reserve = home.iter().map(|way| self.reserve(way.current)).fold(floor, f64::max);
        let turn = (!self.is_homeward())
            .then(|| self.live.turns_within((far, outward), &home, reserve, SURE_TO_TURN));
        let taken = take.and_then(|n| rows.get(n));
        let speed_taken = taken.map(|row| row.speed);
        let hill = speed_taken
            .filter(|_| !boat)
            .and_then(|v| self.ways.over(v, &parts))
            .map(|(_, (grade, amps))| (grade, amps * thirst))
            .filter(|(grade, _)| *grade > 0.02);
        Some(Home {
            far,
            by,
            take,
            turn,
            leaves,
            cheapest: boat.then(|| self.cheapest()).flatten(),
            too_slow: boat.then(|| self.too_slow()).flatten(),
            hill,
            fades: taken.and_then(|row| self.fades(row)),
            rows,
        })
    }

    fn row(&self, gear: Gear, way: Way, far: Metres, floor: f64) -> Row {
        let (live, reserve) = (&self.live, self.reserve(way.current));
        let moves = way.speed.value() > NOWHERE || far.value() <= 0.0;
        let hours = far.value() / way.speed.value() / 3600.0;
        let takes = if far.value() <= 0.0 { Some(Hours::ZERO) } else { Hours::try_new(hours).ok() };
        let takes = takes.filter(|hours| moves && *hours <= MOST);
        let [arrives, above, keeps] = [0.0, floor, reserve].map(|f| live.arrives(far, way, f));
        let left = takes.map(|hours| live.after(way.current, hours).left());
        let end = match (takes, left) {
            (None, _) | (_, None) => End::Backwards,
            (Some(_), Some(_)) if arrives < AS_LIKELY => {
                let lasts = live.lasts(way.current, 0.0, MOST).0;
                let gets = lasts.value() * 3600.0 * way.speed.value();
                // Its chance is a count over speeds that are not sure, its reach is of the likely one.
                End::Short(Metres::of((far.value() - gets).max(1.0)))
            }
            (Some(_), Some(left)) if left.charge < floor => End::BelowFloor,
            (Some(_), Some(left)) if left.charge < reserve => End::IntoReserve,
            _ => End::Keeps,
        };
        let (current, speed, keeps) = (way.current, way.speed, (above, keeps));
        Row { gear, current, speed, takes, arrives, keeps, left, end }
    }

    /// What takes least a mile against what is against it today.
    fn cheapest(&self) -> Option<(Gear, MetresPerSecond)> {
        let plan = &self.setup.plan;
        let against = MetresPerSecond::of((-self.pace.push().value()).max(0.0));
        let through = best_speed_against(&plan.rig, against, devices_draw(&plan.rig, &plan.day));
        let over = MetresPerSecond::of(through.value() - against.value());
        let settings = plan.rig.motor.draw_is_known();
        if !settings {
            return Some((Gear::Speed(over), over));
        }
        let near = whole(&plan.rig.motor).filter_map(|gear| self.ways.at(gear, Watts::ZERO));
        let off = |v: MetresPerSecond| (v.value() * self.pace.hull() - through.value()).abs();
        let nearest = near.min_by(|a, b| off(a.2).total_cmp(&off(b.2)))?;
        Some((nearest.0, over))
    }

    /// The highest setting at which it still does not get home.
    fn too_slow(&self) -> Option<Gear> {
        let motor = &self.setup.plan.rig.motor;
        if !motor.draw_is_known() {
            return None;
        }
        let each = whole(motor).filter_map(|gear| self.ways.at(gear, Watts::ZERO));
        let slow = each.filter(|(_, _, still)| self.pace.home(*still).0.value() <= NOWHERE);
        slow.map(|(gear, ..)| gear).last()
    }

    /// What is left of the motor's power at the volts of its arrival over those it is read at.
    fn fades(&self, row: &Row) -> Option<f64> {
        if !self.pack.battery.chemistry.is_lead() {
            return None;
        }
        let then: Live = self.live.after(row.current, row.takes?);
        let volts = then.volts_at(row.current)?;
        Some(self.setup.plan.rig.motor.fades_to(volts).min(1.0))
    }

    /// Looks at what is to be warned of, by what is told now.
    pub fn look(&mut self, now: &Now) {
        let at = self.at().value() * 3600.0;
        let sums = self.alarms(now);
        for (warning, is) in sums {
            // What was typed comes once, and is not waited for to hold.
            let grave = matches!(warning, Warning::ShutOff | Warning::SwitchNear | Warning::Knee);
            self.watch.look(warning, is, at, grave && !self.setup.sensed);
        }
    }

    fn alarms(&self, now: &Now) -> Vec<(Warning, Is)> {
        let charge = now.left.charge;
        let mut all = vec![
            (Warning::ShutOff, Is::of(self.has_shut_off())),
            (Warning::Floor, Is::below(charge, now.floor, now.floor + 0.03)),
            (Warning::Reserve, Is::below(charge, now.reserve, now.reserve + 0.03)),
            (Warning::Strays, Is::of(self.behind.is_some())),
            (Warning::SwitchNear, self.switch_near()),
        ];
        if !self.pack.battery.chemistry.is_lead() {
            all.push((Warning::Knee, Is::below(now.left.between.0, 0.10, 0.14)));
        }
        if let Some(warm) = self.last.warm.map(Celsius::value) {
            let window = discharge_window(&self.pack.battery);
            let (low, high) = (window.low.value(), window.high.value());
            all.push((Warning::Hot, Is::below(high - warm, 5.0, 8.0)));
            all.push((Warning::Cold, Is::below(warm - low, 2.0, 5.0)));
        }
        if let Some(silent) = self.silent_for() {
            // It has waited already.
            all.push((Warning::Silent, Is::of(silent.value() * 3600.0 > 1.0)));
        }
        if let Some(home) = now.home.as_ref().filter(|home| home.far.value() > 50.0) {
            let best = home.rows.iter().map(|row| row.arrives).fold(0.0, f64::max);
            all.push((Warning::NotHome, Is::below(best, AS_LIKELY, 0.70)));
            all.push((Warning::Turn, self.turn_now(home)));
        } else {
            all.push((Warning::NotHome, Is::Not));
            all.push((Warning::Turn, Is::Not));
        }
        all
    }

    /// Out: the time to turn has come. On the way home: it is driven too hard for what is left.
    fn turn_now(&self, home: &Home) -> Is {
        if let Some(turn) = home.turn {
            return Is::below(turn.minutes(), 1.0, 5.0);
        }
        let draw = self.live.draws().value();
        let near = |row: &&Row| (row.current.value() - draw).abs();
        let at_this = home.rows.iter().min_by(|a, b| near(a).total_cmp(&near(b)));
        at_this.map_or(Is::Not, |row| Is::below(row.arrives, SURE, 0.95))
    }

    /// Near what opens the switch: its amps, or its volts.
    fn switch_near(&self) -> Is {
        let heard = self.last.pack;
        if self.pack.battery.chemistry.is_lead() || self.has_shut_off() {
            return Is::Not;
        }
        let amps = self.pack.bms_limit().zip(heard.current);
        let by_amps = amps.map(|(most, now)| now.value() / most.value());
        let ends = self.pack.battery.end_voltage() * f64::from(self.pack.series);
        let by_volts = heard.volts.map(|now| ends.value() / now.value());
        match by_amps.into_iter().chain(by_volts).reduce(f64::max) {
            Some(share) => Is::below(-share, -0.95, -0.90),
            None => Is::Not,
        }
    }
}

/// Every whole setting of a motor, or its own steps, the lowest first.
fn whole(motor: &Motor) -> impl Iterator<Item = Gear> + use<> {
    let steps = motor.steps().unwrap_or(10).max(1);
    (1..=steps).map(move |n| Gear::Setting(f64::from(n) / f64::from(steps) * 10.0))
}
