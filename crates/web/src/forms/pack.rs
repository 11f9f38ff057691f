//! A pack with its battery as groups of fields.

use super::{Group, Problems, Reader, Shown, Spec, Typed, battery};
use crate::figures;
use lake_hour_core::allowed;
use lake_hour_core::pack::{Pack, WeakUnit};
use lake_hour_core::units::system::{Measure, System};

pub(super) const CHEMISTRIES: &[(&str, &str)] = &[
    ("lfp", "LFP (lithium iron phosphate)"),
    ("agm", "AGM (sealed lead)"),
    ("gel", "Gel (sealed lead)"),
    ("flooded", "Flooded (vented lead)"),
    ("nmc", "NMC (lithium; typical figures only)"),
];

const BATTERY: &[Spec] = &[
    Spec::words("name", "Name"),
    Spec::choice("chemistry", "Chemistry", CHEMISTRIES),
    Spec::figure("volts", "Volts, each", "V", "12, 12.8, 6 ..."),
    Spec::figure("ah", "Capacity, each", "Ah", "from the label"),
    Spec::figure("over", "rated over", "h", "20 if not said"),
    Spec::figure("reserve", "or reserve", "min", "how long it gives 25 A"),
    Spec::figure("cranking", "Cranking amps", "A", "CCA: 30 s at 0 °F; says nothing of Ah"),
    Spec {
        words: true,
        ..Spec::figure(
            "ratings",
            "Further ratings",
            "",
            "207 Ah at 10 h; 115 min at 75 A; 1.4 kWh at 20 h",
        )
    },
];

const WIRING: &[Spec] = &[
    Spec::figure("series", "In series", "", "adds volts"),
    Spec::figure("parallel", "In parallel", "", "adds amp-hours"),
    Spec::figure("continuous", "Continuous amps", "A", "each; its BMS shuts off above"),
    Spec::figure("peak", "Peak amps", "A", "each, for moments"),
    Spec::figure("seconds", "for up to", "s", "5 if not said"),
    Spec::figure("cutoff", "Shuts off at", "V", "each; typical if blank"),
    Spec::figure("milliohm", "Resistance", "milliohm", "each; typical if blank"),
    Spec::figure("weak", "One weak unit", "%", "of a good one's capacity"),
];

const MONEY: &[Spec] = &[
    Spec::measure("mass", "Weight, each", Measure::Mass, ""),
    Spec::measure("length", "Length", Measure::Side, ""),
    Spec::measure("width", "Width", Measure::Side, ""),
    Spec::measure("height", "Height", Measure::Side, "with terminals"),
    Spec::figure("price", "Price, each", "", ""),
    Spec::figure(
        "extra",
        "Charger, meter, cables",
        "",
        "about 250 is typical (no published source); 0 if you have them",
    ),
    Spec::figure("cycles", "Rated cycles", "", "typical if blank"),
    Spec::figure("depth", "at a depth of", "%", "80 if not said"),
    Spec::figure("years", "Calendar life", "years", "typical if blank"),
    Spec::tick("aboard", "Aboard today"),
];

/// The groups of fields of a pack's form.
pub(crate) fn groups(prefix: &str, form: Shown<'_>) -> Vec<Group> {
    [("Battery", BATTERY), ("Wiring and limits", WIRING), ("Size, money, life", MONEY)]
        .map(|(title, specs)| Group { title, fields: form.fields(prefix, specs) })
        .into()
}

/// The fields of a new pack.
pub(crate) fn blank() -> Typed {
    Typed::default().with("chemistry", "lfp").with("series", "1").with("parallel", "1")
}

/// The fields of a pack that is there.
pub(crate) fn typed(pack: &Pack, units: System) -> Typed {
    battery::typed(&pack.battery, units)
        .with("name", &*pack.name)
        .with("series", pack.series.to_string())
        .with("parallel", pack.parallel.to_string())
        .with(
            "weak",
            pack.weak_unit.map_or(String::new(), |w| figures::typed(w.capacity_share * 100.0)),
        )
        .with("aboard", if pack.aboard { "on" } else { "" })
        .with("extra", pack.extra_cost.map(figures::typed).unwrap_or_default())
}

