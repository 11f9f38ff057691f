//! The circuit of a pack: laid, drawn and told in a sentence.

use super::decision::About;
use super::drawing::{Drawing, Sheet};
use crate::figures;
use crate::parts::lane::wired;
use lake_hour_core::build;
use lake_hour_core::pack::Pack;
use lake_hour_core::pack::stow::stow;
use lake_hour_core::rig::{Motor, Rig};
use lake_hour_core::source::Origin;
use lake_hour_core::units::Amps;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::verdict::Evaluation;
use lake_hour_core::wiring::cable::{Fuse, Gauge, NoCable};
use lake_hour_core::wiring::check::Finding;
use lake_hour_core::wiring::netlist::Kind;
use lake_hour_core::wiring::{Asked, Wiring};

/// The circuit of a pack that is judged, and what was asked of it; `None` where it is set aside. A breaker stands in it as told,
/// else by the rule of the house.
pub(crate) fn laid(
    about: &About<'_>,
    evaluation: &Evaluation,
    breaker: Option<bool>,
) -> Option<(Asked, Result<Wiring, NoCable>)> {
    let highest = build::highest(evaluation)?;
    Some(build::circuit(about.plan, about.pack, highest, breaker))
}

/// The circuit drawn, once for each width: its id, how wide it is, and units to a row.
pub(crate) fn drawings(
    about: &About<'_>,
    asked: &Asked,
    w: &Wiring,
    widths: &[(&'static str, f64, usize)],
) -> Vec<Drawing> {
    let (pack, say) = (about.pack, about.say);
    let bays = bays(&about.plan.rig, pack);
    let drawn = widths.iter().map(|(id, width, each)| {
        let sheet = Sheet { w, pack, asked, bays: &bays, width: *width, each: *each, say };
        sheet.draw(id)
    });
    drawn.collect()
}

/// The bay that each unit stands in, string by string.
fn bays(rig: &Rig, pack: &Pack) -> Vec<String> {
    let stowage = stow(rig, pack);
    let all = stowage.iter().flat_map(|s| &s.bays);
    all.flat_map(|b| b.stowed.spots.iter().map(|_| b.bay.clone())).collect()
}

/// "AWG 6 (16 mm²)".
pub(crate) fn cable(gauge: &Gauge) -> String {
    format!("AWG {} ({} mm²)", gauge.awg, figures::typed(gauge.metric))
}

/// "60 A class T fuse".
pub(crate) fn fuse(fuse: &Fuse) -> String {
    format!("{} A {}", figures::typed(fuse.rating.value()), fuse.kind.words())
}

/// What has to be bought and joined.
pub(crate) fn parts(w: &Wiring) -> String {
    let runs = [Some(w.lead), w.jumper, w.string];
    let cables: u32 = runs.iter().flatten().map(|run| run.count).sum();
    let is_fuse = |kind: Kind| kind == Kind::Fuse;
    let fuses = w.net.parts.iter().filter(|p| is_fuse(p.kind)).count();
    format!("{cables} cables, {fuses} fuses, AWG {} to the motor", w.lead.gauge.awg)
}

/// The circuit in a sentence.
pub(crate) fn sentence(pack: &Pack, w: &Wiring) -> String {
    let fuse =
        w.lead.fuse.as_ref().map_or_else(String::new, |f| format!(", through a {}", fuse(f)));
    let breaker = w.breaker.map_or_else(String::new, |a| format!(" and a {} A breaker", a.value()));
    format!(
        "Wiring of {}: {}, {} to the motor{fuse}, the main switch{breaker}; the shunt in the negative",
        pack.name,
        wired(pack),
        cable(w.lead.gauge)
    )
}

/// "71 to 106 in lb".
pub(crate) fn torque((low, high): (f64, f64), units: System) -> String {
    let low = units.figure(Measure::Torque, low);
    format!("{low:.0} to {}", figures::measure(units, Measure::Torque, high, 0))
}

/// "max 46 A"; "max 200 A (assumed)" where nobody has told it.
pub(crate) fn most(motor: &Motor) -> Option<String> {
    let origin = if motor.full_origin() == Origin::Typical { " (assumed)" } else { "" };
    Some(format!("max {} A{origin}", figures::amount(motor.full_current()?.value())))
}

/// What is wrong with a circuit, in a sentence.
pub(crate) fn finding(finding: &Finding) -> String {
    let amps = |a: &Amps| figures::amount(a.value());
    match finding {
        Finding::Volts { claimed, found } => {
            format!("It gives {:.1} V where {:.1} V is meant.", found.value(), claimed.value())
        }
        Finding::RunsRound { amps: a } => {
            format!("{} A run round between the units with nothing on.", amps(a))
        }
        Finding::Unprotected { kind, .. } => {
            let what = match kind {
                Kind::Jumper => "A jumper",
                Kind::StringLead => "A string's lead",
                Kind::Bar => "A bar",
                Kind::ChargerLead => "A charger lead",
                Kind::DeviceLead => "A lead to the devices",
                _ => "The lead to the motor",
            };
            format!("{what} has no fuse that can protect it: no usual fuse breaks so many volts.")
        }
        Finding::CannotBreak { fault, breaks } => format!(
            "A short would draw {} A; the fuse breaks at most {} A. Divide the pack among fuses of their own, or take one that breaks more.",
            amps(fault),
            amps(breaks)
        ),
        Finding::Uneven { string, share } => format!(
            "String {} carries {:.0} % of an even share: joined by shorter or thicker bars they share better.",
            string + 1,
            share * 100.0
        ),
    }
}
