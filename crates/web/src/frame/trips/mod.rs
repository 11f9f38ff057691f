//! Trips under way: each listens to its source, counts, is written down as it goes, and tells whoever watches.

mod address;
mod replay;
mod source;

pub(crate) use address::{Address, is_near};
pub(crate) use replay::{Moment, Replay};
pub(crate) use source::{State, table};

use super::error::PageError;
use lake_hour_core::live::{Heard, Now, Told, Trip};
use lake_hour_core::units::{Amps, Celsius, Hours, MetresPerSecond, Volts};
use lake_hour_formats::signalk::BatteryTold;
use lake_hour_formats::underway::{self, Begun, Event, Source, Which};
use lake_hour_standin::{Playing, Sim, Speed, Truth};
use lake_hour_store::{KeptTrip, RigId, Store, TripId};
use source::{Ear, Tell};
use std::collections::{BTreeMap, HashMap};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};
use tokio::sync::{mpsc, watch};
use tokio::task::JoinHandle;

/// It is counted so often, and oftener where a stand-in plays faster than the clock.
const TICK: Duration = Duration::from_secs(1);
const TICK_FAST: Duration = Duration::from_millis(250);
/// Time in which nothing is told is gone through in such steps. [s]
const STEP: f64 = 30.0;
/// Somebody who tells each second is waited for so long, so that nothing told lies about.
const SLACK: Duration = Duration::from_millis(150);
/// What is heard is written down so often, and the way home looked at.
const WRITES: Duration = Duration::from_secs(5);
const LOOKS: Duration = Duration::from_secs(4);
const LOOKS_FAST: Duration = Duration::from_millis(500);
/// So often a source was heard before one battery of it is taken for the only one.
const WAITS_TO_GUESS: u32 = 4;
/// Most lines that wait to be written where the disk refuses.
const MOST_WAITING: usize = 4 << 20;
/// A silence after a restart that is longer than this is no gap that a current bridges. [s]
const BRIDGED: f64 = 600.0;

/// Away for longer than this it is no outing that went on, but a clock that jumped or a machine that was put away: it ended where it was
/// last heard. [s]
const LONGEST_AWAY: i64 = 24 * 3600;

/// All that are under way.
#[derive(Debug, Clone, Default)]
pub(crate) struct Trips(Arc<Mutex<HashMap<RigId, Arc<Running>>>>);

/// One under way.
#[derive(Debug)]
pub(crate) struct Running {
    pub(crate) id: TripId,
    /// Seconds since 1970.
    pub(crate) began: i64,
    state: Mutex<Counted>,
    ear: Ear,
    changed: watch::Sender<u64>,
    tells: mpsc::UnboundedSender<Tell>,
    works: Mutex<Vec<JoinHandle<()>>>,
    stand_in: Mutex<Option<Playing>>,
}

#[derive(Debug)]
struct Counted {
    begun: Begun,
    trip: Trip,
    now: Now,
    /// Times as fast as the clock.
    plays: f64,
    /// Lines that are not written yet.
    lines: String,
    /// The disk refused.
    unwritten: bool,
    /// It ended where it was last heard, so long ago by the clock. [s]
    over: Option<i64>,
}

/// What is shown of a trip at a moment.
#[derive(Debug, Clone)]
pub(crate) struct Seen {
    pub(crate) begun: Begun,
    pub(crate) trip: Trip,
    pub(crate) now: Now,
    pub(crate) began: i64,
    pub(crate) plays: f64,
    pub(crate) source: State,
    /// Batteries that the source tells of and nobody has said which they are.
    pub(crate) which: Vec<(String, BatteryTold)>,
    pub(crate) unreadable: u64,
    pub(crate) passed_over: u64,
    pub(crate) unwritten: bool,
    /// It ended where it was last heard, so long ago by the clock. [s]
    pub(crate) over: Option<i64>,
}

impl Seen {
    /// The clock of the trip, in seconds since 1970.
    pub(crate) fn clock(&self) -> i64 {
        self.began + (self.trip.at().value() * 3600.0) as i64
    }
}

impl Running {
    fn with<T>(&self, work: impl FnOnce(&mut Counted) -> T) -> T {
        work(&mut self.state.lock().unwrap_or_else(PoisonError::into_inner))
    }

