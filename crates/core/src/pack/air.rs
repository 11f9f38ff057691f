//! The air that lead asks for while it is charged, so that its hydrogen stays under the lower explosive limit.

use super::Pack;
use crate::shelf::Chemistry;

/// Air for a bay.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Air {
    /// So much an hour. [m³/h]
    pub flow: f64,
    /// Free area of each of two openings, low and high, that lets so much through by itself. [cm²]
    pub openings: f64,
}

/// Gassing current while the charge is boosted, an ampere-hour: vented, and valve-regulated (AGM and gel). IEC 62485-2
/// table 1; IEC 62485-3 counts vented traction batteries alike. [mA/Ah]
const GASSES: (f64, f64) = (20.0, 8.0);

/// The air that a pack asks for; `None` for lithium, and without a capacity on the label.
///
/// `Q = 0.05 n I C / 1000` for n cells in series of C ampere-hours, `A = 28 Q`: IEC 62485-2, IEC 62485-3. In 0.05 stand
/// the dilution of hydrogen to a twenty-fourth, 0.42 L of it an ampere-hour, and a safety of five.
pub fn air(pack: &Pack) -> Option<Air> {
    let gasses = match pack.battery.chemistry {
        Chemistry::Flooded => GASSES.0,
        Chemistry::Agm | Chemistry::Gel => GASSES.1,
        Chemistry::Lfp | Chemistry::Nmc => return None,
    };
    let cells = f64::from(pack.battery.cells() * pack.series);
    let flow = 0.05 * cells * gasses * pack.capacity().ok()?.value() / 1000.0;
    Some(Air { flow, openings: 28.0 * flow })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shelf::{Battery, Rating};
    use crate::units::{AmpHours, Hours, Volts};

    /// IEC 62485-2, worked: a 48 V cart of 24 cells and 225 Ah asks for 5.40 m³/h and 151 cm² vented, 2.16 m³/h valve
    /// regulated; one 12 V battery of 105 Ah for 0.63 m³/h and 17.6 cm². The other way round: 0.42 L of hydrogen an
    /// ampere-hour, twenty-four times as much air, five times that.
    #[test]
    fn air_is_as_worked() {
        let pack = |chemistry, volts, ah, series| {
            let rating = Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(20.0) };
            Pack::of(Battery::new("b", chemistry, Volts::of(volts), rating), series, 1)
        };
        let near = |pack: Pack, flow: f64, openings: f64| {
            let told = air(&pack).expect("lead");
            assert!((told.flow - flow).abs() < 0.006 && (told.openings - openings).abs() < 0.3);
        };
        near(pack(Chemistry::Flooded, 6.0, 225.0, 8), 5.40, 151.2);
        near(pack(Chemistry::Agm, 12.0, 225.0, 4), 2.16, 60.5);
        near(pack(Chemistry::Flooded, 12.0, 105.0, 1), 0.63, 17.64);
        let hydrogen = 24.0 * 0.42e-3 * 5.0 * 24.0 * 0.020 * 225.0;
        assert!(
            (air(&pack(Chemistry::Flooded, 6.0, 225.0, 8)).unwrap().flow - hydrogen).abs() < 0.06
        );
        assert_eq!(air(&pack(Chemistry::Lfp, 12.8, 100.0, 4)), None);
    }
}
