//! What of a rig is shown: all of it stands in the address.

use axum::extract::Query;
use axum::http::Uri;
use lake_hour_core::build::StepKey;
use lake_hour_core::decide::get_home::Change;
use lake_hour_core::decide::tipping::Driver;
use lake_hour_core::log::{Log, Outing};
use lake_hour_core::plan::{Plan, WhatIf};
use lake_hour_core::units::convert::{MS_PER_KMH, MS_PER_KNOT, MS_PER_MPH};
use lake_hour_core::units::{Hours, MetresPerSecond, system::System};
use lake_hour_store::RigId;
use serde::Deserialize;

/// Which tab.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) enum Page {
    /// The craft, its motor, its bays.
    Rig,
    /// The hours.
    Day,
    /// The candidates.
    Shelf,
    /// What could be built of them.
    Packs,
    /// The decision.
    #[default]
    Board,
    /// From the decision to a working craft.
    Build,
    /// What it really does, and what to do tonight.
    Log,
    /// What is left, and whether it gets home.
    Live,
}

impl Page {
    /// All of them, in the order of the work.
    pub(crate) const ALL: [Self; 8] = [
        Self::Rig,
        Self::Day,
        Self::Shelf,
        Self::Packs,
        Self::Board,
        Self::Build,
        Self::Log,
        Self::Live,
    ];

    pub(crate) const fn key(self) -> &'static str {
        match self {
            Self::Rig => "rig",
            Self::Day => "day",
            Self::Shelf => "shelf",
            Self::Packs => "packs",
            Self::Board => "board",
            Self::Build => "build",
            Self::Log => "log",
            Self::Live => "live",
        }
    }

    pub(crate) const fn name(self) -> &'static str {
        match self {
            Self::Rig => "Rig",
            Self::Day => "Day",
            Self::Shelf => "Shelf",
            Self::Packs => "Packs",
            Self::Board => "Board",
            Self::Build => "Build",
            Self::Log => "Log",
            Self::Live => "Under way",
        }
    }
}

/// A small "what if": shown at once on every lane, kept or dropped.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Nudge {
    /// More wind: five miles an hour, or what is round in other units.
    Wind,
    /// Two more people aboard.
    People,
    /// One setting slower (or a fifth slower) on the way home.
    SlowerHome,
    /// Every pack three years older.
    Older,
}

impl Nudge {
    pub(crate) const ALL: [Self; 4] = [Self::Wind, Self::People, Self::SlowerHome, Self::Older];

    pub(crate) const fn key(self) -> &'static str {
        match self {
            Self::Wind => "wind",
            Self::People => "people",
            Self::SlowerHome => "slower",
            Self::Older => "older",
        }
    }

    pub(crate) const fn words(self, units: System) -> &'static str {
        match (self, units) {
            (Self::Wind, System::Us) => "wind up 5 mph",
            (Self::Wind, System::Nautical) => "wind up 5 kn",
            (Self::Wind, System::Metric) => "wind up 10 km/h",
            (Self::People, _) => "two more people",
            (Self::SlowerHome, _) => "slower home",
            (Self::Older, _) => "in three years",
        }
    }

    /// How much more wind: round in the units shown.
    const fn more_wind(units: System) -> f64 {
        match units {
            System::Us => 5.0 * MS_PER_MPH,
            System::Nautical => 5.0 * MS_PER_KNOT,
            System::Metric => 10.0 * MS_PER_KMH,
        }
    }

    const fn bit(self) -> u8 {
        1 << self as u8
    }

    /// The plan with it.
    fn apply(self, plan: &mut Plan, units: System) {
        let what_if = match self {
            Self::Wind => WhatIf::MoreWind(MetresPerSecond::of(Self::more_wind(units))),
            Self::People => WhatIf::MorePeople(2),
            Self::SlowerHome => WhatIf::SlowerHome,
            Self::Older => WhatIf::Older(3.0),
        };
        what_if.apply(plan);
    }
}

/// A change that gets a pack home, as a what-if: numbers without a fraction, so that an address says exactly what is shown.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Fix {
    /// So many minutes less of a stretch, by its place in the day.
    Fewer(usize, u32),
    /// Home at so many hundredths of the speed.
    HomeAt(u32),
    /// For home so many minutes after launch.
    TurnAt(u32),
    /// A wind of so many millimetres a second.
    Wind(u32),
}

impl Fix {
    /// The same as found; `None` for what is another pack. Rounded to the side that is surer.
    pub(crate) fn of(change: Change) -> Option<Self> {
        Some(match change {
            Change::Fewer(at, less) => Self::Fewer(at, less.minutes().round() as u32),
            Change::HomeAt(share) => Self::HomeAt((share * 100.0).round() as u32),
            Change::TurnAt(at) => Self::TurnAt(at.minutes().round() as u32),
            Change::Wind(wind) => Self::Wind((wind.value() * 1000.0).floor() as u32),
            Change::Size(_) | Change::OneMoreString => return None,
        })
    }