    /// How it is now.
    pub(crate) fn seen(&self) -> Seen {
        let (source, batteries, unreadable, passed_over) = self.ear.with(|latest| {
            (latest.state.clone(), latest.batteries.clone(), latest.unreadable, latest.passed_over)
        });
        self.with(|c| Seen {
            which: unknown(&c.begun.source, &batteries),
            begun: c.begun.clone(),
            trip: c.trip.clone(),
            now: c.now.clone(),
            began: self.began,
            plays: c.plays,
            source,
            unreadable,
            passed_over,
            unwritten: c.unwritten,
            over: c.over,
        })
    }

    /// Counts up with every change.
    pub(crate) fn watch(&self) -> watch::Receiver<u64> {
        self.changed.subscribe()
    }

    /// How many look.
    pub(crate) fn watched(&self) -> usize {
        self.changed.receiver_count()
    }

    /// Somebody typed something, or turned.
    pub(crate) async fn does(
        self: &Arc<Self>,
        store: &Store,
        event: Event,
    ) -> Result<(), PageError> {
        let lines = self.with(|c| {
            apply(&mut c.trip, &event);
            let at = c.trip.at().value() * 3600.0;
            c.lines += &underway::line(at, &event);
            std::mem::take(&mut c.lines)
        });
        if let Event::Turned(true) = event {
            let take =
                self.with(|c| c.now.home.as_ref().and_then(|h| h.rows.get(h.take?)).copied());
            let setting = take.and_then(|row| match row.gear {
                lake_hour_core::live::Gear::Setting(s) => Some(s),
                lake_hour_core::live::Gear::Speed(_) => None,
            });
            let stand_in = self.ear.with(|latest| latest.plays.is_some());
            if stand_in {
                let _ = self.tells.send(Tell::Home(setting));
            }
        }
        // What was typed is on the disk before it is called taken.
        store.heard_of_trip(self.id, lines).await?;
        self.look().await;
        Ok(())
    }

    /// Another source's batteries, another way home.
    pub(crate) async fn retell(
        self: &Arc<Self>,
        store: &Store,
        change: impl FnOnce(&mut Begun),
    ) -> Result<(), PageError> {
        let body = self.with(|c| {
            change(&mut c.begun);
            c.trip.way_back(c.begun.setup.back.clone());
            underway::write(&c.begun)
        });
        let body = body.map_err(|_| PageError::Broken)?;
        store.retell_trip(self.id, body).await?;
        self.look().await;
        Ok(())
    }

    /// Looks at the way home, beside the requests.
    async fn look(self: &Arc<Self>) {
        let trip = self.with(|c| c.trip.clone());
        let Ok(now) = tokio::task::spawn_blocking(move || trip.now()).await else { return };
        self.with(|c| {
            c.trip.look(&now);
            c.now = now;
        });
        self.changed.send_modify(|n| *n += 1);
    }

    /// Writes what waits.
    async fn write(&self, store: &Store) {
        let lines = self.with(|c| std::mem::take(&mut c.lines));
        if lines.is_empty() {
            return;
        }
        let done = store.heard_of_trip(self.id, lines.clone()).await;
        self.with(|c| {
            c.unwritten = done.is_err();
            if done.is_err() && c.lines.len() < MOST_WAITING {
                c.lines.insert_str(0, &lines);
            }
        });
        if let Err(error) = done {
            tracing::warn!(%error, "what was heard could not be written; it waits");
        }
    }

    /// It is over: whoever looks is told so, each second.
    async fn stand_still(self: Arc<Self>) {
        loop {
            tokio::time::sleep(TICK).await;
            self.changed.send_modify(|n| *n += 1);
        }
    }

    /// Counts, looks and writes for as long as it is let.
    async fn count(self: Arc<Self>, store: Store) {
        let mut last = Instant::now();
        let (mut looked, mut wrote, mut ticks) = (Instant::now(), Instant::now(), 0_u32);
        loop {
            let fast = self.with(|c| c.plays > 1.5);
            // What is told is heard at once, and no oftener than this; silence is counted by the clock.
            tokio::time::sleep(TICK_FAST).await;
            if !fast {
                tokio::time::sleep(TICK - TICK_FAST - SLACK).await;
                let _ = tokio::time::timeout(SLACK, self.ear.news()).await;
            }
            let passed = last.elapsed();
            last = Instant::now();
            let (fresh, place, speed, plays, all) = self.ear.with(|latest| {
                let fresh = std::mem::take(&mut latest.fresh);
                let all = (ticks == WAITS_TO_GUESS).then(|| latest.batteries.clone());
                (fresh, latest.place.take(), latest.speed.take(), latest.plays, all)
            });
            ticks += u32::from(ticks <= WAITS_TO_GUESS && (ticks > 0 || !fresh.is_empty()));
            self.with(|c| {
                c.plays = plays.unwrap_or(1.0);
                if let Some(all) = &all {
                    guess(&mut c.begun.source, all);
                }
                let told = heard(&c.begun.source, &fresh, place, speed);
                let later = Hours::of(passed.as_secs_f64() * c.plays / 3600.0);
                c.trip.hear(later, &told);
                if told != Told::default() || c.begun.setup.sensed {
                    let at = c.trip.at().value() * 3600.0;
                    c.lines += &underway::line(at, &Event::Heard(told));
                }
            });
            if looked.elapsed() >= if fast { LOOKS_FAST } else { LOOKS } {
                looked = Instant::now();
                self.look().await;
            } else {
                self.changed.send_modify(|n| *n += 1);
            }
            if wrote.elapsed() >= WRITES {
                wrote = Instant::now();
                self.write(&store).await;
            }
        }
    }
}

