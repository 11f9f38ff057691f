//! The Shelf page put together.

use super::row::{self, About, DoubtView, Fig, RowView};
use super::view::{ORDERS, Open, ShelfView};
use super::{Sheet, Shown as Said, forms, pack_of, rest_of};
use crate::forms::{Group, Problems, Shown, Typed};
use crate::frame::error::PageError;
use crate::frame::head::{Damaged, Head};
use crate::frame::held::{Held, Stage};
use crate::frame::look::Look;
use crate::frame::render::{Render, block};
use crate::frame::view::{Page, View};
use crate::parts::fit::FitView;
use askama::Template;
use lake_hour_core::plan::Plan;
use lake_hour_core::shelf::figures::Label;
use lake_hour_core::shelf::kinds::{self, Explained};
use lake_hour_core::shelf::{
    Battery, Build, Candidate, Chemistry, Detail, Purpose, SizeClass, check,
};
use lake_hour_core::source::Origin;
use lake_hour_formats::shelf::paste::{Ask, Found};
use lake_hour_store::{Board, Report, RigId, ShelfPage as Stored, Shelved, Undo};
use std::sync::Arc;

/// A facet: its choices and the one that is on.
pub(super) struct Facet {
    name: &'static str,
    label: &'static str,
    /// (key, words, on)
    choices: Vec<(String, String, bool)>,
}

/// A kind to choose.
pub(super) struct KindLink {
    explained: Explained,
    href: String,
}

/// A form with the address it goes to.
pub(super) struct FormView {
    id: String,
    action: String,
    groups: Vec<Group>,
    explained: Option<Explained>,
    save: &'static str,
}

/// A figure of an opened battery.
pub(super) struct FigureRow {
    key: &'static str,
    words: &'static str,
    fig: Fig,
    by: &'static str,
    on: String,
    problem: Option<String>,
}

impl FigureRow {
    fn is(&self, by: &str) -> bool {
        self.by == by
    }
}

