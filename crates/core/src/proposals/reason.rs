//! What an owner would build: how many batteries, and how many strings of lead, are within reason for a craft.

use crate::rig::CraftKind;
use crate::shelf::Chemistry;

/// Most batteries, and most strings of lead side by side, that owners build into a craft. Common practice, no source: a canoe carries
/// one or two, a fishing boat up to four, a cart six of 8 V, eight of 6 V or twelve for 72 V in one string.
const fn most(kind: CraftKind) -> (u32, u32) {
    use CraftKind::{
        Bass, Canoe, Conversion, GoKart, GolfCart, JonBoat, Kayak, Lsv, Motorbike, Pontoon,
        RowingSkiff, Sailboat, UtilityCart, VHull,
    };
    match kind {
        Kayak | Canoe | RowingSkiff => (2, 2),
        JonBoat | VHull | Bass => (4, 2),
        Pontoon | Sailboat => (8, 2),
        GolfCart | UtilityCart | Lsv => (12, 1),
        GoKart | Motorbike => (8, 1),
        Conversion => (40, 2),
    }
}

/// Whether so many of a battery, in series and in parallel, are what an owner would build into a craft. Lithium stands side by side
/// as its label allows.
pub const fn is_within_reason(
    kind: CraftKind,
    chemistry: Chemistry,
    (series, parallel): (u32, u32),
) -> bool {
    let (units, strings) = most(kind);
    series * parallel <= units && (!chemistry.is_lead() || parallel <= strings)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sets_that_owners_build_are_within_reason_and_heaps_are_not() {
        use Chemistry::{Agm, Flooded, Lfp};
        let is = is_within_reason;
        for (kind, chemistry, wired) in [
            (CraftKind::GolfCart, Flooded, (6, 1)),
            (CraftKind::GolfCart, Flooded, (8, 1)),
            (CraftKind::GolfCart, Flooded, (12, 1)),
            (CraftKind::GolfCart, Lfp, (1, 2)),
            (CraftKind::VHull, Agm, (2, 2)),
            (CraftKind::Canoe, Agm, (1, 1)),
            (CraftKind::Sailboat, Agm, (4, 2)),
        ] {
            assert!(is(kind, chemistry, wired), "{kind:?} {chemistry:?} {wired:?}");
        }
        for (kind, chemistry, wired) in [
            (CraftKind::Sailboat, Flooded, (8, 8)),
            (CraftKind::GolfCart, Agm, (4, 2)),
            (CraftKind::Canoe, Agm, (2, 2)),
            (CraftKind::VHull, Lfp, (2, 4)),
        ] {
            assert!(!is(kind, chemistry, wired), "{kind:?} {chemistry:?} {wired:?}");
        }
    }
}
