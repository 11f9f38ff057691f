//! Two banks in turn on the page: their charge over one axis, what charged them, and the same two side by side.

use super::page::Found;
use super::view::{PacksView, Source};
use super::{house, pack_of};
use crate::figures;
use crate::frame::look::Look;
use lake_hour_core::allowed;
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::proposals::house_battery::{self, ledger};
use lake_hour_core::proposals::two_banks::{
    CYCLES_LEFT, Lane, NeverFull, Run, Sources, TwoBanks, two_banks,
};
use lake_hour_core::units::parse;
use lake_hour_core::units::{Hours, WattHours};
use lake_hour_store::RigId;

/// Days that are gone through where none are typed.
const USUAL_DAYS: f64 = 3.0;

/// The section of two banks.
#[derive(Debug, Clone)]
pub(super) struct TurnView {
    /// Of what each bank is.
    pub(super) bank: String,
    pub(super) feeds_house: bool,
    /// The other load, where there is one.
    pub(super) other: Option<String>,
    pub(super) days: String,
    pub(super) problem: Option<String>,
    pub(super) sources: Vec<SourceChip>,
    /// What the rig or the day lacks.
    pub(super) lacks: Vec<&'static str>,
    pub(super) drawings: Vec<Drawn>,
    /// (what, in turn, side by side)
    pub(super) rows: Vec<[String; 3]>,
    pub(super) never_full: Option<String>,
    /// Why there is nothing to see.
    pub(super) refused: Option<&'static str>,
}

/// A source that is on or off.
#[derive(Debug, Clone)]
pub(super) struct SourceChip {
    pub(super) key: &'static str,
    pub(super) words: String,
    pub(super) href: String,
    pub(super) on: bool,
}

/// The picture of the banks, in one width.
#[derive(Debug, Clone)]
pub(super) struct Drawn {
    pub(super) id: &'static str,
    pub(super) width: f64,
    pub(super) height: f64,
    pub(super) sentence: String,
    pub(super) lanes: Vec<LaneDrawn>,
    /// When the generator ran: (x, width).
    pub(super) generator: Vec<(f64, f64)>,
    pub(super) generator_at: f64,
    /// Where a day begins: (x, where its words begin, words).
    pub(super) ticks: Vec<(f64, f64, String)>,
    /// Where it was over for want of charge.
    pub(super) out: Option<f64>,
    pub(super) left: f64,
    pub(super) right: f64,
    pub(super) foot: f64,
}

/// One bank in it.
#[derive(Debug, Clone)]
pub(super) struct LaneDrawn {
    pub(super) name: &'static str,
    pub(super) name_at: (f64, f64),
    pub(super) top: f64,
    pub(super) high: f64,
    pub(super) water: String,
    pub(super) line: String,
    pub(super) bed: (f64, f64),
    /// When it was used: (x, width).
    pub(super) used: Vec<(f64, f64)>,
    pub(super) used_at: f64,
}

/// What the two banks feed, what each is, and what could charge it.
fn set_up(found: &Found, view: &PacksView, days: f64) -> Option<(Plan, Pack, Sources)> {
    let plan = &found.plan;
    if view.feeds_house {
        let (asked, _) = house::asked(view, plan);
        let sum = ledger(&plan.day, asked.volts, asked.starts)?;
        let which = house::looked_at(found, view)?;
        let battery = found.labels.get(&which.battery)?;
        let pack = Pack::of(battery.clone(), which.series, which.parallel);
        let sources = Sources::of(plan, &pack);
        return Some((house_battery::plan(plan, &sum, days)?, pack, sources));
    }
    let which = view.open.or_else(|| found.list.rows.first().map(|l| l.which))?;
    let pack = pack_of(plan, found.labels.get(&which.battery)?, which);
    let sources = Sources::of(plan, &pack);
    let mut plan = plan.clone();
    plan.day.days_without_charging = days.round() as u32;
    Some((plan, pack, sources))
}

