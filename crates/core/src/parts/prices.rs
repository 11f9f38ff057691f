//! What parts cost, about, where neither shelf nor owner says. All typical of US shops, from memory; a price of one's own
//! replaces each.

use crate::units::{Amps, Money, Watts};
use crate::wiring::Run;
use crate::wiring::cable::FuseKind;

/// A metre of tinned cable: so much, and so much for each mm² of copper.
const CABLE: (f64, f64) = (1.2, 0.24);
/// A lug with its heat-shrink, crimped.
const LUG: f64 = 2.5;

/// One cable of a run with both lugs.
pub fn cable(run: &Run) -> Money {
    let (least, copper) = CABLE;
    let metres = run.length.value();
    rounded(metres * (least + copper * run.gauge.area()) + 2.0 * LUG)
}

/// A fuse with its holder.
pub fn fuse(kind: FuseKind) -> Money {
    Money::of(match kind {
        FuseKind::Blade => 8.0,
        FuseKind::Strip => 22.0,
        FuseKind::Terminal => 35.0,
        FuseKind::ClassT => 62.0,
    })
}

/// A breaker that is reset by hand.
pub fn breaker(amps: Amps) -> Money {
    rounded(18.0 + 0.17 * amps.value())
}

/// A main switch.
pub fn switch(amps: Amps) -> Money {
    rounded(16.0 + 0.08 * amps.value())
}

/// A converter to 12 V.
pub fn converter(watts: Watts) -> Money {
    rounded(14.0 + 0.28 * watts.value())
}

/// A plug and its socket.
pub fn plug(amps: Amps) -> Money {
    rounded(12.0 + 0.35 * amps.value())
}

/// To the next whole one.
fn rounded(money: f64) -> Money {
    Money::of(money.ceil())
}

/// Pieces whose price hardly hangs on their size.
pub mod piece {
    use crate::units::Money;

    /// A bar with its studs and cover.
    pub const BAR: Money = Money::of(18.0);
    /// A meter of charge with its shunt.
    pub const METER: Money = Money::of(49.0);
    /// A voltmeter.
    pub const VOLTMETER: Money = Money::of(14.0);
    /// A block of small fuses.
    pub const FUSE_BLOCK: Money = Money::of(18.0);
    /// An inlet for shore power.
    pub const INLET: Money = Money::of(32.0);
    /// A strap or clamp.
    pub const STRAP: Money = Money::of(7.0);
    /// A soft pad under a tray's batteries.
    pub const PAD: Money = Money::of(8.0);
    /// Baking soda, brush and a can of acid-proof paint.
    pub const PAINT: Money = Money::of(16.0);
    /// A vent: two openings, hose and flanges.
    pub const VENT: Money = Money::of(24.0);
    /// A pair of boots over a unit's posts.
    pub const COVERS: Money = Money::of(4.0);
    /// A resistor and push-button that fill a controller's capacitors slowly.
    pub const PRECHARGE: Money = Money::of(15.0);
}
