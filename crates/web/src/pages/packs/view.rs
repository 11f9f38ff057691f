//! What of the packs is shown: all of it stands in the address.

use crate::frame::view::{View, of_address};
use axum::extract::FromRequestParts;
use axum::http::request::Parts;
use lake_hour_core::allowed;
use lake_hour_core::shelf::Chemistry;
use lake_hour_core::units::parse;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_store::{BatteryId, RigId};
use serde::Deserialize;

/// Packs listed at once.
pub(super) const PAGE_SIZE: usize = 6;
/// Packs beside one another.
pub(super) const MOST_BESIDE: usize = 4;
/// Longest text of a limit that is looked at.
const LONGEST: usize = 40;

/// One pack: so many of a battery in series, so many strings of them.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Which {
    pub(super) battery: BatteryId,
    pub(super) series: u32,
    pub(super) parallel: u32,
}

impl Which {
    /// "12-2x1".
    pub(super) fn read(text: &str) -> Option<Self> {
        let (battery, wired) = text.split_once('-')?;
        let (series, parallel) = wired.split_once('x')?;
        let count = |text: &str, most| parse::whole(text, most).ok();
        Some(Self {
            battery: BatteryId(battery.parse().ok()?),
            series: count(series, &allowed::SERIES)?,
            parallel: count(parallel, &allowed::PARALLEL)?,
        })
    }

    pub(super) fn words(self) -> String {
        format!("{}-{}x{}", self.battery.0, self.series, self.parallel)
    }
}

/// What is asked of the packs that are listed: each on or off.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Want {
    Home,
    Fits,
    Charger,
    NoLead,
    MovesOn,
}

impl Want {
    pub(super) const ALL: [Self; 5] =
        [Self::Home, Self::Fits, Self::Charger, Self::NoLead, Self::MovesOn];

    const fn key(self) -> &'static str {
        match self {
            Self::Home => "home",
            Self::Fits => "fits",
            Self::Charger => "charger",
            Self::NoLead => "no-lead",
            Self::MovesOn => "moves",
        }
    }

    const fn bit(self) -> u8 {
        1 << self as u8
    }
}

/// Those that are on; home and fits where nothing is said.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Wants(u8);

impl Default for Wants {
    fn default() -> Self {
        Self(Want::Home.bit() | Want::Fits.bit())
    }
}

impl Wants {
    pub(super) const fn has(self, want: Want) -> bool {
        self.0 & want.bit() != 0
    }

    pub(super) const fn toggled(self, want: Want) -> Self {
        Self(self.0 ^ want.bit())
    }

    fn read(text: &str) -> Self {
        if text.is_empty() {
            return Self::default();
        }
        let on = |want: &Want| text.split('_').any(|key| key == want.key());
        Self(Want::ALL.iter().filter(|w| on(w)).fold(0, |bits, w| bits | w.bit()))
    }

    fn words(self) -> String {
        if self == Self::default() {
            return String::new();
        }
        let keys: Vec<_> = Want::ALL.iter().filter(|w| self.has(**w)).map(|w| w.key()).collect();
        if keys.is_empty() { "any".to_owned() } else { keys.join("_") }
    }
}

/// What charges two banks in turn: each on or off.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Source {
    Sun,
    Generator,
    Shore,
}

impl Source {
    pub(super) const ALL: [Self; 3] = [Self::Sun, Self::Generator, Self::Shore];

    pub(super) const fn key(self) -> &'static str {
        match self {
            Self::Sun => "sun",
            Self::Generator => "generator",
            Self::Shore => "shore",
        }
    }

    const fn bit(self) -> u8 {
        1 << self as u8
    }

    fn read(text: &str) -> u8 {
        let on = |source: &Self| text.split('_').any(|key| key == source.key());
        Self::ALL.iter().filter(|s| on(s)).fold(0, |bits, s| bits | s.bit())
    }

    fn words(bits: u8) -> String {
        let on = Self::ALL.iter().filter(|s| bits & s.bit() != 0);
        let keys: Vec<_> = on.map(|s| s.key()).collect();
        if keys.is_empty() { "none".to_owned() } else { keys.join("_") }
    }
}

/// In which order.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(super) enum By {
    /// By verdict, then what an hour costs.
    #[default]
    Home,
    Light,
    Cheap,
    Small,
    /// Those that still move with one unit dead first.
    Sure,
}

impl By {
    pub(super) const ALL: [(Self, &'static str, &'static str); 5] = [
        (Self::Home, "home", "best first"),
        (Self::Light, "light", "lightest"),
        (Self::Cheap, "cheap", "cheapest to own"),
        (Self::Small, "small", "smallest"),
        (Self::Sure, "sure", "still moves if one fails"),
    ];

