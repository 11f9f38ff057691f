//! One pack's lane: its name, its picture, its verdict and figures, its panel.

use super::decision::{self, About};
use super::picture::Picture;
use super::source;
use crate::figures;
use crate::forms::{self, Group, Problems, Shown};
use crate::frame::asked::Scene;
use crate::frame::judged::Judged;
use crate::frame::view::{Open, Page};
use crate::frame::weighed::OnBoard;
use lake_hour_core::money::{self, Cost};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::source::Origin;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::Measure;
use lake_hour_core::units::{Hours, Money};
use lake_hour_core::verdict::{self, Course, Drawn, Evaluation, Outcome, Survey};
use std::sync::Arc;

/// A figure with its label.
#[derive(Debug, Clone)]
pub(crate) struct Figure {
    pub(crate) label: &'static str,
    pub(crate) value: String,
    /// More of it, for who looks closer.
    pub(crate) more: String,
}

/// One moment of the day in the table.
#[derive(Debug, Clone)]
pub(crate) struct Moment {
    pub(crate) clock: String,
    pub(crate) after: String,
    pub(crate) amps: String,
    pub(crate) volts: String,
    pub(crate) charge: String,
    pub(crate) band: String,
}

/// How a pack answers one want.
#[derive(Debug, Clone)]
pub(crate) struct Had {
    /// `full`, `half` where nothing tells, `open`.
    pub(crate) disc: &'static str,
    pub(crate) words: String,
    /// How much of it there is.
    pub(crate) more: String,
    pub(crate) met: bool,
}

/// Lead's fade as a line: settings from 0 at the bottom to 10 on top.
#[derive(Debug, Clone)]
pub(crate) struct Fade {
    pub(crate) line: String,
    pub(crate) words: String,
}

/// Who vouches for what a pack holds.
#[derive(Debug, Clone)]
pub(crate) struct Holds {
    pub(crate) sign: &'static str,
    /// "from the label"; "measured: holds 82 % of its label".
    pub(crate) words: String,
    pub(crate) assumed: bool,
}

impl Holds {
    fn of(pack: &Pack) -> Self {
        let (by, what) = source::of_pack(pack);
        let words = match by {
            Origin::Measured | Origin::SetByYou => format!("{}: {what}", by.words()),
            _ => format!("{what} {}", by.words()),
        };
        Self { sign: source::sign(by), words, assumed: by == Origin::Typical }
    }
}

/// The panel with the working.
#[derive(Debug, Clone)]
pub(crate) struct Working {
    pub(crate) lines: Vec<verdict::Line>,
    pub(crate) moments: Vec<Moment>,
    pub(crate) assumed: Vec<&'static str>,
    /// What does not fit, at length.
    pub(crate) in_full: Vec<String>,
    /// Measured amps that this pack's volts change, and why.
    pub(crate) other_than_read: Vec<String>,
}

/// A lane of the board.
#[derive(Debug, Clone)]
pub(crate) struct Lane {
    pub(crate) id: i64,
    pub(crate) name: String,
    pub(crate) build: String,
    /// Who vouches for what it holds: sign, word, and whether nobody told it.
    pub(crate) holds: Holds,
    pub(crate) chemistry: &'static str,
    pub(crate) outcome: Outcome,
    /// `full`, `half` or `open`: goes with the words.
    pub(crate) disc: &'static str,
    pub(crate) verdict: String,
    pub(crate) range: String,
    pub(crate) figures: Vec<Figure>,
    /// What the label alone would make of the cost per cycle, and why it is not that.
    pub(crate) by_the_label: Option<String>,
    pub(crate) picture: Option<Arc<Picture>>,
    pub(crate) notes: Vec<String>,
    /// How hard it may be driven.
    pub(crate) drive: Option<String>,
    /// Chargers and bays that it does not fit.
    pub(crate) misfits: Vec<String>,
    pub(crate) reasons: Vec<String>,
    pub(crate) short_reason: &'static str,
    pub(crate) pinned: bool,
    /// The label of its battery was changed on the Shelf since.
    pub(crate) relabeled: bool,
    /// The pack that is aboard today.
    pub(crate) aboard: bool,
    /// The one that is to be built.
    pub(crate) chosen: bool,
    /// What it was without the what-ifs.
    pub(crate) was: Option<String>,
    pub(crate) working: Option<Working>,
    pub(crate) form: Option<Vec<Group>>,
    /// How far a full charge goes, where it goes anywhere. [m]
    pub(crate) reach: Option<f64>,
    /// Its verdict on one line.
    pub(crate) slim: bool,
    /// Whether it comes first by what is wanted.
    pub(crate) first: bool,
    /// How it answers each want that counts.
    pub(crate) wants: Vec<Had>,
    /// Musts it fails, each with what it has.
    pub(crate) fails: Vec<String>,
    /// The same in few words.
    pub(crate) fails_short: Vec<String>,
    /// Another one that is as good in everything wanted and better in something.
    pub(crate) beaten_by: Option<String>,
    /// Whether nothing beats it.
    pub(crate) unbeaten: bool,
    /// The setting that keeps the power as its voltage falls, through the day.
    pub(crate) fade: Option<Fade>,
    /// For sorting: weight [kg] and cost of an hour; infinite when not known.
    pub(crate) mass: f64,
    pub(crate) hourly: f64,
}

