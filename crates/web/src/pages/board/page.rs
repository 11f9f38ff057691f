//! The Board page put together.

use super::change::{Decision, Ground, HomeWay};
use super::cursor;
use super::money::MoneyPicture;
use super::schools::{self, QuestionView};
use super::wants::{self, WantChip, WantsView};
use crate::figures;
use crate::forms::wants::WantFields;
use crate::forms::{self, Field, Group, Problems, Shown};
use crate::frame::asked::Scene;
use crate::frame::error::PageError;
use crate::frame::head::Head;
use crate::frame::render::{Render, block};
use crate::frame::view::{Open, Order, Page, View};
use crate::frame::weighed::{OnBoard, Scales};
use crate::parts::lane::{self, Lane};
use crate::parts::nudges::{NudgeLink, nudges, unmoved};
use crate::parts::rows::DayView;
use crate::parts::source::{self, Rests};
use crate::parts::strip::Asks;
use askama::Template;
use lake_hour_core::decide::Contest;
use lake_hour_core::pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::shelf::Chemistry;
use lake_hour_core::units::Metres;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_store::RigId;
use std::collections::BTreeMap;

/// A link to another order of the lanes.
pub(crate) struct OrderLink {
    pub(crate) words: &'static str,
    pub(crate) href: String,
    pub(crate) current: bool,
}

#[derive(Template)]
#[template(path = "board/page.html", blocks = ["page"])]
pub(crate) struct BoardPage {
    pub(super) head: Head,
    pub(super) rig: RigId,
    pub(super) view: View,
    pub(super) summary: String,
    pub(super) reserve: String,
    pub(super) floors: String,
    pub(super) orders: Vec<OrderLink>,
    pub(super) day: DayView,
    pub(super) lanes: Vec<Lane>,
    pub(super) set_aside: Vec<Lane>,
    /// Why no pack can be judged.
    pub(super) missing: Option<String>,
    /// What would let a pack pass where none does.
    pub(super) nearest: Vec<HomeWay>,
    /// Not one of the packs can be used at all.
    pub(super) none_of: bool,
    /// How many are set aside for which reason.
    pub(super) aside_counts: Vec<(usize, String)>,
    pub(super) rules: Option<Vec<Field>>,
    pub(super) nudges: Vec<NudgeLink>,
    pub(super) unmoved: Option<String>,
    pub(super) new_pack: Option<Vec<Group>>,
    pub(super) wants: WantsView,
    /// What nobody has told yet.
    pub(super) rests: Rests,
    /// The schools, where the house rules are open.
    pub(super) questions: Vec<QuestionView>,
    /// Where the house follows another school than the usual one.
    pub(super) unusual: Vec<String>,
    /// What its log taught and every lane uses.
    pub(super) learned: Vec<String>,
    /// Which must leaves no pack, where none is left.
    pub(super) excludes: Option<String>,
    pub(super) money: Option<MoneyPicture>,
    /// Fields of the terms of money, and what is said below them.
    pub(super) terms: Option<(Vec<Field>, String)>,
    pub(super) decision: Option<Decision>,
    /// The decision is being worked out.
    pub(super) weighing: bool,
    /// Packs that were put out of sight.
    pub(super) hidden: Vec<(i64, String)>,
    pub(super) boat: bool,
    pub(super) metric: bool,
}

/// What the Board's answers rest on: the rig, the day, and packs whose labels nobody has read.
fn rests(plan: &Plan, rig: RigId, view: View, units: System) -> Rests {
    let mut all = source::of_plan(plan, units);
    all.extend(source::untold(plan));
    all.extend(source::of_typical_packs(plan));
    Rests::on(all, rig, view)
}

