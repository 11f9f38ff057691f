//! The Packs page put together.

use super::bench::Bench;
use super::charger::ChargerView;
use super::fits::FitsView;
use super::hand::{Built, HandView, is_small};
use super::house::HouseView;
use super::list::{List, Listed};
use super::near::{self, NearView};
use super::opened::{self, Column, FailureRow, Line};
use super::pack_of;
use super::power::PowerView;
use super::row::RowView;
use super::turn::TurnView;
use super::view::{By, Form, PAGE_SIZE, PacksView, Want, Which};
use super::weight;
use super::wiring::WiringView;
use crate::figures;
use crate::frame::error::PageError;
use crate::frame::head::Head;
use crate::frame::judged::Verdicts;
use crate::frame::look::Look;
use crate::frame::proposed::Proposals;
use crate::frame::proposed::Starter;
use crate::frame::render::{Render, block};
use crate::frame::view::{Nudges, Page, View};
use crate::parts::decision::About;
use crate::parts::fit::FitView;
use askama::Template;
use lake_hour_core::allowed;
use lake_hour_core::parts::breaker_by_rule;
use lake_hour_core::plan::Plan;
use lake_hour_core::proposals::failing::one_fails;
use lake_hour_core::proposals::house_battery::Offer;
use lake_hour_core::proposals::near::mend;
use lake_hour_core::shelf::{Battery, Chemistry};
use lake_hour_core::units::parse;
use lake_hour_core::units::system::Measure;
use lake_hour_core::verdict::{self, Course, Judge, NoDrawCurve};
use lake_hour_store::{BatteryId, Board, RigId};
use std::collections::BTreeMap;

/// Near misses that are told.
const MOST_NEAR: usize = 4;

/// What the page is drawn from.
#[derive(Debug)]
pub(super) struct Found {
    pub(super) board: Board,
    /// The board's, with the what-ifs.
    pub(super) plan: Plan,
    pub(super) proposals: Proposals,
    pub(super) list: List,
    pub(super) labels: BTreeMap<BatteryId, Battery>,
    /// Batteries to choose from, where a pack is built by hand.
    pub(super) names: Vec<(BatteryId, String)>,
    /// Batteries that would do as a house battery, the best first, and those that would start the engine.
    pub(super) house: (Vec<(BatteryId, Offer, bool)>, Vec<Starter>),
    pub(super) missing: Option<NoDrawCurve>,
    pub(super) verdicts: Verdicts,
}

/// A choice with its address.
pub(super) struct Chip {
    words: &'static str,
    href: String,
    on: bool,
}

/// A limit that is typed.
pub(super) struct Limit {
    name: &'static str,
    what: &'static str,
    unit: String,
    value: String,
    problem: Option<String>,
}

/// Units of packs beside one another, to one scale.
pub(super) struct Outlines {
    /// (column, length, width and height)
    sizes: Vec<(usize, [f64; 3])>,
    long: f64,
    wide: f64,
    high: f64,
}

impl Outlines {
    /// Height of the drawing. [mm]
    const fn deep(&self) -> f64 {
        self.wide.max(self.high)
    }
}

/// The pack that is looked at.
pub(super) struct Opened {
    /// Whether the rule of the house asks for a breaker.
    breaker_by_rule: bool,
    id: String,
    name: String,
    label: String,
    outcome: &'static str,
    disc: &'static str,
    verdict: String,
    drive: Option<String>,
    beside: String,
    is_beside: bool,
    places: Option<String>,
    fit: Option<FitView>,
    air: Option<String>,
    on_board: bool,
    wiring: Option<WiringView>,
    /// What comes of units that are not alike.
    says: Vec<String>,
    danger: Option<String>,
    odd_problem: Option<String>,
    notes: Vec<String>,
    charger: Option<ChargerView>,
    failing: Vec<FailureRow>,
    weight: Vec<Line>,
    power: Option<PowerView>,
    reasons: Vec<String>,
}

