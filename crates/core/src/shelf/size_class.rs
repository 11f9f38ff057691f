//! The standard case sizes of the trade, as outside dimensions.

use super::{Chemistry, Size};
use crate::units::convert::KG_PER_LB;
use crate::units::{Kilograms, Millimetres};

/// A BCI group size.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum SizeClass {
    /// Group U1.
    U1,
    /// Group 22NF.
    G22Nf,
    /// Group 24.
    G24,
    /// Group 27.
    G27,
    /// Group 31.
    G31,
    /// Group 34.
    G34,
    /// Group 4D.
    G4D,
    /// Group 8D.
    G8D,
    /// Group GC2, the 6 V golf-car case.
    Gc2,
    /// Group GC2H, the same but higher.
    Gc2H,
    /// Group GC8, the 8 V golf-car case.
    Gc8,
    /// Group GC12, the 12 V golf-car case.
    Gc12,
}

/// What is standard and typical of a class.
struct Row {
    name: &'static str,
    /// Most it may measure: length, width, height. [mm]
    mm: [f64; 3],
    /// The same in inches, as whole inches and sixteenths.
    #[cfg_attr(not(test), expect(dead_code, reason = "the check of the millimetres"))]
    inches: [(f64, f64); 3],
    /// Typical weights of lead and of LFP. [lb]
    lead_lb: (f64, f64),
    lfp_lb: Option<(f64, f64)>,
    /// Typical ampere-hours of lead over 20 h.
    lead_ah: (f64, f64),
}

impl SizeClass {
    /// All of them, smallest first.
    pub const ALL: [Self; 12] = [
        Self::U1,
        Self::G22Nf,
        Self::G24,
        Self::G27,
        Self::G31,
        Self::G34,
        Self::G4D,
        Self::G8D,
        Self::Gc2,
        Self::Gc2H,
        Self::Gc8,
        Self::Gc12,
    ];

    /// Dimensions: BCI group sizes, maximum overall, from a handbook table from memory (GC12 the least
    /// sure). Weights and ampere-hours: common practice, no source.
    const fn row(self) -> Row {
        /// One line of the table: sides in millimetres, and in inches with sixteenths.
        const fn row(
            name: &'static str,
            mm: [f64; 3],
            inches: [(f64, f64); 3],
            lead_lb: (f64, f64),
            lfp_lb: Option<(f64, f64)>,
            lead_ah: (f64, f64),
        ) -> Row {
            Row { name, mm, inches, lead_lb, lfp_lb, lead_ah }
        }
        match self {
            Self::U1 => row(
                "U1",
                [197.0, 132.0, 186.0],
                [(7.0, 12.0), (5.0, 3.0), (7.0, 5.0)],
                (20.0, 26.0),
                Some((8.0, 12.0)),
                (30.0, 36.0),
            ),
            Self::G22Nf => row(
                "22NF",
                [240.0, 140.0, 227.0],
                [(9.0, 7.0), (5.0, 8.0), (8.0, 15.0)],
                (35.0, 40.0),
                Some((13.0, 16.0)),
                (50.0, 55.0),
            ),
            Self::G24 => row(
                "24",
                [260.0, 173.0, 225.0],
                [(10.0, 4.0), (6.0, 13.0), (8.0, 14.0)],
                (42.0, 55.0),
                Some((18.0, 26.0)),
                (70.0, 85.0),
            ),
            Self::G27 => row(
                "27",
                [306.0, 173.0, 225.0],
                [(12.0, 1.0), (6.0, 13.0), (8.0, 14.0)],
                (50.0, 66.0),
                Some((22.0, 30.0)),
                (85.0, 105.0),
            ),
            Self::G31 => row(
                "31",
                [330.0, 173.0, 240.0],
                [(13.0, 0.0), (6.0, 13.0), (9.0, 7.0)],
                (58.0, 77.0),
                Some((24.0, 32.0)),
                (95.0, 130.0),
            ),
            Self::G34 => row(
                "34",
                [260.0, 173.0, 200.0],
                [(10.0, 4.0), (6.0, 13.0), (7.0, 14.0)],
                (37.0, 51.0),
                Some((14.0, 20.0)),
                (50.0, 75.0),
            ),
            Self::G4D => row(
                "4D",
                [527.0, 222.0, 250.0],
                [(20.0, 12.0), (8.0, 12.0), (9.0, 14.0)],
                (108.0, 135.0),
                Some((50.0, 75.0)),
                (160.0, 210.0),
            ),
            Self::G8D => row(
                "8D",
                [527.0, 283.0, 250.0],
                [(20.0, 12.0), (11.0, 2.0), (9.0, 14.0)],
                (140.0, 175.0),
                Some((65.0, 120.0)),
                (220.0, 265.0),
            ),
            Self::Gc2 => row(
                "GC2",
                [264.0, 183.0, 270.0],
                [(10.0, 6.0), (7.0, 3.0), (10.0, 10.0)],
                (58.0, 72.0),
                Some((25.0, 50.0)),
                (180.0, 245.0),
            ),
            Self::Gc2H => row(
                "GC2H",
                [264.0, 183.0, 295.0],
                [(10.0, 6.0), (7.0, 3.0), (11.0, 10.0)],
                (65.0, 80.0),
                None,
                (240.0, 260.0),
            ),
            Self::Gc8 => row(
                "GC8",
                [264.0, 183.0, 270.0],
                [(10.0, 6.0), (7.0, 3.0), (10.0, 10.0)],
                (61.0, 70.0),
                None,
                (165.0, 190.0),
            ),
            Self::Gc12 => row(
                "GC12",
                [327.0, 183.0, 277.0],
                [(12.0, 14.0), (7.0, 3.0), (10.0, 14.0)],
                (80.0, 105.0),
                Some((35.0, 50.0)),
                (130.0, 155.0),
            ),
        }
    }