    pub(crate) fn what_if(self) -> WhatIf {
        match self {
            Self::Fewer(at, less) => WhatIf::Fewer(at, Hours::from_minutes(f64::from(less))),
            Self::HomeAt(share) => WhatIf::HomeAt(f64::from(share) / 100.0),
            Self::TurnAt(at) => WhatIf::TurnAt(Hours::from_minutes(f64::from(at))),
            Self::Wind(wind) => WhatIf::Wind(MetresPerSecond::of(f64::from(wind) / 1000.0)),
        }
    }

    /// As it stands in an address: "fewer.3.40".
    fn key(self) -> String {
        match self {
            Self::Fewer(at, less) => format!("fewer.{at}.{less}"),
            Self::HomeAt(share) => format!("home.{share}"),
            Self::TurnAt(at) => format!("turn.{at}"),
            Self::Wind(wind) => format!("wind.{wind}"),
        }
    }

    /// What an address says; `None` for anything that is none, or out of all reason.
    fn read(text: &str) -> Option<Self> {
        let mut parts = text.split('.');
        let (what, first) = (parts.next()?, parts.next()?.parse::<u32>().ok()?);
        let second = parts.next().map(str::parse::<u32>);
        Some(match (what, first, second) {
            ("fewer", at, Some(Ok(less))) if less <= 10_080 => Self::Fewer(at as usize, less),
            ("home", 10..=100, None) => Self::HomeAt(first),
            ("turn", 0..=10_080, None) => Self::TurnAt(first),
            ("wind", 0..=60_000, None) => Self::Wind(first),
            _ => return None,
        })
    }
}

/// Which what-ifs are on.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) struct Nudges {
    bits: u8,
    /// One that gets a pack home, after all others.
    pub(crate) fix: Option<Fix>,
}

impl Nudges {
    pub(crate) const fn has(self, nudge: Nudge) -> bool {
        self.bits & nudge.bit() != 0
    }

    pub(crate) const fn toggled(self, nudge: Nudge) -> Self {
        Self { bits: self.bits ^ nudge.bit(), ..self }
    }

    /// The same with another one that gets a pack home, or without.
    pub(crate) const fn with(self, fix: Option<Fix>) -> Self {
        Self { fix, ..self }
    }

    pub(crate) const fn any(self) -> bool {
        self.bits != 0 || self.fix.is_some()
    }

    /// Whether there is something to keep: a day or a rig may be changed for good, years come by themselves.
    pub(crate) const fn can_be_kept(self) -> bool {
        self.bits & !Nudge::Older.bit() != 0 || self.fix.is_some()
    }

    fn read(text: &str) -> Self {
        let on = |n: &Nudge| text.split('-').any(|key| key == n.key());
        let bits = Nudge::ALL.iter().filter(|n| on(n)).fold(0, |bits, n| bits | n.bit());
        Self { bits, fix: text.split('-').find_map(Fix::read) }
    }

    fn words(self) -> Option<String> {
        let keys = Nudge::ALL.iter().filter(|n| self.has(**n)).map(|n| n.key().to_owned());
        let keys: Vec<String> = keys.chain(self.fix.map(Fix::key)).collect();
        (!keys.is_empty()).then(|| keys.join("-"))
    }

    /// The plan with all that are on.
    pub(crate) fn applied(self, plan: &Plan, units: System) -> Plan {
        let mut plan = plan.clone();
        for nudge in Nudge::ALL.into_iter().filter(|n| self.has(*n)) {
            nudge.apply(&mut plan, units);
        }
        if let Some(fix) = self.fix {
            fix.what_if().apply(&mut plan);
        }
        plan
    }
}

/// The one panel that is open.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) enum Open {
    /// None.
    #[default]
    Nothing,
    /// The day's stretches.
    Day,
    /// One of the day's stretches: the day's panel too.
    Stretch(i64),
    /// The row for a new stretch: the day's panel too.
    NewStretch,
    /// The house rules.
    Rules,
    /// What is wanted of a pack.
    Wants,
    /// What money is reckoned with.
    Money,
    /// A list or a group of fields on the Rig or the Day page.
    Part(Part),
    /// The form for a new pack.
    NewPack,
    /// The form of a pack.
    Pack(i64),
    /// The working of a pack.
    Working(i64),
    /// The form of a new entry of the log.
    Logging(Logging),
    /// The form of an entry of the log.
    Entry(i64),
    /// A monitor's table, to be told which column is what.
    Record(i64),
    /// What is read off under way.
    Reading,
}

