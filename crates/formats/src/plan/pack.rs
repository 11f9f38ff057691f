//! Packs: the document, its check, its writing.

use crate::battery::{self, BatteryDocument};
use crate::fault::Checker;
use lake_hour_core::allowed;
use lake_hour_core::pack::{Extras, Had, Health, Pack, Shown, Symptom, Taken, Taught, WeakUnit};
use lake_hour_core::units::Money;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// Units in series and parallel.
#[derive(Debug, Clone, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PackDocument {
    /// Its name; the battery's if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// Units in each string; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub series: Option<f64>,
    /// Strings side by side; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub parallel: Option<f64>,
    /// What it takes beside the batteries and is not told by its item.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::PRICE.low, max = allowed::PRICE.high))]
    pub extra_cost: Option<f64>,
    /// What it takes beside the batteries, item by item; added to `extra_cost`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub extras: Option<ExtrasDocument>,
    /// How much of it the Board shows: `full`, `slim` or `hidden`; full if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub shown: Option<String>,
    /// Name of the battery of the shelf that it is built of.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub from: Option<String>,
    /// The label as it was taken from there, where the pack's own figures are others.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub label: Option<BatteryDocument>,
    /// One unit that is worn or unequal.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub weak_unit: Option<WeakUnitDocument>,
    /// What wear has left of it; as new if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub health: Option<HealthDocument>,
    /// What its rests and counts have taught of its units, where they are lead.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub taught: Option<TaughtDocument>,
    /// What its owner says of its age and of what is the matter with it. Where `health` is absent it makes it likely.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub had: Option<HadDocument>,
    /// Aboard today: the pack the others are compared with.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub aboard: bool,
    /// The one that is to be built; one pack of a plan at the most.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub chosen: bool,
    /// The unit it is built of.
    pub battery: BatteryDocument,
}

/// What a pack takes beside its batteries.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ExtrasDocument {
    /// A charger.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::PRICE.low, max = allowed::PRICE.high))]
    pub charger: Option<f64>,
    /// Cables, lugs, fuse, breaker, switch.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::PRICE.low, max = allowed::PRICE.high))]
    pub cables: Option<f64>,
    /// A converter for 12 V devices.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::PRICE.low, max = allowed::PRICE.high))]
    pub converter: Option<f64>,
    /// A meter of charge.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::PRICE.low, max = allowed::PRICE.high))]
    pub meter: Option<f64>,
    /// Hold-downs, straps, box.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::PRICE.low, max = allowed::PRICE.high))]
    pub holder: Option<f64>,
    /// Labour, each time a set is put in.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::PRICE.low, max = allowed::PRICE.high))]
    pub labour: Option<f64>,
    /// To be rid of a worn set; negative where it brings money.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::DISPOSAL.low, max = allowed::DISPOSAL.high))]
    pub disposal: Option<f64>,
}

/// What wear has left of all units alike.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct HealthDocument {
    /// Capacity as a share of what it was when new; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub capacity_share: Option<f64>,
    /// Resistance as a multiple of what it was when new; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub resistance_factor: Option<f64>,
    /// Share of the doubt about its capacity that a log has left, 0 to 1; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub doubt: Option<f64>,
}

/// What rests and counts have taught of a lead unit, over what its label and kind say: five figures, in this order everywhere: volts
/// of a full cell at rest [V], and logarithms of how far they fall, of the resistance, of what a current puts out of reach, and of the
/// capacity over the label's.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct TaughtDocument {
    /// The day it was taught last.
    #[schemars(with = "String")]
    pub on: jiff::civil::Date,
    /// Likely.
    pub mean: [f64; 5],
    /// How far each may be off, and with which others: their covariances.
    pub covariance: [[f64; 5]; 5],
}

/// What an owner says of batteries that have been used.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct HadDocument {
    /// Years since they were new.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::HAD_YEARS.low, max = allowed::HAD_YEARS.high))]
    pub years: Option<f64>,
    /// `as_ever`, `shorter`, `one_weak`, `wont_hold` or `dead`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub symptom: Option<String>,
}

/// One worn or unequal unit.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct WeakUnitDocument {
    /// Its capacity as a share of a sound one's.
    pub capacity_share: f64,
    /// Its resistance as a multiple of a sound one's; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub resistance_factor: Option<f64>,
}

fn check_had(c: &mut Checker, at: &str, doc: &HadDocument) -> Had {
    let symptom = doc.symptom.as_deref().and_then(|key| {
        let known = Symptom::from_key(key);
        if known.is_none() {
            c.fault(format!("{at}.symptom"), format!("must be one of: {}", Symptom::keys()));
        }
        known
    });
    Had { years: c.optional(format!("{at}.years"), doc.years, &allowed::HAD_YEARS), symptom }
}

