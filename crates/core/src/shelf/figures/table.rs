//! The list itself, in the order in which figures are written and shown.

use super::{Choice, Field, Figure, Group, Holds, Kept, Number, On};
use crate::allowed::{self, Allowed};
use crate::shelf::{Battery, Build, Chemistry, Detail, Purpose, SizeClass};
use crate::units::system::Measure;
use crate::units::{AmpHours, Amps, Celsius, Kilograms, Money, Ohms, Volts, WattHours};

/// Kept in a field of the battery that is a quantity, or a plain number.
macro_rules! own {
    ($field:ident: $quantity:ty) => {
        Kept::In((|b| b.$field.map(<$quantity>::value), |b, v| b.$field = v.map(<$quantity>::of)))
    };
    ($field:ident) => {
        Kept::In((|b| b.$field, |b, v| b.$field = v))
    };
}

/// A figure that nothing reckons with: this row is all that makes it known everywhere.
macro_rules! aside {
    ($key:literal, $label:literal, $on:expr, $holds:expr, $meaning:literal) => {
        Figure::new(
            Detail::named($key),
            $label,
            Group::Trade,
            $on,
            &[Field::new($key, $label, $holds, $meaning)],
        )
    };
}

impl Figure {
    const fn new(
        detail: Detail,
        words: &'static str,
        group: Group,
        on: On,
        fields: &'static [Field],
    ) -> Self {
        Self { detail, words, group, on, reckoned: false, fields }
    }

    /// The same, and a pack's form asks for it.
    const fn reckoned(self) -> Self {
        Self { reckoned: true, ..self }
    }
}

impl Field {
    const fn new(
        key: &'static str,
        label: &'static str,
        holds: Holds,
        meaning: &'static str,
    ) -> Self {
        Self { key, label, hint: "", meaning, holds }
    }

    /// The same, with an example in the empty field.
    const fn hint(self, hint: &'static str) -> Self {
        Self { hint, ..self }
    }
}

/// A number in one unit everywhere.
const fn number(allowed: Allowed, kept: Kept<f64>) -> Holds {
    Holds::Number(Number { allowed, whole: false, measure: None, typed: None, kept })
}

/// A whole number.
const fn count(allowed: Allowed, kept: Kept<f64>) -> Holds {
    Holds::Number(Number { allowed, whole: true, measure: None, typed: None, kept })
}

/// A number that is shown and typed in the user's units.
const fn measure(measure: Measure, allowed: Allowed, kept: Kept<f64>) -> Holds {
    Holds::Number(Number { allowed, whole: false, measure: Some(measure), typed: None, kept })
}

/// A number of which people type `times` as many `unit`.
const fn typed(unit: &'static str, times: f64, allowed: Allowed, kept: Kept<f64>) -> Holds {
    let typed = Some((unit, times));
    Holds::Number(Number { allowed, whole: false, measure: None, typed, kept })
}

/// Keys and words of the chemistries.
const CHEMISTRIES: &[(&str, &str)] = &[
    ("lfp", "LFP (lithium iron phosphate)"),
    ("agm", "AGM (sealed lead)"),
    ("gel", "Gel (sealed lead)"),
    ("flooded", "Flooded (vented lead)"),
    ("nmc", "NMC (lithium; typical figures only)"),
];
/// Keys and words of what is inside.
const BUILDS: &[(&str, &str)] = &[
    ("", "not said"),
    ("prismatic", "prismatic cells"),
    ("cylindrical", "cylindrical cells"),
    ("spiral", "spiral"),
    ("semi_solid", "\u{201c}semi-solid\u{201d}"),
];
/// Keys and words of what it is built for.
const PURPOSES: &[(&str, &str)] = &[
    ("", "not said"),
    ("deep_cycle", "deep-cycle"),
    ("dual_purpose", "dual-purpose"),
    ("starting", "starting"),
];
/// Keys and words of the standard sizes, which are their own names.
const CLASSES: &[(&str, &str)] = &[
    ("", "none"),
    ("U1", "U1"),
    ("22NF", "22NF"),
    ("24", "24"),
    ("27", "27"),
    ("31", "31"),
    ("34", "34"),
    ("4D", "4D"),
    ("8D", "8D"),
    ("GC2", "GC2 (6 V cart)"),
    ("GC2H", "GC2H (6 V, tall)"),
    ("GC8", "GC8 (8 V cart)"),
    ("GC12", "GC12 (12 V cart)"),
];

