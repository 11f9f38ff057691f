//! A pack as the discharge sees it: alike units, and perhaps one that is not.

use super::law::{Cold, State, UnitLaw, Warms};
use crate::numeric::halved;

/// Units in series and parallel. Alike units share one state, so a pack of any size costs one.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Bank {
    unit: UnitLaw,
    series: f64,
    strings: f64,
    weak: Option<Weak>,
}

/// The odd unit and what it does to the sharing of current.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Weak {
    unit: UnitLaw,
    /// Share of the pack's current that its string takes while connected.
    string_share: f64,
}

/// Charge state of a bank.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct BankState {
    /// Units of the sound strings.
    pub sound: State,
    /// Sound units in the string of the odd one.
    pub mates: State,
    /// The odd unit.
    pub weak: State,
    /// Whether the odd unit's string has opened and the others carry on.
    pub string_out: bool,
    /// How much warmer its own losses have made it than the air alone would. [K]
    pub warmer: f64,
}

impl Bank {
    /// `series` units in each of `parallel` strings, all alike.
    pub fn uniform(unit: UnitLaw, series: u32, parallel: u32) -> Self {
        Self { unit, series: f64::from(series), strings: f64::from(parallel), weak: None }
    }

    /// The same with one unit replaced by `odd`. Strings share the current by their resistances:
    /// those of one voltage divide it as their conductances.
    pub fn with_odd_unit(self, odd: UnitLaw) -> Self {
        let sound = 1.0 / (self.series * self.unit.ohms());
        let string = 1.0 / ((self.series - 1.0) * self.unit.ohms() + odd.ohms());
        let string_share = string / (string + (self.strings - 1.0) * sound);
        Self { weak: Some(Weak { unit: odd, string_share }), ..self }
    }

    /// The unit most of it is made of.
    pub const fn unit(&self) -> &UnitLaw {
        &self.unit
    }

    /// The same bank with each unit's law changed (temperature, ageing).
    pub fn map_units(self, change: impl Fn(UnitLaw) -> UnitLaw) -> Self {
        Self {
            unit: change(self.unit),
            weak: self.weak.map(|w| Weak { unit: change(w.unit), ..w }),
            ..self
        }
    }

    /// Fully charged and rested.
    pub fn full(&self) -> BankState {
        self.at(1.0)
    }

    /// Rested, every unit at the same share of its charge: 1 full, 0 with its label's ampere-hours taken.
    pub fn at(&self, share: f64) -> BankState {
        let sound = self.unit.at(share);
        let weak = self.weak.map_or(sound, |w| w.unit.at(share));
        BankState { sound, mates: sound, weak, string_out: false, warmer: 0.0 }
    }

    /// Share of the bank's charge that is left: 1 less what was taken of all units, as a share of their labels'. Below zero a slow
    /// draw has taken more than that.
    #[inline]
    pub fn charge_share(&self, now: &BankState) -> f64 {
        let Some(weak) = &self.weak else { return self.unit.charge_share(now.sound) };
        let (mates, others) = (self.series - 1.0, self.series * (self.strings - 1.0));
        let taken = |law: &UnitLaw, state: State| law.q_max() - state.charge;
        let gone = taken(&self.unit, now.sound) * others
            + taken(&self.unit, now.mates) * mates
            + taken(&weak.unit, now.weak);
        // Full is one, to the last digit.
        (1.0 - gone / (self.unit.rated() * (others + mates) + weak.unit.rated())).min(1.0)
    }

    /// The charge share at which it is empty under a current that it has given for long, drawn from full: what lies below is out
    /// of reach at the bank's temperature. Below zero where it gives more than its label. [1]
    pub fn unreachable(&self, amps: f64) -> f64 {
        if self.weak.is_none() {
            return self.unit.unreachable(amps / self.strings);
        }
        let (full, most) = (self.full(), self.unit.q_max() * self.strings);
        let drawn = |ah: f64| {
            let (sound, odd) = self.split(&full, amps);
            let less = |state: State, flows: f64| State {
                charge: state.charge
                    - if amps > 0.0 { ah * flows / amps } else { ah / self.strings },
                recent: flows,
            };
            let (mates, weak) = (less(full.mates, odd), less(full.weak, odd));
            BankState { sound: less(full.sound, sound), mates, weak, ..full }
        };
        let gives = |ah: f64| {
            let now = drawn(ah);
            self.margin(&now, amps).min(self.odd_margin(&now, amps)) > 0.0
        };
        if !gives(0.0) {
            return 1.0;
        }
        self.charge_share(&drawn(halved((0.0, most), 40, gives).0))
    }