/// An opened battery.
pub(super) struct Opened {
    id: i64,
    name: String,
    figures: Vec<FigureRow>,
    doubts: Vec<DoubtView>,
    accepted: Vec<DoubtView>,
    /// (figure's key, what was changed)
    corrected: Vec<(&'static str, String)>,
    explained: Explained,
    made_for: Option<Explained>,
    fit: Option<FitView>,
    hidden: bool,
    form: Option<FormView>,
}

/// A file on its way.
pub(super) struct FileView {
    id: u64,
    name: String,
    percent: u64,
    rows: u64,
    /// It is still going on, and the page asks again.
    running: bool,
    taken: bool,
    failed: Option<String>,
    /// Nothing of it was kept, as was asked.
    off: bool,
    report: Option<Report>,
}

/// What was read of a pasted text.
pub(super) struct Read {
    found: Vec<Found>,
    /// What can be read two ways.
    asks: Vec<String>,
    left: Vec<String>,
}

#[derive(Template)]
#[template(path = "shelf/page.html", blocks = ["page"])]
pub(super) struct ShelfPage {
    head: Head,
    rig: RigId,
    view: ShelfView,
    said: Option<Said>,
    /// The newest change of the rig, which takes a pick back.
    of_rig: Option<Undo>,
    /// Names that the file saved last lacks.
    left_out: Vec<String>,
    summary: String,
    facets: Vec<Facet>,
    rows: Vec<RowView>,
    /// The battery that is open, if it stands on no row of this page.
    opened: Option<Opened>,
    on_page: bool,
    matching: usize,
    first: usize,
    previous: Option<String>,
    next: Option<String>,
    hidden: usize,
    empty: bool,
    kinds: Vec<KindLink>,
    purposes: Vec<Explained>,
    form: Option<FormView>,
    paste: Option<(String, Option<String>)>,
    read: Option<Read>,
    files_open: bool,
    file_problem: Option<String>,
    file: Option<FileView>,
    lost_file: bool,
}

/// The kinds that are offered, the commonest first.
const KINDS: [(Chemistry, Option<Build>); 9] = [
    (Chemistry::Lfp, Some(Build::Prismatic)),
    (Chemistry::Lfp, Some(Build::Cylindrical)),
    (Chemistry::Lfp, None),
    (Chemistry::Agm, None),
    (Chemistry::Agm, Some(Build::Spiral)),
    (Chemistry::Flooded, None),
    (Chemistry::Gel, None),
    (Chemistry::Nmc, None),
    (Chemistry::Lfp, Some(Build::SemiSolid)),
];

impl ShelfPage {
    pub(super) fn new(
        board: &Board,
        look: Look,
        view: ShelfView,
        shelf: Stored,
        open: Option<Shelved>,
        held: Option<Arc<Held>>,
        left_out: Vec<String>,
        sheet: Sheet,
    ) -> Self {
        let (plan, rig) = (&board.plan, board.rig);
        let about = About { plan, units: look.units, view: &view, rig };
        let mut rows: Vec<RowView> = shelf
            .rows
            .iter()
            .map(|s| RowView::new(s, about, &rest_of(&shelf, &s.candidate)))
            .collect();
        if view.query.grouped {
            begin_groups(&mut rows);
        }
        let on_page = rows.iter().any(|r| r.opened);
        // What was read two ways is asked beside its figure.
        let asked = sheet.understood.as_ref().map_or_else(Problems::default, |u| asked(&u.asks));
        let problems = sheet.problems.as_ref().unwrap_or(&asked);
        let shown = |typed: &Typed, prefix: &str| {
            forms::groups(prefix, Shown { typed, problems, units: look.units })
        };
        let opened = open.map(|s| {
            let usual = rest_of(&shelf, &s.candidate);
            opened(&s, about, problems, &usual, |c| {
                let kept = forms::typed(&Label::of(&c.battery), look.units);
                shown(sheet.typed.as_ref().unwrap_or(&kept), "edit")
            })
        });
        let form = new_form(&view, &sheet, rig, look, |typed| shown(typed, "new"));
        let text = sheet.typed.as_ref().map(|t| t.get("text").to_owned()).unwrap_or_default();
        let paste =
            (view.open == Open::Paste).then(|| (text, problems.get("text").map(str::to_owned)));
        let mut head = Head::of_rig(board, View { page: Page::Shelf, ..view.board }, look);
        // What of the rig cannot be read is told where it is worked on.
        let damaged = shelf.unreadable.iter().map(|text| {
            let path = format!("/rigs/{}/shelf/{}/remove{}", rig.0, text.id, view.query());
            Damaged::of(rig, "battery", text, path)
        });
        // Of the rig itself too, not of what is in it.
        head.damaged.retain(|d| d.what == "rig");
        head.damaged.extend(damaged);
        head.problems = sheet.problems.as_ref().map_or(0, Problems::count);
        // What is done here is the shelf's, not the rig's.
        (head.undo, head.redo) = (shelf.undo, shelf.redo);
        let size = view.query.page_size.max(1);
        let last = shelf.matching.saturating_sub(1) / size;
        Self {
            head,
            left_out,
            rig,
            said: sheet.said,
            of_rig: board.undo.clone(),
            summary: summary(plan, &view, shelf.matching, shelf.shown),
            facets: facets(&view),
            rows,
            opened,
            on_page,
            matching: shelf.matching,
            first: shelf.page * size + 1,
            previous: (shelf.page > 0).then(|| view.at(shelf.page - 1).address(rig)),
            next: (shelf.page < last).then(|| view.at(shelf.page + 1).address(rig)),
            hidden: shelf.hidden,
            empty: shelf.shown + shelf.hidden == 0,
            kinds: if view.open == Open::Kinds { kind_links(&view, rig) } else { Vec::new() },
            purposes: Purpose::ALL.map(kinds::purpose).into(),
            form,
            paste,
            read: sheet.understood.map(|u| Read {
                found: u.found,
                asks: u.asks.into_iter().map(|a| a.says).collect(),
                left: u.left,
            }),
            files_open: view.open == Open::Files,
            file_problem: problems.get("file").map(str::to_owned),
            lost_file: matches!(view.open, Open::Import(_)) && held.is_none(),
            file: held.map(|h| file_view(&h)),
            view,
        }
    }

    pub(super) fn html(&self, render: Render) -> Result<String, PageError> {
        match render {
            Render::Page => self.render().map_err(|_| PageError::Broken),
            Render::Fragment => block(&self.head.title, self.as_page().render()),
        }
    }

    /// Address of something that is done to the shelf.
    fn action(&self, path: &str) -> String {
        format!("/rigs/{}/shelf/{path}{}", self.rig.0, self.view.query())
    }

    /// Address of something that is done to one battery.
    fn act(&self, id: &i64, act: &str) -> String {
        self.action(&format!("{id}/{act}"))
    }

    fn file_path(&self, id: &u64, act: &str) -> String {
        format!("files/{id}/{act}")
    }

    /// The change that this address takes back.
    fn newest(&self, back: &str) -> Option<&Undo> {
        if back == "unpick" { self.of_rig.as_ref() } else { self.head.undo.as_ref() }
    }

    fn open(&self, what: &str) -> String {
        let open = match what {
            "kinds" => Open::Kinds,
            "paste" => Open::Paste,
            "files" => Open::Files,
            _ => Open::Nothing,
        };
        let open = if open == self.view.open { Open::Nothing } else { open };
        self.view.opening(open).address(self.rig)
    }

