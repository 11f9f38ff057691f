//! A capacity test on one sheet of paper, with its method and its numbers: for a warranty claim, or a drawer.

use super::rows::day;
use crate::figures;
use crate::frame::asked::Scene;
use crate::frame::error::PageError;
use crate::frame::head::Head;
use askama::Template;
use lake_hour_core::drawdown::fit;
use lake_hour_core::log::{CapacityFound, CapacityTest, Did, Log, Owned, Test, thinned};
use lake_hour_core::pack::Pack;
use lake_hour_core::shelf::Battery;
use lake_hour_core::units::system::Measure;
use lake_hour_formats::monitor::Sample;

/// One line of the sheet.
type Line = (&'static str, String);

#[derive(Template)]
#[template(path = "log/report.html")]
struct Report {
    head: Head,
    back: String,
    title: String,
    verdict: String,
    of: Vec<Line>,
    did: Vec<Line>,
    method: Vec<String>,
    /// Volts of an honest unit at that current, and where this one ended.
    curve: String,
    here: (String, String),
    /// Volts as a monitor recorded them; empty where none did.
    measured: String,
    ticks: Vec<(String, String)>,
    volts: Vec<(String, String)>,
    sentence: String,
    note: String,
    /// Where it is kept as the shelf battery's measured figure: of a pack tested while it was new.
    to_shelf: Option<String>,
}

/// The sheet of a test; `None` for what is no capacity test of a pack in the log.
pub(super) fn sheet(
    scene: &Scene,
    log: &Log,
    id: i64,
    recorded: &[Sample],
) -> Option<Result<String, PageError>> {
    let (_, test) = log.tests().find(|(n, _)| *n == id)?;
    let Did::Capacity(did) = &test.did else { return None };
    let owned = log.pack(test.of?)?;
    let (pack, share) = tested(owned, test);
    let found = did.found(&pack, share).ok()?;
    let page = Report::of(scene, id, (owned, test), (did, &pack), (&found, recorded))?;
    Some(page.render().map_err(|_| PageError::Broken))
}

/// Tested within so many days of its purchase, what it lacks is its label's and not wear. [d] Estimate.
const NEW: i64 = 120;

fn new(owned: &Owned, test: &Test) -> bool {
    let days = test.date.duration_since(owned.bought).as_hours() / 24;
    (0..=NEW).contains(&days)
}

/// The battery of a test as it was measured, and what it is called on the shelf; `None` for what is no such test.
pub(super) fn measured(log: &Log, id: i64) -> Option<(String, Battery)> {
    let (_, test) = log.tests().find(|(n, _)| *n == id)?;
    let Did::Capacity(did) = &test.did else { return None };
    let owned = log.pack(test.of?)?;
    let (pack, share) = tested(owned, test);
    let found = did.found(&pack, share).ok().filter(|_| new(owned, test))?;
    let name = owned.pack.from.as_ref().map_or(&owned.pack.battery.name, |from| &from.name);
    Some((name.clone(), found.as_measured(&owned.pack.battery, test.date)?))
}

/// What was loaded: the pack as a whole, or one unit of it alone; and its share of the strings.
pub(super) fn tested(owned: &Owned, test: &Test) -> (Pack, f64) {
    match test.unit {
        None => (owned.pack.clone(), 1.0),
        Some(_) => {
            let share = 1.0 / f64::from(owned.pack.parallel);
            (Pack { series: 1, ..owned.pack.clone() }, share)
        }
    }
}

/// Points of a line that was recorded.
const POINTS: usize = 320;
const WIDE: f64 = 640.0;
const HIGH: f64 = 220.0;

impl Report {
    fn of(
        scene: &Scene,
        scene_id: i64,
        (owned, test): (&Owned, &Test),
        (did, pack): (&CapacityTest, &Pack),
        (found, recorded): (&CapacityFound, &[Sample]),
    ) -> Option<Self> {
        let units = scene.look.units;
        let law = fit(&pack.battery).ok()?.law.ending_at(did.stop.value() / f64::from(pack.series));
        let strings = f64::from(pack.parallel)
            * if test.unit.is_some() { 1.0 / f64::from(pack.parallel) } else { 1.0 };
        let amps = did.current.value() / strings;
        let rated = found.rated.value();
        let end = rated.max(did.lasted.value()) * 1.08;
        let series = f64::from(pack.series);
        let (high, low) = (law.volts(law.full(), amps) * series, did.stop.value());
        let top = high + 0.1 * (high - low);
        let x = |hours: f64| 52.0 + hours / end * (WIDE - 66.0);
        let y = |volts: f64| 10.0 + (top - volts) / (top - low) * (HIGH - 46.0);
        let curve: Vec<String> = (0..=60)
            .map(|n| rated * f64::from(n) / 60.0)
            .map(|t| {
                let volts = law.volts(law.rest_or_draw(law.full(), amps, t), amps) * series;
                format!("{:.1},{:.1}", x(t), y(volts.max(low)))
            })
            .collect();
        let line: Vec<(f64, f64)> = recorded
            .iter()
            .filter(|s| s.volts.is_finite())
            .map(|s| (f64::from(s.at) / 3600.0, f64::from(s.volts)))
            .collect();
        let line = thinned(&line, POINTS).into_iter();
        let measured: Vec<String> =
            line.map(|(t, v)| format!("{:.1},{:.1}", x(t), y(v.clamp(low, top)))).collect();
        let (ah, over) = pack.battery.headline().ok()?;
        let name = &owned.pack.battery.name;
        let what = test.unit.map_or_else(|| "the whole pack".to_owned(), |n| format!("unit {n}"));
        // The temperature that the standard holds tests against.
        let room = figures::measure(units, Measure::Temperature, 25.0, 0);
        let warm = did.temperature.map_or_else(
            || format!("not told, taken for {room}"),
            |t| figures::measure(units, Measure::Temperature, t.value(), 0),
        );
        let serial = owned.units.iter().filter(|u| test.unit.is_none() || u.place == test.unit);
        let serial: Vec<&str> =
            serial.map(|u| u.serial.as_str()).filter(|s| !s.is_empty()).collect();
        let mut of = vec![
            ("battery", format!("{}, {} units", owned.pack.name, owned.pack.units())),
            (
                "label",
                format!(
                    "{name}: {} V, {} Ah at {} h",
                    figures::typed(pack.battery.nominal_voltage.value()),
                    figures::typed(ah.value()),
                    figures::typed(over.value())
                ),
            ),
            ("bought", day(owned.bought)),
        ];
        if !owned.shop.is_empty() {
            of.push(("at", owned.shop.clone()));
        }
        if !serial.is_empty() {
            of.push(("serial", serial.join(", ")));
        }
        let mut did_lines = vec![
            ("date", day(test.date)),
            ("tested", what),
            ("current", format!("{} A, steady", figures::amount(did.current.value()))),
            ("lasted", figures::duration(did.lasted.value())),
            ("stopped at", format!("{} V", figures::typed(did.stop.value()))),
            ("battery at", warm),
            ("given", format!("{} Ah", figures::amount(found.given.value()))),
        ];
        if let Some(wh) = found.delivered {
            let share = wh / found.promised;
            did_lines.push((
                "energy",
                format!(
                    "{} of {} promised, {}",
                    figures::energy(wh.value()),
                    figures::energy(found.promised.value()),
                    figures::percent(share)
                ),
            ));
        }
        let mut method = vec![format!(
            "Held against the time that a battery of this label lasts at that current to that voltage at {room}: {} by its own ratings.",
            figures::duration(rated)
        )];
        let verdict = match found.share {
            Some(share) if found.by_time => {
                method.push(format!(
                    "Time-adjusted, IEEE 450: C = T / (Ts Kt) = {:.2} h / ({:.2} h x {:.3}) = {}.",
                    did.lasted.value(),
                    rated,
                    found.by_warmth,
                    figures::percent(share)
                ));
                format!("{} of its label", figures::percent(share))
            }
            Some(share) => {
                method.push(format!(
                    "Rate-adjusted, IEEE 450, since it lasted less than an hour: the current held against the one that an honest battery gives for so long: {}.",
                    figures::percent(share)
                ));
                format!("{} of its label", figures::percent(share))
            }
            None => {
                method.push("It was cut short: what it gave is the least of what it has, and nothing is made of the rest.".to_owned());
                format!("At least {} Ah", figures::amount(found.given.value()))
            }
        };
        if found.warm {
            method.push(format!("It was warmer than {room}: nothing is corrected for that."));
        }
        method.push("Replace where less than 80 % is left (IEEE 450, IEEE 1188); many warranties for LFP say 70 %.".to_owned());
        let ticks = (0..=4).map(|n| end * f64::from(n) / 4.0);
        let levels = (0..=3).map(|n| low + (top - low) * f64::from(n) / 3.0);
        Some(Self {
            head: Head::of_scene(scene),
            back: format!("/rigs/{}/log", scene.board.rig.0),
            title: format!("Capacity test of {}", owned.pack.name),
            sentence: format!(
                "{verdict}: it lasted {} where {} were due.",
                figures::duration(did.lasted.value()),
                figures::duration(rated)
            ),
            verdict,
            of,
            did: did_lines,
            method,
            curve: curve.join(" "),
            measured: measured.join(" "),
            here: (format!("{:.1}", x(did.lasted.value())), format!("{:.1}", y(low))),
            ticks: ticks.map(|t| (format!("{:.1}", x(t)), format!("{t:.1} h"))).collect(),
            volts: levels.map(|v| (format!("{:.1}", y(v)), format!("{v:.1} V"))).collect(),
            note: test.note.clone(),
            to_shelf: (new(owned, test) && found.share.is_some())
                .then(|| format!("/rigs/{}/log/entries/{}/to-shelf", scene.board.rig.0, scene_id)),
        })
    }
}