    /// Current in each (sound string, odd string) for a pack current. [A]
    #[inline]
    fn split(&self, now: &BankState, amps: f64) -> (f64, f64) {
        match &self.weak {
            None => (amps / self.strings, 0.0),
            Some(_) if now.string_out => (amps / (self.strings - 1.0), 0.0),
            Some(w) if self.strings > 1.0 => {
                (amps * (1.0 - w.string_share) / (self.strings - 1.0), amps * w.string_share)
            }
            Some(_) => (0.0, amps),
        }
    }

    /// Highest current in any one string for a pack current: what a unit's own limit is held to. [A]
    pub fn string_amps(&self, now: &BankState, amps: f64) -> f64 {
        let (sound, odd) = self.split(now, amps);
        sound.max(odd)
    }

    /// The state after `hours` at a pack current.
    #[inline]
    pub fn draw(&self, now: &BankState, amps: f64, hours: f64) -> BankState {
        self.draw_decayed(now, amps, hours, self.unit.decay(hours))
    }

    /// As [`Self::draw`] with the decay of the remembered current known.
    #[inline]
    fn draw_decayed(&self, now: &BankState, amps: f64, hours: f64, decay: f64) -> BankState {
        let (sound, odd) = self.split(now, amps);
        let mut next = *now;
        next.sound = self.unit.draw_decayed(now.sound, sound, hours, decay);
        if let Some(w) = &self.weak {
            next.mates = self.unit.draw_decayed(now.mates, odd, hours, decay);
            next.weak = w.unit.draw_decayed(now.weak, odd, hours, decay);
        }
        next
    }

    /// Pack voltage. [V]
    #[inline]
    pub fn volts(&self, now: &BankState, amps: f64) -> f64 {
        let (sound, odd) = self.split(now, amps);
        let sound_string = || self.series * self.unit.volts(now.sound, sound);
        match &self.weak {
            Some(w) if !now.string_out => {
                // An odd unit alone has no mates, and none of theirs to run dry.
                let mates = if self.series > 1.0 {
                    (self.series - 1.0) * self.unit.volts(now.mates, odd)
                } else {
                    0.0
                };
                let odd_string = mates + w.unit.volts(now.weak, odd);
                if self.strings > 1.0 {
                    odd_string * w.string_share + sound_string() * (1.0 - w.string_share)
                } else {
                    odd_string
                }
            }
            _ => sound_string(),
        }
    }

    /// How far the sound strings are above their end voltage; nothing left at or below zero. [V]
    #[inline]
    pub fn margin(&self, now: &BankState, amps: f64) -> f64 {
        let (sound, _) = self.split(now, amps);
        if self.weak.is_some() && self.strings <= 1.0 {
            return self.odd_margin(now, amps);
        }
        self.unit.volts(now.sound, sound) - self.unit.v_end()
    }

    /// How far the odd unit's string is above its end; infinite when there is none connected. [V]
    #[inline]
    pub fn odd_margin(&self, now: &BankState, amps: f64) -> f64 {
        let Some(w) = &self.weak else { return f64::INFINITY };
        if now.string_out {
            return f64::INFINITY;
        }
        let (_, odd) = self.split(now, amps);
        let mates = if self.series > 1.0 {
            self.unit.volts(now.mates, odd) - self.unit.v_end()
        } else {
            f64::INFINITY
        };
        mates.min(w.unit.volts(now.weak, odd) - w.unit.v_end())
    }

    /// Lowest voltage at which any current is still worth asking for: keeps powers finite. [V]
    pub fn least_volts(&self) -> f64 {
        self.series * self.unit.v_end()
    }

    /// Charge share at which its taper begins.
    pub const fn stores_up_to(&self) -> f64 {
        self.unit.stores().1
    }

