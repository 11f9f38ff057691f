//! The entries as a list, the latest first.

use crate::figures;
use crate::frame::view::{Open, View};
use jiff::civil::Date;
use lake_hour_core::log::{Did, Log, Logged, Outing, Test};
use lake_hour_core::units::Hours;
use lake_hour_store::RigId;

/// One entry.
#[derive(Debug, Clone)]
pub(super) struct Row {
    pub(super) id: i64,
    pub(super) date: String,
    pub(super) name: String,
    pub(super) hours: String,
    pub(super) amount: String,
    pub(super) words: String,
    /// Something about it is to be looked at.
    pub(super) asks: bool,
    /// It is the one that is drawn.
    pub(super) seen: bool,
    /// Where it stands on a sheet of its own.
    pub(super) report: Option<String>,
    /// It says that it was charged.
    pub(super) charged: bool,
    /// It was played.
    pub(super) practice: bool,
    /// Where it is drawn, and where it is edited.
    pub(super) see: String,
    pub(super) edit: String,
}

/// "22 Sep 2026".
pub(super) fn day(date: Date) -> String {
    date.strftime("%-d %b %Y").to_string()
}

/// What a test is called.
pub(super) const fn test_name(did: &Did) -> &'static str {
    match did {
        Did::Charged(_) => "charge",
        Did::Capacity(_) => "capacity test",
        Did::Load(_) => "load test",
        Did::Volts(_) => "volts of the units",
        Did::Charges(_) => "charge of the units",
        Did::Resistances(_) => "resistance of the units",
        Did::Care(..) => "care",
    }
}

pub(super) fn rows(
    log: &Log,
    doubted: &[i64],
    (rig, view): (RigId, View),
    seen: Option<i64>,
) -> Vec<Row> {
    let made = |(id, logged): &(i64, Logged)| {
        let edit = view.opening(Open::Entry(*id)).address(rig);
        let base = Row {
            id: *id,
            date: day(logged.date()),
            name: String::new(),
            hours: String::new(),
            amount: String::new(),
            words: String::new(),
            asks: false,
            seen: seen == Some(*id),
            report: matches!(logged, Logged::Test(t) if matches!(t.did, Did::Capacity(_)))
                .then(|| format!("/rigs/{}/log/entries/{id}/report", rig.0)),
            charged: matches!(logged, Logged::Test(t) if matches!(t.did, Did::Charged(_))),
            practice: matches!(logged, Logged::Outing(o) if o.practice),
            see: edit.clone(),
            edit,
        };
        match logged {
            Logged::Outing(o) => {
                let see = View { see: Some(*id), ..view.opening(Open::Nothing) }.address(rig);
                Row { see, ..outing(base, o, doubted) }
            }
            Logged::Test(t) => test(base, t, log),
            Logged::Owned(o) => Row {
                name: o.pack.name.clone(),
                words: if o.shop.is_empty() {
                    "bought".to_owned()
                } else {
                    format!("bought at {}", o.shop)
                },
                ..base
            },
        }
    };
    log.all.iter().rev().map(made).collect()
}

fn outing(base: Row, o: &Outing, doubted: &[i64]) -> Row {
    let hours = o.lasted();
    let capacity = o.pack().and_then(lake_hour_core::log::told_capacity);
    let used = o.share_used();
    let amount = match (&used, capacity) {
        (Ok((share, _)), Some(ah)) => format!("{} Ah", figures::amount(share * ah.value())),
        _ => String::new(),
    };
    let (words, asks) = match used {
        Err(unclear) => (figures::capital(&unclear.to_string()), true),
        Ok(_) if doubted.contains(&base.id) => {
            ("does not go with the rest: check it".to_owned(), true)
        }
        Ok(_) if o.practice => ("played by the stand-in".to_owned(), false),
        Ok(_) if !o.counts => ("left out of learning".to_owned(), false),
        Ok(_) => (said(o), false),
    };
    let name = o.name.clone();
    Row { name, hours: duration(hours), amount, words, asks, ..base }
}

/// "as planned", or what was planned.
fn said(o: &Outing) -> String {
    let Ok((planned, left)) = o.left() else { return String::new() };
    let points = ((planned - left) * 100.0).round();
    let planned = figures::percent(planned);
    match points {
        p if p.abs() < 3.0 => "as planned".to_owned(),
        p if p > 0.0 => format!("{p:.0} points lower, planned {planned}"),
        p => format!("{:.0} points higher, planned {planned}", -p),
    }
}

