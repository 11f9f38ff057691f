//! A pack's circuit as a list of parts between nodes, and what flows in it.

use crate::numeric::Lu;

/// A place where parts are joined.
pub type Node = usize;

/// What a part is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Kind {
    /// A battery unit: which string, and which place in it, from its positive end.
    Unit {
        /// String, from 0.
        string: usize,
        /// Place, from 0.
        place: usize,
    },
    /// From a unit to the next one of its string.
    Jumper,
    /// From a string's end to a bar.
    StringLead,
    /// Between strings.
    Bar,
    /// A lead to the motor.
    Lead,
    /// A lead of the charger.
    ChargerLead,
    /// A lead to the 12 V devices.
    DeviceLead,
    /// A fuse.
    Fuse,
    /// A breaker that is reset by hand.
    Breaker,
    /// The main switch.
    Switch,
    /// What measures the current for a monitor.
    Shunt,
}

impl Kind {
    /// Whether it opens by itself when the current is too high.
    pub const fn protects(self) -> bool {
        matches!(self, Self::Fuse | Self::Breaker)
    }

    /// Whether it is cable or bar.
    pub const fn conducts(self) -> bool {
        matches!(
            self,
            Self::Jumper
                | Self::StringLead
                | Self::Bar
                | Self::Lead
                | Self::ChargerLead
                | Self::DeviceLead
        )
    }
}

/// A part between two nodes.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Part {
    /// What it is.
    pub kind: Kind,
    /// Where it begins; a unit's positive terminal.
    pub from: Node,
    /// Where it ends; a unit's negative terminal.
    pub to: Node,
    /// Its resistance. [Ω]
    pub ohms: f64,
    /// Its voltage with nothing drawn: of a unit. [V]
    pub volts: f64,
    /// What a conductor carries without end. [A]
    pub carries: f64,
    /// How long a conductor is. [m]
    pub metres: f64,
    /// What it opens above: of a fuse or breaker. [A]
    pub rating: f64,
    /// The highest current it can break. [A]
    pub breaks: f64,
}

impl Part {
    /// A part that neither gives, protects nor is measured.
    const fn plain(kind: Kind, from: Node, to: Node, ohms: f64) -> Self {
        let (volts, carries, metres, rating, breaks) = (0.0, f64::INFINITY, 0.0, 0.0, 0.0);
        Self { kind, from, to, ohms, volts, carries, metres, rating, breaks }
    }
}

/// All parts; node 0 is the pack's negative end.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Netlist {
    /// The parts.
    pub parts: Vec<Part>,
    /// How many nodes there are.
    pub nodes: usize,
}

/// Nothing is joined with less than this. [Ω]
const LEAST: f64 = 1e-6;
/// A fuse or breaker with its contacts, about. From memory. [Ω]
const FUSE: f64 = 0.000_3;

impl Netlist {
    /// A node that nothing is joined to yet.
    pub const fn node(&mut self) -> Node {
        self.nodes += 1;
        self.nodes - 1
    }

    /// Puts a part between two nodes.
    pub fn join(&mut self, kind: Kind, from: Node, to: Node, ohms: f64) {
        self.parts.push(Part::plain(kind, from, to, ohms.max(LEAST)));
    }

    /// Puts a unit between its terminals, positive and negative.
    pub fn unit(&mut self, kind: Kind, (plus, minus): (Node, Node), ohms: f64, volts: f64) {
        self.parts.push(Part { volts, ..Part::plain(kind, plus, minus, ohms.max(LEAST)) });
    }

    /// Lays a conductor that carries so much.
    pub fn cable(
        &mut self,
        kind: Kind,
        (from, to): (Node, Node),
        ohms: f64,
        metres: f64,
        carries: f64,
    ) {
        let part = Part::plain(kind, from, to, ohms.max(LEAST));
        self.parts.push(Part { carries, metres, ..part });
    }

    /// Puts a fuse or breaker between two nodes.
    pub fn protect(&mut self, kind: Kind, (from, to): (Node, Node), rating: f64, breaks: f64) {
        self.parts.push(Part { rating, breaks, ..Part::plain(kind, from, to, FUSE) });
    }

