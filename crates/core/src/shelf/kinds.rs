//! The kinds of battery, each in three lines: good at, bad at, how it must be handled.

use super::{Build, Chemistry, Purpose};

/// A kind explained. Common practice throughout, no source, except the charging ceilings, which stand in
/// chargers' tables.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Explained {
    /// What it is called.
    pub name: &'static str,
    /// What it is good at.
    pub good: &'static str,
    /// What it is bad at.
    pub bad: &'static str,
    /// Orientation, venting, charging ceiling.
    pub handling: &'static str,
}

/// What its maker made it for.
pub const fn purpose(purpose: Purpose) -> Explained {
    match purpose {
        Purpose::DeepCycle => Explained {
            name: "Deep-cycle",
            good: "Thick plates: takes hundreds of discharges to half or lower.",
            bad: "Gives less starting current than its size suggests.",
            handling: "The kind to run a motor. Look for Ah and the hours they are rated over.",
        },
        Purpose::DualPurpose => Explained {
            name: "Dual-purpose",
            good: "Starts an engine and runs small things between starts.",
            bad: "Takes about half as many deep discharges as deep-cycle.",
            handling: "Fair where one battery must do both; second choice for running a motor.",
        },
        Purpose::Starting => Explained {
            name: "Starting",
            good: "Hundreds of amps for some seconds, cheap for its size.",
            bad: "Thin plates: a few dozen deep discharges ruin it.",
            handling: "Cranking amps and no Ah on the label. Not for running a motor.",
        },
    }
}

/// A chemistry, in the build it comes in.
pub const fn chemistry(chemistry: Chemistry, build: Option<Build>) -> Explained {
    match (chemistry, build) {
        (Chemistry::Flooded, _) => Explained {
            name: "Flooded lead",
            good: "Cheapest per label Ah; forgives a hot charge; water can be topped up.",
            bad: "Heaviest, needs water, gives off gas, and only half of its Ah should be used.",
            handling: "Upright only, vented, never in a closed-off bay. Charge to 14.4 to 14.8 V (12 V unit); equalize at 15.5 to 16.2 V.",
        },
        (Chemistry::Agm, Some(Build::Spiral)) => Explained {
            name: "Spiral AGM",
            good: "Takes shaking and high current best of all lead.",
            bad: "Round cells waste a fifth of the case: fewer Ah for the size and the price.",
            handling: "Any way but upside down; sealed, vents only when overcharged. Charge to 14.4 to 14.7 V (12 V unit); never equalize unless its maker says so.",
        },
        (Chemistry::Agm, _) => Explained {
            name: "AGM",
            good: "No water, no spills, higher current than flooded, keeps its charge for months.",
            bad: "Expensive for lead and just as heavy; must not be left flat or overcharged.",
            handling: "Any way but upside down; sealed, vents only when overcharged. Charge to 14.4 to 14.7 V (12 V unit); never equalize unless its maker says so.",
        },
        (Chemistry::Gel, _) => Explained {
            name: "Gel",
            good: "Most deep discharges of the sealed kinds; stands being left low best.",
            bad: "Least current; one overcharge leaves bubbles in it for good.",
            handling: "Any way but upside down; sealed. Charge to 14.1 to 14.2 V (12 V unit), never above 14.4 V: a shared gel/AGM button can be wrong.",
        },
        (Chemistry::Lfp, Some(Build::Cylindrical)) => Explained {
            name: "LFP, cylindrical cells",
            good: "As LFP; small cells take shaking and cold well.",
            bad: "Many welds and cells in parallel: more that can fail, though one failed cell takes little with it; less energy for the size.",
            handling: "Any way up; no venting needed, not in great heat. Charge to 14.2 to 14.6 V (4 cells), never below freezing.",
        },
        (Chemistry::Lfp, Some(Build::SemiSolid)) | (Chemistry::Nmc, Some(Build::SemiSolid)) => {
            Explained {
                name: "\u{201c}Semi-solid\u{201d}",
                good: "Said to be safer and lighter; some liquid is replaced by a gel.",
                bad: "A word on a label, not a chemistry: no independent test of the claims at this size.",
                handling: "Look at volts per cell: 3.2 is LFP, 3.6 to 3.7 is NMC, and its charging ceiling is that one's. Never charge below freezing.",
            }
        }
        (Chemistry::Lfp, Some(Build::Prismatic)) => Explained {
            name: "LFP, prismatic cells",
            good: "As LFP; most energy for the size, four cells and few joints.",
            bad: "Cells swell if not clamped: a soft case is a poor sign. Large cells hold their heat, and one that fails takes a quarter of the battery with it.",
            handling: "Any way up unless its maker says upright; no venting needed. Charge to 14.2 to 14.6 V (4 cells), never below freezing.",
        },
        (Chemistry::Lfp, _) => Explained {
            name: "LFP",
            good: "Less than half the weight of lead, nearly all of it usable, thousands of cycles, flat voltage.",
            bad: "Expensive to buy; its BMS shuts off without warning; voltage says little about its charge.",
            handling: "Any way up; no venting needed. Charge to 14.2 to 14.6 V (4 cells), never below freezing.",
        },
        (Chemistry::Nmc, _) => Explained {
            name: "NMC",
            good: "Lightest and smallest of all.",
            bad: "Burns fiercely when abused; a third of LFP's cycles; its volts do not match 12 V gear.",
            handling: "Any way up, away from people and heat. Charge to 4.2 V a cell and not above, never below freezing.",
        },
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_kind_has_its_three_lines() {
        let builds = Build::ALL.map(Some).into_iter().chain([None]);
        let all = Chemistry::ALL
            .into_iter()
            .flat_map(|c| builds.clone().map(move |b| chemistry(c, b)))
            .chain(Purpose::ALL.map(purpose));
        for kind in all {
            for line in [kind.good, kind.bad, kind.handling] {
                assert!(line.ends_with('.') && line.len() < 190, "{}: {line}", kind.name);
            }
        }
    }
}
