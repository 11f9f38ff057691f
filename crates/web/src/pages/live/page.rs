//! The page under way put together.

use super::face::{Face, clock};
use super::replay::ReplayView;
use crate::figures;
use crate::forms::live as forms;
use crate::forms::log::Which as PackOf;
use crate::forms::{Field, Shown, Typed};
use crate::frame::asked::Scene;
use crate::frame::error::PageError;
use crate::frame::head::Head;
use crate::frame::render::{Render, block};
use crate::frame::trips::{Seen, State};
use crate::frame::view::{Open, Page, Part, View};
use crate::parts::source::{self, Rests};
use askama::Template;
use lake_hour_core::learn::FOUR_IN_FIVE;
use lake_hour_core::live::{Begins, Clue, Gauge, WayBack};
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
    /// It ended where it was last heard: nothing is left but to keep it or not.
    pub(crate) over: bool,
    pub(crate) stand_in: bool,
    pub(crate) back: &'static str,
    pub(crate) reading: Option<Vec<Field>>,
    pub(crate) began: String,
    pub(crate) ask: Option<AskView>,
    /// What its figures rest on.
    pub(crate) rests: Rests,
}

/// Two figures that clash, and what may be said of them.
#[derive(Debug, Clone)]
pub(crate) struct AskView {
    /// "Your meter says 25 %." and "We counted 95 % since you began."
    pub(crate) says: [String; 2],
    /// "Until you say, we use 25 %." and what would explain it.
    pub(crate) until: String,
    /// What it is sent as, and its button.
    pub(crate) answers: Vec<(&'static str, String)>,
}

impl AskView {
    fn of(seen: &Seen) -> Option<Self> {
        let trip = &seen.trip;
        let asked = trip.question().filter(|q| !q.unsure)?;
        let percent = |share: f64| figures::percent(share);
        let says = |(clue, share): (Clue, f64)| match clue {
            Clue::Percent => format!("Your meter says {}.", percent(share)),
            Clue::Count => match trip.setup().begins {
                Begins::Full => format!("We counted {} since you began full.", percent(share)),
                _ => format!("We counted {} since you began.", percent(share)),
            },
            Clue::Volts => {
                let volts = trip.volts().value();
                format!("{volts:.1} V means about {}.", percent(share))
            }
        };
        let right = |clue: Clue| match clue {
            Clue::Percent => "The meter is right".to_owned(),
            Clue::Count if trip.setup().begins == Begins::Full => {
                "The count is right: it began full".to_owned()
            }
            Clue::Count => "The count is right".to_owned(),
            Clue::Volts => "The volts are right".to_owned(),
        };
        let both = [asked.lower.0, asked.higher.0];
        let why = if both.contains(&Clue::Percent) && trip.gauge() == Some(Gauge::Shunt) {
            " Was the shunt set to this battery when it was full?"
        } else if both.contains(&Clue::Count) && trip.setup().begins == Begins::Full {
            " Had the charger finished?"
        } else if both.contains(&Clue::Volts) {
            " Had the battery rested when you read the volts?"
        } else {
            ""
        };
        let answers = both.map(|clue| (clue.key(), right(clue)));
        let unsure = ("unsure", "Not sure: keep the lower".to_owned());
        Some(Self {
            says: [says(asked.lower), says(asked.higher)],
            until: format!("Until you say, we use {}.{why}", percent(trip.left().charge)),
            answers: answers.into_iter().chain([unsure]).collect(),
        })
    }
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
    /// Packs that may be aboard, the likeliest first, and which is chosen.
    packs: Vec<(String, String)>,
    aboard: String,
    /// What a start that is left blank is taken for.
    blank: String,
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
            let kept = || forms::read_typed(seen.begun.gauge);
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
            over: seen.over.is_some(),
            stand_in: matches!(seen.begun.source, Source::StandIn { .. }),
            back: match seen.begun.setup.back {
                WayBack::Straight => "straight",
                WayBack::Track => "track",
                WayBack::Route(_) => "route",
            },
            reading: open.then(form),
            began: clock(seen.began, look.clock),
            ask: AskView::of(seen),
            rests: Rests::on(
                source::of_trip(&scene.board.plan, seen.trip.pack(), scene.look.units),
                scene.board.rig,
                scene.view,
            ),
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
        let about = log.and_then(|log| log.about());
        let mut offered: Vec<(PackOf, String)> =
            log.map_or_else(Vec::new, |log| PackOf::offered(board, log));
        // The one driven with last comes first.
        offered.sort_by_key(|(which, _)| about.map(|(id, _)| PackOf::Owned(id)) != Some(*which));
        let packs: Vec<(String, String)> =
            offered.into_iter().map(|(which, name)| (which.key(board), name)).collect();
        let of = |shown: Shown<'_>| shown.typed.get("of").to_owned();
        let kept = scene.form(Open::Part(Part::Begin), Typed::default, of);
        let aboard = packs.iter().map(|(key, _)| key.clone()).find(|key| *key == kept);
        let aboard = aboard.or_else(|| packs.first().map(|p| p.0.clone())).unwrap_or_default();
        let blank = log
            .map_or(Begins::NotSaid, |log| super::not_typed(board, log, about.map(|(id, _)| id)));
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
            packs,
            aboard,
            blank: taken_for(blank),
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

/// What a start that nobody types is taken for.
fn taken_for(begins: Begins) -> String {
    match begins {
        Begins::Logged { charge, unsure } => {
            let end = |side: f64| {
                figures::percent((charge + side * FOUR_IN_FIVE * unsure).clamp(0.0, 1.0))
            };
            format!(
                "Leave \u{201c}Charge now\u{201d} blank and we take what your log makes likely: {} ({} to {}).",
                figures::percent(charge),
                end(-1.0),
                end(1.0)
            )
        }
        _ => "Leave \u{201c}Charge now\u{201d} blank if you do not know: nothing is assumed full, and what you read on the way narrows it."
            .to_owned(),
    }
}

/// "Sep 22, 07:10 to 09:50".
fn over(began: i64, ended: i64, scene: &Scene) -> String {
    let face = scene.look.clock;
    let day = jiff::Timestamp::from_second(began)
        .map(|t| t.to_zoned_datetime(jiff::tz::TimeZone::system()).strftime("%b %-d").to_string());
    format!("{}, {} to {}", day.unwrap_or_default(), clock(began, face), clock(ended, face))
}
