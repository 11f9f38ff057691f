//! How full an owned pack is now, as far as its log tells.

use super::{Did, Log, Owned, years};
use crate::learn::Meter;
use crate::life::ageing::{Stored, after_storage};
use crate::units::{Amps, Celsius};
use jiff::civil::Date;

/// A charge that was known once.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Known {
    /// When.
    pub date: Date,
    /// The charge, 0 to 1.
    pub charge: f64,
    /// How it was known.
    pub by: Meter,
}

/// How full it is now.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LeftNow {
    /// When it was last known.
    pub known: Known,
    /// What is left of it, 0 to 1; nothing where it has run flat.
    pub charge: f64,
    /// How far that may be off, either way, four times in five.
    pub unsure: f64,
}

/// How far what is lost in storage may be off, as a share of it: labels and handbooks differ by a half and twice. Estimate.
const LOSS_UNSURE: f64 = 0.5;

impl Log {
    /// The last charge of an owned pack that is known, until a day: after an outing, after charging, or as it was read.
    pub fn last_known(&self, pack: i64, until: Date) -> Option<Known> {
        let owned = self.pack(pack)?;
        let outings = self.outings().filter(|(_, o)| o.of == Some(pack)).filter_map(|(id, o)| {
            let (used, by) = o.share_used().ok()?;
            let (start, _) = o.start.share(o.pack()?).ok()?;
            let charge = (start - used).max(0.0);
            Some((id, Known { date: o.date, charge, by }))
        });
        let read = self.tests().filter(|(_, t)| t.of == Some(pack)).filter_map(|(id, t)| {
            let (charge, by) = match &t.did {
                Did::Charged(charge) => charge.share(&owned.pack).ok()?,
                // A capacity test ends empty.
                Did::Capacity(test) if t.unit.is_none() => {
                    let ended = test.ended == super::TestEnd::Reached;
                    ended.then_some((0.0, Meter::Percent))?
                }
                _ => return None,
            };
            Some((id, Known { date: t.date, charge, by }))
        });
        outings
            .chain(read)
            .filter(|(_, known)| known.date <= until)
            .max_by(|(a, k), (b, l)| k.date.cmp(&l.date).then(a.cmp(b)))
            .map(|(_, known)| known)
    }

    /// How full an owned pack is on a day, kept at a temperature with what drains it: the last known charge less what was lost
    /// since. `None` where none was ever known.
    pub fn left_now(
        &self,
        pack: i64,
        today: Date,
        kept_at: Celsius,
        drain: Amps,
    ) -> Option<LeftNow> {
        let known = self.last_known(pack, today)?;
        let owned = self.pack(pack)?;
        let months = (years(today) - years(known.date)) * 12.0;
        let charge = match owned.stored(known.charge, months, kept_at, drain) {
            Stored::Left(charge) => charge,
            Stored::Flat | Stored::Ruined => 0.0,
        };
        let lost = known.charge - charge;
        let read = if known.charge >= 1.0 { 0.0 } else { known.by.unsure() };
        let unsure = crate::learn::FOUR_IN_FIVE * read.hypot(LOSS_UNSURE * lost);
        Some(LeftNow { known, charge, unsure })
    }
}

impl Owned {
    /// What some months of rest make of a charge.
    pub fn stored(&self, charge: f64, months: f64, kept_at: Celsius, drain: Amps) -> Stored {
        let Some(capacity) = super::told_capacity(&self.pack) else {
            return Stored::Left(charge);
        };
        after_storage(&self.pack.battery, charge, months, kept_at, drain, capacity)
    }
}
