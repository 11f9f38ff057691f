//! What every page carries: the header, the tabs, the choices; what was just done, and how to take it back.

use crate::frame::asked::Scene;
use crate::frame::assets;
use crate::frame::look::{Look, Theme};
use crate::frame::view::{Page, View};
use lake_hour_core::units::say::Clock;
use lake_hour_core::units::system::System;
use lake_hour_store::{Board, RigId, Undo, Unreadable};

/// A tab of the current rig.
#[derive(Debug, Clone)]
pub(crate) struct Tab {
    pub(crate) number: usize,
    pub(crate) name: &'static str,
    pub(crate) href: String,
    pub(crate) current: bool,
}

/// What every page carries.
#[derive(Debug, Clone)]
pub(crate) struct Head {
    pub(crate) title: String,
    pub(crate) look: Look,
    /// The current rig's name.
    pub(crate) rig: Option<String>,
    pub(crate) tabs: Vec<Tab>,
    /// What to do next: words and where.
    pub(crate) next: Option<(&'static str, String)>,
    /// The day it is printed on.
    pub(crate) today: String,
    /// Changes when another window has changed something; nothing on a page of no rig.
    pub(crate) now: String,
    /// What is kept and cannot be read any more.
    pub(crate) damaged: Vec<Damaged>,
    /// What was just done.
    pub(crate) said: Option<String>,
    /// Fields to look at again.
    pub(crate) problems: usize,
    pub(crate) undo: Option<Undo>,
    pub(crate) redo: Option<Undo>,
}

/// Something kept that cannot be read any more.
#[derive(Debug, Clone)]
pub(crate) struct Damaged {
    /// "pack", "stretch", "battery".
    pub(crate) what: &'static str,
    /// The beginning of its text.
    pub(crate) text: String,
    /// What is wrong with it.
    pub(crate) why: String,
    /// Where its text is saved, and where it is removed.
    pub(crate) save: String,
    pub(crate) remove: String,
}

/// Most letters of a damaged text that are shown.
const MOST_SHOWN: usize = 2000;

impl Damaged {
    pub(crate) fn of(
        rig: RigId,
        what: &'static str,
        unreadable: &Unreadable,
        remove: String,
    ) -> Self {
        let mut text: String = unreadable.text.chars().take(MOST_SHOWN).collect();
        if text.len() < unreadable.text.len() {
            text.push_str(" ...");
        }
        let why = unreadable.why.trim_end_matches('.').to_owned();
        let save = format!("/rigs/{}/kept/{what}/{}", rig.0, unreadable.id);
        Self { what, text, why, save, remove }
    }
}

/// The moment, as names of copies tell it: "2026-11-28-093000".
pub fn moment() -> String {
    jiff::ZonedDateTime::now().strftime("%Y-%m-%d-%H%M%S").to_string()
}

/// What comes after a page, in the order of the work.
const fn next(page: Page) -> Option<(&'static str, Page)> {
    Some(match page {
        Page::Rig => ("Next: the day", Page::Day),
        Page::Day => ("Next: packs", Page::Packs),
        Page::Shelf => ("Next: packs", Page::Packs),
        Page::Packs => ("Next: the Board", Page::Board),
        Page::Board => ("Next: build it", Page::Build),
        Page::Build => ("Next: the log", Page::Log),
        Page::Log => ("Next: under way", Page::Live),
        Page::Live => return None,
    })
}

fn today() -> String {
    jiff::ZonedDateTime::now().date().to_string()
}

impl Head {
    pub(crate) fn plain(title: &str, look: Look) -> Self {
        Self {
            title: title.to_owned(),
            look,
            rig: None,
            tabs: Vec::new(),
            next: None,
            today: today(),
            now: String::new(),
            damaged: Vec::new(),
            said: None,
            problems: 0,
            undo: None,
            redo: None,
        }
    }

    /// Around a page of a rig.
    pub(crate) fn of_rig(board: &Board, view: View, look: Look) -> Self {
        let (name, rig) = (&board.plan.rig.name, board.rig);
        let tabs = Page::ALL.into_iter().zip(1..).map(|(page, number)| Tab {
            number,
            name: page.name(),
            href: view.on(page).address(rig),
            current: page == view.page,
        });
        let damaged = board.unreadable.iter().map(|(what, text)| {
            let path = match *what {
                // It is put away with all that is of it, on the page of all rigs.
                "rig" => String::new(),
                "pack" => format!("/rigs/{}/packs/{}/remove{}", rig.0, text.id, view.query()),
                _ => format!("/rigs/{}/stretches/{}/remove{}", rig.0, text.id, view.query()),
            };
            Damaged::of(rig, what, text, path)
        });
        Self {
            title: format!("{name}: {}", view.page.name()),
            look,
            rig: Some(name.clone()),
            tabs: tabs.collect(),
            next: next(view.page).map(|(words, page)| (words, view.on(page).address(rig))),
            today: today(),
            now: board.now.clone(),
            damaged: damaged.collect(),
            said: None,
            problems: 0,
            undo: board.undo.clone(),
            redo: board.redo.clone(),
        }
    }

    /// Around the page of a scene.
    pub(crate) fn of_scene(scene: &Scene) -> Self {
        Self {
            said: scene.said.clone(),
            problems: scene.draft.as_ref().map_or(0, |d| d.problems.count()),
            ..Self::of_rig(&scene.board, scene.view, scene.look)
        }
    }

    pub(crate) fn asset(&self, path: &str) -> String {
        assets::url(path)
    }

    pub(crate) const fn themes(&self) -> [Theme; 3] {
        Theme::ALL
    }

    pub(crate) const fn clocks(&self) -> [Clock; 2] {
        Clock::ALL
    }

    pub(crate) const fn systems(&self) -> [System; 3] {
        System::ALL
    }
}
