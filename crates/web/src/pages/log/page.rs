//! The Log page put together.

use super::care::{CareView, DueView};
use super::learned::LearnedView;
use super::outing::OutingView;
use super::record::RecordView;
use super::rows::{self, Row};
use super::season::SeasonView;
use super::today;
use crate::figures;
use crate::forms::list::ListView;
use crate::forms::log as forms;
use crate::forms::{Field, Problems, Shown, Typed};
use crate::frame::asked::Scene;
use crate::frame::error::PageError;
use crate::frame::head::{Damaged, Head};
use crate::frame::render::{Render, block};
use crate::frame::view::{Logging, Open, Page, Part, View};
use askama::Template;
use lake_hour_core::log::{Log, Logged, MOST_UNITS, Warranty};
use lake_hour_core::units::say::Say;
use lake_hour_store::RigId;

/// The form that is open.
#[derive(Debug, Clone)]
pub(crate) struct FormView {
    title: &'static str,
    /// Stands in its id and its draft.
    key: String,
    action: String,
    fields: Vec<Field>,
    /// What it may be about: key and name; nothing where that is settled.
    of: Vec<(String, String)>,
    of_now: String,
    of_problem: Option<String>,
    units: Option<ListView>,
    /// Where it is removed.
    remove: Option<String>,
    /// A clock for the test.
    timer: bool,
    /// What to watch while a test is done.
    cautions: &'static [&'static str],
}

/// A pack that is owned.
#[derive(Debug, Clone)]
pub(crate) struct PackView {
    name: String,
    edit: String,
    words: Vec<String>,
}

#[derive(Template)]
#[template(path = "log/page.html", blocks = ["page"])]
pub(crate) struct LogPage {
    head: Head,
    rig: RigId,
    view: View,
    facts: String,
    form: Option<FormView>,
    outing: Option<OutingView>,
    learned: Option<LearnedView>,
    care: CareView,
    rows: Vec<Row>,
    /// What was played: counted nowhere.
    practice: Vec<Row>,
    /// When it was charged.
    charged: Vec<Row>,
    packs: Vec<PackView>,
    /// Sums of the season.
    season: Option<SeasonView>,
    /// A monitor's table that is asked about.
    record: Option<RecordView>,
    /// Packs that a file can be of, the one at hand first: key and name.
    offered: Vec<(String, String)>,
    /// Why a file was not taken.
    import_problem: Option<String>,
    /// Nothing can be logged: no pack is on the Board.
    no_pack: bool,
    boat: bool,
}

impl LogPage {
    pub(crate) fn new(scene: &Scene) -> Self {
        let (board, view) = (&scene.board, scene.view);
        let say = scene.look.say(&board.plan.currency);
        let empty = Log::default();
        let kept = scene.log.as_deref();
        let log = kept.map_or(&empty, |kept| &kept.log);
        let entries = log.entries(&board.plan, log.about().map(|(id, _)| id));
        let learned = log.learned(&board.plan, today());
        let doubted = learned.doubted();
        let mut head = Head::of_scene(scene);
        for one in kept.into_iter().flat_map(|kept| &kept.unreadable) {
            let path =
                format!("/rigs/{}/log/entries/{}/remove{}", board.rig.0, one.id, view.query());
            head.damaged.push(Damaged::of(board.rig, "entry", one, path));
        }
        let seen = view.seen(log);
        let about = (entries.as_slice(), log.ageing());
        let all = rows::rows(log, &doubted, (board.rig, view), seen.map(|(id, _)| id));
        // Charging stands apart, so that outings and tests are seen together.
        let (practice, all): (Vec<Row>, Vec<Row>) = all.into_iter().partition(|row| row.practice);
        let (charged, rows) = all.into_iter().partition(|row: &Row| row.charged);
        let told = log.taught(&board.plan, &learned, today());
        let health = super::health::health_of(board, log, &learned);
        Self {
            head,
            rig: board.rig,
            view,
            facts: facts(log),
            form: form(scene, log),
            outing: seen.and_then(|(id, o)| OutingView::of((id, o), about, &scene.recorded, say)),
            care: CareView::of(board, log, (&learned, health.as_ref()), say),
            learned: LearnedView::of(&board.plan, log, (&entries, &learned), &told, say)
                .filter(|_| !entries.is_empty()),
            rows,
            practice,
            charged,
            packs: packs(log, board.rig, view, say),
            season: SeasonView::of(board, log, health.as_ref().map(|h| &h.life), say),
            record: RecordView::of(scene, log),
            offered: forms::Which::offered(board, log)
                .into_iter()
                .map(|(which, name)| (which.key(board), name))
                .collect(),
            import_problem: scene
                .draft_of(Open::Part(Part::Import))
                .and_then(|d| d.problems.get("file").map(str::to_owned)),
            no_pack: board.plan.packs.is_empty() && log.owned().next().is_none(),
            boat: board.plan.rig.craft.kind.is_boat(),
        }
    }

