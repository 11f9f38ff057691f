//! What is kept of a build: the document, its check, its writing.

use crate::fault::Checker;
use lake_hour_core::allowed;
use lake_hour_core::kept::{
    Build, ChargerPlace, MOST_OWN, OwnPart, PartKept, PartKey, PartState, StepKept, StepKey,
    StepState,
};
use lake_hour_core::units::Money;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// What is kept of the build of the chosen pack.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct BuildDocument {
    /// Lists of parts do not count in what packs cost, only what `extras` and `extra_cost` say; they count if absent, for every pack
    /// alike. Without any `build` they do not.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub not_counted: bool,
    /// Where the charger is: `aboard` or `carried`; as is usual for the craft if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub charger: Option<String>,
    /// What is kept of generated parts, each once.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub parts: Vec<PartDocument>,
    /// Parts of one's own.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub own_parts: Vec<OwnPartDocument>,
    /// What is kept of steps, each once.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub steps: Vec<StepDocument>,
}

/// What is kept of a generated part.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PartDocument {
    /// Which one: `batteries`, `jumpers`, `main_fuse`, ...
    pub part: String,
    /// `to_buy`, `bought` or `have`; to buy if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub state: Option<String>,
    /// What it was when that was said: a part of another size is not bought yet.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub of: Option<String>,
    /// Price of one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::PRICE.low, max = allowed::PRICE.high))]
    pub price: Option<f64>,
    /// Where to get it, or what to mind.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<String>,
}

/// A part of one's own.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct OwnPartDocument {
    /// What it is.
    pub name: String,
    /// How many; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub count: Option<f64>,
    /// Price of one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::PRICE.low, max = allowed::PRICE.high))]
    pub price: Option<f64>,
    /// `to_buy`, `bought` or `have`; to buy if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub state: Option<String>,
    /// Where to get it, or what to mind.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<String>,
}

/// What is kept of a step.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct StepDocument {
    /// Which one: `old_negative`, `polarity`, ...
    pub step: String,
    /// `open`, `done` or `put_off`; open if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub state: Option<String>,
    /// The pack that it was done with, where that matters.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub of: Option<String>,
    /// What was read, in V, N m, mm or Ah as the step asks; of a question 1 for yes and 0 for no.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::READING.low, max = allowed::READING.high))]
    pub reading: Option<f64>,
    /// A note of one's own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<String>,
    /// Why it is put off.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reason: Option<String>,
}

/// Words that may be left out.
fn words(c: &mut Checker, at: String, text: Option<&String>, most: usize) -> String {
    match text.filter(|text| !text.is_empty()) {
        Some(text) => c.text(at, text, most),
        None => String::new(),
    }
}

/// How a choice is read from its key, and the keys there are.
type Choice<T> = (fn(&str) -> Option<T>, fn() -> String);

/// One of the keys offered; `usual` where none is given.
fn choice<T>(
    c: &mut Checker,
    at: String,
    key: Option<&String>,
    (read, keys): Choice<T>,
    usual: T,
) -> T {
    let Some(key) = key else { return usual };
    read(key).unwrap_or_else(|| {
        c.fault(at, format!("must be one of: {}", keys()));
        usual
    })
}

const PART_STATES: Choice<PartState> = (PartState::from_key, PartState::keys);

pub(super) fn check(c: &mut Checker, doc: Option<&BuildDocument>) -> Build {
    let mut build = Build::default();
    let Some(doc) = doc else { return Build { counted: false, ..build } };
    build.counted = !doc.not_counted;
    if let Some(key) = &doc.charger {
        build.charger = ChargerPlace::from_key(key);
        if build.charger.is_none() {
            c.fault("build.charger", format!("must be one of: {}", ChargerPlace::keys()));
        }
    }
    c.at_most("build.parts", doc.parts.len(), PartKey::ALL.len());
    for (n, part) in doc.parts.iter().take(PartKey::ALL.len()).enumerate() {
        if let Some(kept) = check_part(c, n, part) {
            if build.part(kept.key).is_some() {
                c.fault(format!("build.parts[{n}].part"), "is kept twice; each part once");
            }
            build = build.with_part(kept);
        }
    }
    c.at_most("build.own_parts", doc.own_parts.len(), MOST_OWN);
    for (n, own) in doc.own_parts.iter().take(MOST_OWN).enumerate() {
        let own = check_own(c, n, own);
        build.own.push(own);
    }
    c.at_most("build.steps", doc.steps.len(), StepKey::ALL.len());
    for (n, step) in doc.steps.iter().take(StepKey::ALL.len()).enumerate() {
        if let Some(kept) = check_step(c, n, step) {
            if build.step(kept.key).is_some() {
                c.fault(format!("build.steps[{n}].step"), "is kept twice; each step once");
            }
            build = build.with_step(kept);
        }
    }
    build
}

