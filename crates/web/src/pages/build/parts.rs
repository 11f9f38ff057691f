//! The list of parts on the page, on paper and in a file.

use super::words::area_of;
use crate::figures;
use crate::forms::build::part_fields;
use crate::forms::{Field, Shown};
use crate::parts::circuit;
use lake_hour_core::build::{Job, Part, PartKey, PartState};
use lake_hour_core::parts::{List, Size};
use lake_hour_core::source::Origin;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{Metres, Money};
use lake_hour_formats::tables;

/// A part in words.
#[derive(Debug, Clone)]
pub(super) struct PartView {
    pub(super) key: &'static str,
    pub(super) count: u32,
    pub(super) name: String,
    pub(super) size: String,
    /// What one costs where no price is typed, and who says so.
    pub(super) usual: String,
    pub(super) origin: &'static str,
    pub(super) sum: String,
    pub(super) state: PartState,
    /// The Rig says that it is there already.
    pub(super) owned: bool,
    pub(super) was: Option<String>,
    pub(super) note: String,
    pub(super) fields: Vec<Field>,
}

impl PartView {
    pub(super) fn is(&self, state: &str) -> bool {
        self.state.key() == state
    }
}

/// The whole list.
#[derive(Debug, Clone)]
pub(super) struct PartsView {
    pub(super) parts: Vec<PartView>,
    pub(super) own: Vec<OwnView>,
    /// "$903".
    pub(super) total: String,
    pub(super) left: String,
    /// What the chosen pack costs on the Board, with what it needs.
    pub(super) all_in: String,
    /// Something was typed of the pack itself, which counts in place of its lines.
    pub(super) typed: bool,
    /// That is more or less than the list: labor and what is sold count there too.
    pub(super) beside: bool,
    pub(super) missing: usize,
    pub(super) counted: bool,
    pub(super) bought: usize,
}

/// A part of one's own in words.
#[derive(Debug, Clone)]
pub(super) struct OwnView {
    pub(super) count: u32,
    pub(super) name: String,
    pub(super) sum: String,
    pub(super) state: PartState,
    pub(super) note: String,
}

/// What a part is called.
pub(super) fn name(key: PartKey, job: &Job<'_>) -> String {
    let boat = job.plan.rig.craft.kind.is_boat();
    match key {
        PartKey::Batteries => job.pack.battery.name.clone(),
        PartKey::Jumpers => "Jumper, battery to battery".to_owned(),
        PartKey::StringLeads => "Lead, string to bar".to_owned(),
        PartKey::Bars => "Bus bar with cover".to_owned(),
        PartKey::StringFuses => "String fuse and holder".to_owned(),
        PartKey::MainCables if boat => "Main cable, tinned".to_owned(),
        PartKey::MainCables => "Main cable".to_owned(),
        PartKey::MainFuse => "Main fuse and holder".to_owned(),
        PartKey::Breaker => "Breaker, resettable".to_owned(),
        PartKey::Switch => "Main switch".to_owned(),
        PartKey::MotorPlug => "Motor plug and socket".to_owned(),
        PartKey::Precharge => "Precharge resistor and button".to_owned(),
        PartKey::Charger => "Charger".to_owned(),
        PartKey::ChargerLeads => "Charger lead".to_owned(),
        PartKey::Inlet => "Charging inlet with cover".to_owned(),
        PartKey::ChargePlug => "Charging plug and socket".to_owned(),
        PartKey::Meter => "Charge meter with shunt".to_owned(),
        PartKey::Converter => "Converter to 12 V".to_owned(),
        PartKey::DeviceLeads => "Lead to the 12 V things".to_owned(),
        PartKey::FuseBlock => "Fuse block".to_owned(),
        PartKey::HoldDowns => "Strap or clamp".to_owned(),
        PartKey::Pad => "Soft pad, 1/4 in".to_owned(),
        PartKey::TrayPaint => "Baking soda, brush, tray paint".to_owned(),
        PartKey::Vent => "Vent, low and high".to_owned(),
        PartKey::Covers => "Pair of post covers".to_owned(),
    }
}

/// How large it is, in words.
pub(super) fn size(part: &Part, job: &Job<'_>, units: System) -> String {
    let amps = |a: f64| format!("{} A", figures::typed(a));
    match &part.size {
        Size::Plain => match part.key {
            PartKey::MotorPlug | PartKey::Inlet => "out of tripping reach".to_owned(),
            _ => String::new(),
        },
        Size::Unit => {
            let battery = &job.pack.battery;
            let ah = battery.headline().map_or_else(
                |_| String::new(),
                |(ah, _)| format!(" {} Ah", figures::amount(ah.value())),
            );
            format!(
                "{} V{ah} {}",
                figures::typed(battery.nominal_voltage.value()),
                battery.chemistry.name()
            )
        }
        Size::Cable { run, lug } => {
            let lugs = lug.map_or_else(
                || "lugs by its posts".to_owned(),
                |t| {
                    if units == System::Metric {
                        format!("{} lugs", t.name)
                    } else {
                        format!("{} lugs", t.hole)
                    }
                },
            );
            format!("{}, {} each, {lugs}", circuit::cable(run.gauge), length(run.length, units))
        }
        Size::Fuse(fuse, volts) => {
            format!(
                "{}, breaks {} kA at {:.0} V",
                circuit::fuse(fuse),
                figures::amount(fuse.breaks.value() / 1000.0),
                volts.value()
            )
        }
        Size::Amps(a) => match part.key {
            PartKey::ChargePlug => {
                format!("{} or more, out of tripping reach", amps(a.value().ceil()))
            }
            _ => format!("{} or more", amps(a.value().ceil())),
        },
        Size::Breaks(a, volts) => {
            let where_to =
                if part.key == PartKey::MotorPlug { ", out of tripping reach" } else { "" };
            format!("{}, {:.0} V DC or more{where_to}", amps(a.value()), volts.value().ceil())
        }
        Size::Charger(wanted) => format!(
            "{} V {}, {} to {} A",
            figures::typed(wanted.volts.value()),
            job.pack.battery.chemistry.name(),
            figures::amount(wanted.amps.0.value()),
            figures::amount(wanted.amps.1.value())
        ),
        Size::Watts(w) => {
            format!("{:.0} W or more, from {:.0} V", w.value(), job.pack.voltage().value())
        }
        Size::Ways(1) => "1 way or more, a fuse to each wire".to_owned(),
        Size::Ways(n) => format!("{n} ways or more, a fuse to each wire"),
        Size::Openings(cm2) => format!("each {}", area_of(*cm2, units)),
        Size::Holds(mass) => format!("holds {}", figures::mass(*mass, units)),
    }
}