    fn is_open(&self, what: &str) -> bool {
        match what {
            "kinds" => matches!(self.view.open, Open::Kinds | Open::New(..)),
            "paste" => self.view.open == Open::Paste,
            "files" => matches!(self.view.open, Open::Files | Open::Import(_)),
            _ => false,
        }
    }

    fn here(&self) -> String {
        self.view.address(self.rig)
    }

    /// Whether what was just done was done to the Board.
    const fn is_picked(&self) -> bool {
        matches!(self.said, Some(Said::OnBoard(_)))
    }

    fn closed(&self) -> String {
        self.view.opening(Open::Nothing).address(self.rig)
    }

    fn all(&self) -> String {
        ShelfView { board: self.view.board, ..ShelfView::default() }.address(self.rig)
    }

    fn board(&self) -> String {
        self.view.board.on(Page::Board).address(self.rig)
    }

    const fn picture(&self) -> (f64, f64) {
        row::PICTURE
    }

    fn origins(&self) -> [(&'static str, &'static str); 5] {
        [Origin::Label, Origin::Measured, Origin::SetByYou, Origin::Told, Origin::Typical]
            .map(|o| (o.key(), o.words()))
    }

    fn said_words(&self) -> Option<(&str, Option<&'static str>)> {
        self.said.as_ref().map(|said| match said {
            Said::Plain(words) => (words.as_str(), None),
            Said::OnShelf(words) => (words.as_str(), Some("undo")),
            Said::OnBoard(words) => (words.as_str(), Some("unpick")),
        })
    }
}

fn summary(plan: &Plan, view: &ShelfView, matching: usize, shown: usize) -> String {
    let volts = plan.rig.motor.system_voltage.value();
    let count = match (view.is_narrowed() || view.query.hidden, shown) {
        (true, shown) => format!("{matching} of {shown} batteries"),
        (false, 1) => "1 battery".to_owned(),
        (false, n) => format!("{n} batteries"),
    };
    format!("{count}; this rig runs on {volts} V")
}

fn facets(view: &ShelfView) -> Vec<Facet> {
    let q = &view.query;
    let choice = |key: &str, words: &str, on: bool| (key.to_owned(), words.to_owned(), on);
    let any = |words: &str, on: bool| choice("", words, on);
    let chemistries =
        Chemistry::ALL.iter().map(|c| choice(c.key(), c.name(), q.chemistry == Some(*c)));
    let volts = Battery::SYSTEMS.iter().map(|v| {
        let key = v.to_string();
        let words = format!("{v} V");
        (key, words, q.system == Some(*v))
    });
    let classes =
        SizeClass::ALL.iter().map(|s| choice(s.name(), s.name(), q.size_class == Some(*s)));
    vec![
        Facet {
            name: "chem",
            label: "Chemistry",
            choices: std::iter::once(any("any", q.chemistry.is_none()))
                .chain(chemistries)
                .collect(),
        },
        Facet {
            name: "volts",
            label: "For",
            choices: std::iter::once(any("any voltage", q.system.is_none()))
                .chain(volts)
                .chain([choice("0", "another voltage", q.system == Some(0))])
                .collect(),
        },
        Facet {
            name: "class",
            label: "Size",
            choices: std::iter::once(any("any", q.size_class.is_none())).chain(classes).collect(),
        },
        Facet {
            name: "label",
            label: "Label",
            choices: vec![
                any("any", q.doubtful.is_none()),
                choice("plausible", "plausible", q.doubtful == Some(false)),
                choice("doubtful", "doubtful", q.doubtful == Some(true)),
            ],
        },
        Facet {
            name: "by",
            label: "Order",
            choices: ORDERS
                .iter()
                .map(|(order, key, words)| choice(key, words, q.order == *order))
                .collect(),
        },
    ]
}

fn kind_links(view: &ShelfView, rig: RigId) -> Vec<KindLink> {
    let link = |(chemistry, build)| KindLink {
        explained: kinds::chemistry(chemistry, build),
        href: view.opening(Open::New(chemistry, build)).address(rig),
    };
    KINDS.into_iter().map(link).collect()
}

fn opened(
    shelved: &Shelved,
    about: About<'_>,
    problems: &Problems,
    usual: &lake_hour_core::shelf::Rest,
    groups: impl FnOnce(&Candidate) -> Vec<Group>,
) -> Opened {
    let (id, c) = (shelved.id.0, &shelved.candidate);
    let figures = Detail::vouched().filter_map(|detail| {
        let fig = row::figure(c, detail, about.units, &about.plan.currency)?;
        let vouched = c.battery.origins.get(&detail);
        Some(FigureRow {
            key: detail.key(),
            words: detail.words(),
            fig,
            by: c.battery.origin(detail).key(),
            on: vouched.and_then(|v| v.on).map(|d| d.to_string()).unwrap_or_default(),
            problem: problems.get(&format!("on_{}", detail.key())).map(str::to_owned),
        })
    });
    let (accepted, doubts): (Vec<_>, Vec<_>) = check::doubts(&c.battery, Some(usual), about.say())
        .into_iter()
        .partition(|d| c.accepted.contains(&d.kind));
    let form = (about.view.open == Open::Edit(id)).then(|| FormView {
        id: format!("edit-battery-{id}"),
        action: format!("/rigs/{}/shelf/{id}{}", about.rig.0, about.view.query()),
        groups: groups(c),
        explained: None,
        save: "Save",
    });
    Opened {
        id,
        name: c.battery.name.clone(),
        figures: figures.collect(),
        doubts: doubts.into_iter().map(DoubtView::of).collect(),
        accepted: accepted.into_iter().map(DoubtView::of).collect(),
        corrected: c.battery.corrected.iter().map(|k| (k.detail.key(), k.to_string())).collect(),
        explained: kinds::chemistry(c.battery.chemistry, c.battery.build),
        made_for: c.battery.purpose.map(kinds::purpose),
        fit: FitView::of(&about.plan.rig, &pack_of(about.plan, c), about.units),
        hidden: c.hidden,
        form,
    }
}

/// Says of each row whether another standard size begins with it.
fn begin_groups(rows: &mut [RowView]) {
    let mut before = None;
    for row in rows {
        let class = row.class.map_or("No standard size".to_owned(), |c| format!("Group {c}"));
        if before.as_ref() != Some(&class) {
            row.begins = Some(class.clone());
        }
        before = Some(class);
    }
}

/// The form of a battery that is not on the shelf yet: blank, of what was pasted, or as it was refused.
fn new_form(
    view: &ShelfView,
    sheet: &Sheet,
    rig: RigId,
    look: Look,
    groups: impl Fn(&Typed) -> Vec<Group>,
) -> Option<FormView> {
    let form = |groups, explained| FormView {
        id: "new-battery".to_owned(),
        action: format!("/rigs/{}/shelf{}", rig.0, view.query()),
        groups,
        explained,
        save: "Put it on the shelf",
    };
    match view.open {
        Open::New(chemistry, build) => {
            let blank = forms::blank(chemistry, build);
            let typed = sheet.typed.as_ref().unwrap_or(&blank);
            Some(form(groups(typed), Some(kinds::chemistry(chemistry, build))))
        }
        Open::Paste => {
            // What the text does not say is left for the eye to see.
            let understood = sheet.understood.as_ref().map(|u| forms::typed(&u.label, look.units));
            // A form that was refused after it had been pasted.
            let refused = sheet.typed.clone().filter(|t| !t.get("chemistry").is_empty());
            understood.or(refused).map(|typed| form(groups(&typed), None))
        }
        _ => None,
    }
}

/// Questions about a pasted text, each at the field that it is about.
fn asked(asks: &[Ask]) -> Problems {
    asks.iter().fold(Problems::default(), |problems, ask| {
        let unit = ask.text.rsplit(' ').next().unwrap_or_default();
        let field = match unit {
            "chemistry" => "chemistry",
            "ah" => "capacity_ah",
            "a" | "amps" => "max_continuous_current_a",
            "min" | "minutes" => "reserve_minutes_25a",
            "wh" | "kwh" => "energy_wh",
            "kg" | "lb" | "lbs" => "mass_kg",
            _ => "price",
        };
        problems.and(field, &ask.says)
    })
}

fn file_view(held: &Held) -> FileView {
    let stage = held.stage();
    let running = matches!(stage, Stage::Looking | Stage::Taking);
    let failed = if let Stage::Failed(says) = &stage { Some(says.clone()) } else { None };
    let (taken, called_off) = (matches!(stage, Stage::Taken(_)), matches!(stage, Stage::Off));
    let report = match stage {
        Stage::Looked(report) | Stage::Taken(report) => Some(report),
        Stage::Looking | Stage::Taking | Stage::Off | Stage::Failed(_) => None,
    };
    let off = called_off || report.as_ref().is_some_and(|r| r.cancelled);
    FileView {
        id: held.id,
        name: held.name.clone(),
        percent: held.percent(),
        rows: held.rows(),
        running,
        taken: taken && !off,
        failed,
        off,
        report: report.filter(|_| !off),
    }
}