/// What was done at a moment.
fn apply(trip: &mut Trip, event: &Event) {
    match event {
        Event::Typed(hand) => trip.read(hand),
        Event::Turned(home) => trip.turn(*home),
        Event::Answered(right) => trip.answer(*right),
        Event::Heard(_) => {}
    }
}

/// Which of a source's batteries nobody has said anything of, where it is not plain.
fn unknown(source: &Source, told: &BTreeMap<String, BatteryTold>) -> Vec<(String, BatteryTold)> {
    let Source::SignalK { batteries, .. } = source else { return Vec::new() };
    let open = told.iter().filter(|(id, _)| !batteries.contains_key(*id));
    open.map(|(id, told)| (id.clone(), *told)).collect()
}

/// A source that tells of one battery alone for some seconds needs no question: it is the pack.
fn guess(source: &mut Source, all: &BTreeMap<String, BatteryTold>) {
    let Source::SignalK { batteries, .. } = source else { return };
    if batteries.is_empty()
        && all.len() == 1
        && let Some((id, told)) = all.iter().next()
        && told.amps.is_some()
        && told.volts.is_some()
    {
        batteries.insert(id.clone(), Which::Pack);
    }
}

/// What a source's batteries tell of the pack, by which they are.
fn heard(
    source: &Source,
    fresh: &BTreeMap<String, BatteryTold>,
    place: Option<lake_hour_core::live::Place>,
    speed: Option<f64>,
) -> Told {
    let which = |id: &str| match source {
        Source::SignalK { batteries, .. } => batteries.get(id).copied().unwrap_or(Which::Other),
        Source::StandIn { .. } => match id.strip_prefix("unit") {
            Some(n) => n.parse().map_or(Which::Other, Which::Unit),
            None => Which::Pack,
        },
        Source::File { .. } => Which::Pack,
        Source::Hand => Which::Other,
    };
    let mut told = Told {
        place,
        speed: speed.and_then(|v| MetresPerSecond::try_new(v).ok()),
        ..Told::default()
    };
    let mut units = BTreeMap::new();
    let mut currents = Vec::new();
    for (id, battery) in fresh {
        match which(id) {
            Which::Pack => {
                told.pack = Heard {
                    volts: battery.volts.and_then(|v| Volts::try_new(v).ok()),
                    current: battery.amps.and_then(|a| Amps::try_new(a).ok()),
                };
                told.meter = battery.charge;
                told.warm = battery.kelvins.and_then(|k| Celsius::try_new(k - 273.15).ok());
            }
            Which::Unit(n) => {
                if let Some(volts) = battery.volts.and_then(|v| Volts::try_new(v).ok()) {
                    units.insert(n, volts);
                }
                currents.extend(battery.amps);
            }
            Which::Other => {}
        }
    }
    told.units = units.into_values().collect();
    // Units in series that tell of themselves alone are the pack together.
    if told.pack == Heard::default() && !told.units.is_empty() {
        let amps = currents.iter().sum::<f64>() / currents.len() as f64;
        told.pack = Heard {
            volts: Some(told.units.iter().copied().sum()),
            current: Amps::try_new(amps).ok(),
        };
    }
    told
}

impl Trips {
    fn with<T>(&self, work: impl FnOnce(&mut HashMap<RigId, Arc<Running>>) -> T) -> T {
        work(&mut self.0.lock().unwrap_or_else(PoisonError::into_inner))
    }

    /// The one of a rig.
    pub(crate) fn of(&self, rig: RigId) -> Option<Arc<Running>> {
        self.with(|all| all.get(&rig).cloned())
    }