fn duration(hours: Hours) -> String {
    format!("{:.1} h", hours.value())
}

fn test(base: Row, t: &Test, log: &Log) -> Row {
    let pack = t.of.and_then(|of| log.pack(of)).map(|o| &o.pack);
    let unit = t.unit.map_or_else(String::new, |n| format!(", unit {n}"));
    let name = format!("{}{unit}", figures::capital(test_name(&t.did)));
    match &t.did {
        Did::Charged(charge) => {
            use lake_hour_core::log::Charge;
            let words = match charge {
                Charge::Full => "full".to_owned(),
                Charge::Meter(share) => figures::percent(*share),
                Charge::Feel(share) => format!("{}, by feel", figures::percent(*share)),
                Charge::Rested(volts, rest) => {
                    format!("{} V rested {}", figures::typed(volts.value()), figures::rested(*rest))
                }
            };
            Row { name, words, ..base }
        }
        Did::Capacity(test) => {
            let found = t.of.and_then(|of| log.pack(of)).map(|owned| {
                let (tested, share) = super::report::tested(owned, t);
                test.found(&tested, share)
            });
            let amount = format!("{} Ah", figures::amount((test.current * test.lasted).value()));
            let (words, asks) = match found {
                Some(Ok(found)) => match found.share {
                    Some(share) => {
                        (format!("{} of its label", figures::percent(share)), share < 0.8)
                    }
                    None => ("cut short: it has that much at least".to_owned(), false),
                },
                Some(Err(none)) => (figures::capital(&none.to_string()), true),
                None => ("its pack is not in the log any more".to_owned(), true),
            };
            Row { name, hours: duration(test.lasted), amount, words, asks, ..base }
        }
        Did::Load(test) => {
            let found = pack.map(|p| match t.unit {
                Some(_) => test.found(p, 1, 1),
                None => test.found(p, p.series, p.parallel),
            });
            let (words, asks) = match found {
                Some(Ok(found)) => load_words(&found),
                Some(Err(none)) => (figures::capital(&none.to_string()), true),
                None => ("its pack is not in the log any more".to_owned(), true),
            };
            let amount = format!("{} A", figures::amount(test.current.value()));
            Row { name, hours: format!("{:.0} s", test.seconds), amount, words, asks, ..base }
        }
        Did::Care(chore, to) => {
            let name = super::care::chore(*chore).to_owned();
            let words =
                to.map_or_else(|| "done".to_owned(), |to| format!("put off to {}", day(to)));
            Row { name, words, ..base }
        }
        Did::Volts(volts) => {
            let low = volts.iter().map(|v| v.value()).fold(f64::INFINITY, f64::min);
            let high = volts.iter().map(|v| v.value()).fold(0.0, f64::max);
            let words = format!("{low:.2} to {high:.2} V, {:.0} mV apart", (high - low) * 1000.0);
            Row { name, words, ..base }
        }
        Did::Charges(charges) => {
            let all = charges.iter().map(|share| figures::percent(*share));
            Row { name, words: all.collect::<Vec<_>>().join(", "), ..base }
        }
        Did::Resistances(ohms) => {
            let all = ohms.iter().map(|r| figures::amount(r.value() * 1000.0));
            let all = all.collect::<Vec<_>>().join(", ");
            Row { name, words: format!("{all} m\u{3a9}"), ..base }
        }
    }
}

fn load_words(found: &lake_hour_core::log::LoadFound) -> (String, bool) {
    use lake_hour_core::log::LoadVerdict;
    let milliohms = |r: f64| figures::amount(r * 1000.0);
    let said = match found.verdict {
        LoadVerdict::Pass => "bears its load",
        LoadVerdict::Weak => "weak: test its capacity",
        LoadVerdict::Dead => "dead: replace it",
        LoadVerdict::NotCharged => "was not charged: says nothing",
    };
    let resistance = found.resistance.value();
    let words =
        format!("{said}; {} mΩ, new {}", milliohms(resistance), milliohms(found.usual.value()));
    (words, !matches!(found.verdict, LoadVerdict::Pass))
}
