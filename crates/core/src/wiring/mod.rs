//! How a pack is wired: the circuit, what each cable must be, and what protects it.
//!
//! The strings are joined by two bars, the load taken from opposite corners, so that every string has as long a way.
//! Each string has its own fuse where there are several: a fault in one is fed by the others. A fuse stands near the
//! positive end, then the main switch, a breaker, the motor; the monitor's shunt stands in the negative. All leads of a
//! charger that is not at the pack's negative end are fused: units below feed them.

pub mod cable;
pub mod check;
pub mod mixed;
pub mod netlist;
pub mod sharing;

use crate::drawdown;
use crate::pack::{Pack, stow};
use crate::refill;
use crate::rig::Rig;
use crate::units::{Amps, Kilograms, Metres, Ohms, Volts, Watts};
use cable::{Class, Fuse, Gauge, Insulation, NoCable, Place, Sized};
use check::Finding;
use netlist::{Kind, Netlist, Node};

/// Charged above this, a pack can kill: the limit for what may be touched, ISO 6469-3, UNECE R100. [V]
pub const DANGEROUS: Volts = Volts::of(60.0);

/// How far a lead reaches beyond the straight way: up to the battery, round a corner, to the plug. A choice. [m]
const SLACK: f64 = 0.6;
/// From a terminal to the fuse beside it: within 7 in. [m]
const BESIDE: f64 = 0.12;
/// From a unit to the next where they are not set out, and how much longer than straight a jumper is. [m]
const NEXT: f64 = 0.3;
/// Length of a charger's or the devices' leads where nothing is told. [m]
const SHORT_LEAD: f64 = 1.5;
/// Resistance of a monitor's shunt: 50 mV at 500 A, common practice, no source. [Ω]
const SHUNT: f64 = 0.000_1;
/// Resistance of a switch or plug with its contacts, about. From memory. [Ω]
const CONTACT: f64 = 0.000_2;

/// What is asked of the wiring.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Asked {
    /// The highest current that it must carry: the motor's. [A]
    pub most: Amps,
    /// The highest current of the day, at which drops are told. [A]
    pub today: Amps,
    /// A breaker besides the fuse.
    pub breaker: bool,
    /// Current of the 12 V devices that hang on the pack; none do where it is nought. [A]
    pub devices: Amps,
    /// What charges it.
    pub charging: Charging,
    /// How warm the cable may get.
    pub insulation: Insulation,
    /// Where it runs.
    pub place: Place,
}

/// How the charger hangs on the pack.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Charging {
    /// Not at all, or none is known.
    Nothing,
    /// One output for the whole pack. [A]
    Whole(Amps),
    /// An output for each unit. [A]
    Each(Amps),
}

impl Charging {
    /// By the strongest charger aboard that fits.
    pub fn of(rig: &Rig, pack: &Pack) -> Self {
        match refill::strongest(rig, pack) {
            None => Self::Nothing,
            Some(output) if output.each_unit => Self::Each(output.current),
            Some(output) => Self::Whole(output.current),
        }
    }
}

/// A cable of the circuit, alike wherever it is laid.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Run {
    /// Its gauge.
    pub gauge: &'static Gauge,
    /// Length of one, one way. [m]
    pub length: Metres,
    /// How many of it there are.
    pub count: u32,
    /// What it carries without end. [A]
    pub carries: Amps,
    /// The current it is laid for. [A]
    pub amps: Amps,
    /// What protects it.
    pub fuse: Option<Fuse>,
}

/// A pack's circuit.
#[derive(Debug, Clone, PartialEq)]
pub struct Wiring {
    /// The circuit part by part.
    pub net: Netlist,
    /// Where the motor is joined to it.
    pub motor: (Node, Node),
    /// The two leads to the motor.
    pub lead: Run,
    /// What both leads drop at the day's highest current. [V]
    pub drop: Volts,
    /// From unit to unit in a string.
    pub jumper: Option<Run>,
    /// From each string to the bars, and the string's fuse.
    pub string: Option<Run>,
    /// The breaker. [A]
    pub breaker: Option<Amps>,
    /// To the 12 V devices.
    pub devices: Option<Run>,
    /// From the charger.
    pub charger: Option<Run>,
    /// The current of a short at the pack's ends. [A]
    pub fault: Amps,
    /// Freshly charged. [V]
    pub full: Volts,
    /// Each string's current as a share of an even one.
    pub shares: Vec<f64>,
    /// What is wrong with it.
    pub findings: Vec<Finding>,
}

