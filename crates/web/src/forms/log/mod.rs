//! Entries of the log as fields: outings, tests, packs that are owned.

mod read;
mod typed;

pub(crate) use read::{Against, as_owned, read};
pub(crate) use typed::typed;

use super::{Field, Shown, Spec, Typed};
use crate::frame::view::Logging;
use jiff::civil::Date;
use lake_hour_core::log::{Did, Log, Logged};
use lake_hour_core::units::system::Measure;
use lake_hour_store::Board;

const BY: &[(&str, &str)] = &[("meter", "by a meter"), ("feel", "by feel")];

const OUTING: &[Spec] = &[
    Spec::date("date", "Day"),
    Spec::figure("end", "Left, or used", "", "35 %, 43 Ah used, 24.3 V rested 4 h").with_signs(),
    Spec::choice("by", "A percent is", BY),
    Spec::figure("start", "Charge at the start", "", "full if blank; or 80 %").with_signs(),
    Spec::figure("hours", "How long", "h", "as planned if blank"),
    Spec::measure("distance", "How far", Measure::Distance, "if you know"),
    Spec::measure("wind", "Wind", Measure::Speed, "if you measured it"),
    Spec::figure("setting", "At setting", "", "as on your dial").with_signs(),
    Spec::figure("amps", "it drew", "A", "one motor"),
    Spec::words("name", "Name"),
    Spec::words("note", "Note"),
    Spec::tick("out", "Learn nothing from it"),
];

const OWNED: &[Spec] = &[
    Spec::date("bought", "Bought"),
    Spec::words("shop", "Where"),
    Spec::figure("paid", "Paid in all", "", ""),
    Spec::figure("full", "Warranty, full", "years", ""),
    Spec::figure("prorated", "then less until", "years", "since bought"),
    Spec::measure("kept", "Kept at", Measure::Temperature, "house rules if blank"),
    Spec::date("next", "Next outing"),
    Spec::figure("leaves", "leaves at", "", "7:00 if blank").with_signs(),
    Spec::date("retired", "Given away"),
    Spec::words("note", "Note"),
];

const UNIT: &[Spec] = &[
    Spec::words("number", "Number on it"),
    Spec::words("serial", "Serial number"),
    Spec::figure("place", "Place", "", "1 is the positive end"),
    Spec::date("since", "There since"),
    Spec::date("out", "Out since"),
];

const CHARGED: &[Spec] = &[
    Spec::date("date", "Day"),
    Spec::figure("end", "Charged to", "", "full, 80 %, 25.6 V rested overnight").with_signs(),
    Spec::choice("by", "A percent is", BY),
    Spec::words("note", "Note"),
];

const ENDS: &[(&str, &str)] =
    &[("reached", "at its stop voltage, or it shut off"), ("short", "before that, by me")];

const CAPACITY: &[Spec] = &[
    Spec::date("date", "Day"),
    Spec::figure("unit", "Unit", "", "the whole pack if blank"),
    Spec::figure("amps", "Steady current", "A", ""),
    Spec::figure("lasted", "Lasted", "", "4 h 10 min, or 250").with_signs(),
    Spec::figure("stop", "Stopped at", "V", ""),
    Spec::choice("ended", "It ended", ENDS),
    Spec::measure("warm", "Battery at", Measure::Temperature, "room temperature if blank"),
    Spec::figure("wh", "Energy", "Wh", "if a meter says"),
    Spec::words("note", "Note"),
];

const LOAD: &[Spec] = &[
    Spec::date("date", "Day"),
    Spec::figure("unit", "Unit", "", "the whole pack if blank"),
    Spec::figure("before", "Volts before", "V", ""),
    Spec::figure("amps", "Load", "A", ""),
    Spec::figure("seconds", "for", "s", "15"),
    Spec::figure("under", "Volts at its end", "V", ""),
    Spec::measure("warm", "Battery at", Measure::Temperature, "room temperature if blank"),
    Spec::words("note", "Note"),
];

const VOLTS: &[Spec] = &[
    Spec::date("date", "Day"),
    Spec::figure("volts", "Each unit, in order", "", "12.71, 12.70 or 82 %, 79 %").with_signs(),
    Spec::words("note", "Note"),
];

/// The keys of [`Chore`], for a field.
const CHORES: &[(&str, &str)] = &[
    ("water", "water"),
    ("equalize", "equalized"),
    ("balance", "balanced at full"),
    ("top_up", "topped up in storage"),
    ("clean", "cleaned, torqued"),
    ("test", "tested"),
];

