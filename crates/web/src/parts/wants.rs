//! What is wanted, in an owner's words.

use crate::figures;
use lake_hour_core::decide::Answer;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::{Kilograms, Money};
use lake_hour_core::wants::{Kind, Level, Preset, Want};

/// "home with 20 % above the floor", "under 70 lb", "full by 05:30".
pub(crate) fn words(want: &Want, say: Say<'_>, horizon: f64) -> String {
    let limit = want.limit;
    match want.kind {
        Kind::HomeWith => format!("home with {} above the floor", figures::percent(limit)),
        Kind::Long => format!("{} to spare", figures::hours(limit)),
        Kind::Light => format!("under {}", figures::mass(Kilograms::of(limit), say.units)),
        Kind::Liftable => {
            format!("no lift over {}", figures::mass(Kilograms::of(limit), say.units))
        }
        Kind::Fits => match &want.bay {
            Some(bay) => format!("fits {bay}"),
            None => "fits the bays".to_owned(),
        },
        Kind::CheapNow => format!("under {} now", say.money(Money::of(limit))),
        Kind::CheapOverYears => {
            let years = figures::amount(horizon);
            format!("under {} in {years} years", say.money(Money::of(limit)))
        }
        Kind::MovesOn => "still moves if one fails".to_owned(),
        Kind::FullBy => format!("full by {}", say.clock.words(limit as u16)),
        Kind::Monitor => "tells its charge".to_owned(),
        Kind::Warranty => format!("warranty of {} years", figures::amount(limit)),
        Kind::NoLead => "no lead".to_owned(),
        Kind::Few if limit < 2.0 => "one battery".to_owned(),
        Kind::Few => format!("at most {} batteries", figures::amount(limit)),
    }
}

/// What a pack has of it: "51 lb", "29 % left"; nothing where yes and no say it all.
pub(crate) fn has(want: &Want, answer: &Answer, say: Say<'_>) -> String {
    let Some(value) = answer.value else {
        return match want.kind {
            // What happens is said by the verdict.
            Kind::HomeWith => String::new(),
            Kind::FullBy => "no charger aboard suits".to_owned(),
            Kind::Fits => "no bay or no size is told".to_owned(),
            Kind::CheapNow | Kind::CheapOverYears => "no price given".to_owned(),
            Kind::Light | Kind::Liftable => "no weight given".to_owned(),
            _ => "its label does not say".to_owned(),
        };
    };
    match want.kind {
        Kind::HomeWith => figures::percent(value),
        Kind::Long if value.is_infinite() => "days".to_owned(),
        Kind::Long => figures::hours(value),
        Kind::Light | Kind::Liftable => figures::mass(Kilograms::of(value), say.units),
        Kind::CheapNow | Kind::CheapOverYears => say.money(Money::of(value)),
        Kind::FullBy => format!("takes {}", figures::hours(value)),
        Kind::Warranty => format!("{} years", figures::amount(value)),
        Kind::Few => figures::amount(value),
        Kind::Fits | Kind::MovesOn | Kind::Monitor | Kind::NoLead => String::new(),
    }
}

/// Who a preset is for.
pub(crate) const fn preset(preset: Preset) -> &'static str {
    match preset {
        Preset::WeekendAngler => "weekend angler",
        Preset::Tournament => "tournament",
        Preset::Guide => "guide",
        Preset::Campground => "campground",
        Preset::Commuter => "commuter",
        Preset::Liveaboard => "liveaboard",
    }
}

/// How much it is wanted.
pub(crate) const fn level(level: Level) -> &'static str {
    match level {
        Level::Must => "must",
        Level::Nice => "nice",
        Level::NoMatter => "no matter",
    }
}