    /// A share of the ampere-hours that its charge is counted in. [Ah]
    pub fn amp_hours(&self, share: f64) -> f64 {
        share * self.unit.rated() * self.strings
    }
}

/// A bank as the day's run needs it. Two kinds: all units alike, which costs as much as one unit, and
/// with an odd one among them.
pub(super) trait Cells: Copy {
    /// Charge state of the whole bank.
    type State: Copy;

    /// The same bank in the cold, as [`UnitLaw::at_temperature`].
    fn at_temperature(&self, cold: Cold) -> Self;
    /// A state of the whole bank as this kind knows it.
    fn from(&self, state: &BankState) -> Self::State;
    /// The same told as the whole bank's.
    fn known_as(&self, state: &Self::State) -> BankState;
    /// As [`UnitLaw::stores`].
    fn stores(&self) -> (f64, f64);
    /// Share of the bank's whole charge that is left, see [`Bank::charge_share`].
    fn charge_share(&self, now: &Self::State) -> f64;
    /// `e^(-t/τ)` of what is remembered.
    fn decay(&self, hours: f64) -> f64;
    /// The state after some hours at a pack current, `decay` being theirs.
    fn draw(&self, now: &Self::State, amps: f64, hours: f64, decay: f64) -> Self::State;
    /// Voltage of the pack; minus infinity where nothing of a unit is within the current's reach. [V]
    fn volts(&self, now: &Self::State, amps: f64) -> f64;
    /// How fast the pack's voltage falls with its current. [V/A]
    fn slope(&self, now: &Self::State, amps: f64) -> f64;
    /// Both at once.
    #[inline(always)]
    fn volts_and_slope(&self, now: &Self::State, amps: f64) -> (f64, f64) {
        (self.volts(now, amps), self.slope(now, amps))
    }
    /// How far what ends the day is above its end, at a pack voltage known already. [V]
    fn margin(&self, now: &Self::State, amps: f64, volts: f64) -> f64;
    /// The highest current of one string when the pack gives this. [A]
    fn string_amps(&self, now: &Self::State, amps: f64) -> f64;
    /// Voltage of the pack at which it ends, however little is drawn. [V]
    fn least_volts(&self) -> f64;
    /// A share of the ampere-hours that the bank's charge is counted in. [Ah]
    fn amp_hours(&self, share: f64) -> f64;
    /// How a unit's own losses warm it.
    fn warms(&self) -> Option<Warms>;
    /// One over the 20-hour capacity of a unit. [1/Ah]
    fn per_size(&self) -> f64;
    /// How far the odd unit's string is above its end, where others would carry on without it. [V]
    fn odd_margin(&self, _now: &Self::State, _amps: f64) -> f64 {
        f64::INFINITY
    }
    /// A whole stretch at a steady current, if it passes without incident: nothing runs out at its end.
    fn steady(&self, _now: &Self::State, _amps: f64, _hours: f64) -> Option<Steady<Self::State>> {
        None
    }
    /// The state once the odd unit's string has opened.
    fn without_odd(&self, now: Self::State) -> Self::State {
        now
    }
}

/// What a stretch at a steady current comes to.
pub(super) struct Steady<S> {
    pub(super) next: S,
    /// Pack voltage at the start, in the middle and at the end. [V]
    pub(super) volts: [f64; 3],
}

/// Units all alike.
#[derive(Debug, Clone, Copy)]
pub(super) struct Alike {
    unit: UnitLaw,
    series: f64,
    strings: f64,
    per_string: f64,
}

impl Bank {
    /// The bank without an odd unit, if it is that.
    pub(super) fn alike(&self) -> Option<Alike> {
        let Self { unit, series, strings, weak } = *self;
        weak.is_none().then_some(Alike { unit, series, strings, per_string: 1.0 / strings })
    }
}

impl Cells for Alike {
    type State = State;