/// Density of copper. [kg/m³] CRC Handbook of Chemistry and Physics: 8.96 g/cm³.
const COPPER: f64 = 8_960.0;
/// What insulation and lugs add to the copper. Estimate, from memory.
const DRESSED: f64 = 1.35;

impl Run {
    /// What all of it weighs, about. [kg]
    pub fn mass(&self) -> Kilograms {
        let volume = self.gauge.area() * 1e-6 * self.length.value() * f64::from(self.count);
        Kilograms::of(volume * COPPER * DRESSED)
    }
}

impl Wiring {
    /// What all cables weigh, about. [kg]
    pub fn cable_mass(&self) -> Kilograms {
        let runs = [Some(self.lead), self.jumper, self.string, self.devices, self.charger];
        runs.iter().flatten().map(Run::mass).sum()
    }

    /// What both leads drop at the day's highest current, as a share of the nominal volts.
    pub fn drop_share(&self, pack: &Pack) -> f64 {
        self.drop / pack.voltage()
    }
}

/// Where a motor usually sits along a craft, 0 at the bow: at the stern of a boat, amidships of a cart.
fn motor_at(rig: &Rig) -> f64 {
    if rig.craft.kind.is_boat() { 0.95 } else { 0.5 }
}

/// From the pack to the motor, one way, by where the bays are. [m]
pub fn lead_length(rig: &Rig, pack: &Pack) -> Metres {
    let length = rig.craft.length().value.value();
    let stowage = stow::stow(rig, pack);
    let holding = stowage.iter().flat_map(|s| &s.bays).find(|b| !b.stowed.spots.is_empty());
    let bay = holding.and_then(|b| rig.bays.get(b.place)).or(rig.bays.first());
    let at = bay.map_or(0.5, |bay| bay.position);
    Metres::of((at - motor_at(rig)).abs() * length + SLACK)
}

/// The longest way from a unit to the one beside it, as they are set out; from bay to bay where a string is divided. [m]
fn jumper_length(rig: &Rig, pack: &Pack) -> Metres {
    let Some(stowage) = stow::stow(rig, pack) else { return Metres::of(NEXT) };
    let length = rig.craft.length().value.value();
    let spots: Vec<[f64; 3]> = (stowage.bays.iter())
        .filter_map(|b| Some((rig.bays.get(b.place)?, &b.stowed.spots)))
        .flat_map(|(bay, spots)| {
            spots.iter().map(move |s| {
                let along = bay.position * length - bay.length.value() / 2000.0;
                let middle = |at: f64, extent: f64| (at + extent / 2.0) / 1000.0;
                [along + middle(s.along, s.extent[0]), middle(s.across, s.extent[1]), s.up / 1000.0]
            })
        })
        .collect();
    let series = pack.series.max(1) as usize;
    let mut longest = 0.0_f64;
    for string in spots.chunks(series) {
        for pair in string.windows(2) {
            let [a, b, c] = [0, 1, 2].map(|n: usize| pair[0][n] - pair[1][n]);
            longest = longest.max(a.hypot(b).hypot(c));
        }
    }
    Metres::of(if longest > 0.0 { longest + 0.1 } else { NEXT })
}

/// The leads to the motor, laid for a current.
///
/// # Errors
/// [`NoCable`] where none is sold for it.
pub fn motor_lead(
    amps: Amps,
    one_way: Metres,
    nominal: Volts,
    sheath: (Insulation, Place),
) -> Result<Sized, NoCable> {
    cable::size(amps, one_way * 2.0, nominal, Class::Critical, sheath)
}

/// What a boat's cable is taken for where nobody says: sold with 105 °C insulation, not run past an engine.
pub const USUAL_SHEATH: (Insulation, Place) = (Insulation::C105, Place::Open);

/// The cable to the motor that the rig tells of.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct MotorCable {
    /// What it is laid with, for [`most`].
    pub gauge: &'static Gauge,
    /// One way. [m]
    pub length: Metres,
    /// Both leads together. [Ω]
    pub ohms: Ohms,
}

/// The highest current that a pack's main leads are laid for: the motor's, and the devices' that hang on the pack besides;
/// `None` where the motor's is not known. [A]
pub fn most(rig: &Rig, devices: Watts) -> Option<Amps> {
    Some(rig.motor.full_current()? + devices / rig.motor.system_voltage)
}

