//! The schools of practice as choices: each sets the rules of the house, so that it is heard everywhere.

use super::Plan;
use crate::keyed::keyed;
use crate::life;
use crate::shelf::Chemistry;
use crate::wants::{Kind, Level, Want};

keyed! {
    /// What practitioners disagree about.
    pub enum Question {
        /// How low lead may go.
        LeadFloor,
        /// How low LFP may go.
        LfpFloor,
        /// How full LFP is charged.
        LfpCeiling,
        /// After every outing, or to suit the next one.
        Charge,
        /// What wears lithium.
        Ageing,
        /// LFP on a charger that was made for lead.
        OldCharger,
        /// A breaker where there is a BMS.
        Breaker,
        /// Devices on the motor's battery or on one of their own.
        Devices,
        /// One battery or several.
        Size,
        /// As few parts as can be, or one that goes on when another fails.
        Parts,
        /// The lowest price, or someone who answers.
        Brand,
        /// A charger for the pack, or one for each battery.
        Chargers,
    }
}

/// One school's answer.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Choice {
    /// The answer in few words.
    pub says: &'static str,
    /// Its reason.
    pub why: &'static str,
}

/// Charge that lithium rests at where it is charged to suit the next outing: home at 70 %, the next one uses 15 %.
const TO_SUIT: f64 = 0.55;