    fn key(self) -> &'static str {
        Self::ALL.iter().find(|(by, ..)| *by == self).map_or("", |(_, key, _)| key)
    }
}

/// What is sent with a view.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Form {
    /// A link: all of it stands in the address.
    Link,
    /// The list's form, which has its own limits.
    List,
    /// The form of a pack built by hand.
    Hand,
}

/// Everything in the address behind the path.
#[derive(Debug, Clone, Default, PartialEq, Deserialize)]
#[serde(from = "Raw")]
pub(crate) struct PacksView {
    pub(super) wants: Wants,
    pub(super) by: By,
    pub(super) chemistry: Option<Chemistry>,
    /// At most so many units.
    pub(super) units: Option<u32>,
    /// Limits as they were typed.
    pub(super) weight: String,
    pub(super) price: String,
    /// Units that fail in a hundred in a season, as typed.
    pub(super) rate: String,
    /// One way to the motor, as typed.
    pub(super) lead: String,
    /// Days between charges of the house battery, as typed.
    pub(super) days: String,
    /// Devices that take 16 V.
    pub(super) sixteen: bool,
    /// Starts of an engine a day, the starter's amps, seconds each time, as typed.
    pub(super) starts: [String; 3],
    /// The house battery that is looked at.
    pub(super) house: Option<Which>,
    /// A hill in percent, a speed and seconds to it, as typed.
    pub(super) hill: String,
    pub(super) to: String,
    pub(super) secs: String,
    /// A breaker besides the fuse, or none; by the rule of the house where nothing is said.
    pub(super) breaker: Option<bool>,
    pub(super) page: usize,
    pub(super) open: Option<Which>,
    /// Packs beside one another.
    pub(super) beside: Vec<Which>,
    /// Two banks in turn are shown, for so many days as typed; they feed the house devices and not the day.
    pub(super) turn: bool,
    pub(super) turn_days: String,
    pub(super) feeds_house: bool,
    /// What charges them, where it was chosen.
    pub(super) chosen: Option<u8>,
    /// The Board's packs are set out in the bays.
    pub(super) fits: bool,
    /// What is built by hand: its form is open.
    pub(super) hand: bool,
    /// What was typed for units in series and in parallel, where that makes no pack.
    pub(super) wrong: Option<(String, String)>,
    /// What is left of one unit's capacity in percent, as typed.
    pub(super) odd: String,
    /// Another battery in the place of one unit.
    pub(super) odd_unit: Option<BatteryId>,
    /// Another pack side by side with it.
    pub(super) second: Option<Which>,
    /// How the Board is shown, so that one comes back to it as it was.
    pub(super) board: View,
}

/// As it comes: anything unknown is as if it were not there.
#[derive(Default, Deserialize)]
#[serde(default)]
struct Raw {
    want: String,
    by: String,
    chem: String,
    units: String,
    weight: String,
    price: String,
    rate: String,
    lead: String,
    breaker: String,
    days: String,
    hv: String,
    cranks: String,
    starter: String,
    cs: String,
    house: String,
    hill: String,
    to: String,
    secs: String,
    p: String,
    pack: String,
    beside: String,
    turn: String,
    td: String,
    feeds: String,
    src: String,
    fits: String,
    hand: String,
    hb: String,
    hs: String,
    hp: String,
    odd: String,
    ou: String,
    second: String,
    sb: String,
    ss: String,
    sp: String,
    order: String,
    pin: String,
    #[serde(rename = "if")]
    what_if: String,
}