#[derive(Template)]
#[template(path = "packs/page.html", blocks = ["page"])]
pub(super) struct PacksPage {
    head: Head,
    rig: RigId,
    view: PacksView,
    summary: String,
    missing: Option<String>,
    wants: Vec<Chip>,
    orders: Vec<Chip>,
    limits: Vec<Limit>,
    chemistries: Vec<(&'static str, &'static str, bool)>,
    units: Vec<(String, String, bool)>,
    rows: Vec<RowView>,
    near: Vec<NearView>,
    refused: Vec<(String, &'static str)>,
    refused_in_all: String,
    matching: usize,
    first: usize,
    previous: Option<String>,
    next: Option<String>,
    /// How far the shelf has been gone through, where that is not done.
    going_on: Option<(usize, usize)>,
    empty_shelf: bool,
    opened: Option<Opened>,
    hand: Option<HandView>,
    house: Option<HouseView>,
    fits: Option<FitsView>,
    turn: Option<TurnView>,
    /// Packs beside one another.
    beside: Vec<Column>,
    /// Why a pack that is asked for is not to be had.
    gone: Option<&'static str>,
    /// One that its reader opened, and not only the first of the list.
    chosen: bool,
    rate: String,
    rate_problem: Option<String>,
    boat: bool,
    main_engine: bool,
    metric: bool,
}

impl PacksPage {
    pub(super) fn new(found: &Found, look: Look, view: PacksView, said: Option<String>) -> Self {
        let rig = found.board.rig;
        let list = &found.list;
        let course = verdict::course(&found.plan.rig_as_measured(), &found.plan.day);
        let open = view.open.or_else(|| list.rows.first().map(|l| l.which));
        let mut wanted: Vec<Which> = list.rows.iter().map(|l| l.which).collect();
        wanted.extend(open);
        wanted.extend(&list.others);
        wanted.extend(&view.beside);
        let bench = Bench::new(found, &course, look, &view, &wanted);
        let usual = found.plan.rules.money.failing;
        let rate = match view.rate.as_str() {
            "" => Ok(usual * 100.0),
            typed => parse::number(typed, &allowed::FAILING),
        };
        let rate_problem = rate.as_ref().err().map(ToString::to_string);
        let share = rate.map_or(usual, |percent| percent / 100.0);
        let opened = open.and_then(|which| {
            let compared = if view.beside.is_empty() { &list.others } else { &view.beside };
            opened(&bench, which, compared, share, &view)
        });
        let opened = opened.map(|o| Opened {
            beside: open.map_or_else(String::new, |which| view.beside(which).address(rig)),
            ..o
        });
        let rows = list.rows.iter().filter_map(|l| row(&bench, l, rig, &view, open)).collect();
        let say = look.say(&found.plan.currency);
        let boat = found.plan.rig.craft.kind.is_boat();
        let refused_count: usize = list.refused.iter().map(|(n, _)| n).sum();
        let first = list.page * PAGE_SIZE;
        let turn = |page: usize| PacksView { page, open: None, ..view.clone() }.address(rig);
        let mut head = Head::of_rig(&found.board, view.board.on(Page::Packs), look);
        head.said = said;
        Self {
            rig,
            summary: summary(found),
            missing: found.missing.as_ref().map(missing),
            wants: wants(&view, rig, boat),
            orders: By::ALL
                .map(|(by, _, words)| Chip {
                    words,
                    href: view.with(|v| v.by = by).address(rig),
                    on: by == view.by,
                })
                .into(),
            limits: vec![
                Limit {
                    name: "weight",
                    what: "Weight",
                    unit: look.units.unit(Measure::Mass).name.to_owned(),
                    value: PacksView::in_field(&view.weight, look.units, Measure::Mass),
                    problem: list.limits.weight_problem.clone(),
                },
                Limit {
                    name: "price",
                    what: "Price",
                    unit: currency(&found.plan.currency),
                    value: view.price.clone(),
                    problem: list.limits.price_problem.clone(),
                },
            ],
            chemistries: Chemistry::ALL
                .map(|c| (c.key(), c.name(), view.chemistry == Some(c)))
                .into(),
            units: [1, 2, 3, 4, 6, 8]
                .map(|n: u32| {
                    let words =
                        if n == 1 { "one unit".to_owned() } else { format!("up to {n} units") };
                    (n.to_string(), words, view.units == Some(n))
                })
                .into(),
            near: near_misses(found, say, &view, rig),
            refused: list
                .refused
                .iter()
                .map(|(n, hurdle)| (figures::amount(*n as f64), hurdle.words()))
                .collect(),
            refused_in_all: figures::amount(refused_count as f64),
            matching: list.matching,
            first,
            previous: (list.page > 0).then(|| turn(list.page - 1)),
            next: (first + PAGE_SIZE < list.matching).then(|| turn(list.page + 1)),
            going_on: (!found.proposals.done && found.missing.is_none())
                .then_some((found.proposals.judged, found.proposals.of)),
            empty_shelf: found.proposals.done && found.proposals.of == 0,
            gone: (opened.is_none() && found.missing.is_none()).then(|| gone(view.open?)).flatten(),
            chosen: view.open.is_some(),
            house: HouseView::of(found, look, &view, rig),
            turn: view.turn.then(|| TurnView::of(found, look, &view, rig)),
            fits: view.fits.then(|| FitsView::of(&found.plan, look.units)),
            hand: view.hand.then(|| HandView::of(&found.names, open, &view)),
            beside: beside(&bench, &view, rig, share),
            rows,
            opened,
            rate: if view.rate.is_empty() {
                figures::typed(share * 100.0)
            } else {
                view.rate.clone()
            },
            rate_problem,
            boat,
            main_engine: found.plan.rig.main_engine && boat,
            metric: look.units == lake_hour_core::units::system::System::Metric,
            head,
            view,
        }
    }