/// Reads a pack. What the form does not show is kept from `before`.
pub(crate) fn read(typed: &Typed, units: System, before: Option<&Pack>) -> Result<Pack, Problems> {
    let mut r = Reader::of(typed, units);
    let battery = battery::read(&mut r, before.map(|p| &p.battery));
    let series = r.whole("series", &allowed::SERIES);
    let parallel = r.whole("parallel", &allowed::PARALLEL);
    let weak = r.optional("weak", &WEAK_PERCENT);
    let extra = r.optional("extra", &allowed::PRICE);
    let pack = (|| {
        let mut battery = battery?;
        let name = battery.name.clone();
        // A battery that has a name of its own keeps it when the pack gets another.
        if let Some(before) = before.filter(|p| p.battery.name != p.name) {
            battery.name.clone_from(&before.battery.name);
        }
        // Other figures than the shelf's are its owner's own.
        let same = before.filter(|p| p.battery == battery);
        let from = same.and_then(|p| p.from.clone());
        let resistance = before.and_then(|p| p.weak_unit).map_or(1.0, |w| w.resistance_factor);
        Some(Pack {
            name,
            battery,
            series: series?,
            parallel: parallel?,
            extra_cost: extra?,
            from,
            weak_unit: weak?.map(|percent| WeakUnit {
                capacity_share: percent / 100.0,
                resistance_factor: resistance,
            }),
            aboard: r.ticked("aboard"),
        })
    })();
    r.finish(pack)
}

const WEAK_PERCENT: allowed::Allowed = allowed::Allowed { low: 5.0, high: 100.0, unit: "%" };

#[cfg(test)]
mod tests {
    use super::*;
    use lake_hour_core::shelf::{Battery, Chemistry, CyclePoint, Rating, Size};
    use lake_hour_core::units::{AmpHours, Amps, Hours, Kilograms, Millimetres, Volts};

    fn pack() -> Pack {
        let rating = Rating::Capacity { ah: AmpHours::of(105.0), over: Hours::of(20.0) };
        let mut battery = Battery::new("Quarry", Chemistry::Agm, Volts::of(12.0), rating);
        battery.ratings.push(Rating::reserve(190.0));
        let seventy_five =
            Rating::Runtime { at: Amps::of(75.0), lasted: Hours::from_minutes(48.0) };
        battery.ratings.push(seventy_five);
        battery.cycles = vec![
            CyclePoint { depth: 0.5, cycles: 700.0 },
            CyclePoint { depth: 0.8, cycles: 400.0 },
        ];
        battery.mass = Some(Kilograms::of(30.4));
        battery.cranking = Some(Amps::of(800.0));
        let side = Millimetres::of;
        battery.size = Some(Size { length: side(330.0), width: side(173.0), height: side(240.0) });
        battery.price = Some(219.0);
        Pack::of(battery, 2, 1)
    }

    #[test]
    fn saving_an_untouched_form_changes_nothing() {
        let before = pack();
        let after =
            read(&typed(&before, System::Us), System::Us, Some(&before)).expect("untouched");
        assert_eq!(after, before);
    }

    #[test]
    fn each_bad_field_is_told_and_the_rest_is_kept() {
        let sent = typed(&pack(), System::Us)
            .with("series", "0")
            .with("parallel", "65")
            .with("ah", "1e309")
            .with("cutoff", "12.5")
            .with("name", " ");
        let problems = read(&sent, System::Us, Some(&pack())).expect_err("bad");
        assert_eq!(problems.get("series"), Some("Type a number from 1 to 64, as in 8."));
        assert_eq!(problems.get("parallel"), Some("Type a number from 1 to 64, as in 8."));
        assert_eq!(problems.get("ah"), Some("Type a number from 0.1 to 10000 Ah, as in 30."));
        assert_eq!(problems.get("cutoff"), Some("Must be below the battery's 12 V."));
        assert_eq!(problems.get("name"), Some("Give it a name."));
        assert_eq!(problems.count(), 5);
    }

    #[test]
    fn no_capacity_at_all_is_asked_for() {
        let sent = blank().with("name", "Spark").with("volts", "12");
        let problems = read(&sent, System::Us, None).expect_err("no capacity");
        assert!(problems.get("ah").expect("told").contains("reserve minutes"));
    }
}
