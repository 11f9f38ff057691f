//! What is wrong with a circuit: walked through part by part, whoever drew it.

use super::netlist::{Kind, Netlist, Node, Part, Solved};
use crate::units::{Amps, Volts};
use std::collections::BTreeMap;

/// A conductor may run so far to its fuse where it is on its own, 7 in; and so far where it is covered all along, 40 in:
/// 33 CFR 183.455, ABYC E-11. [m]
pub const TO_THE_FUSE: f64 = 0.178;
/// The same where it is covered all along. [m]
pub const COVERED: f64 = 1.016;
/// How far from an even share a string may be before it is said.
const UNEVEN: f64 = 0.10;
/// How far from what is claimed the volts may be.
const OFF: f64 = 0.01;

/// Something that is wrong with a circuit.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Finding {
    /// The pack gives other volts than is claimed.
    Volts {
        /// As claimed. [V]
        claimed: Volts,
        /// As found. [V]
        found: Volts,
    },
    /// Current runs round between units with nothing drawn: a short, a reversed unit, strings of other volts.
    RunsRound {
        /// The highest current in a unit. [A]
        amps: Amps,
    },
    /// A conductor that no fuse of the right size protects within its distance.
    Unprotected {
        /// What it is.
        kind: Kind,
        /// What it carries. [A]
        carries: Amps,
    },
    /// A fuse or breaker that cannot break the current of a fault.
    CannotBreak {
        /// The current. [A]
        fault: Amps,
        /// What it can break. [A]
        breaks: Amps,
    },
    /// A string that carries more or less than its share.
    Uneven {
        /// Which one, from 0.
        string: usize,
        /// Its current as a share of an even one.
        share: f64,
    },
}

/// The nodes from which a fault to the pack's negative end, or to a hull joined to that, would go on: units feed it past
/// every fuse that is small enough for `carries`.
fn go_on(net: &Netlist, carries: f64) -> Vec<bool> {
    let opens =
        |p: &Part| p.kind.protects() && p.rating <= super::cable::MOST_OVER * carries + 1e-9;
    let is_unit = |p: &Part| matches!(p.kind, Kind::Unit { .. });
    let fed = net.joined(0, |p| !opens(p));
    let at_its_volts = net.joined(0, |p| !opens(p) && !is_unit(p));
    std::iter::zip(fed, at_its_volts).map(|(fed, same)| fed && !same).collect()
}

/// Currents out of the units, each with its string. [A]
fn of_units<'a>(net: &'a Netlist, amps: &'a [f64]) -> impl Iterator<Item = (usize, f64)> + 'a {
    std::iter::zip(&net.parts, amps).filter_map(|(p, amps)| match p.kind {
        Kind::Unit { string, .. } => Some((string, -amps)),
        _ => None,
    })
}

/// What a check comes to.
#[derive(Debug, Clone, PartialEq)]
pub struct Checked {
    /// All that is wrong, the gravest first.
    pub findings: Vec<Finding>,
    /// Each string's part of the load against an even one.
    pub shares: Vec<f64>,
}

/// Walks through a circuit. `ends` are where the load is taken from; it draws `load`.
pub fn check(net: &Netlist, claimed: Volts, ends: (Node, Node), load: Amps) -> Checked {
    let mut findings = Vec::new();
    let solved = net.solved();
    let amps = solved.currents(&solved.idle);
    let found = solved.idle[ends.0] - solved.idle[ends.1];
    let off = (found / claimed.value() - 1.0).abs();
    if off > OFF || off.is_nan() {
        findings.push(Finding::Volts { claimed, found: Volts::of(found) });
    }
    // Nothing is drawn, so what still flows runs round. Units alike to a thousandth run none.
    let round = of_units(net, &amps).map(|(_, a)| a.abs()).fold(0.0, f64::max);
    if round > 0.1 {
        findings.push(Finding::RunsRound { amps: Amps::of(round) });
    }
    // Few kinds of cable are laid.
    let mut known: BTreeMap<u64, Vec<bool>> = BTreeMap::new();
    for part in net.parts.iter().filter(|p| p.kind.conducts()) {
        let of = known.entry(part.carries.to_bits());
        let goes_on = of.or_insert_with(|| go_on(net, part.carries));
        let covered = matches!(part.kind, Kind::Jumper | Kind::Bar);
        let near = part.metres <= if covered { COVERED } else { TO_THE_FUSE };
        let fault = goes_on[part.from] || goes_on[part.to];
        if fault && !near {
            let (kind, carries) = (part.kind, Amps::of(part.carries));
            findings.push(Finding::Unprotected { kind, carries });
        }
    }
    for part in net.parts.iter().filter(|p| p.kind.protects()) {
        let through = |at: Node| solved.through(part, &solved.with_fault(at)).abs();
        let fault = through(part.from).max(through(part.to));
        if fault > part.breaks {
            let (fault, breaks) = (Amps::of(fault), Amps::of(part.breaks));
            findings.push(Finding::CannotBreak { fault, breaks });
        }
    }
    let shares = shares(net, &solved, ends, load);
    findings.extend(uneven(&shares));
    Checked { findings, shares }
}

/// Strings that carry more or less than their share of the load.
fn uneven(shares: &[f64]) -> Vec<Finding> {
    let all = shares.iter().copied().enumerate();
    let off = all.filter(|(_, share)| (share - 1.0).abs() > UNEVEN);
    off.map(|(string, share)| Finding::Uneven { string, share }).collect()
}

/// Each string's part of the load against an even one.
fn shares(net: &Netlist, solved: &Solved<'_>, ends: (Node, Node), load: Amps) -> Vec<f64> {
    let idle = solved.currents(&solved.idle);
    let loaded = solved.currents(&solved.with_load(ends, load.value()));
    // What runs round without the load is not the load's.
    let taken: Vec<f64> = std::iter::zip(&loaded, &idle).map(|(a, b)| a - b).collect();
    let mut of: Vec<f64> = Vec::new();
    for (string, amps) in of_units(net, &taken) {
        if string >= of.len() {
            of.resize(string + 1, 0.0);
        }
        of[string] = amps;
    }
    let even = load.value() / of.len() as f64;
    of.iter().map(|amps| amps / even).collect()
}