impl BoardPage {
    pub(crate) fn new(scene: &Scene) -> Self {
        let (board, view, units) = (&scene.board, scene.view, scene.look.units);
        let shown = OnBoard::of(board, view, units);
        let plan = &shown.plan;
        let asks = Asks::of(plan);
        let mut all = lane::lanes(scene, &shown, &asks.course);
        let standings = shown.standings();
        let (order, first) = (Contest::order(&standings), Contest::first(&standings));
        let say = scene.look.say(&plan.currency);
        let weighed = scene.scales.as_ref().and_then(Scales::weighed);
        for (n, lane) in all.iter_mut().enumerate() {
            wants::stand(lane, plan, standings.get(n), say);
            lane.first = first == Some(n) && order.len() > 1;
            let beaten = standings.get(n).and_then(|s| s.beaten_by);
            lane.beaten_by = beaten.map(|by| plan.packs[by].name.clone());
            lane.fade = weighed.and_then(|w| cursor::fade(plan, w, n));
        }
        let places: BTreeMap<i64, usize> =
            order.iter().enumerate().map(|(place, n)| (all[*n].id, place)).collect();
        let (set_aside, mut lanes): (Vec<Lane>, Vec<Lane>) =
            all.into_iter().partition(|lane| lane.is_set_aside() || !lane.fails.is_empty());
        sort(&mut lanes, view, &places);
        let ground = Ground {
            board: &shown,
            standings: &standings,
            order: &order,
            first,
            rig: board.rig,
            view,
            look: scene.look,
        };
        let hidden = std::iter::zip(&board.plan.packs, &board.packs)
            .filter(|(pack, _)| pack.shown == pack::Shown::Hidden)
            .map(|(pack, id)| (id.0, pack.name.clone()));
        let none = Problems::default();
        let problems_of = |open: Open| scene.draft_of(open).map_or(&none, |d| &d.problems);
        // Those that only fail a must are weighed too: what would let them pass is told.
        let order_or_aside = standings.iter().any(|s| s.survey.is_some());
        let summary = summary(plan, &asks, units, &lanes);
        Self {
            head: Head::of_scene(scene),
            rig: board.rig,
            view,
            summary,
            reserve: figures::percent(plan.rules.reserve),
            floors: floors(plan),
            wants: WantsView::new(scene, plan),
            rests: rests(&board.plan, board.rig, view, units),
            questions: if view.open == Open::Rules {
                schools::questions(&shown)
            } else {
                Vec::new()
            },
            unusual: schools::unusual(plan),
            learned: crate::parts::learned::words(&plan.rig),
            excludes: lanes.is_empty().then(|| ground.excludes_most()).flatten(),
            nearest: weighed.map_or_else(Vec::new, |w| ground.nearest(w)),
            none_of: lanes.is_empty()
                && set_aside.iter().all(Lane::is_set_aside)
                && !set_aside.is_empty(),
            money: MoneyPicture::of(plan, &standings, &order, say),
            terms: (view.open == Open::Money).then(|| {
                let draft = scene.draft_of(Open::Money);
                let typed =
                    draft.map_or_else(|| forms::terms::typed(&board.plan), |d| d.typed.clone());
                let problems = problems_of(Open::Money);
                forms::terms::fields(Shown { typed: &typed, problems, units }, &board.plan.currency)
            }),
            decision: weighed.map(|weighed| ground.decision(weighed)),
            weighing: scene.scales.as_ref().is_some_and(|s| !s.are_ready()) && order_or_aside,
            hidden: hidden.collect(),
            orders: Order::ALL
                .map(|(order, words)| OrderLink {
                    words,
                    href: View { order, ..view }.address(board.rig),
                    current: order == view.order,
                })
                .into(),
            day: DayView::new(scene, plan, &asks),
            aside_counts: counts(&set_aside),
            missing: asks.missing(&plan.day),
            lanes,
            set_aside,
            rules: (view.open == Open::Rules).then(|| {
                let typed = scene.draft_of(Open::Rules).map_or_else(
                    || forms::rules::typed(&board.plan.rules, units),
                    |d| d.typed.clone(),
                );
                let problems = problems_of(Open::Rules);
                forms::rules::fields(Shown { typed: &typed, problems, units })
            }),
            new_pack: (view.open == Open::NewPack).then(|| {
                let typed = scene
                    .draft_of(Open::NewPack)
                    .map_or_else(forms::pack::blank, |d| d.typed.clone());
                let problems = problems_of(Open::NewPack);
                forms::pack::groups("new", Shown { typed: &typed, problems, units }, true)
            }),
            boat: plan.rig.craft.kind.is_boat(),
            metric: units == System::Metric,
            unmoved: unmoved(view, plan),
            nudges: nudges(board.rig, view, plan, scene.look),
        }
    }

    pub(crate) fn html(&self, render: Render) -> Result<String, PageError> {
        match render {
            Render::Page => self.render().map_err(|_| PageError::Broken),
            Render::Fragment => block(&self.head.title, self.as_page().render()),
        }
    }

    /// Address of the board with another panel open.
    fn log(&self) -> String {
        self.view.on(Page::Log).address(self.rig)
    }

    fn open(&self, open: &str) -> String {
        let open = match open {
            "day" => Open::Day,
            "rules" => Open::Rules,
            "wants" => Open::Wants,
            "money" => Open::Money,
            "new-pack" => Open::NewPack,
            _ => Open::Nothing,
        };
        self.toggled(open)
    }

