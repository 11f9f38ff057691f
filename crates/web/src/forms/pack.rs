//! A pack with its battery as groups of fields.

use super::candidate::today;
use super::{Field, Group, Problems, Reader, Shown, Spec, Typed, battery};
use crate::figures;
use lake_hour_core::allowed;
use lake_hour_core::pack::{Extras, Health, Pack, WeakUnit};
use lake_hour_core::shelf::figures::{Figure, Group as Place, Label};
use lake_hour_core::source::{Origin, Vouched};
use lake_hour_core::units::Money;
use lake_hour_core::units::system::System;

const WIRING: &[Spec] = &[
    Spec::figure("series", "In series", "", "adds volts"),
    Spec::figure("parallel", "In parallel", "", "adds amp-hours"),
    Spec::figure("weak", "One weak unit", "%", "of a good one's capacity"),
    Spec::figure("left", "Capacity left", "%", "100 when new"),
];

const ABOARD: &[Spec] = &[Spec::tick("aboard", "Aboard today")];

const BESIDE: &[Spec] = &[
    Spec::figure("charger", "Charger", "", "0 if you have one; blank: by the parts list"),
    Spec::figure("cables", "Cables and fuse", "", ""),
    Spec::figure("converter", "12 V converter", "", "where devices hung on one unit"),
    Spec::figure("meter", "Charge meter", "", ""),
    Spec::figure("holder", "Hold-downs, box", "", ""),
    Spec::figure("extra", "Anything else", "", "counts for all that is left blank here"),
    Spec::figure("labour", "Labor, each time", "", ""),
    Spec::figure("disposal", "Disposal of the old set", "", "a fee; -20 if it brings 20"),
];

