//! What a log taught and plans use, wherever a figure rests on it.

use lake_hour_core::day::Duty;
use lake_hour_core::rig::{Lesson, Rig};

fn said(what: &str, lesson: Option<Lesson>) -> Option<String> {
    let lesson = lesson?;
    let since = lesson.on.strftime("%-d %b %Y");
    Some(format!(
        "{what} {:.2} times what we counted with, by {} entries, since {since}",
        lesson.times, lesson.entries
    ))
}

/// "the motor draws 1.13 times what we counted with, by 13 entries, since 28 Nov 2026".
pub(crate) fn words(rig: &Rig) -> Vec<String> {
    let craft = rig.craft.learned;
    let all = [
        said("the motor draws", rig.motor.learned),
        said("a speed takes", craft.at_speed),
        said("holding a place takes", craft.holding),
    ];
    all.into_iter().flatten().collect()
}

/// The same of a stretch that is driven so.
pub(crate) fn of_duty(rig: &Rig, duty: Duty) -> Option<String> {
    match duty {
        Duty::Off => None,
        Duty::Setting(_) | Duty::Current(_) | Duty::Power(_) => said("it draws", rig.motor.learned),
        Duty::Speed(_) | Duty::Distance(_) => said("its speed takes", rig.craft.learned.at_speed),
        Duty::HoldPlace => said("holding takes", rig.craft.learned.holding),
    }
}
