//! Cable and what protects it: gauges, what they carry and drop, and fuses as they are sold.

use crate::keyed::keyed;
use crate::units::{Amps, Metres, Ohms, Volts};

/// A copper conductor by its gauge.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Gauge {
    /// Its number as it is said: "6", "2/0".
    pub awg: &'static str,
    /// The same as a number, 0 for 1/0, -1 for 2/0.
    number: i32,
    /// The metric size nearest to it that is sold. [mm²]
    pub metric: f64,
    /// Fewest circular mils of stranded boat cable of this gauge, SAE J1128 by way of ABYC E-11, from memory.
    pub circular_mils: f64,
    /// What it carries with 60 °C insulation, outside engine spaces; from memory. [A]
    at_60: f64,
    /// The same with 105 °C insulation: 33 CFR 183.425 Table 5. [A]
    at_105: f64,
}

const fn gauge(
    awg: &'static str,
    number: i32,
    metric: f64,
    circular_mils: f64,
    at_60: f64,
    at_105: f64,
) -> Gauge {
    Gauge { awg, number, metric, circular_mils, at_60, at_105 }
}

/// Gauges that are sold, thin first. The ampacities are of one to three conductors not in a bundle.
pub const GAUGES: [Gauge; 13] = [
    gauge("16", 16, 1.5, 2336.0, 15.0, 25.0),
    gauge("14", 14, 2.5, 3702.0, 20.0, 35.0),
    gauge("12", 12, 4.0, 5833.0, 25.0, 45.0),
    gauge("10", 10, 6.0, 9343.0, 40.0, 60.0),
    gauge("8", 8, 10.0, 14_810.0, 55.0, 80.0),
    gauge("6", 6, 16.0, 25_910.0, 80.0, 120.0),
    gauge("4", 4, 25.0, 37_360.0, 105.0, 160.0),
    gauge("2", 2, 35.0, 62_450.0, 140.0, 210.0),
    gauge("1", 1, 50.0, 77_790.0, 165.0, 245.0),
    gauge("1/0", 0, 50.0, 98_980.0, 195.0, 285.0),
    gauge("2/0", -1, 70.0, 125_100.0, 225.0, 330.0),
    gauge("3/0", -2, 95.0, 158_600.0, 260.0, 385.0),
    gauge("4/0", -3, 120.0, 205_500.0, 300.0, 445.0),
];

keyed! {
    /// How warm a conductor may get, by its insulation.
    pub enum Insulation {
        /// 60 °C.
        C60,
        /// 105 °C, as boat cable is sold.
        C105,
    }
}

keyed! {
    /// Where a cable runs.
    pub enum Place {
        /// In the open, in a compartment without an engine.
        Open,
        /// In an engine space.
        EngineSpace,
    }
}

impl Place {
    /// What is left of the ampacity there: 33 CFR 183.425, note to Table 5.
    const fn derating(self, insulation: Insulation) -> f64 {
        match (self, insulation) {
            (Self::Open, _) => 1.0,
            (Self::EngineSpace, Insulation::C60) => 0.58,
            (Self::EngineSpace, Insulation::C105) => 0.85,
        }
    }
}

/// Volts that ABYC E-11's formula drops in a foot of one circular mil at one ampere, [Ω CM/ft]: copper at 29 °C.
const K: f64 = 10.75;
/// Metres in a foot: exact.
const M_PER_FT: f64 = 0.3048;
/// Copper at 20 °C, IEC 60028 (100 % IACS). [Ω mm²/m]
const COPPER: f64 = 1.0 / 58.0;
/// How its resistance rises with warmth, from 20 °C. [1/K]
const WARMING: f64 = 0.003_93;

impl Gauge {
    /// Diameter of the solid wire: `d = 0.127 mm x 92^((36 - n)/39)`, ASTM B258. [mm]
    pub fn diameter(&self) -> f64 {
        0.127 * 92_f64.powf(f64::from(36 - self.number) / 39.0)
    }

    /// Its cross-section. [mm²]
    pub fn area(&self) -> f64 {
        std::f64::consts::PI / 4.0 * self.diameter().powi(2)
    }

    /// Resistance of a metre at a temperature. [Ω]
    pub fn ohms_per_metre(&self, celsius: f64) -> f64 {
        COPPER * (1.0 + WARMING * (celsius - 20.0)) / self.area()
    }

    /// What it carries without end. [A]
    pub fn carries(&self, insulation: Insulation, place: Place) -> Amps {
        let amps = match insulation {
            Insulation::C60 => self.at_60,
            Insulation::C105 => self.at_105,
        };
        Amps::of(amps * place.derating(insulation))
    }