    pub(crate) fn html(&self, render: Render) -> Result<String, PageError> {
        match render {
            Render::Page => self.render().map_err(|_| PageError::Broken),
            Render::Fragment => block(&self.head.title, self.as_page().render()),
        }
    }

    fn action(&self, path: &str) -> String {
        format!("/rigs/{}/{path}{}", self.rig.0, self.view.query())
    }

    fn on(&self, page: Page) -> String {
        self.view.on(page).address(self.rig)
    }

    /// Where a new entry is begun.
    fn begin(&self, kind: &str) -> String {
        let open = Logging::read(kind).map_or(Open::Nothing, Open::Logging);
        self.view.opening(open).address(self.rig)
    }

    /// The form of an entry.
    fn entry(&self, id: &i64) -> String {
        self.view.opening(Open::Entry(*id)).address(self.rig)
    }

    #[allow(clippy::unused_self)]
    fn chore(&self, due: &DueView, say: &str) -> String {
        format!("log/chores/{}/{}/{say}", due.pack, due.chore)
    }

    fn close(&self) -> String {
        self.view.opening(Open::Nothing).address(self.rig)
    }
}

/// "Two Marl Point 12-100, bought 4 Apr 2025 · 41 outings · 214 h · 24 full cycles".
fn facts(log: &Log) -> String {
    let owned = log.about();
    let mut facts = Vec::new();
    if let Some((_, owned)) = owned {
        facts.push(format!("{}, bought {}", owned.pack.name, rows::day(owned.bought)));
    }
    let season = owned.map(|(id, owned)| (id, log.season(id, owned.bought, today())));
    if let Some((id, season)) = season.filter(|(_, s)| s.outings > 0) {
        facts.push(match season.outings {
            1 => "1 outing".to_owned(),
            n => format!("{n} outings"),
        });
        facts.push(format!("{:.0} h", season.hours.value()));
        facts.push(format!("{} full cycles", figures::amount(log.full_cycles(id))));
    }
    facts.join(" \u{b7} ")
}

/// What kind of form is open, and what stands in it.
fn form(scene: &Scene, log: &Log) -> Option<FormView> {
    let (board, view, units) = (&scene.board, scene.view, scene.look.units);
    let (kind, before): (Logging, Option<(i64, &Logged)>) = match view.open {
        Open::Logging(kind) => (kind, None),
        Open::Entry(id) => {
            let (id, logged) = log.all.iter().find(|(n, _)| *n == id)?;
            (forms::kind(logged), Some((*id, logged)))
        }
        _ => return None,
    };
    let kept = || match before {
        Some((_, logged)) => forms::typed(logged, units),
        None => forms::blank(kind, today(), board, log),
    };
    let draft = scene.draft_of(view.open);
    let none = Problems::default();
    let typed: Typed = draft.map_or_else(kept, |d| d.typed.clone());
    let problems = draft.map_or(&none, |d| &d.problems);
    let shown = Shown { typed: &typed, problems, units };
    let action = match before {
        Some((id, _)) => format!("log/entries/{id}"),
        None => format!("log/new/{}", kind.key()),
    };
    let action = format!("/rigs/{}/{action}{}", board.rig.0, view.query());
    let rig = board.rig.0;
    let units_of = match before {
        Some((_, Logged::Owned(o))) => Some(o.units.len()),
        _ => None,
    };
    let offered = forms::Which::offered(board, log);
    // An entry stays with what is owned; a pack that is owned is what it is.
    let offered: Vec<(String, String)> = match before {
        Some((_, Logged::Owned(_))) => Vec::new(),
        Some(_) => {
            log.owned().map(|(id, o)| (format!("owned-{id}"), o.pack.name.clone())).collect()
        }
        None if kind == Logging::Owned => {
            let on_board = |w: &forms::Which| matches!(w, forms::Which::OnBoard(_));
            offered
                .into_iter()
                .filter(|(w, _)| on_board(w))
                .map(|(w, n)| (w.key(board), n))
                .collect()
        }
        None => offered.into_iter().map(|(w, n)| (w.key(board), n)).collect(),
    };
    Some(FormView {
        title: title(kind, before.is_some()),
        key: before.map_or_else(|| kind.key().to_owned(), |(id, _)| format!("entry-{id}")),
        fields: forms::fields(shown, kind),
        of: offered,
        of_now: typed.get("of").to_owned(),
        of_problem: problems.get("of").map(str::to_owned),
        units: units_of.map(|count| ListView {
            id: "units",
            what: "unit",
            action: action.clone(),
            rows: forms::unit_rows(shown, count),
            most: MOST_UNITS,
            tick: None,
        }),
        action,
        remove: before
            .map(|(id, _)| format!("/rigs/{rig}/log/entries/{id}/remove{}", view.query())),
        timer: kind == Logging::Capacity && before.is_none(),
        cautions: cautions(kind),
    })
}