/// The cable to the motor; `None` where its length or the motor's highest current is not told, or none is sold.
pub fn motor_cable(rig: &Rig, devices: Watts) -> Option<MotorCable> {
    let (length, most) = (rig.lead?, most(rig, devices)?);
    let Sized { gauge, .. } =
        motor_lead(most, length, rig.motor.system_voltage, USUAL_SHEATH).ok()?;
    Some(MotorCable { gauge, length, ohms: gauge.ohms(length * 2.0) })
}

/// Wires a pack.
///
/// # Errors
/// [`NoCable`] where no cable or fuse is sold for it, or its label gives no capacity.
pub fn wire(rig: &Rig, pack: &Pack, asked: &Asked) -> Result<Wiring, NoCable> {
    let (nominal, full) = (pack.voltage(), pack.full_charge_voltage());
    let unit_ohms = drawdown::fit(&pack.battery).map_or(Ohms::of(0.01), |f| Ohms::of(f.law.ohms()));
    let (s, p) = (pack.series as usize, pack.parallel as usize);
    let string_fault = full / (unit_ohms * s as f64);
    let fault = string_fault * p as f64;
    let sheath = (asked.insulation, asked.place);
    let one_way = rig.lead.unwrap_or_else(|| lead_length(rig, pack));
    let sized = motor_lead(asked.most, one_way, nominal, sheath)?;
    let run = |sized: Sized, length: Metres, count: usize, amps: Amps, fault: Amps| {
        let Sized { gauge, carries, .. } = sized;
        let fuse = Fuse::of(amps, carries, fault, full);
        Run { gauge, length, count: count as u32, carries, amps, fuse }
    };
    let lead = run(sized, one_way, 2, asked.most, fault);
    // Where a string is out the others carry all.
    let each = if p > 1 { asked.most / (p - 1) as f64 } else { asked.most };
    let between = jumper_length(rig, pack);
    let short = |amps: Amps, length: Metres| {
        cable::size(amps, length * 2.0, nominal, Class::Critical, sheath)
    };
    let jumper = (s > 1)
        .then(|| {
            Ok(Run { fuse: None, ..run(short(each, between)?, between, p * (s - 1), each, fault) })
        })
        .transpose()?;
    let to_bar = Metres::of(NEXT);
    let others = string_fault * (p.max(2) - 1) as f64;
    let string = (p > 1)
        .then(|| Ok(run(short(each, to_bar)?, to_bar, 2 * p, each, string_fault.max(others))))
        .transpose()?;
    let side = |amps: Amps, volts: Volts, count: usize, fault: Amps| {
        let length = Metres::of(SHORT_LEAD);
        Ok(run(
            cable::size(amps, length * 2.0, volts, Class::Critical, sheath)?,
            length,
            count,
            amps,
            fault,
        ))
    };
    let devices =
        (asked.devices > Amps::ZERO).then(|| side(asked.devices, nominal, 2, fault)).transpose()?;
    let charger = match asked.charging {
        Charging::Nothing => None,
        Charging::Whole(amps) => Some(side(amps, nominal, 2, fault)?),
        Charging::Each(amps) => Some(side(amps, pack.battery.nominal_voltage, 2 * s * p, fault)?),
    };
    let breaker = asked.breaker.then(|| cable::fuse_for(asked.most)).flatten();
    let parts = Parts { lead, jumper, string, breaker, devices, charger };
    let (net, motor) = lay(pack, unit_ohms, &parts, asked.charging);
    let check::Checked { findings, shares } = check::check(&net, nominal, motor, asked.most);
    let drop = asked.today * (lead.gauge.ohms(one_way) * 2.0);
    let Parts { lead, jumper, string, breaker, devices, charger } = parts;
    Ok(Wiring {
        net,
        motor,
        lead,
        drop,
        jumper,
        string,
        breaker,
        devices,
        charger,
        fault,
        full,
        shares,
        findings,
    })
}

/// What a circuit is laid of.
struct Parts {
    lead: Run,
    jumper: Option<Run>,
    string: Option<Run>,
    breaker: Option<Amps>,
    devices: Option<Run>,
    charger: Option<Run>,
}