    /// Resistance of a length of it by ABYC E-11: `K L / CM`. [Ω]
    pub fn ohms(&self, length: Metres) -> Ohms {
        Ohms::of(K * (length.value() / M_PER_FT) / self.circular_mils)
    }

    /// The next thicker one; `None` beyond the thickest.
    pub fn thicker(&self) -> Option<&'static Self> {
        let at = GAUGES.iter().position(|g| g.number == self.number)?;
        GAUGES.get(at + 1)
    }
}

keyed! {
    /// How much of the voltage a circuit may lose: the two classes of ABYC E-11.
    pub enum Class {
        /// 3 %: what must work, and motors whose push goes with the volts.
        Critical,
        /// 10 %: all else.
        Other,
    }
}

impl Class {
    /// As a share of the nominal voltage.
    pub const fn share(self) -> f64 {
        match self {
            Self::Critical => 0.03,
            Self::Other => 0.10,
        }
    }
}

/// Circular mils that a circuit asks for: `CM = K I L / E`, L there and back, E the volts it may lose. ABYC E-11.
pub fn circular_mils(amps: Amps, there_and_back: Metres, nominal: Volts, class: Class) -> f64 {
    K * amps.value() * (there_and_back.value() / M_PER_FT) / (nominal.value() * class.share())
}

/// Fuses and breakers as they are sold. Common practice, no source. [A]
pub const FUSES: [f64; 29] = [
    3.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 35.0, 40.0, 50.0, 60.0, 70.0, 80.0, 90.0, 100.0,
    110.0, 125.0, 150.0, 175.0, 200.0, 225.0, 250.0, 300.0, 350.0, 400.0, 450.0, 500.0, 600.0,
];

/// Most that a fuse may be rated at against what its conductor carries: 33 CFR 183.455, ABYC E-11.
pub const MOST_OVER: f64 = 1.5;

/// The smallest fuse sold that carries a current; `None` beyond the largest. [A]
pub fn fuse_for(amps: Amps) -> Option<Amps> {
    FUSES.iter().find(|rating| **rating >= amps.value() - 1e-9).map(|rating| Amps::of(*rating))
}

keyed! {
    /// Kinds of fuse, by what they can break, the smallest first.
    pub enum FuseKind {
        /// Blade fuses.
        Blade,
        /// Bolt-down strip fuses.
        Strip,
        /// Fuses that sit on the battery's own stud.
        Terminal,
        /// Class T (UL 248-15).
        ClassT,
    }
}

impl FuseKind {
    /// As it is said.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Blade => "blade fuse",
            Self::Strip => "bolt-down strip fuse",
            Self::Terminal => "terminal fuse",
            Self::ClassT => "Class T fuse",
        }
    }

    /// The highest current it can break at so many volts; nothing above its own. From memory. [A]
    pub const fn breaks(self, volts: f64) -> f64 {
        match self {
            Self::Blade if volts <= 32.0 => 1_000.0,
            Self::Strip if volts <= 80.0 => 2_500.0,
            Self::Terminal if volts <= 15.0 => 10_000.0,
            Self::Terminal if volts <= 32.0 => 5_000.0,
            Self::Terminal if volts <= 60.0 => 2_000.0,
            Self::ClassT if volts <= 160.0 => 20_000.0,
            _ => 0.0,
        }
    }

    /// Ratings that it is sold in, from memory. [A]
    const fn sold(self) -> (f64, f64) {
        match self {
            Self::Blade => (3.0, 80.0),
            Self::Strip => (30.0, 500.0),
            Self::Terminal => (30.0, 300.0),
            Self::ClassT => (3.0, 600.0),
        }
    }
}

/// A fuse: its rating and its kind.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Fuse {
    /// It opens above this. [A]
    pub rating: Amps,
    /// What it is.
    pub kind: FuseKind,
    /// The highest current that it can break here. [A]
    pub breaks: Amps,
}

impl Fuse {
    /// The smallest kind that lets a current through, protects a cable that carries so much, and breaks a fault; where
    /// none can break it, the one that breaks the most.
    pub fn of(amps: Amps, carries: Amps, fault: Amps, volts: Volts) -> Option<Self> {
        let most = carries.value() * MOST_OVER;
        let of = |kind: FuseKind| {
            let (low, high) = kind.sold();
            let rating = fuse_for(Amps::of(amps.value().max(low)))?;
            let breaks = Amps::of(kind.breaks(volts.value()));
            let fits = rating.value() <= high.min(most) && breaks > Amps::ZERO;
            fits.then_some(Self { rating, kind, breaks })
        };
        let kinds = FuseKind::ALL.into_iter().filter_map(of);
        let best = kinds.clone().max_by(|a, b| a.breaks.value().total_cmp(&b.breaks.value()));
        let mut kinds = kinds;
        kinds.find(|f| f.breaks >= fault).or(best)
    }
}