pub(crate) fn check(c: &mut Checker, at: &str, doc: &PackDocument) -> Pack {
    let battery = battery::check(c, &format!("{at}.battery"), &doc.battery);
    let had = doc.had.as_ref().map(|had| check_had(c, &format!("{at}.had"), had));
    let by_age = had.map_or(Health::NEW, |had| had.health(&battery));
    Pack {
        name: match &doc.name {
            Some(name) => c.name(format!("{at}.name"), name),
            None => battery.name.clone(),
        },
        series: c.count(format!("{at}.series"), doc.series.unwrap_or(1.0), &allowed::SERIES),
        parallel: c.count(
            format!("{at}.parallel"),
            doc.parallel.unwrap_or(1.0),
            &allowed::PARALLEL,
        ),
        extras: check_extras(c, at, doc),
        shown: match doc.shown.as_deref().map(Shown::from_key) {
            None => Shown::Full,
            Some(Some(shown)) => shown,
            Some(None) => {
                c.fault(format!("{at}.shown"), format!("must be one of: {}", Shown::keys()));
                Shown::Full
            }
        },
        from: doc.from.as_ref().map(|name| Taken {
            name: c.name(format!("{at}.from"), name),
            label: doc
                .label
                .as_ref()
                .map(|label| Box::new(battery::check(c, &format!("{at}.label"), label))),
        }),
        weak_unit: doc.weak_unit.map(|w| WeakUnit {
            capacity_share: c.number(
                format!("{at}.weak_unit.capacity_share"),
                w.capacity_share,
                &allowed::WEAK_SHARE,
            ),
            resistance_factor: c.number(
                format!("{at}.weak_unit.resistance_factor"),
                w.resistance_factor.unwrap_or(1.0),
                &allowed::WEAK_RESISTANCE,
            ),
        }),
        had,
        health: doc.health.map_or(by_age, |h| Health {
            capacity_share: c.number(
                format!("{at}.health.capacity_share"),
                h.capacity_share.unwrap_or(1.0),
                &allowed::CAPACITY_LEFT,
            ),
            resistance_factor: c.number(
                format!("{at}.health.resistance_factor"),
                h.resistance_factor.unwrap_or(1.0),
                &allowed::WEAK_RESISTANCE,
            ),
            doubt: c.number(format!("{at}.health.doubt"), h.doubt.unwrap_or(1.0), &allowed::DOUBT),
        }),
        taught: doc.taught.and_then(|t| {
            let taught = Taught { mean: t.mean, covariance: t.covariance, on: Some(t.on) };
            if !taught.is_sound() {
                c.fault(format!("{at}.taught"), "says what no lead unit is like; leave it out");
            }
            taught.is_sound().then_some(taught)
        }),
        aboard: doc.aboard,
        chosen: doc.chosen,
        battery,
    }
}

fn check_extras(c: &mut Checker, at: &str, doc: &PackDocument) -> Extras {
    let items = doc.extras.unwrap_or_default();
    let mut sum = |name: &str, value: Option<f64>, range: &allowed::Allowed| {
        c.optional(format!("{at}.{name}"), value, range).map(Money::of)
    };
    Extras {
        other: sum("extra_cost", doc.extra_cost, &allowed::PRICE),
        charger: sum("extras.charger", items.charger, &allowed::PRICE),
        cables: sum("extras.cables", items.cables, &allowed::PRICE),
        converter: sum("extras.converter", items.converter, &allowed::PRICE),
        meter: sum("extras.meter", items.meter, &allowed::PRICE),
        holder: sum("extras.holder", items.holder, &allowed::PRICE),
        labour: sum("extras.labour", items.labour, &allowed::PRICE),
        disposal: sum("extras.disposal", items.disposal, &allowed::DISPOSAL),
        assumed: Money::ZERO,
    }
}

fn write_extras(extras: &Extras) -> Option<ExtrasDocument> {
    let sum = |money: Option<Money>| money.map(Money::value);
    let doc = ExtrasDocument {
        charger: sum(extras.charger),
        cables: sum(extras.cables),
        converter: sum(extras.converter),
        meter: sum(extras.meter),
        holder: sum(extras.holder),
        labour: sum(extras.labour),
        disposal: sum(extras.disposal),
    };
    (doc != ExtrasDocument::default()).then_some(doc)
}

pub(crate) fn write(pack: &Pack) -> PackDocument {
    PackDocument {
        name: Some(pack.name.clone()),
        series: Some(f64::from(pack.series)),
        parallel: Some(f64::from(pack.parallel)),
        extra_cost: pack.extras.other.map(Money::value),
        extras: write_extras(&pack.extras),
        shown: (pack.shown != Shown::Full).then(|| pack.shown.key().to_owned()),
        from: pack.from.as_ref().map(|from| from.name.clone()),
        label: pack.from.as_ref().and_then(|from| from.label.as_deref()).map(battery::document),
        weak_unit: pack.weak_unit.map(|w| WeakUnitDocument {
            capacity_share: w.capacity_share,
            resistance_factor: Some(w.resistance_factor),
        }),
        health: (pack.health != Health::NEW || pack.had.is_some()).then_some(HealthDocument {
            capacity_share: Some(pack.health.capacity_share),
            resistance_factor: Some(pack.health.resistance_factor),
            doubt: (pack.health.doubt < 1.0).then_some(pack.health.doubt),
        }),
        taught: pack.taught.and_then(|t| {
            Some(TaughtDocument { on: t.on?, mean: t.mean, covariance: t.covariance })
        }),
        had: pack.had.map(|had| HadDocument {
            years: had.years,
            symptom: had.symptom.map(|symptom| symptom.key().to_owned()),
        }),
        aboard: pack.aboard,
        chosen: pack.chosen,
        battery: battery::document(&pack.battery),
    }
}