/// Reads a key with `read` and puts what it stands for, or nothing; false where it stands for nothing.
fn choose<T>(
    key: Option<&str>,
    read: impl Fn(&str) -> Option<T>,
    put: impl FnOnce(Option<T>),
) -> bool {
    let chosen = match key {
        Some(key) => match read(key) {
            Some(one) => Some(one),
            None => return false,
        },
        None => None,
    };
    put(chosen);
    true
}

/// Every battery has a chemistry: taking it away leaves the one it has.
fn set_chemistry(b: &mut Battery, key: Option<&str>) -> bool {
    choose(key, Chemistry::from_key, |c| b.chemistry = c.unwrap_or(b.chemistry))
}

/// Puts or takes away what is inside.
fn set_build(b: &mut Battery, key: Option<&str>) -> bool {
    choose(key, Build::from_key, |build| b.build = build)
}

/// Puts or takes away what it is built for.
fn set_purpose(b: &mut Battery, key: Option<&str>) -> bool {
    choose(key, Purpose::from_key, |purpose| b.purpose = purpose)
}

/// Puts or takes away the standard size.
fn set_class(b: &mut Battery, key: Option<&str>) -> bool {
    choose(key, SizeClass::from_name, |class| b.size_class = class)
}

/// Every battery has a name: taking it away leaves the one it has.
const NAME: Kept<String> =
    Kept::In((|b| Some(b.name.clone()), |b, name| b.name = name.unwrap_or_else(|| b.name.clone())));
/// Every battery has a nominal voltage, likewise. [V]
const VOLTS: Kept<f64> = Kept::In((
    |b| Some(b.nominal_voltage.value()),
    |b, v| b.nominal_voltage = v.map_or(b.nominal_voltage, Volts::of),
));
/// A whole number of units.
const SERIES: Kept<f64> =
    Kept::In((|b| b.max_series.map(f64::from), |b, v| b.max_series = v.map(|n| n as u32)));

