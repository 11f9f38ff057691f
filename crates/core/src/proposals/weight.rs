//! What a pack weighs with all that comes with it, against what is aboard, and what the difference does.

use crate::pack::Pack;
use crate::refill::{self, Refill, Wanted};
use crate::rig::{PERSON, Rig};
use crate::units::{AmpHours, Kilograms, Watts};

/// Box, tray or strap that holds one unit. Typical, from memory. [kg]
const HOLDER: Kilograms = Kilograms::of(0.7);
/// What a charger weighs: so much, and so much for each watt it gives. Typical, from memory: 3 to 4 kg for 300 W. [kg], [kg/W]
const CHARGER: (f64, f64) = (0.8, 0.008);

/// A pack and what comes with it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Load {
    /// The batteries, by their label. [kg]
    pub batteries: Kilograms,
    /// Cables and lugs, about. [kg]
    pub cables: Kilograms,
    /// What holds the units down, about. [kg]
    pub holders: Kilograms,
    /// The charger that fills it, aboard or still to be bought, about. [kg]
    pub charger: Kilograms,
}

impl Load {
    /// All of it. [kg]
    pub fn whole(&self) -> Kilograms {
        self.batteries + self.cables + self.holders + self.charger
    }

    /// Of a pack whose cables weigh so much; `None` where its label gives no weight.
    pub fn of(rig: &Rig, pack: &Pack, cables: Kilograms, refill: &Refill) -> Option<Self> {
        let fits = refill::strongest(rig, pack).filter(|_| refill.by.is_some());
        let gives = match fits {
            Some(output) => {
                let charger = output.charger;
                charger.bank_voltage * charger.current * f64::from(charger.banks)
            }
            None => {
                let whole = refill.charge.map_or(AmpHours::ZERO, |c| c.capacity);
                let wanted = Wanted::of(pack, whole);
                wanted.volts * wanted.amps.0
            }
        };
        Some(Self {
            batteries: pack.mass()?,
            cables,
            holders: HOLDER * f64::from(pack.units()),
            charger: weighs(gives),
        })
    }
}

fn weighs(gives: Watts) -> Kilograms {
    Kilograms::of(CHARGER.0 + CHARGER.1 * gives.value())
}

/// What a trailer carries of a craft that is this much heavier than it was told, against its limit, without the people;
/// `None` where no limit is told. [kg]
pub fn on_the_trailer(rig: &Rig, heavier_by: Kilograms) -> Option<(Kilograms, Kilograms)> {
    let people = PERSON * f64::from(rig.craft.people);
    Some((rig.craft.mass_told().value - people + heavier_by, rig.trailer_limit?))
}

/// What a change of weight does to a boat that planes on a combustion engine: shares of what it was, from and to.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Planing {
    /// Change of its top speed.
    pub top_speed: (f64, f64),
    /// Change of the fuel for a mile on the plane at one speed.
    pub fuel: (f64, f64),
}

/// Top speed goes with the root of power by weight, Crouch's rule of boat designers' handbooks; hulls in use are seen
/// from 0.35 of the share of weight to that half. Drag on the plane goes with the weight, less what is friction: fuel by
/// 0.6 to 1 of its share. All from memory, a typical range.
const SPEED_FOR_WEIGHT: (f64, f64) = (0.35, 0.5);
const FUEL_FOR_WEIGHT: (f64, f64) = (0.6, 1.0);

/// `None` where no combustion engine pushes it.
pub fn planing(rig: &Rig, heavier_by: Kilograms) -> Option<Planing> {
    let share = (rig.main_engine && rig.craft.kind.is_boat())
        .then(|| heavier_by / rig.craft.mass_told().value)?;
    let times = |(low, high): (f64, f64), sign: f64| (sign * low * share, sign * high * share);
    Some(Planing { top_speed: times(SPEED_FOR_WEIGHT, -1.0), fuel: times(FUEL_FOR_WEIGHT, 1.0) })
}

/// What one person may lift at best: the load constant of the revised lifting equation, 51 lb, NIOSH 94-110. [kg]
pub const LOAD_CONSTANT: Kilograms = Kilograms::of(23.0);

/// How a unit is lifted out of a boat or a cart, in inches: how far from the body, from what height, how far up. A choice:
/// over a gunwale or a sill, with fair handles, now and then.
const LIFTED: (f64, f64, f64) = (15.0, 20.0, 20.0);
/// Fair handles: the coupling multiplier of the equation's Table 7.
const FAIR: f64 = 0.95;