    pub(super) fn html(&self, render: Render) -> Result<String, PageError> {
        match render {
            Render::Page => self.render().map_err(|_| PageError::Broken),
            Render::Fragment => block(&self.head.title, self.as_page().render()),
        }
    }

    fn here(&self) -> String {
        self.view.address(self.rig)
    }

    /// Where a form is sent, so that the answer comes in the same view.
    fn action(&self, path: &str) -> String {
        format!("/rigs/{}/packs/{path}{}", self.rig.0, self.view.query())
    }

    fn on(&self, page: Page) -> String {
        self.view.board.on(page).address(self.rig)
    }

    fn board_page(&self) -> String {
        self.on(Page::Board)
    }

    fn shelf_page(&self) -> String {
        self.on(Page::Shelf)
    }

    fn day_page(&self) -> String {
        self.on(Page::Day)
    }

    fn rig_page(&self) -> String {
        self.on(Page::Rig)
    }

    fn list_only(&self) -> String {
        self.view.opening(None).address(self.rig)
    }

    /// All that is proposed, without a limit.
    fn all(&self) -> String {
        PacksView { board: self.view.board, ..PacksView::default() }.address(self.rig)
    }

    fn without_what_ifs(&self) -> String {
        let board = View { nudges: Nudges::default(), ..self.view.board };
        PacksView { board, ..self.view.clone() }.address(self.rig)
    }

    /// The view for a form that sends one of its values itself.
    fn without(&self, own: &[&str]) -> Vec<(&'static str, String)> {
        let mut pairs = self.view.pairs(Form::Link);
        pairs.retain(|(name, _)| !own.contains(name));
        pairs
    }

    /// Outlines of one unit of each, over one another from one corner: (from above, from the side), and the drawing's
    /// width and height. [mm]
    fn outlines(&self) -> Option<Outlines> {
        let sizes = self.beside.iter().enumerate();
        let sizes: Vec<(usize, [f64; 3])> = sizes.filter_map(|(n, c)| Some((n, c.size?))).collect();
        let most = |axis: usize| sizes.iter().map(|(_, s)| s[axis]).reduce(f64::max);
        let (long, wide, high) = (most(0)?, most(1)?, most(2)?);
        Some(Outlines { sizes, long, wide, high })
    }

    /// What is told of packs beside one another.
    const fn beside_rows(&self) -> [&'static str; 10] {
        Column::ROWS
    }

    fn none_beside(&self) -> String {
        PacksView { beside: Vec::new(), ..self.view.clone() }.address(self.rig)
    }

    /// The view for the list's own form.
    fn for_the_list(&self) -> Vec<(&'static str, String)> {
        self.view.pairs(Form::List)
    }

    /// The view for the form of a pack built by hand.
    fn for_the_hand(&self) -> Vec<(&'static str, String)> {
        self.view.pairs(Form::Hand)
    }