/// Every figure a label or a seller gives.
pub static FIGURES: &[Figure] = &[
    Figure::new(
        Detail::NAME,
        "name",
        Group::Kind,
        On::All,
        &[Field::new("name", "Name", Holds::Text(NAME), "Its name.")],
    )
    .reckoned(),
    Figure::new(
        Detail::CHEMISTRY,
        "chemistry",
        Group::Kind,
        On::All,
        &[Field::new(
            "chemistry",
            "Chemistry",
            Holds::Choice(Choice {
                options: CHEMISTRIES,
                get: |b| Some(b.chemistry.key()),
                set: set_chemistry,
            }),
            "`flooded`, `agm`, `gel`, `lfp` or `nmc`.",
        )],
    )
    .reckoned(),
    Figure::new(
        Detail::BUILD,
        "build",
        Group::Kind,
        On::All,
        &[Field::new(
            "build",
            "Built",
            Holds::Choice(Choice {
                options: BUILDS,
                get: |b| b.build.map(Build::key),
                set: set_build,
            }),
            "`prismatic`, `cylindrical`, `spiral` or `semi_solid`.",
        )],
    ),
    Figure::new(
        Detail::PURPOSE,
        "purpose",
        Group::Kind,
        On::All,
        &[Field::new(
            "purpose",
            "Made for",
            Holds::Choice(Choice {
                options: PURPOSES,
                get: |b| b.purpose.map(Purpose::key),
                set: set_purpose,
            }),
            "`deep_cycle`, `dual_purpose` or `starting`.",
        )],
    ),
    Figure::new(
        Detail::SIZE_CLASS,
        "standard size",
        Group::Kind,
        On::All,
        &[Field::new(
            "size_class",
            "Standard size",
            Holds::Choice(Choice {
                options: CLASSES,
                get: |b| b.size_class.map(SizeClass::name),
                set: set_class,
            }),
            "BCI group: U1, 22NF, 24, 27, 31, 34, 4D, 8D, GC2, GC2H, GC8 or GC12.",
        )],
    ),
    Figure::new(
        Detail::VOLTS,
        "nominal voltage",
        Group::Energy,
        On::All,
        &[Field::new(
            "nominal_voltage_v",
            "Nominal voltage",
            number(allowed::UNIT_VOLTAGE, VOLTS),
            "Nominal voltage. [V]",
        )
        .hint("12, 12.8, 6 ...")],
    )
    .reckoned(),
    Figure::new(
        Detail::CAPACITY,
        "capacity",
        Group::Energy,
        On::All,
        &[
            Field::new(
                "capacity_ah",
                "Capacity",
                number(allowed::CAPACITY, Kept::Joined),
                "Ampere-hours on the label. [Ah]",
            ),
            Field::new(
                "capacity_hours",
                "rated over",
                number(allowed::RATED_HOURS, Kept::Joined),
                "Hours they are rated over; 20 for lead and 5 for lithium if absent. [h]",
            )
            .hint("lead 20, LFP 5 if not said"),
        ],
    )
    .reckoned(),
    Figure::new(
        Detail::RESERVE,
        "reserve capacity",
        Group::Energy,
        On::Lead,
        &[Field::new(
            "reserve_minutes_25a",
            "Reserve",
            number(allowed::RATED_MINUTES, Kept::Joined),
            "Reserve capacity: minutes at 25 A.",
        )
        .hint("how long it gives 25 A")],
    )
    .reckoned(),
    Figure::new(
        Detail::RATINGS,
        "further ratings",
        Group::Energy,
        On::Lead,
        &[Field::new("ratings", "Further ratings", Holds::Ratings, "Further ratings.")
            .hint("90 Ah at 5 h; 48 min at 75 A; 1.4 kWh at 20 h")],
    )
    .reckoned(),
    Figure::new(
        Detail::ENERGY,
        "energy as printed",
        Group::Energy,
        On::Lithium,
        &[Field::new(
            "energy_wh",
            "Energy as printed",
            number(allowed::LABEL_ENERGY, own!(printed_energy: WattHours)),
            "Watt-hours as printed. [Wh]",
        )],
    ),
    Figure::new(
        Detail::LEAD_EQUIVALENT,
        "\u{201c}lead-equivalent\u{201d} capacity",
        Group::Energy,
        On::Lithium,
        &[Field::new(
            "lead_equivalent_ah",
            "\u{201c}Lead-equivalent\u{201d}",
            number(allowed::CAPACITY, own!(lead_equivalent: AmpHours)),
            "\"Lead-equivalent\" ampere-hours as printed; never reckoned with. [Ah]",
        )
        .hint("not a capacity: not used")],
    ),
    Figure::new(
        Detail::CRANKING,
        "cranking amps",
        Group::Energy,
        On::Lead,
        &[Field::new(
            "cranking_a",
            "Cranking amps",
            number(allowed::CRANKING, own!(cranking: Amps)),
            "Cold cranking amps. [A]",
        )
        .hint("CCA: 30 s at 0 °F; says nothing of Ah")],
    )
    .reckoned(),
    Figure::new(
        Detail::CONTINUOUS,
        "continuous current",
        Group::Limits,
        On::Lithium,
        &[Field::new(
            "max_continuous_current_a",
            "Continuous amps",
            number(allowed::LIMIT_CURRENT, own!(max_continuous: Amps)),
            "Highest current it may give without end. [A]",
        )
        .hint("its BMS shuts off above")],
    )
    .reckoned(),
    Figure::new(
        Detail::PEAK,
        "peak current",
        Group::Limits,
        On::Lithium,
        &[
            Field::new(
                "peak_current_a",
                "Peak amps",
                number(allowed::LIMIT_CURRENT, Kept::Joined),
                "Highest current it may give for a moment. [A]",
            ),
            Field::new(
                "peak_seconds",
                "for up to",
                number(allowed::PEAK_SECONDS, Kept::Joined),
                "How long that moment is; 5 if absent. [s]",
            )
            .hint("5 s if not said"),
        ],
    )
    .reckoned(),
    Figure::new(
        Detail::CUTOFF,
        "low-voltage cut-off",
        Group::Limits,
        On::Lithium,
        &[Field::new(
            "low_voltage_cutoff_v",
            "Shuts off at",
            number(allowed::VOLTAGE, own!(low_voltage_cutoff: Volts)),
            "Voltage at which its protection opens. [V]",
        )
        .hint("typical if blank")],
    )
    .reckoned(),
    Figure::new(
        Detail::CHARGE_VOLTAGE,
        "charging voltage",
        Group::Limits,
        On::All,
        &[Field::new(
            "charge_voltage_v",
            "Charge volts",
            number(allowed::VOLTAGE, own!(charge_voltage: Volts)),
            "Highest charging voltage. [V]",
        )],
    ),
    Figure::new(
        Detail::COLD_CUTOFF,
        "charge temperatures",
        Group::Limits,
        On::Lithium,
        &[
            Field::new(
                "cold_cutoff_c",
                "No charge below",
                measure(Measure::Temperature, allowed::TEMPERATURE, own!(cold_cutoff: Celsius)),
                "Temperature under which it refuses a charge by itself. [°C]",
            ),
            Field::new(
                "charge_high_c",
                "nor above",
                measure(Measure::Temperature, allowed::BMS_TEMPERATURE, Kept::Aside),
                "Temperature above which it refuses a charge by itself. [°C]",
            ),
        ],
    ),
    Figure::new(
        Detail::HEATER,
        "heater",
        Group::Limits,
        On::Lithium,
        &[Field::new(
            "heater",
            "Heater",
            Holds::Flag(own!(heater)),
            "Warms itself before charging.",
        )],
    ),
    Figure::new(
        Detail::MONITOR,
        "monitor",
        Group::Limits,
        On::Lithium,
        &[Field::new(
            "monitor",
            "Battery monitor",
            Holds::Flag(own!(monitor)),
            "Tells its charge.",
        )],
    ),
    Figure::new(
        Detail::RESISTANCE,
        "internal resistance",
        Group::Limits,
        On::Lithium,
        &[Field::new(
            "resistance_ohm",
            "Resistance",
            typed("milliohm", 1000.0, allowed::RESISTANCE, own!(resistance: Ohms)),
            "Internal resistance. [ohm]",
        )
        .hint("typical if blank")],
    )
    .reckoned(),
    Figure::new(
        Detail::SELF_DISCHARGE,
        "self-discharge",
        Group::Limits,
        On::All,
        &[Field::new(
            "self_discharge_month",
            "Self-discharge",
            typed("%", 100.0, allowed::SELF_DISCHARGE, own!(self_discharge)),
            "Share of the charge lost in a month of rest, 0 to 1.",
        )
        .hint("a month")],
    )
    .reckoned(),
    Figure::new(
        Detail::MAX_SERIES,
        "most in series",
        Group::Limits,
        On::Lithium,
        &[Field::new(
            "max_series",
            "Max in series",
            count(allowed::SERIES, SERIES),
            "Most units in series.",
        )],
    ),
    Figure::new(
        Detail::named("max_parallel"),
        "most in parallel",
        Group::Limits,
        On::Lithium,
        &[Field::new(
            "max_parallel",
            "Max in parallel",
            count(allowed::PARALLEL, Kept::Aside),
            "Most strings side by side.",
        )],
    ),
    Figure::new(
        Detail::named("stackable"),
        "stackable",
        Group::Body,
        On::All,
        &[Field::new(
            "stackable",
            "Stackable",
            Holds::Flag(Kept::Aside),
            "Its maker allows another to stand on it.",
        )],
    ),
    Figure::new(
        Detail::DISCHARGE_WINDOW,
        "discharge temperatures",
        Group::Limits,
        On::Lithium,
        &[
            Field::new(
                "discharge_low_c",
                "Used from",
                measure(Measure::Temperature, allowed::TEMPERATURE, Kept::Aside),
                "Lowest temperature at which its BMS lets it be used. [°C]",
            ),
            Field::new(
                "discharge_high_c",
                "used up to",
                measure(Measure::Temperature, allowed::BMS_TEMPERATURE, Kept::Aside),
                "Highest temperature at which its BMS lets it be used. [°C]",
            ),
        ],
    )
    .reckoned(),
    Figure::new(
        Detail::MASS,
        "weight",
        Group::Body,
        On::All,
        &[Field::new(
            "mass_kg",
            "Weight",
            measure(Measure::Mass, allowed::UNIT_MASS, own!(mass: Kilograms)),
            "Weight of one unit. [kg]",
        )],
    )
    .reckoned(),
    Figure::new(
        Detail::SIZE,
        "dimensions",
        Group::Body,
        On::All,
        &[
            Field::new(
                "length_mm",
                "Length",
                measure(Measure::Side, allowed::BATTERY_SIDE, Kept::Joined),
                "Length. [mm]",
            ),
            Field::new(
                "width_mm",
                "Width",
                measure(Measure::Side, allowed::BATTERY_SIDE, Kept::Joined),
                "Width. [mm]",
            ),
            Field::new(
                "height_mm",
                "Height",
                measure(Measure::Side, allowed::BATTERY_SIDE, Kept::Joined),
                "Height with terminals. [mm]",
            )
            .hint("with terminals"),
        ],
    )
    .reckoned(),
    Figure::new(
        Detail::INGRESS,
        "ingress rating",
        Group::Body,
        On::Lithium,
        &[Field::new("ingress", "IP rating", Holds::Text(Kept::Aside), "Ingress rating, as IP65.")],
    ),
    Figure::new(
        Detail::TERMINALS,
        "terminals",
        Group::Body,
        On::All,
        &[Field::new(
            "terminals",
            "Terminals",
            Holds::Text(Kept::Aside),
            "Terminals, as M8 or post.",
        )],
    ),
    Figure::new(
        Detail::PRICE,
        "price",
        Group::Body,
        On::All,
        &[Field::new(
            "price",
            "Price",
            number(allowed::PRICE, own!(price: Money)),
            "Price of one unit, in the plan's currency.",
        )],
    )
    .reckoned(),
    Figure::new(
        Detail::CYCLES,
        "cycles",
        Group::Body,
        On::All,
        &[Field::new(
            "cycles",
            "Rated cycles",
            Holds::Cycles,
            "Cycles promised at depths of discharge.",
        )
        .hint("3500, or 3500 at 80 %")],
    )
    .reckoned(),
    Figure::new(
        Detail::YEARS,
        "calendar life",
        Group::Body,
        On::Lithium,
        &[Field::new(
            "calendar_years",
            "Calendar life",
            number(allowed::YEARS, own!(calendar_years)),
            "Years until the calendar ends it.",
        )
        .hint("typical if blank")],
    )
    .reckoned(),
    Figure::new(
        Detail::WARRANTY,
        "warranty",
        Group::Body,
        On::All,
        &[
            Field::new(
                "warranty_full_years",
                "Full warranty",
                number(allowed::WARRANTY, own!(warranty_full)),
                "Years of full warranty.",
            ),
            Field::new(
                "warranty_total_years",
                "prorated up to",
                number(allowed::WARRANTY, own!(warranty_total)),
                "Years of warranty in all, the prorated ones included.",
            ),
        ],
    ),
    aside!(
        "cell_count",
        "Cells",
        On::Lithium,
        count(allowed::CELLS, Kept::Aside),
        "Cells in one unit."
    ),
    aside!(
        "standards",
        "Standards",
        On::All,
        Holds::Text(Kept::Aside),
        "Standards its maker claims, as UL 1973."
    ),
    aside!("seller", "Seller", On::All, Holds::Text(Kept::Aside), "Who sells it."),
    aside!(
        "link",
        "Link",
        On::All,
        Holds::Long(Kept::Aside),
        "Address of its page; never opened by itself."
    ),
    aside!(
        "support",
        "Support",
        On::All,
        Holds::Long(Kept::Aside),
        "What is known of its maker's support."
    ),
    aside!("note", "Note", On::All, Holds::Long(Kept::Aside), "What else is to be remembered."),
];