/// The lanes of the packs that are shown of a plan, what-ifs included, in the owner's order; `course` is the plan's day's.
pub(crate) fn lanes(scene: &Scene, shown: &OnBoard, course: &Course) -> Vec<Lane> {
    let plan = &shown.plan;
    let evaluations = scene.verdicts.of(plan);
    let before = scene.view.nudges.any().then(|| {
        let OnBoard { plan, .. } = OnBoard::shown(&scene.board.plan, &scene.board);
        let course = verdict::course(&plan.rig_as_measured(), &plan.day);
        (scene.verdicts.of(&plan), course)
    });
    let kept = &scene.board.plan;
    let say = scene.look.say(&plan.currency);
    std::iter::zip(&shown.ids, &plan.packs)
        .zip(&evaluations)
        .enumerate()
        .map(|(n, ((id, pack), evaluation))| {
            let was = before.as_ref().and_then(|(all, course)| Some((all.get(n)?, course)));
            let was = was.map(|(evaluation, course)| {
                let about = About { plan: kept, pack, course, say };
                decision::verdict(&about, evaluation)
            });
            let about = About { plan, pack, course, say };
            let mut lane = Lane::new(scene, about, id.0, evaluation);
            lane.was = was.filter(|was| *was != lane.verdict);
            lane
        })
        .collect()
}

impl Lane {
    fn new(scene: &Scene, about: About<'_>, id: i64, evaluation: &Judged) -> Self {
        let (plan, pack) = (about.plan, about.pack);
        let (view, units) = (scene.view, scene.look.units);
        let drawn = evaluation.drawn.as_ref();
        let draft = scene.draft_of(Open::Pack(id));
        let none = Problems::default();
        let open = view.open == Open::Pack(id) && view.page == Page::Board;
        Self {
            id,
            name: pack.name.clone(),
            holds: Holds::of(pack),
            build: build(pack),
            chemistry: pack.battery.chemistry.name(),
            outcome: evaluation.counts_as(),
            disc: decision::disc(evaluation.counts_as()),
            verdict: decision::verdict(&about, evaluation),
            range: drawn.map(decision::range).unwrap_or_default(),
            figures: figures(&about, evaluation),
            by_the_label: evaluation.drawn.as_ref().and_then(|d| by_the_label(&about, d)),
            picture: drawn.map(|d| {
                evaluation.drawn(about.say.clock, || Picture::of(d, evaluation.outcome, about))
            }),
            drive: decision::drive(&about, evaluation),
            notes: decision::notes(&about, evaluation),
            misfits: decision::misfits(&about, evaluation),
            reasons: evaluation.reasons.iter().map(|r| r.sentence(units)).collect(),
            reach: drawn.and_then(|d| about.range(d)).map(lake_hour_core::units::Metres::value),
            short_reason: evaluation.reasons.first().map_or("", |r| r.short()),
            pinned: view.pin == Some(id),
            slim: pack.shown == lake_hour_core::pack::Shown::Slim,
            first: false,
            wants: Vec::new(),
            fails: Vec::new(),
            fails_short: Vec::new(),
            beaten_by: None,
            unbeaten: false,
            fade: None,
            relabeled: is_relabeled(scene, id, pack),
            aboard: pack.aboard,
            chosen: pack.chosen,
            was: None,
            working: drawn.filter(|_| view.open == Open::Working(id)).map(|d| Working {
                lines: verdict::working(pack, &plan.day, &plan.rules_filled(), d, about.say),
                moments: moments(&about, d),
                in_full: decision::in_full(&about, evaluation),
                other_than_read: source::other_than_read(plan, d),
                assumed: evaluation.assumed.iter().map(|key| assumed_words(key)).collect(),
            }),
            form: open.then(|| {
                let kept = &scene.board.plan.packs;
                let at = scene.board.packs.iter().position(|p| p.0 == id).unwrap_or(0);
                let typed =
                    draft.map_or_else(|| forms::pack::typed(&kept[at], units), |d| d.typed.clone());
                let problems = draft.map_or(&none, |d| &d.problems);
                let form = Shown { typed: &typed, problems, units };
                forms::pack::groups(&format!("pack{id}"), form, false)
            }),
            mass: evaluation.mass.map_or(f64::INFINITY, lake_hour_core::units::Kilograms::value),
            hourly: drawn
                .and_then(|d| d.cost)
                .and_then(|c| c.per_lake_hour)
                .map_or(f64::INFINITY, Money::value),
        }
    }

