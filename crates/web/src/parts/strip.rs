//! The stretches as blocks on the time axis: amps as height, kind as texture.

use super::source;
use crate::figures;
use crate::frame::look::Look;
use lake_hour_core::day::{Day, Duty};
use lake_hour_core::plan::Plan;
use lake_hour_core::propulsion::{self, Implied};
use lake_hour_core::source::Origin;
use lake_hour_core::units::say::Clock;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{Amps, Hours, Watts};
use lake_hour_core::verdict::{self, Course};
use lake_hour_store::StretchId;

/// A stretch as a block on the time axis.
#[derive(Debug, Clone)]
pub(crate) struct Block {
    pub(crate) id: i64,
    /// Across, in percent: where it starts and how wide it is.
    pub(crate) x: String,
    pub(crate) width: String,
    /// Where it ends, in percent.
    pub(crate) end: String,
    /// Whether there is room for its words.
    pub(crate) roomy: bool,
    /// Down, in pixels: where its top is and how high it is.
    pub(crate) top: String,
    pub(crate) height: String,
    /// What its texture tells: `steady`, `holds`, `setting`, `off`.
    pub(crate) kind: &'static str,
    pub(crate) amps: String,
    /// Who vouches for them.
    pub(crate) sign: &'static str,
    pub(crate) name: String,
    pub(crate) sentence: String,
    pub(crate) minutes: f64,
    /// On a later day without charging: the same stretch again.
    pub(crate) again: bool,
}

/// An hour on the time axis.
#[derive(Debug, Clone)]
pub(crate) struct Tick {
    pub(crate) at: String,
    pub(crate) text: String,
    /// So late that its words stand before it.
    pub(crate) late: bool,
}

/// The blocks of the whole time, nights between days without charging included.
#[derive(Debug, Clone)]
pub(crate) struct Strip {
    pub(crate) blocks: Vec<Block>,
    pub(crate) ticks: Vec<Tick>,
    /// The dark parts of the chart's edge: every other step between ticks, (from, width).
    pub(crate) bars: Vec<(String, String)>,
    /// What the weather does, by the hour.
    pub(crate) weather: Vec<Tick>,
}

/// What a plan's day asks, worked out once for all of a page.
#[derive(Debug, Clone)]
pub(crate) struct Asks {
    /// What each stretch comes to at the system's nominal voltage, devices not counted. Each lane counts at
    /// its own voltage.
    pub(crate) implied: Vec<Implied>,
    /// Whether it is known what a stretch comes to: not for a setting of a motor whose draw is not.
    pub(crate) known: Vec<bool>,
    /// Where it leads.
    pub(crate) course: Course,
    /// Ampere-hours of one day at nominal voltage, devices on the motor's battery included.
    pub(crate) amp_hours: f64,
}

impl Asks {
    pub(crate) fn of(plan: &Plan) -> Self {
        let day = &plan.day;
        let all = propulsion::of_day(&plan.rig_as_measured(), day);
        let course = Course::of(day, &all);
        let known: Vec<bool> = all.iter().map(Option::is_some).collect();
        let unknown = Implied {
            amps: Amps::ZERO,
            watts: Watts::ZERO,
            speed: None,
            distance: None,
            unsure: 0.0,
            origin: Origin::Typical,
            too_much: false,
        };
        let implied: Vec<Implied> = all.into_iter().map(|i| i.unwrap_or(unknown)).collect();
        let motor: f64 = std::iter::zip(&day.stretches, &implied)
            .map(|(s, i)| s.lasts.value() * s.share * i.watts.value())
            .sum();
        // What a lane counts as well, the converter's loss included.
        let devices = verdict::devices_draw(&plan.rig, day) * day.lasts().value();
        let amp_hours = (motor + devices.value()) / plan.rig.motor.system_voltage.value();
        Self { implied, known, course, amp_hours }
    }

    /// Which stretch cannot be worked out, and what is missing.
    pub(crate) fn missing(&self, day: &Day) -> Option<String> {
        let index = self.known.iter().position(|known| !known)?;
        Some(format!(
            "Stretch {} ({}) is given by a motor setting, and what the motor draws there is not known: no pack can be judged.",
            index + 1,
            day.stretches[index].name
        ))
    }

    /// "at least ", where not every stretch is known.
    pub(crate) fn least(&self) -> &'static str {
        if self.known.contains(&false) { "at least " } else { "" }
    }

    /// "89 Ah, 2.1 kWh": at least that where not every stretch is known.
    pub(crate) fn charge(&self, volts: f64) -> [String; 2] {
        let ah = format!("{}{} Ah", self.least(), figures::amount(self.amp_hours));
        [ah, figures::energy(self.amp_hours * volts)]
    }
}

/// The volts that a day's amps are said at: the system's nominal ones. "24 V".
pub(crate) fn volts(plan: &Plan) -> String {
    format!("{} V", figures::amount(plan.rig.motor.system_voltage.value()))
}

/// "7 h 20 min, 89 Ah, 2.1 kWh at 24 V".
pub(crate) fn totals(plan: &Plan, asks: &Asks) -> String {
    let volts = plan.rig.motor.system_voltage.value();
    let [ah, wh] = asks.charge(volts);
    let lasts = figures::duration(plan.day.lasts().value());
    format!("{lasts}, {ah}, {wh} at {} V", figures::amount(volts))
}

