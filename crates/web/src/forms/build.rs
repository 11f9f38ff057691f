//! A build as fields: prices and notes of parts, parts of one's own, what was read at a step.

use super::{Field, Problems, Reader, Shown, Spec, Typed, shown, untouched};
use crate::figures;
use lake_hour_core::allowed;
use lake_hour_core::build::{
    Build, Job, MOST_OWN, OwnPart, PartKept, PartKey, PartState, Reading, StepKept, StepKey,
    StepState,
};
use lake_hour_core::plan::Plan;
use lake_hour_core::units::Money;
use lake_hour_core::units::system::{Measure, System};

const PART: [Spec; 2] =
    [Spec::figure("price", "Price of one", "", ""), Spec::words("note", "Note")];

/// What stands behind a part's fields.
fn row(key: PartKey) -> String {
    format!("_{}", key.key())
}

/// Prices and notes of all parts, those kept.
pub(crate) fn parts_typed(plan: &Plan) -> Typed {
    PartKey::ALL.into_iter().fold(Typed::default(), |typed, key| {
        let kept = plan.build.part(key);
        let price = match key {
            // In one place: the pack's own.
            PartKey::Batteries => plan.chosen().and_then(|pack| pack.battery.price),
            _ => kept.and_then(|k| k.price),
        };
        let price = price.map(|p| figures::typed(p.value())).unwrap_or_default();
        let note = kept.map(|k| k.note.clone()).unwrap_or_default();
        typed.with(&format!("price{}", row(key)), price).with(&format!("note{}", row(key)), note)
    })
}

/// The fields of one part: its price and its note.
pub(crate) fn part_fields(form: Shown<'_>, key: PartKey) -> Vec<Field> {
    form.numbered("parts", &PART, &row(key))
}

/// What the form of parts comes to.
pub(crate) struct PartsRead {
    pub(crate) build: Build,
    /// Price of one battery of the chosen pack.
    pub(crate) battery: Option<Money>,
}

/// Reads prices and notes: those of parts that are not on the page stay as they are.
pub(crate) fn read_parts(typed: &Typed, units: System, plan: &Plan) -> Result<PartsRead, Problems> {
    let mut r = Reader::of(typed, units);
    let mut build = plan.build.clone();
    let mut battery = plan.chosen().and_then(|pack| pack.battery.price);
    let mut whole = true;
    for key in PartKey::ALL {
        let row = row(key);
        if !typed.has(&format!("price{row}")) {
            continue;
        }
        let (price, note) = r.beside(&row, |r| {
            (r.optional("price", &allowed::PRICE), r.words_if("note", allowed::TEXT_LENGTH))
        });
        let (Some(price), Some(note)) = (price, note) else {
            whole = false;
            continue;
        };
        let price = price.map(Money::of);
        if key == PartKey::Batteries {
            battery = price;
        }
        let price = price.filter(|_| key != PartKey::Batteries);
        let before = plan.build.part(key);
        if before.is_none() && price.is_none() && note.is_empty() {
            continue;
        }
        let (state, of) =
            before.map_or((PartState::ToBuy, String::new()), |k| (k.state, k.of.clone()));
        build = build.with_part(PartKept { key, state, of, price, note });
    }
    r.finish(whole.then_some(PartsRead { build, battery }))
}

const STATES: &[(&str, &str)] = &[("to_buy", "to buy"), ("bought", "bought"), ("have", "have it")];
const OWN: [Spec; 5] = [
    Spec::words("name", "Part of your own"),
    Spec::figure("count", "How many", "", ""),
    Spec::figure("price", "Price of one", "", ""),
    Spec::choice("state", "Bought?", STATES),
    Spec::words("note", "Note"),
];

/// Parts of one's own.
pub(crate) fn own_typed(build: &Build) -> Typed {
    build.own.iter().enumerate().fold(Typed::default(), |typed, (n, part)| {
        typed
            .with(&format!("name_{n}"), part.name.clone())
            .with(&format!("count_{n}"), part.count.to_string())
            .with(
                &format!("price_{n}"),
                part.price.map(|p| figures::typed(p.value())).unwrap_or_default(),
            )
            .with(&format!("state_{n}"), part.state.key())
            .with(&format!("note_{n}"), part.note.clone())
    })
}

pub(crate) fn own_rows(form: Shown<'_>, count: usize) -> Vec<Vec<Field>> {
    form.rows("own", &OWN, count)
}

/// Reads them.
pub(crate) fn read_own(typed: &Typed, units: System, before: &Build) -> Result<Build, Problems> {
    let mut r = Reader::of(typed, units);
    let rows = r.rows(&["name", "count", "price", "note"], before.own.len(), MOST_OWN, |r, _| {
        let name = r.name("name");
        let count = r.whole_or("count", &allowed::PIECES, 1);
        let price = r.optional("price", &allowed::PRICE);
        let state = if r.is_blank("state") {
            Some(PartState::ToBuy)
        } else {
            r.choice("state", PartState::from_key)
        };
        let note = r.words_if("note", allowed::TEXT_LENGTH);
        let price = price?.map(Money::of);
        Some(OwnPart { name: name?, count: count?, price, state: state?, note: note? })
    });
    r.finish(rows.map(|own| Build { own, ..before.clone() }))
}