    /// Whether it has all that is wanted.
    pub(crate) fn has_all(&self) -> bool {
        self.wants.iter().all(|want| want.met)
    }

    pub(crate) fn is_set_aside(&self) -> bool {
        self.outcome == Outcome::SetAside
    }
}

/// Whether the battery it was built of says something else on the Shelf now.
fn is_relabeled(scene: &Scene, id: i64, pack: &Pack) -> bool {
    let at = scene.board.packs.iter().position(|one| one.0 == id);
    let of = at.and_then(|at| scene.board.built_of.get(at).copied().flatten());
    of.and_then(|of| scene.shelf.get(&of)).is_some_and(|label| pack.is_outdated(label))
}

/// "one unit", "2 in series, 2 in parallel".
pub(crate) fn wired(pack: &Pack) -> String {
    match (pack.series, pack.parallel) {
        (1, 1) => "one unit".to_owned(),
        (s, 1) => format!("{s} in series"),
        (1, p) => format!("{p} in parallel"),
        (s, p) => format!("{s} in series, {p} in parallel"),
    }
}

/// "2 in series, 12.8 V 100 Ah each".
pub(crate) fn build(pack: &Pack) -> String {
    let b = &pack.battery;
    let wired = match (pack.series, pack.parallel) {
        (1, 1) => "1 battery".to_owned(),
        (s, 1) => format!("{s} in series"),
        (1, p) => format!("{p} in parallel"),
        (s, p) => format!("{} in {s} x {p}", s * p),
    };
    let each = if pack.units() > 1 { " each" } else { "" };
    let volts = figures::typed(b.nominal_voltage.value());
    match b.headline() {
        Ok((ah, _)) => format!("{wired}, {volts} V {} Ah{each}", figures::amount(ah.value())),
        Err(_) => format!("{wired}, {volts} V, no Ah on the label"),
    }
}

fn figures(about: &About<'_>, evaluation: &Evaluation) -> Vec<Figure> {
    let (pack, say) = (about.pack, about.say);
    let unknown = || "-".to_owned();
    let drawn = evaluation.drawn.as_ref();
    let cost = drawn.and_then(|d| d.cost);
    let money = |v: Option<Money>| v.map_or_else(unknown, |v| say.money(v));
    let missing = |known: bool, what: &str| if known { String::new() } else { what.to_owned() };
    let pace = match drawn.and_then(|d| about.range(d)).filter(|_| !about.is_boat()) {
        Some(far) => Figure {
            label: "a charge",
            value: figures::far(far, say.units),
            more: "until the floor is reached or it stops".to_owned(),
        },
        None => Figure {
            label: "this pace",
            value: drawn
                .and_then(|d| d.hours_at_this_pace)
                .map_or_else(unknown, |h| figures::hours(h.value())),
            more: "until the floor is reached or it stops".to_owned(),
        },
    };
    // Carts count what a mile costs, boats an hour.
    let per_mile = per_distance(cost.filter(|_| !about.is_boat()), about.course, about.plan, say);
    let last = if about.is_boat() {
        Figure {
            label: "per hour",
            value: money(cost.and_then(|c| c.per_lake_hour)),
            more: missing(cost.is_some(), "needs a price"),
        }
    } else {
        let km = say.units.unit(Measure::Distance).name == "km";
        Figure {
            label: if km { "per km" } else { "per mile" },
            value: money(per_mile),
            more: missing(per_mile.is_some(), "needs a price and a distance"),
        }
    };
    vec![
        pace,
        Figure {
            label: "weight",
            value: evaluation.mass.map_or_else(unknown, |m| figures::mass(m, say.units)),
            more: missing(evaluation.mass.is_some(), "no weight given"),
        },
        Figure {
            label: if pack.extras.now().is_some() { "price with needs" } else { "price" },
            value: if pack.aboard { "yours".to_owned() } else { money(evaluation.price_total) },
            more: if pack.aboard {
                "aboard already: nothing is paid for it now".to_owned()
            } else if pack.battery.price.is_none() {
                "no price given".to_owned()
            } else {
                match pack.extras.now() {
                    Some(_) => PRICE_WITH_NEEDS.to_owned(),
                    None => "charger, meter and cables not typed, so not counted".to_owned(),
                }
            },
        },
        Figure {
            label: "a cycle",
            value: money(cost.map(|c| c.per_cycle)),
            more: drawn.map_or_else(String::new, |d| {
                format!(
                    "cost per cycle, one outing at this depth: {:.0} outings{} in {:.1} years",
                    d.life.outings,
                    about.plan.day.days_each(),
                    d.life.years
                )
            }),
        },
        last,
        over_years(about.plan, cost.map(|c| c.account.total), money),
    ]
}