    /// Begins one.
    pub(crate) async fn begin(
        &self,
        store: &Store,
        rig: RigId,
        begun: Begun,
    ) -> Result<(), PageError> {
        let trip =
            Trip::begin(begun.setup.clone()).map_err(|e| PageError::BadForm(e.to_string()))?;
        let body = underway::write(&begun).map_err(|_| PageError::Broken)?;
        let began = jiff::Timestamp::now().as_second();
        let id = store.begin_trip(rig, body, began).await?;
        self.run(store, rig, (id, began), begun, trip, None).await;
        Ok(())
    }

    /// Goes on with all that were under way when the program ended.
    pub(crate) async fn resume(&self, store: &Store) {
        let kept = match store.trips_under_way().await {
            Ok(kept) => kept,
            Err(error) => {
                tracing::warn!(%error, "trips under way could not be read");
                return;
            }
        };
        for kept in kept {
            let (id, began, rig) = (kept.id, kept.began, kept.rig);
            if self.of(rig).is_some() {
                continue;
            }
            match again(store, kept).await {
                Some((begun, trip, over)) => {
                    self.run(store, rig, (id, began), begun, trip, over).await;
                }
                None => {
                    tracing::warn!("a trip under way cannot be read any more: it is ended");
                    let _ = store.end_trip(id, jiff::Timestamp::now().as_second(), None).await;
                }
            }
        }
    }

    async fn run(
        &self,
        store: &Store,
        rig: RigId,
        (id, began): (TripId, i64),
        begun: Begun,
        trip: Trip,
        over: Option<i64>,
    ) {
        let first = trip.clone();
        let Ok(now) = tokio::task::spawn_blocking(move || first.now()).await else { return };
        let ear = Ear::default();
        let (tells, told) = mpsc::unbounded_channel();
        let (changed, _) = watch::channel(0);
        let mut works = Vec::new();
        let mut stand_in = None;
        match &begun.source {
            // What is told now is of another day.
            _ if over.is_some() => {}
            Source::Hand => {}
            Source::SignalK { address, .. } => {
                if let Ok(address) = Address::read(address) {
                    works.push(tokio::spawn(source::listen(address, ear.clone(), told)));
                }
            }
            Source::File { path } => {
                if let Ok(path) = table(path) {
                    works.push(tokio::spawn(source::follow(path, ear.clone())));
                }
            }
            Source::StandIn { speed, seed } => match plays(&begun, *speed, *seed, &trip).await {
                Some((playing, address)) => {
                    works.push(tokio::spawn(source::listen(address, ear.clone(), told)));
                    stand_in = Some(playing);
                }
                None => tracing::warn!("the stand-in could not be started"),
            },
        }
        let state =
            Counted { begun, trip, now, plays: 1.0, lines: String::new(), unwritten: false, over };
        let running = Arc::new(Running {
            id,
            began,
            state: Mutex::new(state),
            ear,
            changed,
            tells,
            works: Mutex::new(works),
            stand_in: Mutex::new(stand_in),
        });
        let counts = if over.is_some() {
            tokio::spawn(Arc::clone(&running).stand_still())
        } else {
            tokio::spawn(Arc::clone(&running).count(store.clone()))
        };
        running.works.lock().unwrap_or_else(PoisonError::into_inner).push(counts);
        self.with(|all| all.insert(rig, running));
    }

    /// Stops counting one; what was heard of it is written.
    pub(crate) async fn stop(&self, store: &Store, rig: RigId) -> Option<Arc<Running>> {
        let running = self.with(|all| all.remove(&rig))?;
        for work in running.works.lock().unwrap_or_else(PoisonError::into_inner).drain(..) {
            work.abort();
        }
        drop(running.stand_in.lock().unwrap_or_else(PoisonError::into_inner).take());
        // How far it came is told too where nothing else was.
        running.with(|c| {
            let at = c.trip.at().value() * 3600.0;
            c.lines += &underway::line(at, &Event::Heard(Told::default()));
        });
        running.write(store).await;
        running.changed.send_modify(|n| *n += 1);
        Some(running)
    }

    /// Stops all of them: the program ends, and goes on with them when it is begun again.
    pub(crate) async fn stop_all(&self, store: &Store) {
        let all: Vec<RigId> = self.with(|all| all.keys().copied().collect());
        for rig in all {
            self.stop(store, rig).await;
        }
    }
}