/// Lays the circuit; where the motor is joined to it.
fn lay(pack: &Pack, unit: Ohms, parts: &Parts, charging: Charging) -> (Netlist, (Node, Node)) {
    let mut net = Netlist::default();
    let minus = net.node();
    let (s, p) = (pack.series as usize, pack.parallel as usize);
    let volts = pack.battery.nominal_voltage.value();
    let (mut plus_bar, mut minus_bar) = (Vec::new(), vec![minus]);
    let mut terminals = Vec::new();
    for string in 0..p {
        let top = net.node();
        let mut at = top;
        for place in 0..s {
            let last = place + 1 == s;
            let bottom = if last && p == 1 { minus } else { net.node() };
            net.unit(Kind::Unit { string, place }, (at, bottom), unit.value(), volts);
            terminals.push((at, bottom, last));
            at = bottom;
            if let (false, Some(run)) = (last, &parts.jumper) {
                at = net.node();
                cable(&mut net, Kind::Jumper, (bottom, at), run, run.length);
            }
        }
        let Some(run) = &parts.string else {
            plus_bar.push(top);
            continue;
        };
        let (fused, bar) = (net.node(), net.node());
        fuse(&mut net, (top, fused), run);
        cable(&mut net, Kind::StringLead, (fused, bar), run, run.length);
        let low = if string == 0 { minus } else { net.node() };
        cable(&mut net, Kind::StringLead, (at, low), run, run.length);
        if let Some(before) = plus_bar.last() {
            cable(&mut net, Kind::Bar, (*before, bar), &parts.lead, Metres::of(NEXT));
            let before = minus_bar[minus_bar.len() - 1];
            cable(&mut net, Kind::Bar, (before, low), &parts.lead, Metres::of(NEXT));
            minus_bar.push(low);
        }
        plus_bar.push(bar);
    }
    // The negative is taken at the first string, the positive at the last: opposite corners.
    let plus = plus_bar[plus_bar.len() - 1];
    let lead = &parts.lead;
    let (beside, after_fuse, on) = (net.node(), net.node(), net.node());
    cable(&mut net, Kind::Lead, (plus, beside), lead, Metres::of(BESIDE));
    fuse(&mut net, (beside, after_fuse), lead);
    net.join(Kind::Switch, after_fuse, on, CONTACT);
    let mut at = on;
    if let Some(amps) = parts.breaker {
        at = net.node();
        // A breaker behind a fuse that can break the fault need not break it itself.
        net.protect(Kind::Breaker, (on, at), amps.value(), f64::INFINITY);
    }
    let (motor_plus, motor_minus, load_side) = (net.node(), net.node(), net.node());
    cable(&mut net, Kind::Lead, (at, motor_plus), lead, lead.length);
    cable(&mut net, Kind::Lead, (motor_minus, load_side), lead, lead.length);
    net.join(Kind::Shunt, load_side, minus, SHUNT);
    if let Some(run) = &parts.devices {
        let (a, b, c, d) = (net.node(), net.node(), net.node(), net.node());
        cable(&mut net, Kind::DeviceLead, (on, a), run, Metres::of(BESIDE));
        fuse(&mut net, (a, b), run);
        cable(&mut net, Kind::DeviceLead, (b, c), run, run.length);
        cable(&mut net, Kind::DeviceLead, (d, load_side), run, run.length);
    }
    if let Some(run) = &parts.charger {
        let ends = match charging {
            Charging::Each(_) => terminals,
            _ => vec![(plus, minus, true)],
        };
        for (high, low, last) in ends {
            charger_lead(&mut net, high, false, run);
            charger_lead(&mut net, low, last, run);
        }
    }
    (net, (motor_plus, motor_minus))
}

/// A lead of the charger at a terminal: without a fuse where that is the pack's own negative end.
fn charger_lead(net: &mut Netlist, end: Node, is_minus: bool, run: &Run) {
    let far = net.node();
    if is_minus {
        return cable(net, Kind::ChargerLead, (end, far), run, run.length);
    }
    let (near, fused) = (net.node(), net.node());
    cable(net, Kind::ChargerLead, (end, near), run, Metres::of(BESIDE));
    fuse(net, (near, fused), run);
    cable(net, Kind::ChargerLead, (fused, far), run, run.length);
}

fn cable(net: &mut Netlist, kind: Kind, ends: (Node, Node), run: &Run, length: Metres) {
    net.cable(kind, ends, run.gauge.ohms(length).value(), length.value(), run.carries.value());
}

/// A run's fuse; where none of its size is sold the two nodes are joined, which the check finds.
fn fuse(net: &mut Netlist, ends: (Node, Node), run: &Run) {
    match run.fuse {
        Some(fuse) => net.protect(Kind::Fuse, ends, fuse.rating.value(), fuse.breaks.value()),
        None => net.join(Kind::Switch, ends.0, ends.1, CONTACT),
    }
}