/// A circuit's cable and fuse.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sized {
    /// The gauge.
    pub gauge: &'static Gauge,
    /// The fuse or breaker that protects it. [A]
    pub fuse: Amps,
    /// What the cable carries without end. [A]
    pub carries: Amps,
}

/// Why no cable does.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum NoCable {
    /// Even the thickest is too thin.
    #[error("even 4/0 is too thin: lay two cables side by side, or shorten it")]
    Thickness,
    /// No fuse of that size is sold.
    #[error("no fuse of that size is sold: divide the load among two circuits")]
    Fuse,
}

/// The thinnest cable that carries a current, loses no more than its class, and is protected by a fuse that lets the
/// current through: at most [`MOST_OVER`] of what it carries.
///
/// # Errors
/// [`NoCable`] when none does.
pub fn size(
    amps: Amps,
    there_and_back: Metres,
    nominal: Volts,
    class: Class,
    (insulation, place): (Insulation, Place),
) -> Result<Sized, NoCable> {
    let fuse = fuse_for(amps).ok_or(NoCable::Fuse)?;
    let wanted = circular_mils(amps, there_and_back, nominal, class);
    GAUGES
        .iter()
        .map(|gauge| Sized { gauge, fuse, carries: gauge.carries(insulation, place) })
        .find(|s| {
            s.gauge.circular_mils >= wanted
                && s.carries >= amps
                && fuse.value() <= s.carries.value() * MOST_OVER
        })
        .ok_or(NoCable::Thickness)
}

#[cfg(test)]
mod tests {
    use super::*;

    const BOAT: (Insulation, Place) = (Insulation::C105, Place::Open);

    /// ASTM B258: AWG 16 is 1.291 mm, 1.309 mm²; 6 is 4.115 mm, 13.302 mm²; 4/0 is 11.684 mm, 107.219 mm². Copper at
    /// 20 °C (IEC 60028) then has 13.174, 1.296 and 0.1608 mΩ/m, at 75 °C 16.022, 1.576 and 0.1956.
    #[test]
    fn gauges_are_as_published() {
        for (awg, d, area, cold, warm) in [
            ("16", 1.291, 1.309, 13.174, 16.022),
            ("10", 2.588, 5.261, 3.277, 3.985),
            ("6", 4.115, 13.302, 1.296, 1.576),
            ("2", 6.544, 33.631, 0.5127, 0.6235),
            ("1/0", 8.251, 53.475, 0.3224, 0.3921),
            ("4/0", 11.684, 107.219, 0.1608, 0.1956),
        ] {
            let g = GAUGES.iter().find(|g| g.awg == awg).expect("sold");
            let near = |a: f64, b: f64| assert!((a / b - 1.0).abs() < 1e-3, "{awg}: {a} {b}");
            near(g.diameter(), d);
            near(g.area(), area);
            near(g.ohms_per_metre(20.0) * 1e3, cold);
            near(g.ohms_per_metre(75.0) * 1e3, warm);
        }
        // Thick is thicker in every figure, and boat cable of a gauge has about its solid wire's copper.
        for pair in GAUGES.windows(2) {
            assert!(
                pair[1].circular_mils > pair[0].circular_mils && pair[1].area() > pair[0].area()
            );
            assert!(pair[1].at_105 > pair[0].at_105 && pair[1].at_60 > pair[0].at_60);
            assert_eq!(pair[0].thicker(), Some(&pair[1]));
        }
        for g in &GAUGES {
            let solid = (g.diameter() / 0.0254).powi(2);
            assert!((0.88..1.0).contains(&(g.circular_mils / solid)), "{}", g.awg);
        }
    }