    /// Its equations, taken apart once.
    ///
    /// Kirchhoff's laws for every node: `Σ (Vi - Vj - E)/R = 0`. Node 0 is what all is measured against; a part that
    /// hangs loose carries nothing.
    pub fn solved(&self) -> Solved<'_> {
        let n = self.nodes;
        let mut rows = vec![vec![0.0; n]; n];
        let mut right = vec![0.0; n];
        // What was put on last hangs on the least: eliminated first, it leaves the others as they are.
        let row = |node: Node| n - 1 - node;
        for part in &self.parts {
            let g = 1.0 / part.ohms;
            for (at, other, sign) in [(part.from, part.to, 1.0), (part.to, part.from, -1.0)] {
                rows[row(at)][row(at)] += g;
                rows[row(at)][row(other)] -= g;
                right[at] += sign * g * part.volts;
            }
        }
        rows[row(0)] = vec![0.0; n];
        for (at, row) in rows.iter_mut().enumerate() {
            if row[at] == 0.0 {
                row[at] = 1.0;
            }
        }
        let mut solved = Solved { net: self, lu: Lu::of(rows), idle: Vec::new() };
        solved.idle = solved.volts(right);
        solved
    }

    /// Which nodes are joined to one by parts that `passes` lets through.
    pub fn joined(&self, to: Node, passes: impl Fn(&Part) -> bool) -> Vec<bool> {
        let mut beside: Vec<Vec<Node>> = vec![Vec::new(); self.nodes];
        for part in self.parts.iter().filter(|p| passes(p)) {
            beside[part.from].push(part.to);
            beside[part.to].push(part.from);
        }
        let mut reached = vec![false; self.nodes];
        let mut waiting = vec![to];
        while let Some(at) = waiting.pop() {
            if !std::mem::replace(&mut reached[at], true) {
                waiting.extend(&beside[at]);
            }
        }
        reached
    }
}

/// A circuit whose equations are taken apart.
#[derive(Debug)]
pub struct Solved<'a> {
    net: &'a Netlist,
    lu: Lu,
    /// The voltage of every node against node 0 with nothing drawn. [V]
    pub idle: Vec<f64>,
}

impl Solved<'_> {
    /// What an ampere drawn at `from` and given back at `to` changes of every node's voltage. [V/A]
    fn drawn(&self, from: Node, to: Node) -> Vec<f64> {
        let mut right = vec![0.0; self.net.nodes];
        right[from] -= 1.0;
        right[to] += 1.0;
        self.volts(right)
    }

    /// The voltages that currents into the nodes make. [V]
    fn volts(&self, mut into: Vec<f64>) -> Vec<f64> {
        if let Some(reference) = into.first_mut() {
            *reference = 0.0;
        }
        into.reverse();
        let mut volts = self.lu.solve(&into);
        volts.reverse();
        volts
    }

    /// The voltages with `amps` drawn between two nodes: superposition. [V]
    pub fn with_load(&self, (from, to): (Node, Node), amps: f64) -> Vec<f64> {
        let each = self.drawn(from, to);
        std::iter::zip(&self.idle, each).map(|(idle, each)| idle + amps * each).collect()
    }

    /// The voltages with a node shorted to node 0: it draws what its own voltage drives through the rest, as Thévenin
    /// has it. [V]
    pub fn with_fault(&self, at: Node) -> Vec<f64> {
        let inside = -self.drawn(at, 0)[at] + LEAST;
        self.with_load((at, 0), self.idle[at] / inside)
    }

    /// The current through a part from its beginning to its end. [A]
    pub fn through(&self, part: &Part, volts: &[f64]) -> f64 {
        (volts[part.from] - volts[part.to] - part.volts) / part.ohms
    }

    /// The current through every part. [A]
    pub fn currents(&self, volts: &[f64]) -> Vec<f64> {
        self.net.parts.iter().map(|p| self.through(p, volts)).collect()
    }
}