    /// Address of the Day page.
    fn day_page(&self) -> String {
        self.view.on(Page::Day).address(self.rig)
    }

    /// Address of the Shelf.
    fn rig_page(&self) -> String {
        self.view.on(Page::Rig).address(self.rig)
    }

    fn packs_page(&self) -> String {
        self.view.on(Page::Packs).address(self.rig)
    }

    fn shelf_page(&self) -> String {
        self.view.on(Page::Shelf).address(self.rig)
    }

    /// A file of what is shown, what-ifs included.
    fn file(&self, name: &str) -> String {
        let View { nudges, order, .. } = self.view;
        let query = View { nudges, order, ..View::default() }.query();
        format!("/rigs/{}/{name}{query}", self.rig.0)
    }

    /// The first two lanes side by side.
    fn compare(&self) -> String {
        let kept = self.view.kept().into_iter().map(|(k, v)| format!("&{k}={v}"));
        let ids: Vec<String> = self.lanes.iter().take(2).map(|l| l.id.to_string()).collect();
        format!("/rigs/{}/compare?packs={}{}", self.rig.0, ids.join("-"), kept.collect::<String>())
    }

    /// Without any what-if.
    fn dropped(&self) -> String {
        View { nudges: crate::frame::view::Nudges::default(), ..self.view }.address(self.rig)
    }

    fn open_pack(&self, id: &i64) -> String {
        self.toggled(Open::Pack(*id))
    }

    fn open_working(&self, id: &i64) -> String {
        self.toggled(Open::Working(*id))
    }

    /// A link to an open panel closes it.
    fn toggled(&self, open: Open) -> String {
        let open = if self.view.open == open { Open::Nothing } else { open };
        self.view.opening(open).address(self.rig)
    }

    fn pin(&self, lane: &Lane) -> String {
        let pin = (!lane.pinned).then_some(lane.id);
        View { pin, ..self.view }.address(self.rig)
    }

    /// Where a form is sent, so that the answer comes in the same view.
    fn action(&self, path: &str) -> String {
        format!("/rigs/{}/{path}{}", self.rig.0, self.view.query())
    }

    /// Where a chip's next level is asked for.
    fn action_want(&self, chip: &WantChip) -> String {
        self.action(&format!("wants/{}/{}", chip.key, chip.next.key()))
    }

    fn action_school(&self, question: &str, school: &usize) -> String {
        self.action(&format!("schools/{question}/{school}"))
    }

    fn action_preset(&self, key: &str) -> String {
        self.action(&format!("wants/preset/{key}"))
    }

    /// What a limit is called where its want's name does not stand beside it.
    fn limit_label(&self, want: &WantFields) -> String {
        let limit = want.limit.as_ref().map_or("", |l| l.spec.label);
        format!("{}: {limit}", want.level.spec.label)
    }

    /// The act that folds a lane or opens it.
    const fn slim_act(&self, lane: &Lane) -> &'static str {
        if lane.slim { "full" } else { "slim" }
    }

    /// Where every lane at every moment is told: another address after every change and in other units.
    fn moments(&self) -> String {
        let View { nudges, .. } = self.view;
        let view = View { nudges, ..View::default() };
        let query = view.query();
        let sign = if query.is_empty() { '?' } else { '&' };
        let look = self.head.look;
        let as_shown = format!("{}-{}", look.units.key(), look.clock.key());
        format!("/rigs/{}/moments.json{query}{sign}now={}&as={as_shown}", self.rig.0, self.head.now)
    }

    /// The same page, with the decision worked out.
    fn weigh(&self) -> String {
        let address = self.view.address(self.rig);
        let sign = if address.contains('?') { '&' } else { '?' };
        format!("{address}{sign}weigh=yes")
    }

    /// Where a pack is chosen to be built.
    fn choose(&self, lane: &Lane) -> String {
        self.action(&format!("build/choose/{}", lane.id))
    }

    fn action_on(&self, what: &str, id: &i64, act: &str) -> String {
        let act = if act.is_empty() { String::new() } else { format!("/{act}") };
        self.action(&format!("{what}/{id}{act}"))
    }

    fn is_open(&self, open: &str) -> bool {
        match open {
            "day" => self.view.open == Open::Day,
            "rules" => self.view.open == Open::Rules,
            "wants" => self.view.open == Open::Wants,
            "money" => self.view.open == Open::Money,
            _ => self.view.open == Open::NewPack,
        }
    }
}