impl Question {
    /// What is asked.
    pub const fn asks(self) -> &'static str {
        match self {
            Self::LeadFloor => "How low may lead go?",
            Self::LfpFloor => "How low may LFP go?",
            Self::LfpCeiling => "How full is LFP charged?",
            Self::Charge => "Charge after every outing?",
            Self::Ageing => "What wears lithium?",
            Self::OldCharger => "LFP on a charger made for lead?",
            Self::Breaker => "A breaker where there is a BMS?",
            Self::Devices => "What do devices hang on?",
            Self::Size => "One big battery or several small?",
            Self::Parts => "Few parts, or something left when one fails?",
            Self::Brand => "Cheap, or with someone who answers?",
            Self::Chargers => "One charger, or one for each battery?",
        }
    }

    /// The schools, the usual one first. Common practice, no source, but where a reason names one.
    pub const fn choices(self) -> &'static [Choice] {
        match self {
            Self::LeadFloor => &[
                Choice { says: "half", why: "the usual rule: about twice the cycles of deep use" },
                Choice { says: "keeps 60 %", why: "uses two fifths, for the longest life" },
                Choice { says: "to 20 %", why: "a good AGM takes it if it is charged at once" },
            ],
            Self::LfpFloor => &[
                Choice {
                    says: "to 10 %",
                    why: "leaves something before the BMS shuts off without warning",
                },
                Choice {
                    says: "all of it",
                    why: "the label's amp-hours can be used, it wears little more",
                },
                Choice { says: "to 20 %", why: "live in the middle, for long life" },
            ],
            Self::LfpCeiling => &[
                Choice { says: "full", why: "the BMS balances there, and a long day wants it" },
                Choice { says: "90 %", why: "the top wears it most" },
                Choice { says: "80 %", why: "live between 20 and 80 %, for long life" },
            ],
            Self::Charge => &[
                Choice { says: "always", why: "lead must be; lithium is ready for anything" },
                Choice {
                    says: "to suit the next",
                    why: "lithium lasts longest at low and middle charge",
                },
            ],
            Self::Ageing => &[
                Choice { says: "years and warmth", why: "as storage models have it" },
                Choice {
                    says: "cycles near full too",
                    why: "Zsoldos et al., J. Electrochem. Soc. 171 (2024) 080527",
                },
            ],
            Self::OldCharger => &[
                Choice {
                    says: "only one that fits",
                    why: "desulphating and float harm LFP, and it may never get full",
                },
                Choice {
                    says: "drop-in is fine",
                    why: "many run so for years; its profile is not held against it here",
                },
            ],
            Self::Breaker => &[
                Choice {
                    says: "always",
                    why: "overcurrent protection near the battery is required practice",
                },
                Choice {
                    says: "the BMS is enough",
                    why: "fewer parts; a BMS that fails closed protects nothing",
                },
            ],
            Self::Devices => &[
                Choice {
                    says: "as each device says",
                    why: "the Day page says which hang on a battery of their own",
                },
                Choice {
                    says: "all on their own",
                    why: "the motor's noise stays out of sonar, and its battery lasts longer",
                },
                Choice {
                    says: "all on the motor's",
                    why: "one bank to charge; a converter feeds them",
                },
            ],
            Self::Size => &[
                Choice { says: "by the figures", why: "price, weight and room decide" },
                Choice { says: "one big", why: "no joints to fail, nothing to drift apart" },
                Choice {
                    says: "several small",
                    why: "each can be lifted, and one that fails costs less",
                },
            ],
            Self::Parts => &[
                Choice { says: "by the figures", why: "price, weight and room decide" },
                Choice {
                    says: "few parts",
                    why: "every joint and battery more is one that can fail",
                },
                Choice {
                    says: "something left",
                    why: "with another string beside it, one that fails ends no day",
                },
            ],
            Self::Brand => &[
                Choice { says: "by the figures", why: "cost over the years decides" },
                Choice {
                    says: "cheap",
                    why: "the cells are often alike, and what is saved buys the next one",
                },
                Choice {
                    says: "supported",
                    why: "someone answers when its BMS will not wake, and the warranty is worth something",
                },
            ],
            Self::Chargers => &[
                Choice {
                    says: "one for the pack",
                    why: "fewer parts and wires; batteries in series are evened out now and then",
                },
                Choice {
                    says: "one for each",
                    why: "each gets full by itself, and one that fails leaves the others",
                },
            ],
        }
    }

    /// Which school a plan follows; `None` where its figures are those of none.
    pub fn chosen(self, plan: &Plan) -> Option<usize> {
        let rules = &plan.rules;
        let near = |value: f64, of: &[f64]| of.iter().position(|v| (v - value).abs() < 1e-9);
        match self {
            Self::LeadFloor => {
                let lead = Chemistry::ALL.into_iter().filter(|c| c.is_lead());
                let mut floors = lead.map(|c| rules.floor(c));
                let first = floors.next()?;
                let alike = floors.all(|f| (f - first).abs() < 1e-9);
                near(first, &[0.5, 0.6, 0.2]).filter(|_| alike)
            }
            Self::LfpFloor => near(rules.floor(Chemistry::Lfp), &[0.1, 0.0, 0.2]),
            Self::LfpCeiling => near(rules.ceiling(Chemistry::Lfp), &[1.0, 0.9, 0.8]),
            Self::Charge => near(rules.keeping.resting_charge, &[1.0, TO_SUIT]),
            Self::Ageing => Some(usize::from(rules.keeping.school == life::School::Window)),
            Self::OldCharger => Some(usize::from(rules.drop_in)),
            Self::Breaker => Some(usize::from(rules.bms_is_enough)),
            Self::Size => Some(match plan.want(Kind::Few) {
                Some(few) if few.limit < 2.0 => 1,
                _ if plan.want(Kind::Liftable).is_some() => 2,
                _ => 0,
            }),
            Self::Parts => Some(match plan.want(Kind::Few) {
                Some(few) if few.limit >= 2.0 => 1,
                _ if plan.want(Kind::MovesOn).is_some() => 2,
                _ => 0,
            }),
            Self::Brand => Some(match (plan.want(Kind::CheapNow), plan.want(Kind::Warranty)) {
                (_, Some(_)) => 2,
                (Some(_), None) => 1,
                (None, None) => 0,
            }),
            Self::Chargers => Some(usize::from(rules.charger_each)),
            Self::Devices => {
                let mut on_house = plan.day.accessories.iter().map(|a| a.on_house);
                let first = on_house.next()?;
                let alike = on_house.all(|on| on == first);
                Some(match (alike, first) {
                    (false, _) => 0,
                    (true, true) => 1,
                    (true, false) => 2,
                })
            }
        }
    }

    /// Follows a school, by its place among the choices; one that is not there changes nothing.
    pub fn choose(self, plan: &mut Plan, school: usize) {
        let rules = &mut plan.rules;
        let pick = |of: &[f64]| of.get(school).copied();
        match self {
            Self::LeadFloor => {
                if let Some(floor) = pick(&[0.5, 0.6, 0.2]) {
                    for chemistry in Chemistry::ALL.into_iter().filter(|c| c.is_lead()) {
                        *rules = rules.with_floor(chemistry, floor);
                    }
                }
            }
            Self::LfpFloor => {
                if let Some(floor) = pick(&[0.1, 0.0, 0.2]) {
                    *rules = rules.with_floor(Chemistry::Lfp, floor);
                }
            }
            Self::LfpCeiling => {
                if let Some(ceiling) = pick(&[1.0, 0.9, 0.8]) {
                    *rules = rules.with_ceiling(Chemistry::Lfp, ceiling);
                }
            }
            Self::Charge => {
                if let Some(rests) = pick(&[1.0, TO_SUIT]) {
                    rules.keeping.resting_charge = rests;
                }
            }
            Self::Ageing => {
                let schools = [life::School::Calendar, life::School::Window];
                rules.keeping.school = schools.get(school).copied().unwrap_or(rules.keeping.school);
            }
            Self::OldCharger if school < 2 => rules.drop_in = school == 1,
            Self::Breaker if school < 2 => rules.bms_is_enough = school == 1,
            Self::Devices if school == 1 || school == 2 => {
                for device in &mut plan.day.accessories {
                    device.on_house = school == 1;
                }
            }
            Self::Size if school < 3 => {
                plan.wish(Kind::Few, (school == 1).then_some(1.0));
                plan.wish(Kind::Liftable, (school == 2).then_some(Kind::Liftable.usual_limit()));
            }
            Self::Parts if school < 3 => {
                plan.wish(Kind::Few, (school == 1).then_some(2.0));
                plan.wish(Kind::MovesOn, (school == 2).then_some(0.0));
            }
            Self::Brand if school < 3 => {
                plan.wish(Kind::CheapNow, (school == 1).then_some(Kind::CheapNow.usual_limit()));
                plan.wish(Kind::Warranty, (school == 2).then_some(Kind::Warranty.usual_limit()));
            }
            Self::Chargers if school < 2 => rules.charger_each = school == 1,
            Self::OldCharger | Self::Breaker | Self::Devices => {}
            Self::Size | Self::Parts | Self::Brand | Self::Chargers => {}
        }
    }
}

