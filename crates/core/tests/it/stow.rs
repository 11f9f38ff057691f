//! Laws of setting batteries out in a bay, on any sizes.

use lake_hour_core::pack::stow::{self, ABOVE, AIR, Refusal};
use lake_hour_core::rig::{Bay, Whereabouts};
use lake_hour_core::shelf::figures::Value;
use lake_hour_core::shelf::{Battery, Chemistry, Rating, Size};
use lake_hour_core::units::{AmpHours, Hours, Kilograms, Millimetres, Volts};
use proptest::prelude::*;

fn bay([length, width, height]: [f64; 3], upright_only: bool) -> Bay {
    let mm = Millimetres::of;
    Bay {
        name: "Bow box".to_owned(),
        whereabouts: Whereabouts::Bow,
        length: mm(length),
        width: mm(width),
        height: mm(height),
        mass_limit: None,
        sealed: false,
        upright_only,
        layers: 1,
        position: 0.2,
    }
}

fn unit([length, width, height]: [f64; 3]) -> Battery {
    let mm = Millimetres::of;
    let rating = Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(20.0) };
    let mut battery = Battery::new("Sedge", Chemistry::Agm, Volts::of(12.0), rating);
    battery.size = Some(Size { length: mm(length), width: mm(width), height: mm(height) });
    battery
}

fn stackable(mut battery: Battery) -> Battery {
    battery.others.insert("stackable", Value::Flag(true));
    battery
}

fn sides(low: f64, high: f64) -> impl Strategy<Value = [f64; 3]> {
    [low..high, low..high, low..high]
}

/// Adds to a bay's length, width or height.
fn longer(room: [f64; 3], way: &str, by: f64) -> [f64; 3] {
    let mut room = room;
    room[["long", "wide", "high"].iter().position(|w| *w == way).expect("a way")] += by;
    room
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    /// Every unit stands inside the bay with its clearances, and no two are closer than the air.
    #[test]
    fn units_stand_inside_and_apart(
        room in sides(120.0, 900.0), side in sides(60.0, 400.0), upright in any::<bool>(), wanted in 1_u32..20,
        layers in 1_u32..4,
    ) {
        let bay = Bay { layers, ..bay(room, upright) };
        let stowed = stow::in_bay(&stackable(unit(side)), &bay, wanted).expect("sizes are known");
        prop_assert_eq!(stowed.spots.len() as u32, stowed.most.min(wanted));
        prop_assert_eq!(stowed.refusal.is_some(), stowed.most < wanted);
        let slack = 1e-6;
        for (n, a) in stowed.spots.iter().enumerate() {
            prop_assert!(a.along >= AIR - slack && a.across >= AIR - slack);
            prop_assert!(a.along + a.extent[0] + AIR <= room[0] + slack);
            prop_assert!(a.across + a.extent[1] + AIR <= room[1] + slack);
            prop_assert!(a.up + a.extent[2] + ABOVE <= room[2] + slack);
            // The same battery, whichever way round.
            let (mut own, mut of) = (a.extent, side);
            own.sort_by(f64::total_cmp);
            of.sort_by(f64::total_cmp);
            prop_assert_eq!(own, of);
            if upright {
                prop_assert!((a.extent[2] - side[2]).abs() < slack);
            }
            for b in &stowed.spots[n + 1..] {
                let apart = |at: f64, wide: f64, other: f64, w: f64| {
                    at + wide + AIR <= other + slack || other + w + AIR <= at + slack
                };
                prop_assert!(
                    apart(a.along, a.extent[0], b.along, b.extent[0])
                        || apart(a.across, a.extent[1], b.across, b.extent[1])
                        || a.up + a.extent[2] + ABOVE <= b.up + slack
                        || b.up + b.extent[2] + ABOVE <= a.up + slack
                );
            }
        }
    }

    /// Upright, every layer is the floor over again, as often as the height and the bay's layers allow: counted here.
    #[test]
    fn layers_are_floors_over_one_another(
        room in sides(120.0, 900.0), side in sides(60.0, 300.0), layers in 1_u32..5,
    ) {
        let of = |bay: &Bay, battery: &Battery| stow::in_bay(battery, bay, 64).expect("known").most;
        let (one, battery) = (bay(room, true), unit(side));
        let many = Bay { layers, ..one.clone() };
        let high = (room[2] / (side[2] + ABOVE) + 1e-9).floor() as u32;
        prop_assert_eq!(of(&many, &stackable(battery.clone())), of(&one, &battery) * layers.min(high));
        // Neither the label alone allows it, nor the bay alone, and never for what is topped up with water.
        prop_assert_eq!(of(&many, &battery), of(&one, &battery));
        prop_assert_eq!(of(&one, &stackable(battery.clone())), of(&one, &battery));
        let flooded = Battery { chemistry: Chemistry::Flooded, ..stackable(battery) };
        prop_assert_eq!(of(&many, &flooded), of(&one, &flooded));
        // Lying on a side may be better still, never worse.
        let any_way = Bay { upright_only: false, ..many.clone() };
        prop_assert!(of(&any_way, &stackable(unit(side))) >= of(&many, &stackable(unit(side))));
    }

    /// A roomier bay takes as many at least.
    #[test]
    fn more_room_takes_no_fewer(room in sides(120.0, 900.0), side in sides(60.0, 400.0), more in sides(0.0, 300.0)) {
        let of = |room| stow::in_bay(&unit(side), &bay(room, true), 64).expect("known").most;
        let roomier = [room[0] + more[0], room[1] + more[1], room[2] + more[2]];
        prop_assert!(of(roomier) >= of(room));
    }

    /// The millimetres of a refusal are the ones that are missing: with them there is room, or what is
    /// missing next is told in its turn; with half a millimetre less there is none.
    #[test]
    fn a_refusal_tells_the_millimetres_that_are_missing(room in sides(150.0, 500.0), side in sides(160.0, 400.0)) {
        let mut room = room;
        let mut told = Vec::new();
        for _ in 0..12 {
            let stowed = stow::in_bay(&unit(side), &bay(room, true), 1).expect("known");
            let Some(Refusal::Short { way, needs, has, .. }) = stowed.refusal else { break };
            prop_assert!(needs > has);
            let less = longer(room, way, needs - has - 0.5);
            prop_assert_eq!(stow::in_bay(&unit(side), &bay(less, true), 1).expect("known").most, 0);
            room = longer(room, way, needs - has);
            told.push(way);
        }
        prop_assert_eq!(stow::in_bay(&unit(side), &bay(room, true), 1).expect("known").most >= 1, true, "{:?}", told);
    }
}