    fn other_turn(&self) -> String {
        PacksView { turn: !self.view.turn, ..self.view.clone() }.address(self.rig)
    }

    fn other_fits(&self) -> String {
        PacksView { fits: !self.view.fits, ..self.view.clone() }.address(self.rig)
    }

    fn other_hand(&self) -> String {
        PacksView { hand: !self.view.hand, ..self.view.clone() }.address(self.rig)
    }

    fn lead_typed(&self) -> String {
        PacksView::in_field(&self.view.lead, self.head.look.units, Measure::Length)
    }

    fn speed_typed(&self) -> String {
        PacksView::in_field(&self.view.to, self.head.look.units, Measure::Speed)
    }

    /// Whether the drawing shows a breaker besides the fuse.
    fn has_breaker(&self) -> bool {
        let by_rule = self.opened.as_ref().is_none_or(|o| o.breaker_by_rule);
        self.view.breaker.unwrap_or(by_rule)
    }

    fn other_breaker(&self) -> String {
        let breaker = Some(!self.has_breaker());
        PacksView { breaker, ..self.view.clone() }.address(self.rig)
    }

    /// The wiring of a pack as a file.
    fn wiring_file(&self, id: &str) -> String {
        let view = self.view.opening(Which::read(id));
        format!("/rigs/{}/packs/wiring.svg{}", self.rig.0, view.query())
    }
}

/// Why a pack cannot be opened.
const fn gone(which: Which) -> Option<&'static str> {
    Some(match is_small(which) {
        true => "This battery is no longer on the Shelf.",
        false => "A pack has at most 64 batteries.",
    })
}

fn currency(code: &str) -> String {
    match code {
        "USD" => "$",
        "EUR" => "€",
        "GBP" => "£",
        other => other,
    }
    .to_owned()
}

fn missing(unknown: &NoDrawCurve) -> String {
    format!(
        "No pack can be judged: stretch {} ({}) is given by a motor setting, and what the motor draws there is not known.",
        unknown.index + 1,
        unknown.name
    )
}

/// "42 batteries · 131 packs judged · 58 get home · 31 of them fit".
fn summary(found: &Found) -> String {
    let list = &found.list;
    let count = |n: usize, one: &str, many: &str| {
        format!("{} {}", figures::amount(n as f64), if n == 1 { one } else { many })
    };
    let volts = figures::amount(found.plan.rig.motor.system_voltage.value());
    let mut parts = vec![
        format!("{volts} V"),
        count(found.proposals.shown, "battery", "batteries"),
        count(list.all, "pack judged", "packs judged"),
    ];
    let gets = if found.plan.rig.craft.kind.is_boat() { "home" } else { "back" };
    parts.push(count(list.home, &format!("gets {gets}"), &format!("get {gets}")));
    if !found.plan.rig.bays.is_empty() {
        parts.push(count(list.home_and_fit, "of them fits", "of them fit"));
    }
    parts.join(" · ")
}

fn wants(view: &PacksView, rig: RigId, boat: bool) -> Vec<Chip> {
    let words = |want| match want {
        Want::Home if boat => "gets home",
        Want::Home => "gets back",
        Want::Fits => "fits the bays",
        Want::Charger => "my charger",
        Want::NoLead => "no lead",
        Want::MovesOn => "still moves if one fails",
    };
    let chip = |want| Chip {
        words: words(want),
        href: view.with(|v| v.wants = v.wants.toggled(want)).address(rig),
        on: view.wants.has(want),
    };
    Want::ALL.map(chip).into()
}

fn row(
    bench: &Bench<'_>,
    listed: &Listed,
    rig: RigId,
    view: &PacksView,
    open: Option<Which>,
) -> Option<RowView> {
    let which = listed.which;
    let pack = bench.sound(which)?;
    let row = RowView::new(which, bench.about(&pack), bench.judged(&pack)?);
    Some(RowView {
        href: view.opening(Some(which)).address(rig),
        opened: open == Some(which),
        doubted: listed.doubted.then(|| {
            let at = format!("open=battery-{}", which.battery.0);
            let shelf = view.board.on(Page::Shelf).address(rig);
            format!("{shelf}{}{at}", if shelf.contains('?') { '&' } else { '?' })
        }),
        ..row
    })
}