/// What a pack takes beside its batteries, as the fields it stands in.
const fn items(extras: &mut Extras) -> [(&'static str, &mut Option<Money>); 8] {
    [
        ("charger", &mut extras.charger),
        ("cables", &mut extras.cables),
        ("converter", &mut extras.converter),
        ("meter", &mut extras.meter),
        ("holder", &mut extras.holder),
        ("extra", &mut extras.other),
        ("labour", &mut extras.labour),
        ("disposal", &mut extras.disposal),
    ]
}

/// The groups of fields of a pack's form: its battery's figures that the Board reckons with, what makes it a
/// pack, and whatever else its label says. A new one is asked for all that any chemistry's label gives.
pub(crate) fn groups(prefix: &str, form: Shown<'_>, new: bool) -> Vec<Group> {
    let asked = |figure: &Figure, filled: bool| {
        figure.reckoned && (new || filled || battery::is_usual(figure, form.typed))
    };
    let of = |places: &[Place]| battery::fields(prefix, form, places, asked);
    let besides =
        battery::fields(prefix, form, &PLACES, |figure, filled| filled && !figure.reckoned);
    let beside = |specs: &[Spec], fields: Vec<Field>| {
        form.fields(prefix, specs).into_iter().chain(fields).collect()
    };
    let mut groups = vec![
        Group { title: "Battery, each", fields: of(&[Place::Kind, Place::Energy]) },
        Group { title: "Wiring and limits", fields: beside(WIRING, of(&[Place::Limits])) },
        Group {
            title: "Size, money, life",
            fields: of(&[Place::Body]).into_iter().chain(form.fields(prefix, ABOARD)).collect(),
        },
        Group { title: "What it takes beside the batteries", fields: form.fields(prefix, BESIDE) },
    ];
    if !besides.is_empty() {
        groups.push(Group { title: "Also on its label", fields: besides });
    }
    groups
}

const PLACES: [Place; 5] = [Place::Kind, Place::Energy, Place::Limits, Place::Body, Place::Trade];

/// The fields of a new pack.
pub(crate) fn blank() -> Typed {
    Typed::default().with("chemistry", "lfp").with("series", "1").with("parallel", "1")
}

/// The fields of a pack that is there.
pub(crate) fn typed(pack: &Pack, units: System) -> Typed {
    let mut extras = pack.extras;
    let sum = |m: &mut Option<Money>| m.map(|m| figures::typed(m.value())).unwrap_or_default();
    let typed = battery::typed(&Label::of(&pack.battery), units);
    let typed = items(&mut extras).into_iter().fold(typed, |t, (name, m)| t.with(name, sum(m)));
    typed
        .with("name", &*pack.name)
        .with("series", pack.series.to_string())
        .with("parallel", pack.parallel.to_string())
        .with(
            "weak",
            pack.weak_unit.map_or(String::new(), |w| figures::typed(w.capacity_share * 100.0)),
        )
        .with(
            "left",
            if pack.health == Health::NEW {
                String::new()
            } else {
                figures::typed(pack.health.capacity_share * 100.0)
            },
        )
        .with("aboard", if pack.aboard { "on" } else { "" })
}

/// Reads a pack. What the form does not show is kept from `before`.
pub(crate) fn read(typed: &Typed, units: System, before: Option<&Pack>) -> Result<Pack, Problems> {
    let mut r = Reader::of(typed, units);
    let battery = battery::read(&mut r, before.map(|p| &p.battery));
    let series = r.whole("series", &allowed::SERIES);
    let parallel = r.whole("parallel", &allowed::PARALLEL);
    let weak = r.optional("weak", &WEAK_PERCENT);
    let mut extras = Extras::default();
    let mut read_extras = true;
    for (name, place) in items(&mut extras) {
        let range = if name == "disposal" { &allowed::DISPOSAL } else { &allowed::PRICE };
        match r.optional(name, range) {
            Some(sum) => *place = sum.map(Money::of),
            None => read_extras = false,
        }
    }
    let extras = read_extras.then_some(extras);
    let left = r.optional("left", &WEAK_PERCENT);
    let pack = (|| {
        let mut battery = battery?;
        let name = battery.name.clone();
        // A battery that has a name of its own keeps it when the pack gets another.
        if let Some(before) = before.filter(|p| p.battery.name != p.name) {
            battery.name.clone_from(&before.battery.name);
        }
        let resistance = before.and_then(|p| p.weak_unit).map_or(1.0, |w| w.resistance_factor);
        let weak_unit = weak?.map(|percent| WeakUnit {
            capacity_share: percent / 100.0,
            resistance_factor: resistance,
        });
        let (series, parallel) = (series?, parallel?);
        let extras = extras?;
        let aboard = r.ticked("aboard");
        let pack = match before {
            Some(before) => {
                let by = Vouched { by: Origin::SetByYou, on: Some(today()) };
                battery::vouch(&mut battery, typed, units, Some(&before.battery), by);
                before.clone().with_battery(battery)
            }
            None => Pack::of(battery, series, parallel),
        };
        let health = worn_to(left?, pack.health);
        Some(Pack { name, series, parallel, extras, weak_unit, health, aboard, ..pack })
    })();
    r.finish(pack)
}

/// What wear has left, from the share typed; as it was where that was not touched. A pack at 80 % has about half as much
/// resistance again: common practice, no source.
fn worn_to(percent: Option<f64>, before: Health) -> Health {
    let share = percent.map_or(1.0, |p| p / 100.0);
    // Fields show thousandths of a percent.
    if (share - before.capacity_share).abs() < 6e-6 {
        return before;
    }
    Health::at(share)
}

const WEAK_PERCENT: allowed::Allowed = allowed::Allowed { low: 5.0, high: 100.0, unit: "%" };

#[cfg(test)]
mod tests {
    use super::*;
    use lake_hour_core::shelf::{Battery, Chemistry, CyclePoint, Rating, Size};
    use lake_hour_core::units::{AmpHours, Amps, Hours, Kilograms, Millimetres, Money, Volts};

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
        battery.price = Some(Money::of(219.0));
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
            .with("capacity_ah", "1e309")
            .with("low_voltage_cutoff_v", "12.5")
            .with("name", " ");
        let problems = read(&sent, System::Us, Some(&pack())).expect_err("bad");
        assert_eq!(problems.get("series"), Some("Type a number from 1 to 64, as in 8."));
        assert_eq!(problems.get("parallel"), Some("Type a number from 1 to 64, as in 8."));
        assert_eq!(
            problems.get("capacity_ah"),
            Some("Type a number from 0.1 to 10000 Ah, as in 30.")
        );
        assert_eq!(problems.get("low_voltage_cutoff_v"), Some("Must be below the battery's 12 V."));
        assert_eq!(problems.get("name"), Some("Give it a name."));
        assert_eq!(problems.count(), 5);
    }

    #[test]
    fn no_capacity_at_all_is_asked_for() {
        let sent = blank().with("name", "Spark").with("nominal_voltage_v", "12");
        let problems = read(&sent, System::Us, None).expect_err("no capacity");
        assert!(problems.get("capacity_ah").expect("told").contains("reserve minutes"));
    }
}
