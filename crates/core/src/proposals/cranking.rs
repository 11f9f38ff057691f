//! A starting battery's duty, or a dual-purpose one's: so many starts a day, so many amps, for some seconds. It is held
//! against what the label says of cranking, which never becomes ampere-hours.

use crate::shelf::Battery;
use crate::units::{AmpHours, Amps, Hours, Volts};

/// What an engine asks of the battery that starts it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Starts {
    /// Starts a day.
    pub a_day: f64,
    /// What the starter draws. [A]
    pub amps: Amps,
    /// For how long each time. [s]
    pub seconds: f64,
}

impl Starts {
    /// What they use: amps times time, which says nothing of what a battery holds. [Ah]
    pub fn charge(&self) -> AmpHours {
        self.amps * Hours::of(self.a_day * self.seconds / 3600.0)
    }
}

/// Seconds that cold cranking amps are given for, volts of a cell that they leave, and volts of a rested one in that cold:
/// SAE J537, from memory.
const COLD: (f64, f64, f64) = (30.0, 1.2, 2.1);

/// The figure of a label that a start is held against.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum By {
    /// Cold cranking amps: thirty seconds at 0 °F.
    Cold,
    /// What its BMS lets through for so many seconds. [s]
    Peak(f64),
    /// What it carries without end, since it says nothing of a peak that lasts so long.
    Continuous,
}

/// A start held against a label.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Cranking {
    /// What the units side by side give. [A]
    pub gives: Amps,
    /// By which figure.
    pub by: By,
    /// About what it stands at while the starter turns, at 0 °F; told of lead's cold cranking amps. [V]
    pub volts: Option<Volts>,
    /// Whether that is enough.
    pub does: bool,
}

/// What a label says of a start by so many units side by side; `None` where it says nothing of cranking or peaks.
///
/// The volts fall straight with the amps from those of a rested cell to `1.2 V` at the cold cranking amps.
pub fn cranking(battery: &Battery, parallel: u32, starts: &Starts) -> Option<Cranking> {
    let times = f64::from(parallel);
    let (longest, least, rested) = COLD;
    if let Some(cold) = battery.cranking {
        let gives = cold * times;
        let cells = f64::from(battery.cells());
        let share = starts.amps / gives;
        let does = share <= 1.0 && starts.seconds <= longest;
        let volts = Volts::of(cells * (rested - (rested - least) * share));
        let volts = Some(volts).filter(|_| does && battery.chemistry.is_lead());
        return Some(Cranking { gives, by: By::Cold, volts, does });
    }
    let peak = battery.peak.map(|p| (p.current, p.seconds));
    let (each, by) = match (peak, battery.max_continuous) {
        (Some((amps, seconds)), _) if seconds >= starts.seconds => (amps, By::Peak(seconds)),
        (_, Some(amps)) => (amps, By::Continuous),
        _ => return None,
    };
    let gives = each * times;
    Some(Cranking { gives, by, volts: None, does: starts.amps <= gives })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shelf::{Chemistry, Peak, Rating};

    fn battery(chemistry: Chemistry, volts: f64) -> Battery {
        let rating = Rating::Capacity { ah: AmpHours::of(60.0), over: Hours::of(20.0) };
        Battery::new("Cattail", chemistry, Volts::of(volts), rating)
    }

    fn starts(amps: f64, seconds: f64) -> Starts {
        Starts { a_day: 4.0, amps: Amps::of(amps), seconds }
    }

    /// SAE J537, from memory: at the cold cranking amps a 12 V battery stands at 7.2 V; half of them leave the middle of
    /// that and 12.6 V. 4 x 150 A x 3 s are 0.5 Ah.
    #[test]
    fn a_start_is_held_against_cold_cranking_amps() {
        let mut lead = battery(Chemistry::Flooded, 12.0);
        assert_eq!(cranking(&lead, 1, &starts(150.0, 3.0)), None, "its label is silent");
        lead.cranking = Some(Amps::of(300.0));
        let half = cranking(&lead, 1, &starts(150.0, 3.0)).unwrap();
        assert!(half.does && (half.volts.unwrap().value() - 9.9).abs() < 1e-9, "{half:?}");
        assert!(
            (cranking(&lead, 1, &starts(300.0, 30.0)).unwrap().volts.unwrap().value() - 7.2).abs()
                < 1e-9
        );
        assert!(!cranking(&lead, 1, &starts(301.0, 3.0)).unwrap().does);
        assert!(!cranking(&lead, 1, &starts(150.0, 31.0)).unwrap().does);
        assert!(cranking(&lead, 2, &starts(600.0, 3.0)).unwrap().does);
        assert!((starts(150.0, 3.0).charge().value() - 0.5).abs() < 1e-12);
    }

    #[test]
    fn a_bms_lets_a_peak_through_for_its_seconds_only() {
        let mut lithium = battery(Chemistry::Lfp, 12.8);
        lithium.max_continuous = Some(Amps::of(100.0));
        lithium.peak = Some(Peak { current: Amps::of(250.0), seconds: 5.0 });
        let does = |amps, seconds| cranking(&lithium, 1, &starts(amps, seconds)).unwrap();
        assert!(does(200.0, 3.0).does && does(200.0, 3.0).by == By::Peak(5.0));
        assert!(!does(200.0, 6.0).does && does(200.0, 6.0).by == By::Continuous);
        assert!(does(100.0, 20.0).does && !does(251.0, 1.0).does);
    }
}
