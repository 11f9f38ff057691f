//! What would change the answer: each thing that turns it, in a sentence and a bar.

use super::change::Ground;
use crate::figures;
use crate::frame::view::View;
use lake_hour_core::decide::Decided;
use lake_hour_core::decide::tipping::{Driver, Tip, Tipping};
use lake_hour_core::verdict::Outcome;
use lake_hour_core::wants::Level;

/// One thing that turns the answer, drawn as a bar.
pub(crate) struct TipBar {
    pub(crate) title: String,
    pub(crate) sentence: String,
    /// The parts of the bar by who comes first there, left to right: (class, from, width) in percent.
    pub(crate) parts: Vec<(&'static str, String, String)>,
    /// Where today is, in percent.
    pub(crate) today: String,
    /// Marks where it turns, with their values, to which side of the mark these stand, and how far down.
    pub(crate) marks: Vec<(String, String, &'static str, u32)>,
    /// How high it is with its words.
    pub(crate) height: u32,
    /// Maps of it with other things.
    pub(crate) map: String,
}

impl Ground<'_> {
    pub(super) fn bar(&self, t: &Tipping) -> TipBar {
        let (low, high) = t.range;
        let at = |value: f64| (value - low) / (high - low) * 100.0;
        let percent = |value: f64| format!("{:.1}%", at(value));
        let mut cuts: Vec<f64> = vec![low];
        let (below, above) = (t.below.as_ref(), t.above.as_ref());
        cuts.extend(below.map(|tip| tip.between.1));
        cuts.extend(above.map(|tip| tip.between.1));
        cuts.push(high);
        let first = self.first;
        let mut owners = Vec::new();
        owners.extend(below.map(|tip| tip.then));
        owners.push(first);
        owners.extend(above.map(|tip| tip.then));
        let parts = cuts.windows(2).zip(&owners).map(|(cut, owner)| {
            let class = if *owner == first { "tip-first" } else { "tip-other" };
            (class, percent(cut[0]), format!("{:.1}%", at(cut[1]) - at(cut[0])))
        });
        let crowded = match (below, above) {
            (Some(below), Some(above)) => at(above.between.1) - at(below.between.1) < 40.0,
            _ => false,
        };
        // The words stay inside the bar, those of two that are crowded on lines of their own.
        let lines = if crowded { [37, 51] } else { [37, 37] };
        let marks = [below, above].into_iter().zip(lines).filter_map(|(tip, line)| {
            let value = tip?.between.1;
            let side = match at(value) {
                at if at < 20.0 => "start",
                at if at > 80.0 => "end",
                _ => "middle",
            };
            Some((percent(value), self.value(t.driver, value), side, line))
        });
        let sentences =
            [(below, true), (above, false)].into_iter().filter_map(|(tip, is_below)| {
                let tip = tip?;
                Some(format!("{}, {}.", self.beyond(t.driver, tip, is_below), self.because(tip)))
            });
        let today = match t.driver {
            Driver::Weight => String::new(),
            Driver::Hours => format!(" Yours lasts {}.", self.value(t.driver, t.today)),
            Driver::Outings => format!(" You go {} times.", self.value(t.driver, t.today)),
            _ => format!(" Now {}.", self.value(t.driver, t.today)),
        };
        let sentence: Vec<String> = sentences.collect();
        TipBar {
            title: figures::capital(self.title(t.driver)),
            sentence: format!("{}{today}", sentence.join(" ")),
            parts: parts.collect(),
            today: percent(t.today),
            height: if crowded { 54 } else { 40 },
            marks: marks.collect(),
            map: self.map_with(t.driver),
        }
    }

    /// "Under 17 outings a year", "Above a wind of 13 mph".
    fn beyond(&self, driver: Driver, tip: &Tip, below: bool) -> String {
        let value = self.value(driver, tip.between.1);
        let of = self.meant(driver).map(|n| self.name(n)).unwrap_or_default();
        let side = if below { "Below" } else { "Above" };
        let under = if below { "Under" } else { "Over" };
        let fewer = if below { "fewer" } else { "more" };
        match driver {
            Driver::Outings => format!("With {fewer} than {value} outings a year"),
            Driver::Hours => {
                let short = if below { "shorter" } else { "longer" };
                format!("On a day {short} than {value}")
            }
            Driver::Wind => format!("{side} a wind of {value}"),
            Driver::Weight => match (below, tip.between.1 < 0.0) {
                (true, true) => format!("With {value} aboard"),
                (false, false) => format!("With {value} aboard"),
                _ => format!("{side} {value}"),
            },
            Driver::PriceFirst | Driver::PriceSecond => {
                format!("If {of} costs {} {value} each", if below { "under" } else { "over" })
            }
            Driver::NeedsFirst | Driver::NeedsSecond => {
                format!(
                    "If the parts for {of} cost {} {value}",
                    if below { "under" } else { "over" }
                )
            }
            Driver::HoldsFirst | Driver::HoldsSecond => {
                format!(
                    "If {of} really holds {} than {value} of its label's amp-hours",
                    less_or_more(below)
                )
            }
            Driver::Energy => format!("{under} {value} a kWh"),
            Driver::Horizon => {
                let far = if below { "fewer" } else { "more" };
                format!("Looking {far} than {value} ahead")
            }
            Driver::Temperature => {
                let cold = if below { "colder" } else { "warmer" };
                format!("In air {cold} than {value}")
            }
            Driver::LeadFloor => format!("Keeping {} than {value} in lead", less_or_more(below)),
            Driver::LfpFloor => format!("Keeping {} than {value} in LFP", less_or_more(below)),
            Driver::LfpCeiling => {
                let full = if below { "less than" } else { "more than" };
                format!("Charging LFP to {full} {value}")
            }
            Driver::LifeFirst | Driver::LifeSecond => {
                let long = if below { "shorter" } else { "longer" };
                format!("If {of} lives {long} than {value}")
            }
            Driver::Interest => format!("{side} {value} interest"),
        }
    }

    /// Why another one comes first there.
    fn because(&self, tip: &Tip) -> String {
        let home = self.home();
        let Some(then) = tip.then else {
            let musts = self.plan().wants.iter().any(|w| w.level == Level::Must);
            let bays = self.standings.iter().any(|s| s.fits.is_some());
            return match (bays, musts) {
                (false, false) => format!("no pack gets {home}"),
                (true, false) => format!("no pack gets {home} and fits the bays"),
                (false, true) => format!("no pack gets {home} and meets your musts"),
                (true, true) => format!("no pack gets {home}, fits the bays and meets your musts"),
            };
        };
        let new = self.name(then);
        let Some(first) = self.first else {
            return format!("{new} gets {home}");
        };
        let old = self.name(first);
        // One that does not get home today comes first because it does there.
        let too = match self.standings[then].survey.as_ref().map(|s| s.outcome) {
            Some(Outcome::Home | Outcome::BelowReserve) => String::new(),
            _ => format!("gets {home} too and "),
        };
        let years = figures::amount(self.plan().rules.horizon_years);
        match tip.by {
            Decided::Money => format!("{new} {too}is cheaper over {years} years"),
            Decided::Home => {
                format!("{old} no longer gets {home} above its floor, and {new} comes first")
            }
            Decided::Fit => format!("{new} {too}fits the bays"),
            Decided::Label => format!("{new} {too}has a label that can be believed"),
            Decided::Musts => format!("{old} fails a must, and {new} comes first"),
            Decided::Nices => format!("{new} {too}has more of what is nice to have"),
            Decided::Weight => format!("{new} {too}is as good and lighter"),
            Decided::Place => format!("{new} is as good"),
        }
    }

    /// A map of a driver with the one that is nearest besides.
    fn map_with(&self, driver: Driver) -> String {
        let other = if driver == Driver::Outings { Driver::Hours } else { Driver::Outings };
        View { map: Some((driver, other)), ..self.view }.address(self.rig)
    }
}

const fn less_or_more(below: bool) -> &'static str {
    if below { "less" } else { "more" }
}