/// What a new entry of the log is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Logging {
    Outing,
    Owned,
    Charged,
    Capacity,
    Load,
    Volts,
    Care,
}

impl Logging {
    pub(crate) const ALL: [Self; 7] = [
        Self::Outing,
        Self::Owned,
        Self::Charged,
        Self::Capacity,
        Self::Load,
        Self::Volts,
        Self::Care,
    ];

    pub(crate) const fn key(self) -> &'static str {
        match self {
            Self::Outing => "log-outing",
            Self::Owned => "log-owned",
            Self::Charged => "log-charged",
            Self::Capacity => "log-capacity",
            Self::Load => "log-load",
            Self::Volts => "log-volts",
            Self::Care => "log-care",
        }
    }

    pub(crate) fn read(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|one| one.key() == key)
    }
}

/// A list or a group of fields that is one form.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Part {
    Craft,
    Motor,
    Draw,
    Measured,
    Bays,
    Chargers,
    Owned,
    Have,
    Hourly,
    Charging,
    Devices,
    Import,
    Parts,
    OwnParts,
    Begin,
    Read,
    Step(StepKey),
}

impl Open {
    fn read(text: &str) -> Self {
        let id = |prefix: &str| text.strip_prefix(prefix).and_then(|id| id.parse().ok());
        match text {
            "day" => Self::Day,
            "rules" => Self::Rules,
            "wants" => Self::Wants,
            "money" => Self::Money,
            "new-pack" => Self::NewPack,
            "reading" => Self::Reading,
            _ => Logging::read(text)
                .map(Self::Logging)
                .or_else(|| id("pack-").map(Self::Pack))
                .or_else(|| id("working-").map(Self::Working))
                .or_else(|| id("stretch-").map(Self::Stretch))
                .or_else(|| id("entry-").map(Self::Entry))
                .or_else(|| id("record-").map(Self::Record))
                .unwrap_or_default(),
        }
    }

    fn words(self) -> Option<String> {
        Some(match self {
            Self::Nothing | Self::Part(_) => return None,
            Self::Day | Self::NewStretch => "day".to_owned(),
            Self::Stretch(id) => format!("stretch-{id}"),
            Self::Rules => "rules".to_owned(),
            Self::Wants => "wants".to_owned(),
            Self::Money => "money".to_owned(),
            Self::NewPack => "new-pack".to_owned(),
            Self::Reading => "reading".to_owned(),
            Self::Pack(id) => format!("pack-{id}"),
            Self::Working(id) => format!("working-{id}"),
            Self::Logging(kind) => kind.key().to_owned(),
            Self::Entry(id) => format!("entry-{id}"),
            Self::Record(id) => format!("record-{id}"),
        })
    }
}

/// In which order the lanes stand.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) enum Order {
    /// As the owner put them.
    #[default]
    Own,
    /// By what is wanted.
    Wants,
    /// By verdict, then cost of an hour.
    Best,
    /// By weight.
    Light,
    /// By cost of an hour.
    Cheap,
}

impl Order {
    pub(crate) const ALL: [(Self, &'static str); 5] = [
        (Self::Own, "your order"),
        (Self::Wants, "your wants"),
        (Self::Best, "gets home"),
        (Self::Light, "lightest"),
        (Self::Cheap, "cheapest"),
    ];

    const fn key(self) -> &'static str {
        match self {
            Self::Own => "own",
            Self::Wants => "wants",
            Self::Best => "best",
            Self::Light => "light",
            Self::Cheap => "cheap",
        }
    }
}

/// Everything in the address behind the path.
#[derive(Debug, Clone, Copy, Default, PartialEq, Deserialize)]
#[serde(from = "RawView")]
pub(crate) struct View {
    pub(crate) page: Page,
    pub(crate) nudges: Nudges,
    pub(crate) open: Open,
    pub(crate) order: Order,
    /// A pack that stands on top whatever the order.
    pub(crate) pin: Option<i64>,
    /// A stretch that is being dragged, and how many minutes long it is for now: not saved.
    pub(crate) drag: Option<(i64, f64)>,
    /// Two things over which it is mapped which pack comes first, across and down.
    pub(crate) map: Option<(Driver, Driver)>,
    /// The outing of the log that is drawn; the latest where none is named.
    pub(crate) see: Option<i64>,
}

/// As it comes: anything unknown is as if it were not there.
#[derive(Default, Deserialize)]
struct RawView {
    #[serde(default)]
    page: String,
    #[serde(default, rename = "if")]
    nudges: String,
    #[serde(default)]
    open: String,
    #[serde(default)]
    order: String,
    #[serde(default)]
    pin: String,
    #[serde(default)]
    drag: String,
    #[serde(default)]
    map: String,
    #[serde(default)]
    see: String,
}

