//! The posts of a battery: the hole a lug must have, and how tight they are drawn.

use crate::pack::Pack;
use crate::shelf::figures::Value;

/// A post or bolt that lugs go on.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Terminal {
    /// As labels name it.
    pub name: &'static str,
    /// Hole of the lug, in words of the inch trade.
    pub hole: &'static str,
    /// The same. [mm]
    pub hole_mm: f64,
    /// Lowest and highest torque that makers print. Typical: the battery's own manual comes first. [N m]
    pub torque: (f64, f64),
}

/// Bolts and posts as they are sold. Torques are typical of makers' manuals, from memory: common practice, no source.
pub const TERMINALS: [Terminal; 6] = [
    Terminal { name: "M5", hole: "#10", hole_mm: 5.0, torque: (2.5, 4.0) },
    Terminal { name: "M6", hole: "1/4 in", hole_mm: 6.4, torque: (4.0, 6.0) },
    Terminal { name: "M8", hole: "5/16 in", hole_mm: 8.4, torque: (8.0, 12.0) },
    Terminal { name: "M10", hole: "3/8 in", hole_mm: 10.5, torque: (14.0, 20.0) },
    Terminal { name: "5/16", hole: "5/16 in", hole_mm: 8.4, torque: (10.0, 13.0) },
    Terminal { name: "3/8", hole: "3/8 in", hole_mm: 10.5, torque: (14.0, 20.0) },
];

impl Terminal {
    /// What a label says of a pack's terminals; `None` where it says nothing, or something else.
    pub fn of(pack: &Pack) -> Option<&'static Self> {
        let Some(Value::Text(text)) = pack.battery.others.get("terminals") else { return None };
        let words = text.split(|c: char| !(c.is_ascii_alphanumeric() || c == '/'));
        words.into_iter().find_map(|word| {
            TERMINALS.iter().find(|terminal| word.eq_ignore_ascii_case(terminal.name))
        })
    }

    /// The torque in the middle of what is typical. [N m]
    pub const fn middle(&self) -> f64 {
        0.5 * (self.torque.0 + self.torque.1)
    }
}