/// A trip from what was written of it, up to now.
async fn again(store: &Store, kept: KeptTrip) -> Option<(Begun, Trip, Option<i64>)> {
    let begun = underway::read(&kept.body).ok()?;
    let lines = store.trip_lines(kept.rig, kept.id).await.ok()?;
    let setup = begun.setup.clone();
    let gone = jiff::Timestamp::now().as_second() - kept.began;
    let played = matches!(begun.source, Source::StandIn { .. });
    let work = move || {
        let mut trip = told_again(setup, &lines, |_| {})?;
        // A clock that was set back takes nothing away: it goes on from where it was.
        let away = gone as f64 - trip.at().value() * 3600.0;
        if away > LONGEST_AWAY as f64 {
            return Some((trip, Some(away as i64)));
        }
        // While the program was away it went on: by the plan where nothing else ever told, else as far as a silence can be bridged.
        if !played && away > 0.0 {
            let bridged = if trip.setup().sensed { away.min(BRIDGED) } else { away };
            goes_by(&mut trip, bridged);
            if away > bridged {
                trip.passes(Hours::of((away - bridged) / 3600.0));
            }
        }
        Some((trip, None))
    };
    let (trip, over) = tokio::task::spawn_blocking(work).await.ok()??;
    Some((begun, trip, over))
}

/// So many seconds in which nothing is told, in steps that are none of a clock that stood.
fn goes_by(trip: &mut Trip, seconds: f64) {
    let mut left = seconds;
    while left > 0.0 {
        let step = left.min(STEP);
        trip.hear(Hours::of(step / 3600.0), &Told::default());
        left -= step;
    }
}

/// A trip as its lines tell it; `at` sees it after each.
pub(crate) fn told_again(
    setup: lake_hour_core::live::Setup,
    lines: &str,
    mut at: impl FnMut(&mut Trip),
) -> Option<Trip> {
    let mut trip = Trip::begin(setup).ok()?;
    for (seconds, event) in underway::lines(lines) {
        let later = (seconds - trip.at().value() * 3600.0).max(0.0);
        match &event {
            Event::Heard(told) if trip.setup().sensed => trip.hear(Hours::of(later / 3600.0), told),
            // By hand nothing is written but what was typed: between two lines it went by the plan.
            done => {
                goes_by(&mut trip, later);
                apply(&mut trip, done);
            }
        }
        at(&mut trip);
    }
    Some(trip)
}

/// Starts the stand-in on this machine, from where the trip is by now.
async fn plays(begun: &Begun, speed: f64, seed: u64, trip: &Trip) -> Option<(Playing, Address)> {
    let plan = &begun.setup.plan;
    let pack = plan.packs.first()?;
    let start = match begun.setup.begins {
        lake_hour_core::live::Begins::Full => 1.0,
        lake_hour_core::live::Begins::About(share) => share,
        lake_hour_core::live::Begins::Logged { charge, .. } => charge.max(0.01),
        lake_hour_core::live::Begins::NotSaid => 1.0,
    };
    let mut sim = Sim::of(plan, Truth::of(seed, pack, start), seed).ok()?;
    // Begun again in the middle of a day it is as far as it was.
    while sim.step(10.0).at < trip.at().value() * 3600.0 {}
    if trip.is_homeward() {
        sim.turn_home(None);
    }
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.ok()?;
    let playing = lake_hour_standin::serve(sim, listener, Speed::of(speed)?, None).ok()?;
    let address = Address::read(&playing.address).ok()?;
    Some((playing, address))
}

#[cfg(test)]
mod tests {
    use super::*;
    use lake_hour_core::live::{Begins, ByHand, Setup, WayBack};

    /// A trip by hand of which a reading was typed after two hours is as far when it is told again as it was: by the plan.
    #[test]
    fn a_trip_by_hand_goes_on_by_the_plan_when_it_is_told_again() {
        let plan = include_bytes!("../../../../../demo/heron-pond.plan.json");
        let plan = lake_hour_formats::plan::read(plan).expect("the demo");
        let (begins, warm) = (Begins::Full, Celsius::of(14.0));
        let (launch, back, sensed) = (None, WayBack::Straight, false);
        let setup = Setup { plan, begins, warm, launch, back, sensed };
        let mut lived = Trip::begin(setup.clone()).expect("a trip");
        for _ in 0..7200 {
            lived.hear(Hours::of(1.0 / 3600.0), &Told::default());
        }
        let hand = ByHand { volts: Some(Volts::of(25.0)), ..ByHand::default() };
        let lines = underway::line(7200.0, &Event::Typed(hand));
        lived.read(&hand);
        let again = told_again(setup, &lines, |_| {}).expect("a trip");
        let (lived, again) = (lived.left().charge, again.left().charge);
        assert!(lived < 0.9 && (lived - again).abs() < 0.02, "{lived} {again}");
    }
}