/// What a price counts, at length.
const PRICE_WITH_NEEDS: &str =
    "price with what it needs: charger, fuse, cables, switch, meter, hold-downs not yet owned";

/// Money of the years looked ahead.
fn over_years(
    plan: &Plan,
    total: Option<Money>,
    money: impl Fn(Option<Money>) -> String,
) -> Figure {
    let years = figures::amount(plan.rules.horizon_years);
    Figure {
        label: "all years",
        value: money(total),
        more: format!("all money over {years} years, sets bought again included"),
    }
}

/// What a mile or a kilometre costs, where the day covers any.
pub(crate) fn per_distance(
    cost: Option<Cost>,
    course: &Course,
    plan: &Plan,
    say: Say<'_>,
) -> Option<Money> {
    let each = say.units.unit(Measure::Distance);
    let days = f64::from(plan.day.days_without_charging);
    let far = course.distance().value() * days / each.factor;
    cost?.per(far)
}

/// Why an outing costs something else than the label's cycles make of the price.
pub(crate) fn why_not_the_labels(pack: &Pack, survey: Option<&Survey>) -> Option<&'static str> {
    let extras = pack.extras.now().unwrap_or(Money::ZERO);
    money::not_the_labels(pack.label_cycles()?, &survey?.life, extras)
        .map(money::NotTheLabels::words)
}

/// What the label alone makes of the cost per cycle, and why it costs something else here.
fn by_the_label(about: &About<'_>, drawn: &Drawn) -> Option<String> {
    drawn.cost.as_ref()?;
    let pack = about.pack;
    let naive = about.say.money(pack.naive_cost_per_cycle()?);
    let extras = pack.extras.now().unwrap_or(Money::ZERO);
    let why = money::not_the_labels(pack.label_cycles()?, &drawn.life, extras)?;
    Some(format!("By label cycles {naive}, but {}", why.words()))
}

fn moments(about: &About<'_>, drawn: &Drawn) -> Vec<Moment> {
    let plan = about.plan;
    let band = |at: Hours| {
        drawn
            .band
            .points
            .iter()
            .find(|b| b.at > Hours::ZERO && (b.at - at).value().abs() < 1e-6)
            .map_or_else(String::new, |b| {
                format!("{:.0} to {:.0} %", b.low * 100.0, b.high * 100.0)
            })
    };
    let mut ends = Vec::new();
    let mut clock;
    for turn in 0..plan.day.days_without_charging {
        clock = f64::from(turn) * plan.day.lasts().value().max(24.0);
        for stretch in &plan.day.stretches {
            clock += stretch.lasts.value();
            ends.push((clock, stretch.name.as_str()));
        }
    }
    drawn
        .points
        .iter()
        .map(|p| {
            let after = if p.at <= Hours::ZERO {
                "start"
            } else {
                ends.iter().find(|(t, _)| *t >= p.at.value() - 1e-6).map_or("", |(_, name)| name)
            };
            Moment {
                clock: figures::clock(&plan.day, p.at, about.say.clock),
                after: after.to_owned(),
                amps: format!("{} A", figures::amount(p.amps.value())),
                // What the cold holds back gives no voltage; a pause may find the battery so.
                volts: p.volts.map_or_else(|| "too cold".to_owned(), |v| format!("{v:.1}")),
                charge: figures::percent(p.charge),
                band: band(p.at),
            }
        })
        .collect()
}

/// What was filled in, in words.
fn assumed_words(key: &str) -> &'static str {
    match key {
        "battery.resistance" => "internal resistance",
        "battery.recovery" => "recovery in rests",
        "battery.cycles" => "cycles",
        "battery.calendar_years" => "calendar life",
        "battery.max_continuous_current_a" => "no current limit",
        "battery.low_voltage_cutoff_v" => "end voltage",
        "day.ambient_c" => "77 °F (25 °C)",
        _ => "a figure of its kind",
    }
}
