//! What would change the answer, what would get each pack home, and how sure all of it is: in an owner's words.

use super::map::MapPicture;
use super::tips::TipBar;
use crate::figures;
use crate::frame::look::Look;
use crate::frame::view::{Fix, View};
use crate::frame::weighed::{OnBoard, Weighed};
use crate::parts::nudges::fix_words;
use crate::parts::wants;
use lake_hour_core::decide::get_home::{Change, MOST_WIND, Margin};
use lake_hour_core::decide::nearest::{Eased, Way};
use lake_hour_core::decide::settle::{Assumed, Settle};
use lake_hour_core::decide::tipping::{Driver, Tipping};
use lake_hour_core::decide::{Contest, Decided, Standing};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::Measure;
use lake_hour_core::units::{AmpHours, Money};
use lake_hour_core::verdict::Unknown;
use lake_hour_store::RigId;

/// Tipping points told at once; the rest unfolds.
const SHOWN: usize = 6;

/// What would get a pack home, or what it bears besides.
pub(crate) struct HomeLine {
    pub(crate) name: String,
    pub(crate) gets_home: bool,
    pub(crate) says: Vec<HomeWay>,
}

/// One way, with a link or a button that tries it.
pub(crate) struct HomeWay {
    pub(crate) words: String,
    /// Shows it as a what-if.
    pub(crate) href: Option<String>,
    /// Puts another pack on the Board: where that is posted, and the value.
    pub(crate) post: Option<(String, String)>,
}

/// How sure one pack is.
pub(crate) struct SureLine {
    pub(crate) name: String,
    pub(crate) best: String,
    pub(crate) best_width: String,
    pub(crate) home: String,
}

/// All of it.
pub(crate) struct Decision {
    pub(crate) tips: Vec<TipBar>,
    /// Those farther off.
    pub(crate) more_tips: Vec<TipBar>,
    /// "Electricity, interest: nothing within reason turns it."
    pub(crate) nothing: Option<String>,
    pub(crate) homes: Vec<HomeLine>,
    pub(crate) sure: Vec<SureLine>,
    pub(crate) sure_words: String,
    /// What nobody told, and which of it to settle first.
    pub(crate) settle: Option<String>,
    pub(crate) measure: Vec<String>,
    pub(crate) map: Option<MapPicture>,
    pub(crate) map_link: Option<String>,
}

/// What the words need.
pub(crate) struct Ground<'a> {
    pub(crate) board: &'a OnBoard,
    pub(crate) standings: &'a [Standing],
    pub(crate) order: &'a [usize],
    /// The first of those that get home.
    pub(crate) first: Option<usize>,
    pub(crate) rig: RigId,
    pub(crate) view: View,
    pub(crate) look: Look,
}