    fn at_temperature(&self, cold: Cold) -> Self {
        Self { unit: self.unit.at_temperature(cold), ..*self }
    }
    fn from(&self, state: &BankState) -> State {
        state.sound
    }
    fn known_as(&self, state: &State) -> BankState {
        BankState { sound: *state, mates: *state, weak: *state, string_out: false, warmer: 0.0 }
    }
    fn stores(&self) -> (f64, f64) {
        self.unit.stores()
    }
    #[inline(always)]
    fn charge_share(&self, now: &State) -> f64 {
        self.unit.charge_share(*now)
    }
    #[inline(always)]
    fn decay(&self, hours: f64) -> f64 {
        self.unit.decay(hours)
    }
    #[inline(always)]
    fn draw(&self, now: &State, amps: f64, hours: f64, decay: f64) -> State {
        self.unit.draw_decayed(*now, amps * self.per_string, hours, decay)
    }
    #[inline(always)]
    fn volts(&self, now: &State, amps: f64) -> f64 {
        self.series * self.unit.volts(*now, amps * self.per_string)
    }
    #[inline(always)]
    fn slope(&self, now: &State, amps: f64) -> f64 {
        let per_string = self.per_string;
        self.series * per_string * self.unit.slope(*now, amps * per_string)
    }
    #[inline(always)]
    fn volts_and_slope(&self, now: &State, amps: f64) -> (f64, f64) {
        let (volts, slope) = self.unit.volts_and_slope(*now, amps * self.per_string);
        (self.series * volts, self.series * self.per_string * slope)
    }
    #[inline(always)]
    fn margin(&self, _now: &State, _amps: f64, volts: f64) -> f64 {
        volts - self.series * self.unit.v_end()
    }
    #[inline(always)]
    fn string_amps(&self, _now: &State, amps: f64) -> f64 {
        amps * self.per_string
    }
    #[inline(always)]
    fn steady(&self, now: &State, amps: f64, hours: f64) -> Option<Steady<State>> {
        let (next, [a, b, c]) = self.unit.steady(*now, amps * self.per_string, hours)?;
        Some(Steady { next, volts: [a * self.series, b * self.series, c * self.series] })
    }
    #[inline(always)]
    fn least_volts(&self) -> f64 {
        self.series * self.unit.v_end()
    }
    #[inline(always)]
    fn amp_hours(&self, share: f64) -> f64 {
        share * self.unit.rated() * self.strings
    }
    fn warms(&self) -> Option<Warms> {
        self.unit.warms()
    }
    fn per_size(&self) -> f64 {
        self.unit.per_size()
    }
}

impl Cells for Bank {
    type State = BankState;

    fn at_temperature(&self, cold: Cold) -> Self {
        self.map_units(|u| u.at_temperature(cold))
    }
    fn from(&self, state: &BankState) -> BankState {
        *state
    }
    fn known_as(&self, state: &BankState) -> BankState {
        *state
    }
    fn stores(&self) -> (f64, f64) {
        self.unit.stores()
    }
    fn charge_share(&self, now: &BankState) -> f64 {
        Self::charge_share(self, now)
    }
    fn decay(&self, hours: f64) -> f64 {
        self.unit.decay(hours)
    }
    fn draw(&self, now: &BankState, amps: f64, hours: f64, decay: f64) -> BankState {
        self.draw_decayed(now, amps, hours, decay)
    }
    fn volts(&self, now: &BankState, amps: f64) -> f64 {
        Self::volts(self, now, amps)
    }
    fn slope(&self, _now: &BankState, _amps: f64) -> f64 {
        -self.series * self.unit.ohms() / self.strings
    }
    fn margin(&self, now: &BankState, amps: f64, _volts: f64) -> f64 {
        Self::margin(self, now, amps)
    }
    fn string_amps(&self, now: &BankState, amps: f64) -> f64 {
        Self::string_amps(self, now, amps)
    }
    fn least_volts(&self) -> f64 {
        Self::least_volts(self)
    }
    fn amp_hours(&self, share: f64) -> f64 {
        Self::amp_hours(self, share)
    }
    fn warms(&self) -> Option<Warms> {
        self.unit.warms()
    }
    fn per_size(&self) -> f64 {
        self.unit.per_size()
    }
    fn odd_margin(&self, now: &BankState, amps: f64) -> f64 {
        if self.strings > 1.0 { Self::odd_margin(self, now, amps) } else { f64::INFINITY }
    }
    fn without_odd(&self, now: BankState) -> BankState {
        BankState { string_out: true, ..now }
    }
}
