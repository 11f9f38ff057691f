//! The figures a label can carry, by name.

/// One figure of a label.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Detail {
    /// Nominal voltage. [V]
    Volts,
    /// Ampere-hours over some hours. [Ah]
    Capacity,
    /// Watt-hours as printed. [Wh]
    Energy,
    /// Minutes at 25 A.
    Reserve,
    /// Further ratings.
    Ratings,
    /// "Lead-equivalent" ampere-hours. [Ah]
    LeadEquivalent,
    /// Cold cranking amps. [A]
    Cranking,
    /// Current without end. [A]
    Continuous,
    /// Current for a moment. [A]
    Peak,
    /// Voltage at which protection opens. [V]
    Cutoff,
    /// Highest charging voltage. [V]
    ChargeVoltage,
    /// Internal resistance. [ohm]
    Resistance,
    /// Weight. [kg]
    Mass,
    /// Outside dimensions. [mm]
    Size,
    /// Price of one.
    Price,
    /// Cycles at a depth.
    Cycles,
    /// Calendar life. [years]
    Years,
    /// Share lost in a month of rest.
    SelfDischarge,
    /// Temperature under which it refuses a charge. [°C]
    ColdCutoff,
    /// Warmed from inside.
    Heater,
    /// Tells its charge.
    Monitor,
    /// Ingress rating.
    Ingress,
    /// Terminals.
    Terminals,
    /// Years of full and of prorated warranty.
    Warranty,
    /// Most units in series.
    MaxSeries,
}

impl Detail {
    /// All of them, as they stand on the shelf.
    pub const ALL: [Self; 25] = [
        Self::Volts,
        Self::Capacity,
        Self::Energy,
        Self::Reserve,
        Self::Ratings,
        Self::LeadEquivalent,
        Self::Cranking,
        Self::Continuous,
        Self::Peak,
        Self::Cutoff,
        Self::ChargeVoltage,
        Self::Resistance,
        Self::Mass,
        Self::Size,
        Self::Price,
        Self::Cycles,
        Self::Years,
        Self::SelfDischarge,
        Self::ColdCutoff,
        Self::Heater,
        Self::Monitor,
        Self::Ingress,
        Self::Terminals,
        Self::Warranty,
        Self::MaxSeries,
    ];

    /// The key used in files and forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Volts => "volts",
            Self::Capacity => "capacity",
            Self::Energy => "energy",
            Self::Reserve => "reserve",
            Self::Ratings => "ratings",
            Self::LeadEquivalent => "lead_equivalent",
            Self::Cranking => "cranking",
            Self::Continuous => "continuous",
            Self::Peak => "peak",
            Self::Cutoff => "cutoff",
            Self::ChargeVoltage => "charge_voltage",
            Self::Resistance => "resistance",
            Self::Mass => "mass",
            Self::Size => "size",
            Self::Price => "price",
            Self::Cycles => "cycles",
            Self::Years => "years",
            Self::SelfDischarge => "self_discharge",
            Self::ColdCutoff => "cold_cutoff",
            Self::Heater => "heater",
            Self::Monitor => "monitor",
            Self::Ingress => "ingress",
            Self::Terminals => "terminals",
            Self::Warranty => "warranty",
            Self::MaxSeries => "max_series",
        }
    }

    /// The detail with this [`key`](Self::key).
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|d| d.key() == key)
    }

    /// What it is called on the shelf.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Volts => "nominal voltage",
            Self::Capacity => "capacity",
            Self::Energy => "energy as printed",
            Self::Reserve => "reserve capacity",
            Self::Ratings => "further ratings",
            Self::LeadEquivalent => "\u{201c}lead-equivalent\u{201d} capacity",
            Self::Cranking => "cranking amps",
            Self::Continuous => "continuous current",
            Self::Peak => "peak current",
            Self::Cutoff => "low-voltage cut-off",
            Self::ChargeVoltage => "charging voltage",
            Self::Resistance => "internal resistance",
            Self::Mass => "weight",
            Self::Size => "dimensions",
            Self::Price => "price",
            Self::Cycles => "cycles",
            Self::Years => "calendar life",
            Self::SelfDischarge => "self-discharge",
            Self::ColdCutoff => "cold-charge cut-off",
            Self::Heater => "heater",
            Self::Monitor => "monitor",
            Self::Ingress => "ingress rating",
            Self::Terminals => "terminals",
            Self::Warranty => "warranty",
            Self::MaxSeries => "most in series",
        }
    }

    /// The unit of its figure; empty for what is no single figure.
    pub const fn unit(self) -> &'static str {
        match self {
            Self::Capacity | Self::LeadEquivalent => "Ah",
            Self::Energy => "Wh",
            Self::Volts | Self::Cutoff | Self::ChargeVoltage => "V",
            Self::Cranking | Self::Continuous | Self::Peak => "A",
            Self::Years => "years",
            _ => "",
        }
    }
}

/// A figure of the label that was replaced, so that every result can say so.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Correction {
    /// Which figure.
    pub detail: Detail,
    /// What the label says; zero where it says nothing.
    pub said: f64,
    /// What is used instead.
    pub used: f64,
}

impl std::fmt::Display for Correction {
    /// "capacity: the label says 300 Ah, used here: 100 Ah".
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let unit = self.detail.unit();
        let tidy = |v: f64| (v * 100.0).round() / 100.0;
        let (said, used) = (tidy(self.said), tidy(self.used));
        let space = if unit.is_empty() { "" } else { " " };
        write!(f, "{}: ", self.detail.words())?;
        if said > 0.0 {
            write!(f, "the label says {said}{space}{unit}")?;
        } else {
            write!(f, "the label says nothing")?;
        }
        write!(f, ", used here: {used}{space}{unit}")
    }
}