fn opened(
    bench: &Bench<'_>,
    which: Which,
    others: &[Which],
    rate: f64,
    view: &PacksView,
) -> Option<Opened> {
    let Built { pack, says, danger, problem } = bench.built(which)?;
    let (about, judged) = (bench.about(&pack), bench.judged(&pack)?);
    let row = RowView::new(which, about, judged);
    let mut failing = vec![bench.failure(which, rate, true)?];
    let others = others.iter().filter(|one| **one != which);
    failing.extend(others.filter_map(|one| bench.failure(*one, rate, false)));
    Some(Opened {
        breaker_by_rule: breaker_by_rule(about.plan, about.pack),
        id: row.id,
        name: row.name,
        label: opened::label(&pack),
        verdict: row.verdict,
        outcome: row.outcome,
        disc: row.disc,
        drive: crate::parts::decision::drive(&about, judged),
        beside: String::new(),
        is_beside: view.beside.contains(&which),
        places: opened::places(&bench.plan.rig, &pack),
        air: opened::air(&bench.plan.rig, &pack, bench.look.units),
        fit: FitView::of(&bench.plan.rig, &pack, bench.look.units).filter(|f| !f.bays.is_empty()),
        on_board: row.on_board,
        wiring: WiringView::of(&about, judged, view).filter(|_| danger.is_none()),
        says,
        danger,
        odd_problem: problem,
        notes: crate::parts::decision::notes(&about, judged),
        charger: ChargerView::of(&about, judged),
        failing,
        weight: weight::weight(&about, judged, bench.aboard().map(|judged| &***judged)),
        power: PowerView::of(&about, judged, view),
        reasons: judged.reasons.iter().map(|r| r.sentence(bench.look.units)).collect(),
    })
}

fn beside(bench: &Bench<'_>, view: &PacksView, rig: RigId, rate: f64) -> Vec<Column> {
    let column = |which: &Which| {
        let pack = bench.pack(*which)?;
        let (about, judged) = (bench.about(&pack), bench.judged(&pack)?);
        let rest = one_fails(&pack, &bench.plan.rig);
        let rest = rest.and_then(|rest| bench.judged(rest.pack()));
        let wiring = WiringView::of(&about, judged, view);
        let column = Column::of(&about, judged, rest.map(|j| &***j), wiring.as_ref(), rate);
        Some(Column {
            away: view.beside(*which).address(rig),
            href: view.opening(Some(*which)).address(rig),
            ..column
        })
    };
    view.beside.iter().filter_map(column).collect()
}

fn near_misses(
    found: &Found,
    say: lake_hour_core::units::say::Say<'_>,
    view: &PacksView,
    rig: RigId,
) -> Vec<NearView> {
    let Ok(judge) = found.plan.judge() else { return Vec::new() };
    let near = |l: &Listed, judge: &Judge| {
        let pack = pack_of(&found.plan, found.labels.get(&l.which.battery)?, l.which);
        let mend = mend(&found.plan, judge, &pack, l.of.hurdle?)?;
        Some(NearView {
            name: pack.name,
            href: view.opening(Some(l.which)).address(rig),
            says: near::words(&mend, say, &found.plan.rig),
        })
    };
    found.list.near.iter().filter_map(|l| near(l, &judge)).take(MOST_NEAR).collect()
}

/// A wiring on its own, with the style that it needs.
#[derive(Template)]
#[template(path = "packs/file.svg", escape = "html")]
struct WiringFile<'a> {
    d: &'a crate::parts::drawing::Drawing,
    title: &'a str,
}

/// The wiring of a pack as an SVG file; `None` where the pack cannot be used or no cable is sold for it.
pub(super) fn wiring_file(
    plan: &Plan,
    battery: &Battery,
    which: Which,
    look: Look,
    view: &PacksView,
) -> Option<String> {
    let pack = pack_of(plan, battery, which);
    let judged = plan.judge().ok()?.in_full(&pack);
    let course = Course::default();
    let about = About { plan, pack: &pack, course: &course, say: look.say(&plan.currency) };
    let wiring = WiringView::of(&about, &judged, view)?;
    let d = wiring.drawings.first()?;
    WiringFile { d, title: &wiring.sentence }.render().ok()
}
