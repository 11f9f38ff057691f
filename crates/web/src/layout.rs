//! What stands around every page: the header, the tabs, the choices.

use crate::assets;
use crate::look::{Look, Theme};
use crate::view::{Page, View};
use lake_hour_core::units::say::Clock;
use lake_hour_core::units::system::System;
use lake_hour_store::RigId;

/// A tab of the current rig.
#[derive(Debug, Clone)]
pub(crate) struct Tab {
    pub(crate) number: usize,
    pub(crate) name: &'static str,
    pub(crate) href: String,
    pub(crate) current: bool,
}

/// What the frame of a page shows.
#[derive(Debug, Clone)]
pub(crate) struct Frame {
    pub(crate) title: String,
    pub(crate) look: Look,
    /// The current rig's name.
    pub(crate) rig: Option<String>,
    pub(crate) tabs: Vec<Tab>,
    /// The day it is printed on.
    pub(crate) today: String,
}

fn today() -> String {
    jiff::ZonedDateTime::now().date().to_string()
}

impl Frame {
    pub(crate) fn plain(title: &str, look: Look) -> Self {
        Self { title: title.to_owned(), look, rig: None, tabs: Vec::new(), today: today() }
    }

    /// Around a page of a rig.
    pub(crate) fn of_rig(name: &str, rig: RigId, view: View, look: Look) -> Self {
        let tabs = Page::ALL.into_iter().zip(1..).map(|(page, number)| Tab {
            number,
            name: page.name(),
            href: view.on(page).address(rig),
            current: page == view.page,
        });
        Self {
            title: format!("{name}: {}", view.page.name()),
            look,
            rig: Some(name.to_owned()),
            tabs: tabs.collect(),
            today: today(),
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