impl Ground<'_> {
    pub(super) fn plan(&self) -> &Plan {
        &self.board.plan
    }

    pub(super) fn say(&self) -> Say<'_> {
        self.look.say(&self.plan().currency)
    }

    pub(super) fn name(&self, n: usize) -> &str {
        &self.plan().packs[n].name
    }

    /// Boats get home, carts get back.
    pub(super) fn home(&self) -> &'static str {
        if self.plan().rig.craft.kind.is_boat() { "home" } else { "back" }
    }

    /// A pack's name where it is the subject of a sentence.
    pub(super) fn who(&self, n: Option<usize>) -> String {
        n.map_or_else(|| format!("none gets {}", self.home()), |n| self.name(n).to_owned())
    }

    pub(crate) fn decision(&self, weighed: &Weighed) -> Decision {
        let (turning, still): (Vec<&Tipping>, Vec<&Tipping>) =
            weighed.tips.iter().partition(|t| t.distance().is_some());
        let nothing = (!still.is_empty()).then(|| {
            let names: Vec<&str> = still.iter().map(|t| self.title(t.driver)).collect();
            format!("{}: nothing within reason turns it.", figures::capital(&names.join(", ")))
        });
        let pair = self.view.map.or_else(|| {
            let of_day = turning.iter().find(|t| t.driver.is_of_the_day());
            let first = of_day.or_else(|| turning.first())?.driver;
            let second = turning.iter().map(|t| t.driver).find(|d| *d != first);
            Some((first, second.unwrap_or(Driver::Outings)))
        });
        Decision {
            tips: turning.iter().take(SHOWN).map(|t| self.bar(t)).collect(),
            more_tips: turning.iter().skip(SHOWN).map(|t| self.bar(t)).collect(),
            nothing,
            homes: self.homes(weighed),
            sure: self.sure(weighed),
            sure_words: self.sure_words(weighed),
            settle: self.settle_words(weighed),
            measure: weighed.to_measure.iter().map(|m| self.measuring(m)).collect(),
            map: self.view.map.and_then(|(across, down)| {
                let map = weighed.map(across, down)?;
                Some(self.map(&map, &Contest::of(self.plan()).ok()?))
            }),
            map_link: pair.map(|pair| View { map: Some(pair), ..self.view }.address(self.rig)),
        }
    }

    /// What a driver is called.
    pub(super) fn title(&self, driver: Driver) -> &'static str {
        match driver {
            Driver::Outings => "outings a year",
            Driver::Hours => "hours out",
            Driver::Wind => "wind",
            Driver::Weight => "weight aboard",
            Driver::PriceFirst => "price of the first",
            Driver::PriceSecond => "price of the second",
            Driver::NeedsFirst => "parts for the first",
            Driver::NeedsSecond => "parts for the second",
            Driver::HoldsFirst => "real capacity of the first",
            Driver::HoldsSecond => "real capacity of the second",
            Driver::Energy => "price of a kWh",
            Driver::Horizon => "years looked ahead",
            Driver::Temperature => "air",
            Driver::LeadFloor => "floor of lead",
            Driver::LfpFloor => "floor of LFP",
            Driver::LfpCeiling => "LFP charged to",
            Driver::LifeFirst => "life of the first",
            Driver::LifeSecond => "life of the second",
            Driver::Interest => "interest",
        }
    }

    /// The pack that a driver of the first or the second means.
    pub(super) fn meant(&self, driver: Driver) -> Option<usize> {
        match driver {
            Driver::PriceFirst | Driver::LifeFirst | Driver::NeedsFirst | Driver::HoldsFirst => {
                self.order.first().copied()
            }
            Driver::PriceSecond
            | Driver::LifeSecond
            | Driver::NeedsSecond
            | Driver::HoldsSecond => self.order.get(1).copied(),
            _ => None,
        }
    }

    /// A driver's value with its unit.
    pub(super) fn value(&self, driver: Driver, value: f64) -> String {
        let say = self.say();
        match driver {
            Driver::Outings => figures::amount(value.round()),
            Driver::Hours => figures::duration(self.plan().day.lasts().value() * value),
            Driver::Wind => {
                figures::speed(lake_hour_core::units::MetresPerSecond::of(value), self.look.units)
            }
            Driver::Weight => {
                let of = say.units.say(Measure::Mass, value.abs(), 0);
                let more = if value < 0.0 { "less" } else { "more" };
                if value == 0.0 { "as today".to_owned() } else { format!("{of} {more}") }
            }
            Driver::PriceFirst
            | Driver::PriceSecond
            | Driver::NeedsFirst
            | Driver::NeedsSecond
            | Driver::Energy => say.money(Money::of(value)),
            Driver::HoldsFirst | Driver::HoldsSecond => figures::percent(value),
            Driver::Horizon => format!("{} years", figures::amount(value)),
            Driver::Temperature => say.units.say(Measure::Temperature, value, 0),
            Driver::LeadFloor | Driver::LfpFloor | Driver::LfpCeiling => figures::percent(value),
            Driver::LifeFirst | Driver::LifeSecond => {
                let lasts = self.meant(driver).and_then(|n| {
                    let survey = self.standings[n].survey.as_ref()?;
                    Some(survey.cost?.account.used.lasts * value)
                });
                match lasts {
                    Some(years) => {
                        format!("{} years", figures::amount((years * 2.0).round() / 2.0))
                    }
                    None => format!("{value:.1} times"),
                }
            }
            Driver::Interest => format!("{:.0} % a year", value * 100.0),
        }
    }

    fn homes(&self, weighed: &Weighed) -> Vec<HomeLine> {
        let all = weighed.homes.iter().enumerate().filter_map(|(n, (changes, margin))| {
            self.standings.get(n)?.survey.as_ref()?;
            let pack = &self.plan().packs[n];
            // Rounds of so many miles are not stayed on longer: what it has to spare stands in its lane.
            if margin.as_ref().is_some_and(|m| m.longer.is_none() && m.wind.is_none()) {
                return None;
            }
            let says = match margin {
                Some(margin) => self.margin(margin),
                None => changes.iter().map(|c| self.way(n, pack, *c)).collect(),
            };
            Some(HomeLine { name: pack.name.clone(), gets_home: margin.is_some(), says })
        });
        let (takes, needs): (Vec<_>, Vec<_>) = all.partition(|line| line.gets_home);
        needs.into_iter().chain(takes).collect()
    }

    fn way(&self, n: usize, pack: &Pack, change: Change) -> HomeWay {
        let fix = Fix::of(change);
        let href = fix.map(|fix| {
            let nudges = self.view.nudges.with(Some(fix));
            View { nudges, ..self.view }.address(self.rig)
        });
        // A what-if that is on already is in what all others were found on: only one at a time stands in the address.
        let href = href.filter(|_| self.view.nudges.fix.is_none());
        let id = self.board.ids[n].0;
        let post = |act: &str, value: String| {
            (format!("/rigs/{}/packs/{id}/{act}{}", self.rig.0, self.view.query()), value)
        };
        match change {
            Change::Size(ah) => HomeWay {
                words: size_words(pack, ah),
                href: None,
                post: Some(post("sized", figures::typed(ah.value()))),
            },
            Change::OneMoreString => HomeWay {
                words: match pack.series {
                    1 => "one more beside it".to_owned(),
                    n => format!("another {n} in series beside them"),
                },
                href: None,
                post: Some(post("string", String::new())),
            },
            _ => HomeWay {
                words: fix.map_or_else(String::new, |f| fix_words(f, self.plan(), self.look)),
                href,
                post: None,
            },
        }
    }

    /// What would let a pack pass where none does, each tried.
    pub(super) fn nearest(&self, weighed: &Weighed) -> Vec<HomeWay> {
        let all = weighed.nearest.iter().map(|nearest| {
            let name = self.name(nearest.pack);
            match &nearest.way {
                Way::Asking(eased) => HomeWay {
                    words: format!("{name} passes {}", self.eased(eased)),
                    href: None,
                    post: None,
                },
                Way::Change(change) => {
                    let pack = &self.plan().packs[nearest.pack];
                    let way = self.way(nearest.pack, pack, *change);
                    HomeWay { words: format!("{name} passes with {}", way.words), ..way }
                }
            }
        });
        all.collect()
    }

    /// "with under $1,040 now rather than under $900 now".
    fn eased(&self, eased: &[Eased]) -> String {
        let plan = self.plan();
        let years = plan.rules.horizon_years;
        let each = eased.iter().map(|one| {
            let want = &plan.wants[one.want];
            let asked = wants::words(want, self.say(), years);
            match one.limit {
                Some(limit) => {
                    let less = wants::words(&want.clone().at(limit), self.say(), years);
                    format!("with {less} instead of {asked}")
                }
                None => format!("if \"{asked}\" were only nice to have"),
            }
        });
        each.collect::<Vec<_>>().join(", and ")
    }

    fn margin(&self, margin: &Margin) -> Vec<HomeWay> {
        let plain = |words: String| HomeWay { words, href: None, post: None };
        let longer = margin.longer.map(|(at, hours)| {
            let of = &self.plan().day.stretches[at].name;
            let minutes = (hours.minutes() / 5.0).floor() * 5.0;
            if minutes < 5.0 {
                format!("no longer on {of}")
            } else {
                format!("{} longer on {of}", figures::duration(minutes / 60.0))
            }
        });
        let wind = margin.wind.map(|wind| {
            if wind.value() >= MOST_WIND {
                "any wind one goes out in".to_owned()
            } else {
                format!("wind to {}", figures::speed(wind, self.look.units))
            }
        });
        longer.into_iter().chain(wind).map(plain).collect()
    }

    fn sure(&self, weighed: &Weighed) -> Vec<SureLine> {
        let mut all: Vec<(f64, SureLine)> = Vec::new();
        for n in self.order {
            let Some(Some(chance)) = weighed.chances.get(*n) else { continue };
            let days = |share: f64| figures::days_in_100(share, !weighed.settle.is_empty());
            all.push((
                chance.best,
                SureLine {
                    name: self.name(*n).to_owned(),
                    best: days(chance.best),
                    best_width: format!("{:.0}%", chance.best * 100.0),
                    home: format!(
                        "{} with the reserve untouched, {} {}",
                        days(chance.reserve_kept),
                        days(chance.finished),
                        self.home()
                    ),
                },
            ));
        }
        all.sort_by(|a, b| b.0.total_cmp(&a.0));
        all.into_iter().map(|(_, line)| line).collect()
    }

    fn sure_words(&self, weighed: &Weighed) -> String {
        let Some(first) = self.first else {
            let home = self.home();
            let gets = self.order.iter().any(|n| self.standings[*n].gets_home());
            return if gets {
                format!("No pack that gets {home} on the likely day fits the bays.")
            } else {
                format!("No pack in the running gets {home} on the likely day.")
            };
        };
        let Some(Some(chance)) = weighed.chances.get(first) else { return String::new() };
        let by = if self.plan().wants.iter().any(lake_hour_core::wants::Want::counts) {
            "by your wants"
        } else {
            "by getting there and back, then money"
        };
        let days = figures::days_in_100(chance.best, !weighed.settle.is_empty());
        let said = format!("{} comes first {by} on {days} days in 100.", self.name(first));
        // Nothing stands first beside a higher chance without what decided it.
        let best = |n: &usize| weighed.chances.get(*n).copied().flatten().map_or(0.0, |c| c.best);
        let surer = self.order.iter().copied().max_by(|a, b| best(a).total_cmp(&best(b)));
        match surer.filter(|n| *n != first && best(n) > chance.best) {
            Some(other) => {
                let days = figures::days_in_100(best(&other), !weighed.settle.is_empty());
                let by = self.standings[first].compare(&self.standings[other]).1;
                format!(
                    "{said} {} does on {days}: on the likely day it is behind {}.",
                    self.name(other),
                    behind(by)
                )
            }
            None => said,
        }
    }

    /// "Check first the price of the parts for Tern 24-120: it is assumed, and can move the 10-year cost by $120 either way."
    fn settle_words(&self, weighed: &Weighed) -> Option<String> {
        let first = weighed.settle.first()?;
        let what = |settle: &Settle| {
            let name = self.name(settle.pack);
            match settle.what {
                Assumed::Draw => "the motor's amps".to_owned(),
                Assumed::RatedHours => format!("over how many hours {name} is rated"),
                Assumed::Price => format!("the price of {name}"),
                Assumed::Needs => format!("the price of the parts for {name}"),
                Assumed::Life => format!("how long {name} lives"),
            }
        };
        let years = figures::amount(self.plan().rules.horizon_years);
        let moves = first.moves.map_or_else(String::new, |money| {
            format!(
                ", and can move the {years}-year cost by {} either way",
                self.say().money(money)
            )
        });
        let others: Vec<String> = weighed.settle.iter().skip(1).map(what).collect();
        let others = if others.is_empty() {
            String::new()
        } else {
            format!(" Also assumed: {}.", others.join(", "))
        };
        Some(format!("Check first {}: it is assumed{moves}.{others}", what(first)))
    }

    fn measuring(&self, m: &lake_hour_core::decide::sure::Measuring) -> String {
        let left = m.left / m.width;
        let by = match left {
            l if l < 0.4 => "takes most of the band away",
            l if l < 0.6 => "halves the band",
            l if l < 0.75 => "takes a third of the band away",
            _ => "narrows the band a little",
        };
        let wide = |share: f64| format!("{:.0}", share * 100.0);
        let what = match m.what {
            Unknown::Draw => self.setting_to_measure(),
            Unknown::Capacity => "Run one capacity test".to_owned(),
            Unknown::Law => "Run a test at the current you draw".to_owned(),
            Unknown::Recovery => "Note the volts after an hour's rest".to_owned(),
            Unknown::Cold => "Read the battery's temperature on a cold day".to_owned(),
            Unknown::Resistance => "Read the volts before and under a load".to_owned(),
        };
        format!("{what}: it {by} ({} points wide to {}).", wide(m.width), wide(m.left))
    }

    /// The stretch that draws the most charge, and where its amps are read.
    fn setting_to_measure(&self) -> String {
        let plan = self.plan();
        let implied = lake_hour_core::propulsion::of_day(&plan.rig_as_measured(), &plan.day);
        let drawn = |n: usize| {
            let stretch = &plan.day.stretches[n];
            implied[n].as_ref().map_or(0.0, |i| (i.amps * stretch.lasts).value())
        };
        let most = (0..plan.day.stretches.len()).max_by(|a, b| drawn(*a).total_cmp(&drawn(*b)));
        match most.map(|n| &plan.day.stretches[n]) {
            Some(stretch) => match stretch.duty {
                lake_hour_core::day::Duty::Setting(s) => {
                    format!("Measure amps at setting {}", figures::setting(&plan.rig.motor.dial, s))
                }
                _ => format!("Measure amps on {}", stretch.name),
            },
            None => "Measure the motor's amps".to_owned(),
        }
    }

    /// What excludes most of all packs that can be used: "home with 20 %, 4 packs".
    pub(crate) fn excludes_most(&self) -> Option<String> {
        let plan = self.plan();
        let counts = plan.wants.iter().enumerate().map(|(n, want)| {
            let failing = self.standings.iter().filter(|s| s.fails.contains(&n)).count();
            (failing, want)
        });
        let (count, want) =
            counts.max_by_key(|(count, _)| *count).filter(|(count, _)| *count > 0)?;
        let words = wants::words(want, self.say(), plan.rules.horizon_years);
        Some(format!("{words} ({count} of {} packs)", self.standings.len()))
    }
}

fn size_words(pack: &Pack, ah: AmpHours) -> String {
    let each = if pack.units() > 1 { " each" } else { "" };
    format!("the next size, {} Ah{each}", figures::amount(ah.value()))
}

/// By what a pack is behind another.
const fn behind(by: Decided) -> &'static str {
    match by {
        Decided::Musts => "by a must",
        Decided::Home => "by how it gets there",
        Decided::Fit => "because it does not fit the bays",
        Decided::Label => "because its label contradicts itself",
        Decided::Nices => "by what is nice to have",
        Decided::Money => "by money",
        Decided::Weight => "by weight",
        Decided::Place => "by its place in the list",
    }
}