    /// The name of the group, which is also its key.
    pub const fn name(self) -> &'static str {
        self.row().name
    }

    /// The class of this name, in either case.
    pub fn from_name(name: &str) -> Option<Self> {
        let name = name.trim();
        let bare =
            name.strip_prefix(['G', 'g']).filter(|n| n.starts_with(|c: char| c.is_ascii_digit()));
        Self::ALL.into_iter().find(|c| c.name().eq_ignore_ascii_case(bare.unwrap_or(name)))
    }

    /// Most it may measure outside, terminals included.
    pub const fn size(self) -> Size {
        let [length, width, height] = self.row().mm;
        Size {
            length: Millimetres::of(length),
            width: Millimetres::of(width),
            height: Millimetres::of(height),
        }
    }

    /// What one of it weighs as a rule, from and to. [kg]
    pub fn typical_mass(self, chemistry: Chemistry) -> Option<(Kilograms, Kilograms)> {
        let row = self.row();
        let lb = if chemistry.is_lead() { Some(row.lead_lb) } else { row.lfp_lb };
        lb.map(|(low, high)| (Kilograms::of(low * KG_PER_LB), Kilograms::of(high * KG_PER_LB)))
    }

    /// Ampere-hours over 20 h that lead in this case has as a rule, from and to. [Ah]
    pub const fn typical_lead_ah(self) -> (f64, f64) {
        self.row().lead_ah
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::units::convert::MM_PER_INCH;

    /// BCI group sizes as a handbook prints them, in inches and sixteenths: each within a sixteenth.
    #[test]
    fn millimetres_and_inches_of_every_class_agree_within_a_sixteenth() {
        for class in SizeClass::ALL {
            for (mm, (whole, sixteenths)) in std::iter::zip(class.row().mm, class.row().inches) {
                let inches = mm / MM_PER_INCH;
                let off = (inches - (whole + sixteenths / 16.0)).abs();
                assert!(off <= 1.0 / 16.0, "{}: {mm} mm is {inches:.3} in", class.name());
            }
            assert_eq!(SizeClass::from_name(class.name()), Some(class));
        }
        assert_eq!(SizeClass::from_name(" g31"), Some(SizeClass::G31));
        assert_eq!(SizeClass::from_name("gc2h"), Some(SizeClass::Gc2H));
        assert_eq!(SizeClass::from_name("35"), None);
    }
}