impl From<Raw> for PacksView {
    fn from(raw: Raw) -> Self {
        let by = By::ALL.iter().find(|(_, key, _)| *key == raw.by).map(|(by, ..)| *by);
        let short = |text: &str| text.trim().chars().take(LONGEST).collect::<String>();
        let mut beside: Vec<Which> = Vec::new();
        for which in raw.beside.split('_').filter_map(Which::read) {
            if !beside.contains(&which) && beside.len() < MOST_BESIDE {
                beside.push(which);
            }
        }
        // A form sends a pack in three fields, an address in one.
        let built = |id: &str, series: &str, parallel: &str| {
            (!id.is_empty())
                .then(|| Which::read(&format!("{id}-{}x{}", series.trim(), parallel.trim())))
        };
        let by_hand = built(&raw.hb, &raw.hs, &raw.hp);
        let second = built(&raw.sb, &raw.ss, &raw.sp).unwrap_or_else(|| Which::read(&raw.second));
        let wrong = matches!(by_hand, Some(None));
        Self {
            turn: !raw.turn.is_empty(),
            turn_days: short(&raw.td),
            feeds_house: raw.feeds == "house",
            chosen: (!raw.src.is_empty()).then(|| Source::read(&raw.src)),
            fits: !raw.fits.is_empty(),
            hand: !raw.hand.is_empty(),
            wrong: wrong.then(|| (short(&raw.hs), short(&raw.hp))),
            odd: short(&raw.odd),
            odd_unit: raw.ou.parse().ok().map(BatteryId),
            second,
            wants: Wants::read(&raw.want),
            by: by.unwrap_or_default(),
            chemistry: Chemistry::from_key(&raw.chem),
            units: parse::whole(&raw.units, &allowed::SERIES).ok(),
            weight: short(&raw.weight),
            price: short(&raw.price),
            rate: short(&raw.rate),
            lead: short(&raw.lead),
            days: short(&raw.days),
            sixteen: raw.hv == "16",
            starts: [&raw.cranks, &raw.starter, &raw.cs].map(|text| short(text)),
            house: Which::read(&raw.house),
            hill: short(&raw.hill),
            to: short(&raw.to),
            secs: short(&raw.secs),
            breaker: match raw.breaker.as_str() {
                "on" => Some(true),
                "off" => Some(false),
                _ => None,
            },
            page: raw.p.parse::<usize>().map_or(0, |p| p.saturating_sub(1)),
            open: by_hand.flatten().or_else(|| Which::read(&raw.pack)),
            beside,
            board: View::of_the_board(raw.order, raw.pin, raw.what_if),
        }
    }
}

impl<S: Sync> FromRequestParts<S> for PacksView {
    type Rejection = std::convert::Infallible;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Self::Rejection> {
        Ok(of_address(&parts.uri))
    }
}

impl PacksView {
    /// The same with the units of what was typed without: other units may be chosen, or the address passed on.
    pub(super) fn with_units(mut self, units: System) -> Self {
        let fields = [
            (&mut self.weight, Measure::Mass),
            (&mut self.lead, Measure::Length),
            (&mut self.to, Measure::Speed),
        ];
        for (typed, measure) in fields {
            if typed.ends_with(|c: char| c.is_ascii_digit()) {
                *typed = format!("{typed} {}", units.unit(measure).name);
            }
        }
        self
    }

    /// What was typed, for its field: without the unit that stands beside it.
    pub(super) fn in_field(typed: &str, units: System, measure: Measure) -> String {
        let unit = units.unit(measure).name;
        typed.strip_suffix(unit).map_or(typed, str::trim_end).to_owned()
    }

    /// What charges two banks in turn: as chosen, else sun and generator, and the shore where the day's nights have it.
    fn charged_by(&self, nights: bool) -> u8 {
        let usual = Source::Sun.bit() | Source::Generator.bit();
        self.chosen.unwrap_or(if nights { usual | Source::Shore.bit() } else { usual })
    }

    pub(super) fn sources(&self, nights: bool) -> Vec<Source> {
        let bits = self.charged_by(nights);
        Source::ALL.into_iter().filter(|s| bits & s.bit() != 0).collect()
    }

    /// The same with one source turned on or off.
    pub(super) fn toggled(&self, source: Source, nights: bool) -> Self {
        Self { chosen: Some(self.charged_by(nights) ^ source.bit()), ..self.clone() }
    }

    /// The same, changed, from its first page on.
    pub(super) fn with(&self, change: impl FnOnce(&mut Self)) -> Self {
        let mut view = Self { page: 0, ..self.clone() };
        change(&mut view);
        view
    }

    /// The same with another pack opened, on the same page of the list: what was odd in the last one is not in this.
    pub(super) fn opening(&self, open: Option<Which>) -> Self {
        let (odd, odd_unit, second, wrong) = (String::new(), None, None, None);
        Self { open, odd, odd_unit, second, wrong, ..self.clone() }
    }

    /// The same with a pack put beside the others, or taken from them.
    pub(super) fn beside(&self, which: Which) -> Self {
        let mut beside = self.beside.clone();
        match beside.iter().position(|one| *one == which) {
            Some(at) => {
                beside.remove(at);
            }
            None => {
                beside.truncate(MOST_BESIDE - 1);
                beside.push(which);
            }
        }
        Self { beside, ..self.clone() }
    }

