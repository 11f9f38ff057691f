//! How units side by side share a current, by the resistance of the units and of the links.

use super::netlist::{Kind, Netlist};
use crate::units::Amps;

/// Currents of `units` alike units in parallel, joined along two bars by links. [A]
///
/// `unit` and `link` are resistances [Ω]; each link stands once in either bar. The load is taken from one end of both
/// bars, or from `opposite_corners`, which evens the paths out. [`Netlist::solve`] has the equations.
pub fn currents(
    units: usize,
    unit: f64,
    link: f64,
    total: Amps,
    opposite_corners: bool,
) -> Vec<Amps> {
    if units == 0 {
        return Vec::new();
    }
    let mut net = Netlist::default();
    // Node 0 is where the load comes back to.
    let minus: Vec<_> = (0..units).map(|_| net.node()).collect();
    let plus: Vec<_> = (0..units).map(|_| net.node()).collect();
    for n in 0..units {
        net.unit(Kind::Unit { string: n, place: 0 }, (plus[n], minus[n]), unit, 0.0);
        if n + 1 < units {
            net.join(Kind::Bar, plus[n], plus[n + 1], link);
            net.join(Kind::Bar, minus[n], minus[n + 1], link);
        }
    }
    let from = if opposite_corners { plus[units - 1] } else { plus[0] };
    let solved = net.solved();
    let amps = solved.currents(&solved.with_load((from, minus[0]), total.value()));
    let of = |p: &(&super::netlist::Part, &f64)| matches!(p.0.kind, Kind::Unit { .. });
    let given = std::iter::zip(&net.parts, &amps).filter(of).map(|(_, amps)| Amps::of(-amps));
    if opposite_corners { given.rev().collect() } else { given.collect() }
}