const YES: &[(&str, &str)] = &[("", "not tried"), ("yes", "yes"), ("no", "no")];
const NOTE: Spec = Spec::words("note", "Note");
const REASON: Spec = Spec::words("reason", "Put off because");

/// The field that a reading is typed into.
const fn reading_spec(reading: Reading, label: &'static str) -> Spec {
    match reading {
        Reading::Volts(..) | Reading::Apart(_) => {
            Spec::figure("reading", label, "V", "").with_signs()
        }
        Reading::Torque(_) => Spec::measure("reading", label, Measure::Torque, ""),
        Reading::Moves(_) => Spec::measure("reading", label, Measure::Side, ""),
        Reading::AmpHours(..) => Spec::figure("reading", label, "Ah", ""),
        Reading::Yes => Spec::choice("reading", label, YES),
    }
}

/// The fields of a step: what is read, where something is; a note; why it is put off, where it may be.
pub(crate) struct StepFields {
    pub(crate) reading: Option<Field>,
    pub(crate) note: Option<Field>,
    pub(crate) reason: Option<Field>,
}

pub(crate) fn step_fields(
    form: Shown<'_>,
    key: StepKey,
    reading: Option<(Reading, &'static str)>,
) -> StepFields {
    let prefix = format!("step-{}", key.key());
    let one = |spec: Spec| form.fields(&prefix, &[spec]).pop();
    StepFields {
        reading: reading.and_then(|(reading, label)| one(reading_spec(reading, label))),
        note: one(NOTE),
        reason: if key.is_firm() { None } else { one(REASON) },
    }
}

/// A reading as it stands in its field.
fn reading_text(reading: Reading, value: f64, units: System) -> String {
    match reading {
        Reading::Torque(_) => shown(units, Measure::Torque, value),
        Reading::Moves(_) => shown(units, Measure::Side, value),
        Reading::Yes => if value > 0.5 { "yes" } else { "no" }.to_owned(),
        Reading::Volts(..) | Reading::Apart(_) | Reading::AmpHours(..) => figures::typed(value),
    }
}

/// What is kept of a step, as its fields show it.
pub(crate) fn step_typed(kept: &StepKept, reading: Option<Reading>, units: System) -> Typed {
    let read = match (reading, kept.reading) {
        (Some(reading), Some(value)) => reading_text(reading, value, units),
        _ => String::new(),
    };
    Typed::default()
        .with("reading", read)
        .with("note", kept.note.clone())
        .with("reason", kept.reason.clone())
}

/// Reads a step's fields; `say` is what its button says of it, nothing where it is saved as it stands.
pub(crate) fn read_step(
    typed: &Typed,
    units: System,
    job: &Job<'_>,
    key: StepKey,
    say: Option<StepState>,
) -> Result<StepKept, Problems> {
    let steps = job.steps();
    let Some(step) = steps.into_iter().find(|s| s.key == key) else {
        return Err(Problems::one("say", "This step is no part of the work any more."));
    };
    let before = step.kept;
    let mut r = Reader::of(typed, units);
    let value = match step.reading {
        None => Some(None),
        Some(_) if r.is_blank("reading") => Some(None),
        Some(Reading::Yes) => r.choice("reading", |key| match key {
            "yes" => Some(Some(1.0)),
            "no" => Some(Some(0.0)),
            _ => None,
        }),
        Some(reading @ (Reading::Torque(_) | Reading::Moves(_))) => {
            let of =
                if matches!(reading, Reading::Moves(_)) { Measure::Side } else { Measure::Torque };
            let read = r.measure("reading", of, &POSITIVE);
            untouched(units, of, before.reading, typed.get("reading"), read).map(Some)
        }
        Some(reading) => r.number("reading", allowed_of(reading)).map(Some),
    };
    let note = r.words_if("note", allowed::TEXT_LENGTH);
    let reason = r.words_if("reason", allowed::TEXT_LENGTH);
    // A reason typed and saved puts it off; one taken away takes it up again.
    let given = reason.as_ref().is_some_and(|reason| !reason.is_empty());
    let state = say.unwrap_or(match before.state {
        StepState::Open if given => StepState::PutOff,
        StepState::PutOff if !given => StepState::Open,
        state => state,
    });
    let kept = (|| {
        let reason = reason?;
        Some(StepKept { key, state, of: before.of.clone(), reading: value?, note: note?, reason })
    })();
    r.finish(kept)
}

/// What may be typed for a reading.
const fn allowed_of(reading: Reading) -> &'static allowed::Allowed {
    match reading {
        Reading::Volts(..) => &SIGNED,
        _ => &POSITIVE,
    }
}

const SIGNED: allowed::Allowed = allowed::Allowed { low: -1000.0, high: 1000.0, unit: "V" };
const POSITIVE: allowed::Allowed = allowed::Allowed { low: 0.0, high: 100_000.0, unit: "" };