#[test]
fn a_bay_that_bears_less_than_it_holds_says_so() {
    let mut bay = bay([700.0, 400.0, 300.0], true);
    bay.mass_limit = Some(Kilograms::of(65.0));
    let mut heavy = unit([330.0, 173.0, 240.0]);
    heavy.mass = Some(Kilograms::of(31.8));
    let stowed = stow::in_bay(&heavy, &bay, 4).unwrap();
    assert_eq!(stowed.most, 2);
    let says = stowed.refusal.unwrap().sentence(lake_hour_core::units::system::System::Metric);
    assert_eq!(says, "3 weigh 95 kg, the bay carries 65 kg");
    bay.mass_limit = None;
    assert_eq!(stow::in_bay(&heavy, &bay, 4).unwrap().most, 4);
}

#[test]
fn a_flooded_battery_stays_out_of_a_closed_off_bay_and_stands_upright() {
    let mut battery = unit([260.0, 173.0, 225.0]);
    battery.chemistry = Chemistry::Flooded;
    let mut closed = bay([700.0, 400.0, 300.0], false);
    closed.sealed = true;
    let stowed = stow::in_bay(&battery, &closed, 1).unwrap();
    assert_eq!((stowed.most, stowed.refusal), (0, Some(Refusal::Gasses)));
    // 225 mm and 20 above do not go under 240 mm; lying down a sealed one would.
    let low = bay([700.0, 400.0, 240.0], false);
    assert_eq!(stow::in_bay(&battery, &low, 1).unwrap().most, 0);
    battery.chemistry = Chemistry::Agm;
    assert!(stow::in_bay(&battery, &low, 1).unwrap().most > 0);
    battery.size = None;
    assert_eq!(stow::in_bay(&battery, &low, 1), None);
}

/// Two heights of layer in one bay: one stands, and one lies over it where a second would not stand.
#[test]
fn layers_may_be_of_several_heights() {
    let battery = stackable(unit([300.0, 170.0, 220.0]));
    let bay = |high, layers| Bay { layers, ..bay([310.0, 232.0, high], false) };
    let most = |high, layers| stow::in_bay(&battery, &bay(high, layers), 9).unwrap();
    // Standing needs 240 mm, lying on its long side 190.
    assert_eq!((most(430.0, 2).most, most(429.0, 2).most, most(430.0, 1).most), (2, 2, 1));
    assert_eq!((most(379.0, 2).most, most(570.0, 3).most, most(569.0, 3).most), (1, 3, 2));
    let two = most(430.0, 2);
    assert!(two.exact && two.spots[0].up == 0.0 && two.spots[1].up > 0.0, "{two:?}");
    assert_eq!(
        two.spots.iter().map(|s| s.extent[2]).sum::<f64>() + 2.0 * ABOVE,
        two.spots[1].up + two.spots[1].extent[2] + ABOVE
    );
}

/// What is missing for one more in layers, one side after another: with all of it there is room.
#[test]
fn a_refusal_in_layers_tells_what_is_missing() {
    let battery = stackable(unit([300.0, 170.0, 220.0]));
    let of = |room| stow::in_bay(&battery, &Bay { layers: 2, ..bay(room, true) }, 3).unwrap();
    let mut room = [310.0, 180.0, 500.0];
    assert_eq!(of(room).most, 2);
    let mut told = 0;
    while let Some(Refusal::Short { way, units, needs, has, .. }) = of(room).refusal {
        assert!(units == 3 && needs > has && told < 6, "{way} {needs} {has}");
        assert!(of(longer(room, way, needs - has - 0.5)).refusal.is_some());
        room = longer(room, way, needs - has);
        told += 1;
    }
    assert!(told > 0 && of(room).most >= 3);
}