const fn title(kind: Logging, there: bool) -> &'static str {
    match (kind, there) {
        (Logging::Outing, false) => "Log an outing",
        (Logging::Outing, true) => "The outing",
        (Logging::Owned, false) => "A pack you own",
        (Logging::Owned, true) => "The pack",
        (Logging::Charged, _) => "Charged, or read its charge",
        (Logging::Capacity, _) => "Capacity test",
        (Logging::Load, _) => "Load test",
        (Logging::Volts, _) => "Each unit, read",
        (Logging::Care, _) => "Care that was done",
    }
}

const fn cautions(kind: Logging) -> &'static [&'static str] {
    match kind {
        Logging::Capacity => &[
            "Charge it full and let it rest an hour, lead four.",
            "Draw a steady current, best about a fifth of its amp-hours for five hours, and write down when you begin.",
            "Lead has no switch inside: stop by hand at 10.5 V for a 12 V unit, 5.25 V for a 6 V one. Look every ten minutes, every minute near the end. LFP shuts itself off.",
            "Stay with it. Keep the load where it may get hot; vent the room; charge lead again at once.",
        ],
        Logging::Load => &[
            "Only on a charged, rested unit: 12.4 V or more for 12 V lead.",
            "Eyes covered, vent open, no spark near the caps: clamp on before the load is switched in, and switch it out before you take the clamps off.",
            "Fifteen seconds, no longer, and read the volts just before its end.",
        ],
        Logging::Volts => &[
            "Volts: all after the same hours of rest, nothing on, no charger plugged in, to the hundredth. The lowest of one day is looked at; over several outings the one that falls behind shows.",
            "Or the percent that each unit's own meter says; or its resistance by a meter, as in 5.1 m\u{3a9}, 5.3 m\u{3a9}.",
        ],
        _ => &[],
    }
}

fn packs(log: &Log, rig: RigId, view: View, say: Say<'_>) -> Vec<PackView> {
    let view_of = |(id, o): (i64, &lake_hour_core::log::Owned)| {
        let mut words = Vec::new();
        match o.warranty(today()) {
            Warranty::Untold => {}
            Warranty::Full(to) => words.push(format!("full warranty until {}", rows::day(to))),
            Warranty::Prorated(share, to) => words.push(format!(
                "warranty pays {} of a new one, until {}",
                figures::percent(share),
                rows::day(to)
            )),
            Warranty::Over(since) => {
                words.push(format!("warranty over since {}", rows::day(since)));
            }
        }
        if let Some(paid) = o.paid {
            words.push(format!("paid {}", say.money(paid)));
        }
        let here = o.units.iter().filter(|u| u.retired.is_none()).count();
        let gone = o.units.len() - here;
        words.push(match gone {
            0 => format!("{here} {}", if here == 1 { "unit" } else { "units" }),
            n => format!("{here} in use, {n} out"),
        });
        if let Some(gone) = o.retired {
            words.push(format!("given away {}", rows::day(gone)));
        }
        PackView {
            name: o.pack.name.clone(),
            edit: view.opening(Open::Entry(id)).address(rig),
            words,
        }
    };
    log.owned().map(view_of).collect()
}
