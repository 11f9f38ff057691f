//! What its owner wants of a pack: each a must, nice to have, or no matter, with a limit of its own.

use crate::allowed::{self, Allowed};
use crate::keyed::keyed;

keyed! {
    /// What may be wanted.
    pub enum Kind {
        /// The day ends with so much charge above the lowest for its life.
        HomeWith,
        /// So many hours to spare.
        Long,
        /// All of it together weighs so much at most.
        Light,
        /// No unit weighs more than so much.
        Liftable,
        /// All units fit into the bays, or into one of them.
        Fits,
        /// So much paid now at most.
        CheapNow,
        /// So much over the years looked ahead at most.
        CheapOverYears,
        /// Still moves with one unit dead.
        MovesOn,
        /// Charged by a time of the day.
        FullBy,
        /// It tells its charge.
        Monitor,
        /// So many years of warranty in all.
        Warranty,
        /// No lead.
        NoLead,
        /// No more batteries than so many.
        Few,
    }
}

keyed! {
    /// How much it is wanted.
    pub enum Level {
        /// A pack without it is set aside.
        Must,
        /// Those that have it come first.
        Nice,
        /// It changes nothing.
        NoMatter,
    }
}

impl Kind {
    /// What its limit may be, in the core's units; `None` for what has none.
    pub const fn limit(self) -> Option<&'static Allowed> {
        match self {
            Self::HomeWith => Some(&allowed::WANTED_SHARE),
            Self::Long => Some(&allowed::WANTED_HOURS),
            Self::Light | Self::Liftable => Some(&allowed::CRAFT_MASS),
            Self::CheapNow | Self::CheapOverYears => Some(&allowed::PRICE),
            Self::FullBy => Some(&allowed::MINUTE_OF_DAY),
            Self::Warranty => Some(&allowed::WARRANTY),
            Self::Few => Some(&allowed::SERIES),
            Self::Fits | Self::MovesOn | Self::Monitor | Self::NoLead => None,
        }
    }

    /// The limit it begins with: what is usual among owners, a choice.
    pub const fn usual_limit(self) -> f64 {
        match self {
            // Of lithium that is a fifth in all.
            Self::HomeWith => 0.1,
            Self::Long => 1.0,
            // 70 and 50 lb: what one person carries to a boat, and what one person should lift.
            Self::Light => 31.751_466,
            Self::Liftable => 22.679_618,
            Self::CheapNow => 900.0,
            Self::CheapOverYears => 1500.0,
            // 05:30.
            Self::FullBy => 330.0,
            Self::Warranty => 5.0,
            Self::Few => 2.0,
            Self::Fits | Self::MovesOn | Self::Monitor | Self::NoLead => 0.0,
        }
    }

    /// Whether more of it is better; less is, of weight and money.
    pub const fn more_is_better(self) -> bool {
        !matches!(
            self,
            Self::Light | Self::Liftable | Self::CheapNow | Self::CheapOverYears | Self::Few
        )
    }
}

/// One thing wanted.
#[derive(Debug, Clone, PartialEq)]
pub struct Want {
    /// What.
    pub kind: Kind,
    /// How much.
    pub level: Level,
    /// How much of it, in the core's units: a share, hours, kg, money, minutes of the day, years. 0 where nothing is
    /// measured.
    pub limit: f64,
    /// The bay it is to fit, where one is meant.
    pub bay: Option<String>,
}

impl Want {
    /// A want with its usual limit.
    pub const fn of(kind: Kind, level: Level) -> Self {
        Self { kind, level, limit: kind.usual_limit(), bay: None }
    }

    /// The same with another limit.
    #[must_use]
    pub fn at(self, limit: f64) -> Self {
        Self { limit, ..self }
    }

    /// Whether it changes anything.
    pub fn counts(&self) -> bool {
        self.level != Level::NoMatter
    }
}

keyed! {
    /// Users whose wants are known, to begin with.
    pub enum Preset {
        /// Out now and then, carries the batteries home.
        WeekendAngler,
        /// Two full days in a row count more than the price.
        Tournament,
        /// Out most days: must work, must be full in the morning.
        Guide,
        /// Rounds on a cart, cheap over the years.
        Campground,
        /// The same way every day.
        Commuter,
        /// Lives on it.
        Liveaboard,
    }
}

impl Preset {
    /// What they want, most of it common practice, all of it to be changed.
    pub fn wants(self) -> Vec<Want> {
        use Kind::*;
        use Level::{Must, Nice};
        let want = Want::of;
        match self {
            Self::WeekendAngler => vec![
                want(HomeWith, Must),
                want(Light, Nice),
                want(CheapNow, Nice),
                want(Fits, Nice),
            ],
            Self::Tournament => vec![
                want(HomeWith, Must),
                want(Fits, Must),
                want(FullBy, Must).at(300.0),
                want(Light, Nice),
                want(Long, Nice).at(2.0),
                want(Monitor, Nice),
            ],
            Self::Guide => vec![
                want(HomeWith, Must),
                want(FullBy, Must),
                want(MovesOn, Nice),
                want(Warranty, Nice),
                want(CheapOverYears, Nice),
            ],
            Self::Campground => vec![
                want(HomeWith, Must),
                want(CheapOverYears, Nice).at(3000.0),
                want(Liftable, Nice),
                want(MovesOn, Nice),
            ],
            Self::Commuter => vec![
                want(HomeWith, Must).at(0.2),
                want(FullBy, Must).at(420.0),
                want(CheapOverYears, Nice),
                want(Warranty, Nice),
                want(Monitor, Nice),
            ],
            Self::Liveaboard => vec![
                want(HomeWith, Must),
                want(MovesOn, Must),
                want(NoLead, Nice),
                want(Warranty, Nice),
                want(CheapOverYears, Nice).at(4000.0),
            ],
        }
    }
}