impl From<RawView> for View {
    fn from(raw: RawView) -> Self {
        let order = Order::ALL.iter().map(|(o, _)| *o).find(|o| o.key() == raw.order);
        let page = Page::ALL.into_iter().find(|p| p.key() == raw.page);
        Self {
            page: page.unwrap_or_default(),
            nudges: Nudges::read(&raw.nudges),
            open: Open::read(&raw.open),
            order: order.unwrap_or_default(),
            pin: raw.pin.parse().ok(),
            see: raw.see.parse().ok(),
            drag: raw.drag.split_once(':').and_then(|(id, minutes)| {
                let minutes: f64 = minutes.parse().ok()?;
                lake_hour_core::allowed::MINUTES.check(minutes).ok()?;
                Some((id.parse().ok()?, minutes))
            }),
            map: raw.map.split_once('.').and_then(|(across, down)| {
                let pair = (Driver::from_key(across)?, Driver::from_key(down)?);
                (pair.0 != pair.1).then_some(pair)
            }),
        }
    }
}

impl View {
    /// The same with another panel open.
    pub(crate) const fn opening(self, open: Open) -> Self {
        Self { open, ..self }
    }

    /// The outing of a log that is drawn: the one that is named, else the latest.
    pub(crate) fn seen(self, log: &Log) -> Option<(i64, &Outing)> {
        let named = self.see.and_then(|id| log.outing(id));
        named.or_else(|| log.outings().next_back())
    }

    /// The same on another tab, nothing open.
    pub(crate) const fn on(self, page: Page) -> Self {
        Self { page, open: Open::Nothing, map: None, see: None, ..self }
    }

    /// What of the Board's view is kept on other tabs, as it comes in an address.
    pub(crate) fn of_the_board(order: String, pin: String, nudges: String) -> Self {
        RawView { order, pin, nudges, ..RawView::default() }.into()
    }

    /// The same as names and values.
    pub(crate) fn kept(self) -> Vec<(&'static str, String)> {
        let mut kept = Vec::new();
        if self.order != Order::Own {
            kept.push(("order", self.order.key().to_owned()));
        }
        kept.extend(self.pin.map(|id| ("pin", id.to_string())));
        kept.extend(self.nudges.words().map(|words| ("if", words)));
        kept
    }

    fn parts(self) -> Vec<String> {
        let open = self.open.words().map(|o| format!("open={o}"));
        let map = self.map.map(|(across, down)| format!("map={}.{}", across.key(), down.key()));
        let kept = self.kept().into_iter().map(|(k, v)| format!("{k}={v}"));
        let see = self.see.map(|id| format!("see={id}"));
        open.into_iter().chain(map).chain(see).chain(kept).collect()
    }

    /// For a form's address: what to show when it has been taken.
    pub(crate) fn query(self) -> String {
        let mut parts = self.parts();
        if self.page != Page::Board {
            parts.insert(0, format!("page={}", self.page.key()));
        }
        if parts.is_empty() { String::new() } else { format!("?{}", parts.join("&")) }
    }

    /// Address of the page shown like this.
    pub(crate) fn address(self, rig: RigId) -> String {
        let parts = self.parts();
        let query = if parts.is_empty() { String::new() } else { format!("?{}", parts.join("&")) };
        format!("/rigs/{}/{}{query}", rig.0, self.page.key())
    }
}

/// A view read from an address: one that makes no sense shows the page as it is without one.
pub(crate) fn of_address<T: serde::de::DeserializeOwned + Default>(address: &Uri) -> T {
    Query::try_from_uri(address).unwrap_or_default().0
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_shown_stands_in_the_address_and_comes_back_from_it() {
        for query in [
            "",
            "?open=working-7&order=light&pin=3",
            "?page=day&open=stretch-4&if=wind-slower",
            "?page=rig&if=people",
            "?open=wants&map=wind.outings&order=wants&if=wind-fewer.3.40",
            "?if=home.85",
        ] {
            let raw: View = serde_html_form(query.trim_start_matches('?'));
            assert_eq!(raw.query(), query);
        }
        let nonsense =
            "page=nowhere&open=%3Cb%3E&if=x-turn.99999-home.1-fewer.a.1&pin=a&order=&map=wind.wind";
        let view: View = serde_html_form(nonsense);
        assert_eq!(view, View::default());
    }

    fn serde_html_form(query: &str) -> View {
        let uri: axum::http::Uri = format!("/?{query}").parse().expect("an address");
        let axum::extract::Query(view) =
            axum::extract::Query::try_from_uri(&uri).unwrap_or_default();
        view
    }
}
