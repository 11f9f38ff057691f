//! What a log taught of a rig and its owner took over.

use super::Rig;
use jiff::civil::Date;

/// By how much something differs from its label or what is typical, learnt from a log.
///
/// It comes from [`Learned::lesson`](crate::learn::Learned::lesson).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Lesson {
    /// Times as much as told or typical.
    pub times: f64,
    /// How much of the doubt is left, as a share of what it was before anything was logged: 0 to 1.
    pub doubt: f64,
    /// Entries of the log that it rests on.
    pub entries: u32,
    /// When it was taken over.
    pub on: Date,
}

/// How a craft differs from its kind, as its log has it.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Pushes {
    /// What a speed takes.
    pub at_speed: Option<Lesson>,
    /// What it takes to hold a place.
    pub holding: Option<Lesson>,
}

impl Rig {
    /// The rig without what was learnt of another description than it has now: a factor on a draw curve is none on another
    /// curve.
    pub fn forgetting(mut self, before: &Self) -> Self {
        let motor = |rig: &Self| {
            let m = &rig.motor;
            (
                (m.system_voltage, m.max_current, m.thrust, m.brushless),
                (m.regenerates, m.count, m.dial.clone(), m.settings.clone(), m.settings_measured),
            )
        };
        let craft = |rig: &Self| {
            let c = &rig.craft;
            ((c.kind, c.length_m, c.windage), rig.measured.clone())
        };
        if motor(&self) != motor(before) {
            (self.motor.learned, self.craft.learned) = (None, Pushes::default());
        }
        if craft(&self) != craft(before) {
            self.craft.learned = Pushes::default();
        }
        self
    }
}