impl TurnView {
    pub(super) fn of(found: &Found, look: Look, view: &PacksView, rig: RigId) -> Self {
        let days = match view.turn_days.as_str() {
            "" => Ok(USUAL_DAYS),
            typed => parse::whole(typed, &allowed::TURN_DAYS).map(f64::from),
        };
        let problem = days.as_ref().err().map(ToString::to_string);
        let set = set_up(found, view, days.unwrap_or(USUAL_DAYS));
        let has_house = ledger(&found.plan.day, house_battery::VOLTS[0], None).is_some();
        let other = PacksView { feeds_house: !view.feeds_house, ..view.clone() }.address(rig);
        let mut this = Self {
            bank: String::new(),
            feeds_house: view.feeds_house,
            other: (has_house || view.feeds_house).then_some(other),
            days: figures::typed_coarse(USUAL_DAYS),
            problem,
            sources: Vec::new(),
            lacks: Vec::new(),
            drawings: Vec::new(),
            rows: Vec::new(),
            never_full: None,
            refused: None,
        };
        let Some((plan, pack, mut sources)) = set else {
            this.refused = Some(if view.feeds_house {
                "No battery of the Shelf would do as a house battery, or no device has one of its own."
            } else {
                "Open a pack first: each of the two banks is one of it."
            });
            return this;
        };
        this.bank = match pack.parallel {
            1 if pack.series == 1 => pack.battery.name.clone(),
            _ => format!("{} ({})", pack.battery.name, crate::parts::lane::wired(&pack)),
        };
        let on = |source| view.sources(found.plan.day.charge_overnight).contains(&source);
        let amps = |a: lake_hour_core::units::Amps| figures::amount(a.value());
        for source in Source::ALL {
            let (there, words, lacks) = match source {
                Source::Sun => (
                    !sources.sun.is_empty(),
                    match found.plan.day.solar.is_empty() {
                        true => "sun, by the Rig's panels".to_owned(),
                        false => "sun, as the Day tells it".to_owned(),
                    },
                    "The Day tells of no sun, and no panels on the Rig fit one bank.",
                ),
                Source::Generator => (
                    sources.generator.is_some(),
                    sources
                        .generator
                        .map_or_else(String::new, |(a, _)| format!("generator, {} A", amps(a))),
                    "No generator's charger on the Rig fits one bank.",
                ),
                Source::Shore => (
                    sources.shore.is_some(),
                    sources.shore.map_or_else(String::new, |(a, h)| {
                        format!("shore at night, {} A for {}", amps(a), figures::hours(h.value()))
                    }),
                    "No charger on the Rig's shore power fits one bank.",
                ),
            };
            if there {
                let href = view.toggled(source, found.plan.day.charge_overnight).address(rig);
                this.sources.push(SourceChip { key: source.key(), words, href, on: on(source) });
            } else {
                this.lacks.push(lacks);
            }
        }
        if !on(Source::Sun) {
            sources.sun.clear();
        }
        sources.generator = sources.generator.filter(|_| on(Source::Generator));
        sources.shore = sources.shore.filter(|_| on(Source::Shore));
        let Some(all) = two_banks(&plan, &pack, &sources) else {
            this.refused = Some("Its label gives no capacity, or the day asks for nothing.");
            return this;
        };
        this.rows = rows(&all);
        this.never_full = all.never_full.as_ref().map(never_full);
        let sentence = sentence(&all);
        let start = look.clock.words(sources.days.0);
        for (id, width) in [("wide", 780.0), ("narrow", 366.0)] {
            this.drawings.push(draw(&all, id, width, &start, &sentence));
        }
        this
    }
}

impl TurnView {
    /// Whether a generator runs in the picture.
    pub(super) fn generates(&self) -> bool {
        self.drawings.iter().any(|d| !d.generator.is_empty())
    }
}

/// "2 d 5 h", "14 h".
fn long(hours: Hours) -> String {
    let (days, rest) = ((hours.value() / 24.0).floor(), hours.value() % 24.0);
    match days {
        d if d < 1.0 => figures::hours(hours.value()),
        d => format!("{d:.0} d {rest:.0} h"),
    }
}

fn rows(all: &TwoBanks) -> Vec<[String; 3]> {
    let row = |what: &str, of: &dyn Fn(&Run) -> String| {
        [what.to_owned(), of(&all.in_turn), of(&all.together)]
    };
    let energy = |wh: WattHours| figures::energy(wh.value());
    let ah = |run: &Run, n: usize| format!("{} Ah", figures::amount(run.by_source[n].value()));
    let mut rows = vec![
        row("Gets through", &|run| match run.out_at {
            Some(at) => format!("out after {}", long(at)),
            None => format!("all of {}", long(all.lasts)),
        }),
        row("Out of the batteries", &|run| energy(run.energy)),
        row("Lowest charge", &|run| figures::percent(run.lowest())),
    ];
    let ran = |run: &Run| run.generator_hours() > Hours::ZERO;
    if ran(&all.in_turn) || ran(&all.together) {
        rows.push(row("Generator runs", &|run| match ran(run) {
            true => long(run.generator_hours()),
            false => "not at all".to_owned(),
        }));
    }
    for (n, name) in
        ["Put in by the sun", "Put in by the generator", "Put in from shore"].iter().enumerate()
    {
        if all.in_turn.by_source[n].value() > 0.0 || all.together.by_source[n].value() > 0.0 {
            rows.push(row(name, &|run| ah(run, n)));
        }
    }
    rows.push(["Switched over".to_owned(), times(all.in_turn.switches()), "-".to_owned()]);
    rows
}

