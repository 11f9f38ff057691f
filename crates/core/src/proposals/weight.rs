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
}