const CARE: &[Spec] = &[
    Spec::date("date", "Day"),
    Spec::choice("chore", "What", CHORES),
    Spec::date("later", "Put off to"),
    Spec::words("note", "Note"),
];

/// Which pack a form is about: owned, by its number in the log, or one of the Board's.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Which {
    /// One that is owned.
    Owned(i64),
    /// A pack of the Board, by its place.
    OnBoard(usize),
}

impl Which {
    /// As it stands in a form.
    pub(crate) fn key(self, board: &Board) -> String {
        match self {
            Self::Owned(id) => format!("owned-{id}"),
            Self::OnBoard(n) => format!("pack-{}", board.packs[n].0),
        }
    }

    /// What a form offers: what is owned and still used; of the Board what is not owned yet.
    pub(crate) fn offered(board: &Board, log: &Log) -> Vec<(Self, String)> {
        let owned = log.owned().filter(|(_, o)| o.retired.is_none());
        let owned: Vec<(Self, String)> =
            owned.map(|(id, o)| (Self::Owned(id), o.pack.name.clone())).collect();
        let known: Vec<&str> = log.owned().map(|(_, o)| o.pack.name.as_str()).collect();
        let packs = board.plan.packs.iter().enumerate();
        let packs = packs.filter(|(_, p)| !known.contains(&p.name.as_str()));
        let mut others: Vec<(bool, Self, String)> = packs
            .map(|(n, p)| (!(p.aboard || p.chosen), Self::OnBoard(n), p.name.clone()))
            .collect();
        // What is aboard, or to be built, comes first.
        others.sort_by_key(|o| o.0);
        owned.into_iter().chain(others.into_iter().map(|(_, w, n)| (w, n))).collect()
    }

    pub(crate) fn read(text: &str, board: &Board, log: &Log) -> Option<Self> {
        let (what, id) = text.split_once('-')?;
        let id: i64 = id.parse().ok()?;
        match what {
            "owned" => log.pack(id).map(|_| Self::Owned(id)),
            "pack" => board.packs.iter().position(|p| p.0 == id).map(Self::OnBoard),
            _ => None,
        }
    }
}

/// The fields of a form.
pub(crate) fn fields(form: Shown<'_>, kind: Logging) -> Vec<Field> {
    let specs = match kind {
        Logging::Outing => OUTING,
        Logging::Owned => OWNED,
        Logging::Charged => CHARGED,
        Logging::Capacity => CAPACITY,
        Logging::Load => LOAD,
        Logging::Volts => VOLTS,
        Logging::Care => CARE,
    };
    form.fields(kind.key(), specs)
}

/// The units of an owned pack.
pub(crate) fn unit_rows(form: Shown<'_>, count: usize) -> Vec<Vec<Field>> {
    form.rows("units", UNIT, count)
}

/// Which form an entry is edited with.
pub(crate) const fn kind(logged: &Logged) -> Logging {
    match logged {
        Logged::Owned(_) => Logging::Owned,
        Logged::Outing(_) => Logging::Outing,
        Logged::Test(test) => match test.did {
            Did::Charged(_) => Logging::Charged,
            Did::Capacity(_) => Logging::Capacity,
            Did::Load(_) => Logging::Load,
            Did::Volts(_) | Did::Charges(_) | Did::Resistances(_) => Logging::Volts,
            Did::Care(..) => Logging::Care,
        },
    }
}

/// A new entry, as its form begins.
pub(crate) fn blank(kind: Logging, today: Date, board: &Board, log: &Log) -> Typed {
    // The pack that was driven with last comes first to hand.
    let offered = Which::offered(board, log);
    let last = log.outings().rev().find_map(|(_, o)| o.of).map(Which::Owned);
    let of =
        offered.iter().map(|o| o.0).find(|w| Some(*w) == last).or(offered.first().map(|o| o.0));
    let of = of.map(|which| which.key(board));
    let today = today.to_string();
    let typed = Typed::default().with("of", of.unwrap_or_default());
    match kind {
        Logging::Outing | Logging::Charged => typed.with("date", today).with("by", "meter"),
        Logging::Owned => typed.with("bought", today),
        Logging::Capacity => typed.with("date", today).with("ended", "reached"),
        Logging::Load => typed.with("date", today).with("seconds", "15"),
        Logging::Volts => typed.with("date", today),
        Logging::Care => typed.with("date", today).with("chore", "clean"),
    }
}