impl Plan {
    /// What is wanted of a kind, where it counts.
    fn want(&self, kind: Kind) -> Option<&Want> {
        self.wants.iter().find(|want| want.kind == kind && want.counts())
    }

    /// Makes something nice to have at a limit, or no matter. One that is wanted already keeps its level and its limit.
    fn wish(&mut self, kind: Kind, limit: Option<f64>) {
        let at = self.wants.iter().position(|want| want.kind == kind);
        match (limit, at) {
            (None, Some(at)) => {
                self.wants.remove(at);
            }
            (None, None) => {}
            (Some(limit), Some(at)) if !self.wants[at].counts() || kind == Kind::Few => {
                let level =
                    if self.wants[at].counts() { self.wants[at].level } else { Level::Nice };
                self.wants[at] = Want { level, limit, ..self.wants[at].clone() };
            }
            (Some(_), Some(_)) => {}
            (Some(limit), None) => self.wants.push(Want::of(kind, Level::Nice).at(limit)),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::day::{Accessory, Day};
    use crate::house::HouseRules;
    use crate::rig::{CraftKind, Rig};
    use crate::units::{Volts, Watts};

    fn plan() -> Plan {
        let mut day = Day::starting_at(420);
        for (name, on_house) in [("Sonar", true), ("Light", false)] {
            let (name, power) = (name.to_owned(), Watts::of(18.0));
            day.accessories.push(Accessory { name, power, hours: None, on_house });
        }
        Plan {
            currency: "USD".to_owned(),
            rig: Rig::new("skiff", CraftKind::VHull, Volts::of(24.0)),
            day,
            rules: HouseRules::default(),
            packs: Vec::new(),
            wants: Vec::new(),
            build: Default::default(),
        }
    }

    /// Whatever is chosen is what is followed then; the first is what a house begins with.
    #[test]
    fn what_is_chosen_is_followed() {
        for question in Question::ALL {
            assert_eq!(question.chosen(&plan()), Some(0), "{question:?}");
            for school in 0..question.choices().len() {
                let mut other = plan();
                question.choose(&mut other, school);
                assert_eq!(question.chosen(&other), Some(school), "{question:?}");
                let mut none = other.clone();
                question.choose(&mut none, 9);
                assert_eq!(none, other, "no such school");
            }
        }
    }

    #[test]
    fn figures_of_ones_own_are_no_school() {
        let mut own = plan();
        own.rules = own.rules.with_floor(Chemistry::Agm, 0.35).with_floor(Chemistry::Lfp, 0.07);
        assert_eq!(Question::LeadFloor.chosen(&own), None);
        assert_eq!(Question::LfpFloor.chosen(&own), None);
    }
}
