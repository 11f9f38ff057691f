//! The page under way put together.

use super::face::{Face, clock};
use super::replay::ReplayView;
use crate::figures;
use crate::forms::live as forms;
use crate::forms::{Field, Typed};
use crate::frame::asked::Scene;
use crate::frame::error::PageError;
use crate::frame::head::Head;
use crate::frame::render::{Render, block};
use crate::frame::trips::{Seen, State};
use crate::frame::view::{Open, Page, Part, View};
use crate::parts::outings::whose;
use askama::Template;
use lake_hour_core::live::WayBack;
use lake_hour_formats::underway::{self, Source, Which};
use lake_hour_store::RigId;

/// The trip that is shown.
#[derive(Debug, Clone)]
pub(crate) struct TripView {
    pub(crate) face: Face,
    /// The same as a document, for the script.
    pub(crate) json: String,
    pub(crate) rig: String,
    pub(crate) events: String,
    /// What the source is, and what is wrong with it.
    pub(crate) source: String,
    /// Batteries that somebody has to say which they are: name, what it tells, what may be chosen.
    pub(crate) which: Vec<(String, String)>,
    pub(crate) units: Vec<u32>,
    pub(crate) homeward: bool,
    pub(crate) stand_in: bool,
    pub(crate) back: &'static str,
    pub(crate) reading: Option<Vec<Field>>,
    pub(crate) began: String,
}

/// A trip that is over.
#[derive(Debug, Clone)]
pub(crate) struct OverView {
    pub(crate) when: String,
    pub(crate) href: String,
    pub(crate) shown: bool,
}

#[derive(Template)]
#[template(path = "live/page.html", blocks = ["page"])]
pub(crate) struct LivePage {
    head: Head,
    rig: RigId,
    view: View,
    trip: Option<TripView>,
    begin: Vec<Field>,
    /// The pack that goes, where there is one.
    pack: Option<String>,
    over: Vec<OverView>,
    replay: Option<ReplayView>,
    /// No theme was chosen: a narrow screen is shown black on white.
    unchosen: bool,
}

/// Where the water's surface and its bed are drawn: of a picture so high. [px]
const HIGH: f64 = 150.0;

impl TripView {
    /// Height of a charge in the picture, from its top. [px]
    fn y(&self, charge: &f64) -> String {
        format!("{:.1}", HIGH * (1.0 - charge.clamp(0.0, 1.0)))
    }

    fn deep(&self, from: &f64, to: &f64) -> String {
        format!("{:.1}", HIGH * (from - to).clamp(0.0, 1.0))
    }

    fn bed(&self) -> String {
        format!("{:.1}", HIGH * self.face.water[3].clamp(0.0, 1.0))
    }

    fn of(scene: &Scene, seen: &Seen) -> Self {
        let look = scene.look;
        let face = Face::of(seen, look);
        let plan = &seen.trip.setup().plan;
        let source = match &seen.begun.source {
            Source::Hand => "by hand".to_owned(),
            Source::SignalK { address, .. } => format!("Signal K at {address}"),
            Source::File { path } => path.clone(),
            Source::StandIn { speed, seed } => {
                format!("the stand-in, {speed:.0} times as fast, day {seed}")
            }
        };
        let source = match &seen.source {
            State::Lost(why) => format!("{source}: {why}; it is tried again"),
            State::Connecting => format!("{source}: connecting"),
            State::Open | State::None => source,
        };
        let source = match seen.unreadable {
            0 => source,
            n => format!("{source}; {n} of its figures could not be read"),
        };
        let told = |told: &lake_hour_formats::signalk::BatteryTold| {
            let volts = told.volts.map(|v| format!("{v:.1} V"));
            let amps = told.amps.map(|a| format!("{} A", figures::amount(a)));
            volts.into_iter().chain(amps).collect::<Vec<_>>().join(", ")
        };
        let form = || {
            let kept = Typed::default;
            scene.form(Open::Part(Part::Read), kept, forms::read_fields)
        };
        let open =
            scene.view.open == Open::Reading || scene.draft_of(Open::Part(Part::Read)).is_some();
        Self {
            json: serde_json::to_string(&face).unwrap_or_default(),
            face,
            rig: plan.rig.name.clone(),
            events: format!("/rigs/{}/live/events", scene.board.rig.0),
            source,
            which: seen.which.iter().map(|(id, b)| (id.clone(), told(b))).collect(),
            units: (1..=seen.trip.pack().series).collect(),
            homeward: seen.trip.is_homeward(),
            stand_in: matches!(seen.begun.source, Source::StandIn { .. }),
            back: match seen.begun.setup.back {
                WayBack::Straight => "straight",
                WayBack::Track => "track",
                WayBack::Route(_) => "route",
            },
            reading: open.then(form),
            began: clock(seen.began, look.clock),
        }
    }

    fn is_asked(&self) -> bool {
        !self.which.is_empty()
    }
}

/// What a battery may be said to be, as it stands in a form.
pub(crate) fn which(key: &str) -> Option<Which> {
    match key {
        "pack" => Some(Which::Pack),
        "other" => Some(Which::Other),
        unit => unit.strip_prefix("unit-")?.parse().ok().map(Which::Unit),
    }
}

impl LivePage {
    pub(crate) fn new(scene: &Scene) -> Self {
        let (board, view) = (&scene.board, scene.view);
        let look = scene.look.under_way();
        let mut head = Head::of_scene(scene);
        head.look = look;
        let trip = scene.under_way.as_ref().map(|seen| TripView::of(scene, seen));
        let before = scene.trips.first().and_then(|t| underway::read(&t.body).ok());
        let log = scene.log.as_ref().map(|kept| &kept.log);
        let pack = log.and_then(|log| whose(board, log)).map(|(_, pack)| pack.name);
        let typed = || forms::begin_typed(before.as_ref().map(|b| (&b.source, &b.setup.back)));
        let over = scene.trips.iter().map(|trip| OverView {
            when: over(trip.began, trip.ended.unwrap_or(trip.began), scene),
            href: View { see: Some(trip.id.0), ..view.on(Page::Live) }.address(board.rig),
            shown: view.see == Some(trip.id.0),
        });
        Self {
            head,
            rig: board.rig,
            view,
            begin: scene.form(Open::Part(Part::Begin), typed, forms::begin_fields),
            pack,
            over: over.collect(),
            replay: scene.replay.as_ref().map(|r| ReplayView::of(r, look)),
            unchosen: !look.chosen,
            trip,
        }
    }

    pub(crate) fn html(&self, render: Render) -> Result<String, PageError> {
        match render {
            Render::Page => self.render().map_err(|_| PageError::Broken),
            Render::Fragment => block(&self.head.title, self.as_page().render()),
        }
    }

    fn action(&self, what: &str) -> String {
        format!("/rigs/{}/{what}{}", self.rig.0, self.view.query())
    }

    fn opening(&self, open: Open) -> String {
        self.view.opening(open).address(self.rig)
    }

    fn on(&self, page: Page) -> String {
        self.view.on(page).address(self.rig)
    }
}

/// "Sep 22, 07:10 to 09:50".
fn over(began: i64, ended: i64, scene: &Scene) -> String {
    let face = scene.look.clock;
    let day = jiff::Timestamp::from_second(began)
        .map(|t| t.to_zoned_datetime(jiff::tz::TimeZone::system()).strftime("%b %-d").to_string());
    format!("{}, {} to {}", day.unwrap_or_default(), clock(began, face), clock(ended, face))
}