/// The lifting index of one unit: its weight by what is recommended there, above 1 a strain. NIOSH 94-110; Waters et al.,
/// Ergonomics 36 (1993) 749.
///
/// `RWL = 23 kg x (10/H) x (1 - 0.0075 |V - 30|) x (0.82 + 1.8/D) x CM`, in inches, straight before the body, not often.
pub fn lifting_index(mass: Kilograms) -> f64 {
    let (reach, from, up) = LIFTED;
    let multipliers =
        10.0 / reach * (1.0 - 0.0075 * (from - 30.0).abs()) * (0.82 + 1.8 / up) * FAIR;
    mass / (LOAD_CONSTANT * multipliers)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rig::CraftKind;
    use crate::units::Volts;

    #[test]
    fn a_trailer_carries_the_boat_and_not_its_people() {
        let mut rig = Rig::new("bass", CraftKind::Bass, Volts::of(24.0));
        rig.craft.loaded_mass = Some(Kilograms::of(1_000.0));
        rig.craft.people = 2;
        assert_eq!(on_the_trailer(&rig, Kilograms::of(20.0)), None);
        rig.trailer_limit = Some(Kilograms::of(850.0));
        let (carries, limit) = on_the_trailer(&rig, Kilograms::of(20.0)).unwrap();
        assert_eq!((carries.value(), limit.value()), (1_000.0 - 164.0 + 20.0, 850.0));
    }

    /// Crouch: V = C / sqrt(lb/hp), so 4 % less weight is `1/sqrt(0.96) - 1` = 2.06 % more speed at most.
    #[test]
    fn pounds_cost_speed_and_fuel_on_the_plane_only() {
        let mut rig = Rig::new("bass", CraftKind::Bass, Volts::of(24.0));
        rig.craft.loaded_mass = Some(Kilograms::of(1_000.0));
        assert_eq!(planing(&rig, Kilograms::of(-40.0)), None);
        rig.main_engine = true;
        let lighter = planing(&rig, Kilograms::of(-40.0)).unwrap();
        let crouch = 1.0 / 0.96_f64.sqrt() - 1.0;
        assert!((lighter.top_speed.1 - crouch).abs() < 0.001 && lighter.top_speed.0 > 0.0);
        assert!(lighter.fuel.1 < lighter.fuel.0 && lighter.fuel.0 < 0.0);
        let heavier = planing(&rig, Kilograms::of(40.0)).unwrap();
        assert!((heavier.fuel.1 + lighter.fuel.1).abs() < 1e-12);
    }

    /// The equation worked by hand, NIOSH 94-110: H 15, V 20, D 20 in, A 0, FM 1, CM 0.95 recommend 27.2 lb; a 62 lb GC2 of
    /// lead is 2.28 of that, a 26 lb LFP 0.96.
    #[test]
    fn the_lifting_equation_gives_its_worked_values() {
        let pounds = |lb: f64| Kilograms::of(lb * 0.453_592_37);
        for (lb, index) in [(27.2, 1.0), (62.0, 2.28), (26.0, 0.96)] {
            let found = lifting_index(pounds(lb));
            assert!((found / index - 1.0).abs() < 0.01, "{lb} {found}");
        }
    }

    /// Common practice, no source: packs of one voltage class are compared by kWh, volts and weight, never by count. 20
    /// units of 6 V and 225 Ah of 62 lb are 120 V and 27 kWh in 1,240 lb; 16 of 12 V and 105 Ah of 63 lb are 192 V and
    /// 20 kWh in 1,008 lb: fewer, of more volts, and of less energy.
    #[test]
    fn twenty_of_six_volts_are_held_against_sixteen_of_twelve() {
        use crate::pack::Pack;
        use crate::shelf::{Battery, Chemistry, Rating};
        use crate::units::Hours;
        let pack = |volts: f64, ah: f64, lb: f64, count| {
            let rating = Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(20.0) };
            let mut battery = Battery::new("unit", Chemistry::Flooded, Volts::of(volts), rating);
            battery.mass = Some(Kilograms::of(lb * 0.453_592_37));
            Pack::of(battery, count, 1)
        };
        let told = |p: &Pack| {
            let pounds = p.mass().unwrap().value() / 0.453_592_37;
            [p.voltage().value(), p.energy().unwrap().value() / 1000.0, pounds].map(f64::round)
        };
        let (six, twelve) = (pack(6.0, 225.0, 62.0, 20), pack(12.0, 105.0, 63.0, 16));
        assert_eq!((told(&six), told(&twelve)), ([120.0, 27.0, 1_240.0], [192.0, 20.0, 1_008.0]));
        // Both can kill: neither is wired without licensed help.
        assert!(six.full_charge_voltage() > crate::wiring::DANGEROUS);
        assert!(twelve.full_charge_voltage() > crate::wiring::DANGEROUS);
    }
}