/// The length of a cable: "12 ft", "14 in", "0.4 m".
fn length(length: Metres, units: System) -> String {
    if units != System::Metric && length.value() < 0.9 {
        return figures::measure(units, Measure::Side, (length.value() * 1000.0).max(1.0), 0);
    }
    figures::measure(units, Measure::Length, length.value(), 1)
}

impl PartsView {
    pub(super) fn of(job: &Job<'_>, form: Shown<'_>, say: Say<'_>) -> Self {
        let list = List::of(job);
        let money =
            |money: Option<Money>| money.map_or_else(|| "no price".to_owned(), |m| round(say, m));
        let parts = list.parts.iter().map(|part| PartView {
            key: part.key.key(),
            count: part.count,
            name: name(part.key, job),
            size: size(part, job, say.units),
            usual: part.each.map_or_else(String::new, |(each, _)| figures::typed(each.value())),
            origin: vouched(part.each),
            sum: money(part.sum()),
            state: part.state,
            owned: part.owned,
            was: part.was.clone(),
            note: part.note.clone(),
            fields: part_fields(form, part.key),
        });
        let own = list.own.iter().map(|part| OwnView {
            count: part.count,
            name: part.name.clone(),
            sum: money(part.sum()),
            state: part.state,
            note: part.note.clone(),
        });
        let (total, missing) = list.total();
        let settled = |state: PartState| usize::from(state != PartState::ToBuy);
        let counted = job.plan.with_parts_counted();
        let all_in = counted.chosen().and_then(|pack| job.plan.rules.money.paid_now(pack));
        Self {
            total: round(say, total),
            left: round(say, list.left_to_buy().0),
            all_in: money(all_in),
            beside: all_in.is_some_and(|all_in| (all_in - total).value().abs() >= 0.5),
            typed: job.pack.extras.lasting().iter().any(|(_, told)| told.is_some()),
            missing,
            counted: job.plan.build.counted,
            bought: list
                .parts
                .iter()
                .map(|p| settled(p.state))
                .chain(list.own.iter().map(|p| settled(p.state)))
                .sum(),
            parts: parts.collect(),
            own: own.collect(),
        }
    }

    pub(super) fn count(&self) -> usize {
        self.parts.len() + self.own.len()
    }
}

/// The list as a table that any spreadsheet opens.
pub(super) fn csv(job: &Job<'_>, units: System, currency: &str) -> String {
    let list = List::of(job);
    let header = [
        "quantity".to_owned(),
        "part".to_owned(),
        "size".to_owned(),
        format!("price of one [{currency}]"),
        "price is".to_owned(),
        format!("sum [{currency}]"),
        "state".to_owned(),
        "note".to_owned(),
    ];
    let figure =
        |money: Option<Money>| money.map_or_else(String::new, |m| format!("{:.2}", m.value()));
    let words = |state: PartState| match state {
        PartState::ToBuy => "to buy",
        PartState::Bought => "bought",
        PartState::Have => "have it",
    };
    let parts = list.parts.iter().map(|part| {
        vec![
            part.count.to_string(),
            name(part.key, job),
            size(part, job, units),
            figure(part.each.map(|(each, _)| each)),
            vouched(part.each).to_owned(),
            figure(part.sum()),
            words(part.state).to_owned(),
            part.note.clone(),
        ]
    });
    let own = list.own.iter().map(|part| {
        vec![
            part.count.to_string(),
            part.name.clone(),
            String::new(),
            figure(part.price),
            vouched(part.price.map(|price| (price, Origin::SetByYou))).to_owned(),
            figure(part.sum()),
            words(part.state).to_owned(),
            part.note.clone(),
        ]
    });
    tables::rows(&header, parts.chain(own))
}

/// A price, without cents where there are none.
fn round(say: Say<'_>, money: Money) -> String {
    let text = say.money(money);
    text.strip_suffix(".00").map_or(text.clone(), str::to_owned)
}

/// Who says what one costs.
const fn vouched(each: Option<(Money, Origin)>) -> &'static str {
    match each {
        // A battery's price stands on the shelf, or in the pack.
        Some((_, Origin::Label)) => "from the shelf",
        Some((_, origin)) => origin.words(),
        None => "not told",
    }
}