fn check_part(c: &mut Checker, n: usize, doc: &PartDocument) -> Option<PartKept> {
    let at = |name: &str| format!("build.parts[{n}].{name}");
    let key = PartKey::from_key(&doc.part);
    if key.is_none() {
        c.fault(at("part"), format!("must be one of: {}", PartKey::keys()));
    }
    let price = c.optional(at("price"), doc.price, &allowed::PRICE).map(Money::of);
    Some(PartKept {
        state: choice(c, at("state"), doc.state.as_ref(), PART_STATES, PartState::ToBuy),
        of: words(c, at("of"), doc.of.as_ref(), allowed::TEXT_LENGTH),
        price,
        note: words(c, at("note"), doc.note.as_ref(), allowed::TEXT_LENGTH),
        key: key?,
    })
}

fn check_own(c: &mut Checker, n: usize, doc: &OwnPartDocument) -> OwnPart {
    let at = |name: &str| format!("build.own_parts[{n}].{name}");
    OwnPart {
        name: c.name(at("name"), &doc.name),
        count: c.count(at("count"), doc.count.unwrap_or(1.0), &allowed::PIECES),
        price: c.optional(at("price"), doc.price, &allowed::PRICE).map(Money::of),
        state: choice(c, at("state"), doc.state.as_ref(), PART_STATES, PartState::ToBuy),
        note: words(c, at("note"), doc.note.as_ref(), allowed::TEXT_LENGTH),
    }
}

fn check_step(c: &mut Checker, n: usize, doc: &StepDocument) -> Option<StepKept> {
    let at = |name: &str| format!("build.steps[{n}].{name}");
    let key = StepKey::from_key(&doc.step);
    if key.is_none() {
        c.fault(at("step"), format!("must be one of: {}", StepKey::keys()));
    }
    let states: Choice<StepState> = (StepState::from_key, StepState::keys);
    let kept = StepKept {
        state: choice(c, at("state"), doc.state.as_ref(), states, StepState::Open),
        of: words(c, at("of"), doc.of.as_ref(), allowed::TEXT_LENGTH),
        reading: c.optional(at("reading"), doc.reading, &allowed::READING),
        note: words(c, at("note"), doc.note.as_ref(), allowed::TEXT_LENGTH),
        reason: words(c, at("reason"), doc.reason.as_ref(), allowed::TEXT_LENGTH),
        key: key?,
    };
    if (kept.state == StepState::PutOff) == kept.reason.is_empty() {
        c.fault(at("reason"), "is given where a step is put off, and only there");
    }
    Some(kept)
}

/// `None` where nothing is kept and no list counts.
pub(super) fn write(build: &Build) -> Option<BuildDocument> {
    let doc = document(build);
    (doc != BuildDocument { not_counted: true, ..BuildDocument::default() }).then_some(doc)
}

/// All that is kept of a build.
pub(super) fn document(build: &Build) -> BuildDocument {
    let told = |text: &String| (!text.is_empty()).then(|| text.clone());
    let state = |state: PartState| (state != PartState::ToBuy).then(|| state.key().to_owned());
    BuildDocument {
        not_counted: !build.counted,
        charger: build.charger.map(|place| place.key().to_owned()),
        parts: build
            .parts
            .iter()
            .map(|p| PartDocument {
                part: p.key.key().to_owned(),
                state: state(p.state),
                of: told(&p.of),
                price: p.price.map(Money::value),
                note: told(&p.note),
            })
            .collect(),
        own_parts: build
            .own
            .iter()
            .map(|p| OwnPartDocument {
                name: p.name.clone(),
                count: Some(f64::from(p.count)),
                price: p.price.map(Money::value),
                state: state(p.state),
                note: told(&p.note),
            })
            .collect(),
        steps: build
            .steps
            .iter()
            .map(|s| StepDocument {
                step: s.key.key().to_owned(),
                state: (s.state != StepState::Open).then(|| s.state.key().to_owned()),
                of: told(&s.of),
                reading: s.reading,
                note: told(&s.note),
                reason: told(&s.reason),
            })
            .collect(),
    }
}
