//! Parts of a plan on their own, as a database keeps them: each a document of the same shape.

use super::{
    BuildDocument, DayDocument, HouseRulesDocument, PackDocument, RigDocument, StretchDocument,
    WantDocument, build, check_rules, day, pack, rig, want, write_rules,
};
use crate::fault::{Checker, Faults};
use crate::lift::{self, Kind};
use lake_hour_core::day::Stretch;
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use serde::{Deserialize, Serialize};

/// A plan without its stretches and packs.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Frame {
    currency: String,
    rig: RigDocument,
    day: DayDocument,
    house_rules: HouseRulesDocument,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    wants: Vec<WantDocument>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    build: Option<BuildDocument>,
}

/// The frame of a plan, as text.
pub fn write_frame(plan: &Plan) -> String {
    let mut day = day::write(&plan.day);
    day.stretches.clear();
    lift::keep(&Frame {
        currency: plan.currency.clone(),
        rig: rig::write(&plan.rig),
        day,
        house_rules: write_rules(&plan.rules),
        wants: plan.wants.iter().map(want::write).collect(),
        build: Some(build::document(&plan.build)),
    })
}

/// A plan from its frame, its stretches and its packs.
///
/// # Errors
/// [`Faults`] when the text is no frame or its figures are not allowed.
pub fn read_frame(text: &str, stretches: Vec<Stretch>, packs: Vec<Pack>) -> Result<Plan, Faults> {
    let frame: Frame = lift::read(Kind::Frame, text)?;
    let mut c = Checker::default();
    let mut day = day::check(&mut c, &frame.day, true);
    day.stretches = stretches;
    let mut plan = Plan {
        currency: frame.currency,
        rig: rig::check(&mut c, &frame.rig),
        day,
        rules: check_rules(&mut c, Some(&frame.house_rules)),
        packs,
        wants: want::check(&mut c, &frame.wants),
        // Kept plans count lists unless they say otherwise.
        build: build::check(&mut c, Some(&frame.build.unwrap_or_default())),
    };
    plan.measured_out();
    c.finish(plan)
}

/// A stretch, as text.
pub fn write_stretch(stretch: &Stretch) -> String {
    lift::keep(&day::write_stretch(stretch))
}

/// A stretch from its text.
///
/// # Errors
/// [`Faults`] when the text is no stretch or its figures are not allowed.
pub fn read_stretch(text: &str) -> Result<Stretch, Faults> {
    let doc: StretchDocument = lift::read(Kind::Stretch, text)?;
    let mut c = Checker::default();
    let stretch = day::check_stretch(&mut c, "stretch", 0, &doc, true);
    c.finish(stretch)
}

/// A pack as it is kept, with the number of the battery on the shelf that it is built of: names change,
/// numbers do not.
#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct KeptPack {
    #[serde(default, skip_serializing_if = "Option::is_none")]
    shelf: Option<i64>,
    pack: PackDocument,
}

/// A pack, as text, with the number on the shelf of the battery it is built of.
pub fn write_pack(pack: &Pack, shelf: Option<i64>) -> String {
    lift::keep(&KeptPack { shelf, pack: pack::write(pack) })
}

/// A pack from its text, and the number on the shelf of the battery it is built of.
///
/// # Errors
/// [`Faults`] when the text is no pack or its figures are not allowed.
pub fn read_pack(text: &str) -> Result<(Pack, Option<i64>), Faults> {
    let doc: KeptPack = lift::read(Kind::Pack, text)?;
    let mut c = Checker::default();
    let pack = pack::check(&mut c, "pack", &doc.pack);
    c.finish((pack, doc.shelf))
}