    /// Names and values, without those that a form sends itself.
    pub(super) fn pairs(&self, form: Form) -> Vec<(&'static str, String)> {
        let by_hand = form == Form::Hand;
        let mut out = vec![("want", self.wants.words())];
        if self.by != By::Home {
            out.push(("by", self.by.key().to_owned()));
        }
        if form != Form::List {
            out.push(("chem", self.chemistry.map_or("", Chemistry::key).to_owned()));
            out.push(("units", self.units.map(|n| n.to_string()).unwrap_or_default()));
            out.push(("weight", self.weight.clone()));
            out.push(("price", self.price.clone()));
            let page = if self.page > 0 { (self.page + 1).to_string() } else { String::new() };
            out.push(("p", page));
        }
        out.push(("rate", self.rate.clone()));
        out.push(("lead", self.lead.clone()));
        out.push(("days", self.days.clone()));
        out.push(("hv", if self.sixteen { "16" } else { "" }.to_owned()));
        let [cranks, starter, seconds] = self.starts.clone();
        out.extend([("cranks", cranks), ("starter", starter), ("cs", seconds)]);
        out.push(("house", self.house.map(Which::words).unwrap_or_default()));
        out.push(("hill", self.hill.clone()));
        out.push(("to", self.to.clone()));
        out.push(("secs", self.secs.clone()));
        out.push((
            "breaker",
            self.breaker.map_or("", |on| if on { "on" } else { "off" }).to_owned(),
        ));
        out.push(("pack", self.open.map(Which::words).unwrap_or_default()));
        let beside: Vec<String> = self.beside.iter().map(|which| which.words()).collect();
        out.push(("beside", beside.join("_")));
        out.push(("turn", if self.turn { "yes" } else { "" }.to_owned()));
        out.push(("td", self.turn_days.clone()));
        out.push(("feeds", if self.feeds_house { "house" } else { "" }.to_owned()));
        out.push(("src", self.chosen.map(Source::words).unwrap_or_default()));
        out.push(("fits", if self.fits { "yes" } else { "" }.to_owned()));
        out.push(("hand", if self.hand { "yes" } else { "" }.to_owned()));
        if !by_hand {
            out.push(("odd", self.odd.clone()));
            out.push(("ou", self.odd_unit.map(|id| id.0.to_string()).unwrap_or_default()));
            out.push(("second", self.second.map(Which::words).unwrap_or_default()));
        }
        out.extend(self.board.kept());
        out.retain(|(_, value)| !value.is_empty());
        out
    }

    /// For a form's address: what to show when it has been taken.
    pub(super) fn query(&self) -> String {
        let mut out = form_urlencoded::Serializer::new(String::new());
        for (name, value) in self.pairs(Form::Link) {
            out.append_pair(name, &value);
        }
        let query = out.finish();
        if query.is_empty() { query } else { format!("?{query}") }
    }

    /// Address of the packs shown like this.
    pub(super) fn address(&self, rig: RigId) -> String {
        format!("/rigs/{}/packs{}", rig.0, self.query())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn view(query: &str) -> PacksView {
        let uri: axum::http::Uri = format!("/?{query}").parse().expect("an address");
        of_address(&uri)
    }

    #[test]
    fn what_is_shown_stands_in_the_address_and_comes_back_from_it() {
        for query in [
            "",
            "?want=any",
            "?want=home_fits_charger&by=light&chem=lfp&units=2&weight=70+lb&price=900&p=3",
            "?want=moves&rate=5&lead=12+ft&breaker=off&pack=12-2x1&beside=3-1x1_4-2x2",
            "?days=3&hv=16&cranks=4&starter=150&cs=3&house=7-1x2",
            "?days=3&hill=8&to=15&secs=6&pack=12-2x1",
            "?pack=12-2x1&hand=yes&odd=80&ou=7&second=3-1x2",
            "?turn=yes&td=5&feeds=house&src=sun_shore",
            "?turn=yes&src=none",
            "?beside=3-1x1&fits=yes&hand=yes",
            "?by=sure&order=light&pin=3&if=wind",
        ] {
            assert_eq!(view(query.trim_start_matches('?')).query(), query);
        }
        for odd in ["pack=1", "pack=a-1x1", "pack=1-0x1", "pack=1-65x1", "pack=1-1x1x1", "by=?&p=0"]
        {
            assert_eq!(view(odd).query(), "", "{odd}");
        }
        // What a form sends in three fields stands in one.
        assert_eq!(
            view("pack=1-1x1&hand=yes&hb=7&hs=2&hp=3&sb=4&ss=1&sp=2").query(),
            "?pack=7-2x3&hand=yes&second=4-1x2"
        );
        let wrong = view("pack=1-1x1&hb=7&hs=65&hp=1");
        assert_eq!(
            (wrong.query().as_str(), wrong.wrong),
            ("?pack=1-1x1", Some(("65".into(), "1".into())))
        );
        let many = view("beside=1-1x1_1-1x1_2-1x1_3-1x1_4-1x1_5-1x1");
        assert_eq!(many.query(), "?beside=1-1x1_2-1x1_3-1x1_4-1x1");
    }
}