fn sort(lanes: &mut [Lane], view: View, places: &BTreeMap<i64, usize>) {
    match view.order {
        Order::Own => {}
        Order::Wants => {
            lanes.sort_by_key(|lane| places.get(&lane.id).copied().unwrap_or(usize::MAX));
        }
        Order::Best => {
            lanes.sort_by(|a, b| a.outcome.cmp(&b.outcome).then(a.hourly.total_cmp(&b.hourly)));
        }
        Order::Light => lanes.sort_by(|a, b| a.mass.total_cmp(&b.mass)),
        Order::Cheap => lanes.sort_by(|a, b| a.hourly.total_cmp(&b.hourly)),
    }
    lanes.sort_by_key(|lane| !lane.pinned);
}

/// "24 V · 7 h 20 min · 89 Ah · 2.1 kWh"; on wheels the miles, and how many the best pack goes on a charge.
fn summary(plan: &Plan, asks: &Asks, units: System, lanes: &[Lane]) -> String {
    let volts = plan.rig.motor.system_voltage.value();
    let [ah, wh] = asks.charge(volts);
    let lasts = figures::duration(plan.day.lasts().value());
    let mut parts = vec![format!("{} V", figures::amount(volts)), lasts, ah, wh];
    if !plan.rig.craft.kind.is_boat() {
        let distance = asks.course.distance();
        if distance.value() > 0.0 {
            let rounds = match plan.day.rounds() {
                1 => "1 round".to_owned(),
                n => format!("{n} rounds"),
            };
            parts.insert(0, format!("{} in {rounds}", figures::far(distance, units)));
            let best = lanes.iter().filter_map(|l| l.reach).reduce(f64::max);
            let best =
                best.map(|far| format!("up to {} a charge", figures::far(Metres::of(far), units)));
            parts.splice(1..1, best);
        }
    }
    if plan.day.days_without_charging > 1 {
        parts.push(format!("{} days between charges", plan.day.days_without_charging));
    }
    if let Some(share) = plan.day.start_charge {
        parts.push(format!("starts at {}", figures::percent(share)));
    }
    if plan.day.is_charged() {
        parts.push("charged on the way".to_owned());
    }
    if plan.day.conditions.wind.value() > 0.0 {
        let hourly =
            if plan.day.hourly.iter().any(|h| h.wind.is_some()) { ", changing" } else { "" };
        parts.push(format!("wind {}{hourly}", figures::speed(plan.day.conditions.wind, units)));
    }
    if let Some(t) = plan.day.ambient {
        parts.push(figures::measure(units, Measure::Temperature, t.value(), 0));
    }
    let devices = plan.day.accessory_power().value();
    if devices > 0.0 {
        parts.push(format!("devices {} W", figures::amount(devices)));
    }
    let (outings, each) = (figures::amount(plan.day.outings_per_year), plan.day.days_each());
    parts.push(format!("{outings} outings{each} a year"));
    parts.join(" · ")
}

/// Floors of the chemistries on the board, with their ceilings where these are below full; lead's together where they
/// are alike.
fn floors(plan: &Plan) -> String {
    let mut by_floor: BTreeMap<(u64, u64), Vec<&'static str>> = BTreeMap::new();
    for chemistry in Chemistry::ALL {
        if plan.packs.iter().any(|p| p.battery.chemistry == chemistry) {
            let percent = |share: f64| (share * 100.0).round() as u64;
            let window =
                (percent(plan.rules.floor(chemistry)), percent(plan.rules.ceiling(chemistry)));
            let names = by_floor.entry(window).or_default();
            let name = if chemistry.is_lead() { "lead" } else { chemistry.name() };
            if !names.contains(&name) {
                names.push(name);
            }
        }
    }
    let parts = by_floor.iter().rev().map(|((floor, top), names)| {
        let top = if *top < 100 { format!(" to {top}") } else { String::new() };
        format!("{} {floor}{top} %", names.join(", "))
    });
    parts.collect::<Vec<_>>().join(", ")
}

fn counts(set_aside: &[Lane]) -> Vec<(usize, String)> {
    let mut counts: BTreeMap<String, usize> = BTreeMap::new();
    for lane in set_aside {
        let figure = (!lane.short_reason.is_empty()).then(|| lane.short_reason.to_owned());
        for reason in figure.into_iter().chain(lane.fails_short.iter().cloned()) {
            *counts.entry(reason).or_default() += 1;
        }
    }
    counts.into_iter().map(|(reason, n)| (n, reason)).collect()
}