fn times(n: usize) -> String {
    match n {
        0 => "never".to_owned(),
        1 => "once".to_owned(),
        n => format!("{n} times"),
    }
}

fn never_full(never: &NeverFull) -> String {
    let generator = never.generator.map_or_else(String::new, |h| {
        format!(
            " By generator it would be {} more, at a current that tapers.",
            figures::hours(h.value())
        )
    });
    format!(
        "Charged again to {} at most: {} Ah of a bank are never had, and lead that never gets its last part hardens, down to about {:.0} % of its cycles (common practice, no source).{generator} Sun or shore does that tail better; give each bank one full charge a week.",
        figures::percent(never.highest),
        figures::amount(never.lost.value()),
        CYCLES_LEFT * 100.0
    )
}

fn sentence(all: &TwoBanks) -> String {
    let ends = match all.in_turn.out_at {
        Some(at) => format!("both at their floor after {}", long(at)),
        None => format!("through all of {}", long(all.lasts)),
    };
    format!(
        "Charge of two banks used in turn, switched over {}: {ends}",
        times(all.in_turn.switches())
    )
}

/// Height of a bank, and of the strip above it that says when it is used.
const HIGH: f64 = 76.0;
const STRIP: f64 = 26.0;
/// Room that "day 7" takes.
const DAY: f64 = 36.0;

fn draw(all: &TwoBanks, id: &'static str, width: f64, start: &str, sentence: &str) -> Drawn {
    let (left, right) = (if id == "wide" { 108.0 } else { 4.0 }, width - 4.0);
    let lasts = all.lasts.value();
    let x = |at: Hours| left + at.value() / lasts * (right - left);
    let span = |s: &lake_hour_core::proposals::two_banks::Span| (x(s.from), x(s.to) - x(s.from));
    let names = ["Bank 1", "Bank 2", "Both as one"];
    let runs = all.in_turn.lanes.iter().chain(&all.together.lanes);
    let lanes = runs.zip(names).enumerate().map(|(n, (lane, name)): (usize, (&Lane, _))| {
        let top = n as f64 * (HIGH + STRIP) + STRIP;
        let y = |share: f64| top + (1.0 - share) * HIGH;
        let mut line = String::new();
        for (at, share) in &lane.charge {
            line.push_str(&format!("{:.1},{:.1} ", x(*at), y(*share)));
        }
        let last = lane.charge.last().map_or(left, |(at, _)| x(*at));
        let floor = y(all.between.0);
        LaneDrawn {
            name,
            name_at: if id == "wide" { (0.0, top + 16.0) } else { (left + 4.0, top - 12.0) },
            top,
            high: HIGH,
            water: format!("{left:.1},{:.1} {line}{last:.1},{:.1}", top + HIGH, top + HIGH),
            line: line.trim_end().to_owned(),
            bed: (floor, top + HIGH - floor),
            used: lane.used.iter().map(span).collect(),
            used_at: top - 7.0,
        }
    });
    let lanes: Vec<LaneDrawn> = lanes.collect();
    let generator_at = lanes.len() as f64 * (HIGH + STRIP) + 8.0;
    let days = (lasts / 24.0).ceil() as u32;
    let ticks = (0..days).map(|day| {
        let words = if day == 0 { format!("day 1, {start}") } else { format!("day {}", day + 1) };
        let at = x(Hours::of(24.0 * f64::from(day)));
        // The last day may begin where there is no room left for its name.
        (at, (at + 3.0).min(right - DAY), words)
    });
    Drawn {
        id,
        width,
        height: generator_at + 40.0,
        sentence: sentence.to_owned(),
        lanes,
        generator: all.in_turn.generator.iter().map(span).collect(),
        generator_at,
        ticks: ticks.collect(),
        out: all.in_turn.out_at.map(x),
        left,
        right,
        foot: generator_at + 34.0,
    }
}