    /// ABYC E-11, worked: 50 A, 20 ft one way, at 12 V 59,722 CM for 3 % (AWG 2) and 17,917 for 10 % (AWG 6), at 24 V
    /// 29,861 (AWG 4), at 36 V 19,907 (AWG 6). 20 ft counted once is the classic mistake.
    #[test]
    fn circular_mils_are_as_worked() {
        let rt = Metres::of(40.0 * M_PER_FT);
        for (volts, class, cm, awg) in [
            (12.0, Class::Critical, 59_722.0, "2"),
            (12.0, Class::Other, 17_917.0, "6"),
            (24.0, Class::Critical, 29_861.0, "4"),
            (36.0, Class::Critical, 19_907.0, "6"),
        ] {
            let (amps, volts) = (Amps::of(50.0), Volts::of(volts));
            assert!((circular_mils(amps, rt, volts, class) - cm).abs() < 1.0);
            assert_eq!(size(amps, rt, volts, class, BOAT).expect("sold").gauge.awg, awg);
        }
        let drop = 50.0 * GAUGES[5].ohms(rt).value();
        assert!((drop - 0.830).abs() < 1e-3, "{drop}");
    }

    /// 33 CFR 183.425 Table 5 and 183.455: 150 % of what 105 °C cable carries; ABYC E-11's example, a 56 A motor on 60 A
    /// and AWG 6. In an engine space 105 °C cable carries 85 %.
    #[test]
    fn fuses_let_the_motor_run_and_protect_the_cable() {
        for (awg, most) in [("16", 37.5), ("8", 120.0), ("6", 180.0), ("4/0", 667.5)] {
            let g = GAUGES.iter().find(|g| g.awg == awg).expect("sold");
            let carries = g.carries(Insulation::C105, Place::Open);
            assert!((carries.value() * MOST_OVER - most).abs() < 1e-9, "{awg}");
        }
        assert_eq!(fuse_for(Amps::of(56.0)), Some(Amps::of(60.0)));
        let six = GAUGES.iter().find(|g| g.awg == "6").expect("sold");
        assert!((six.carries(Insulation::C105, Place::EngineSpace).value() - 102.0).abs() < 1e-9);
        for amps in 1..=440_u32 {
            let sized = size(
                Amps::of(f64::from(amps)),
                Metres::of(0.2),
                Volts::of(48.0),
                Class::Other,
                BOAT,
            )
            .expect("sold");
            assert!(
                sized.fuse.value() >= f64::from(amps) && sized.carries.value() >= f64::from(amps)
            );
            assert!(sized.fuse.value() <= MOST_OVER * sized.carries.value() + 1e-9);
        }
        let beyond = |amps, metres| {
            size(Amps::of(amps), Metres::of(metres), Volts::of(12.0), Class::Critical, BOAT).err()
        };
        assert_eq!(beyond(601.0, 1.0), Some(NoCable::Fuse));
        assert_eq!(beyond(500.0, 1.0), Some(NoCable::Thickness));
        assert_eq!(beyond(50.0, 500.0), Some(NoCable::Thickness));
    }

    /// LFP of four cells of 0.25 mΩ and 1 mΩ of leads: 12.8 V / 2 mΩ = 6.4 kA; four side by side 25.6 kA, more than a
    /// Class T fuse breaks.
    #[test]
    fn a_fault_is_broken_by_what_can() {
        let fuse = |amps, fault, volts| {
            let (amps, fault, volts) = (Amps::of(amps), Amps::of(fault), Volts::of(volts));
            Fuse::of(amps, Amps::of(120.0), fault, volts)
        };
        let kind = |amps, fault, volts| fuse(amps, fault, volts).map(|f: Fuse| f.kind);
        assert_eq!(kind(60.0, 900.0, 14.6), Some(FuseKind::Blade));
        assert_eq!(kind(60.0, 900.0, 58.4), Some(FuseKind::Strip));
        assert_eq!(kind(60.0, 6_400.0, 14.6), Some(FuseKind::Terminal));
        assert_eq!(kind(60.0, 6_400.0, 29.2), Some(FuseKind::ClassT));
        assert_eq!(kind(100.0, 900.0, 14.6), Some(FuseKind::Strip));
        assert_eq!(kind(60.0, 900.0, 400.0), None);
        // Nothing breaks it: the one that breaks the most, and what it breaks is less.
        let beyond = fuse(60.0, 25_600.0, 14.6).expect("the best there is");
        assert!(beyond.kind == FuseKind::ClassT && beyond.breaks.value() < 25_600.0);
        // A stud fuse of 5 A is not sold: of 30 A it still protects a cable that carries 35 A.
        let small = Fuse::of(Amps::of(5.0), Amps::of(35.0), Amps::of(4_000.0), Volts::of(14.6));
        assert_eq!(small.map(|f| (f.rating.value(), f.kind)), Some((30.0, FuseKind::Terminal)));
    }
}