impl Strip {
    /// `tallest` is the highest block, `axis` where the axis is. [px]
    pub(crate) fn new(
        plan: &Plan,
        asks: &Asks,
        ids: &[StretchId],
        look: Look,
        tallest: f64,
        axis: f64,
    ) -> Self {
        let (day, implied) = (&plan.day, &asks.implied);
        let (span, one) = (day.span().value(), day.lasts().value());
        let most = implied.iter().map(|i| i.amps.value()).fold(1.0, f64::max);
        let mut blocks = Vec::new();
        for turn in 0..day.days_without_charging {
            let mut clock = f64::from(turn) * one.max(24.0);
            for (n, stretch) in day.stretches.iter().enumerate() {
                let (start, lasts) = (clock, stretch.lasts.value());
                clock += lasts;
                let amps = implied[n].amps.value();
                let part = if span > 0.0 { lasts / span } else { 0.0 };
                let at = |t: f64| if span > 0.0 { t / span * 100.0 } else { 0.0 };
                let height = if amps > 0.0 { (amps / most * tallest).max(4.0) } else { 3.0 };
                let kind = match stretch.duty {
                    Duty::Current(_) => "steady",
                    Duty::Power(_) | Duty::Speed(_) | Duty::Distance(_) | Duty::HoldPlace => {
                        "holds"
                    }
                    Duty::Setting(_) => "setting",
                    Duty::Off => "off",
                };
                let vouched = match stretch.duty {
                    Duty::Off => String::new(),
                    _ => format!(", {}", implied[n].origin.words()),
                };
                let mut draw = match asks.known[n] {
                    true => format!("{} A", figures::amount(amps)),
                    false => "? A".to_owned(),
                };
                if stretch.share < 1.0 {
                    draw = format!("{draw}, {}", figures::percent(stretch.share));
                }
                blocks.push(Block {
                    id: ids.get(n).map_or(0, |id| id.0),
                    x: format!("{:.3}%", at(start)),
                    width: format!("{:.3}%", (part * 100.0 - 0.15).max(0.1)),
                    end: format!("{:.3}%", at(clock)),
                    roomy: part > 0.045,
                    top: format!("{:.1}", axis - height),
                    height: format!("{height:.1}"),
                    kind,
                    sentence: format!(
                        "{draw} {} for {} from {}{vouched}",
                        stretch.name,
                        figures::duration(lasts),
                        figures::clock(day, Hours::of(start), look.clock)
                    ),
                    amps: draw,
                    sign: if stretch.duty == Duty::Off {
                        ""
                    } else {
                        source::sign(implied[n].origin)
                    },
                    name: stretch.name.clone(),
                    minutes: stretch.lasts.minutes(),
                    again: turn > 0,
                });
            }
        }
        Self {
            blocks,
            ticks: ticks(day, span, look.clock),
            bars: bars(day, span),
            weather: weather(plan, span, look.units),
        }
    }
}

/// Steps between round clock times, so that there are at most some nine of them; and where the first
/// stands. [h]
fn steps(day: &Day, hours: f64) -> (f64, f64) {
    let step = [0.25, 0.5, 1.0, 2.0, 3.0, 4.0, 6.0, 12.0, 24.0]
        .into_iter()
        .find(|step| hours / step <= 9.0)
        .unwrap_or(48.0);
    let start = f64::from(day.start_minute) / 60.0;
    (step, (start / step).ceil() * step - start)
}

/// Round clock times, at most some nine of them.
fn ticks(day: &Day, hours: f64, face: Clock) -> Vec<Tick> {
    let (step, mut at) = steps(day, hours);
    let mut ticks = Vec::new();
    while at <= hours + 1e-9 && hours > 0.0 {
        // The last words would stick out.
        if at / hours < 0.94 {
            let minute = day.clock_minute(Hours::of(at));
            ticks.push(Tick {
                at: format!("{:.3}%", at / hours * 100.0),
                text: tick(face, minute),
                late: false,
            });
        }
        at += step;
    }
    ticks
}

/// Every other step along the edge is dark, as on the edge of a chart.
fn bars(day: &Day, hours: f64) -> Vec<(String, String)> {
    let (step, first) = steps(day, hours);
    let mut bars = Vec::new();
    let mut at = first - step;
    while at < hours && hours > 0.0 {
        let (from, to) = (at.max(0.0), (at + step).min(hours));
        if to > from {
            let percent = |h: f64| format!("{:.3}%", h / hours * 100.0);
            bars.push((percent(from), percent(to - from)));
        }
        at += 2.0 * step;
    }
    bars
}

/// A round hour on the axis: "07:00", "7 AM".
fn tick(face: Clock, minute: u16) -> String {
    face.words(minute).replace(":00 ", " ")
}

/// Wind, current and air where they change.
fn weather(plan: &Plan, span: f64, units: System) -> Vec<Tick> {
    let (day, still) = (&plan.day, if plan.rig.craft.kind.is_boat() { "calm" } else { "no wind" });
    let mut changes = vec![0.0];
    changes.extend(
        day.hourly
            .iter()
            .map(|h| (f64::from(h.from_minute) - f64::from(day.start_minute)) / 60.0)
            .filter(|at| *at > 0.0 && *at < span),
    );
    let told = |at: f64| {
        let now = day.conditions_at(Hours::of(at));
        let mut words = Vec::new();
        if now.wind.value() > 0.0 {
            words.push(format!("wind {}", figures::speed(now.wind, units)));
        }
        if now.current.value() > 0.0 {
            words.push(format!("current {}", figures::speed(now.current, units)));
        }
        if let Some(air) = now.air {
            words.push(figures::measure(units, Measure::Temperature, air.value(), 0));
        }
        if words.is_empty() { still.to_owned() } else { words.join(", ") }
    };
    changes
        .into_iter()
        .map(|at| {
            let share = at / span.max(1e-9);
            Tick { at: format!("{:.3}%", share * 100.0), text: told(at), late: share > 0.6 }
        })
        .collect()
}
