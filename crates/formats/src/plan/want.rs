//! What is wanted of a pack: the document, its check, its writing.

use crate::fault::Checker;
use lake_hour_core::wants::{Kind, Level, Want};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// One thing wanted. The limit stands under the name of its unit.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct WantDocument {
    /// `home_with`, `long`, `light`, `liftable`, `fits`, `cheap_now`, `cheap_over_years`, `moves_on`, `full_by`, `monitor`,
    /// `warranty`, `no_lead` or `few`.
    pub kind: String,
    /// `must`, `nice` or `no_matter`.
    pub level: String,
    /// Charge left at the end of the day above the chemistry's floor, as a share of the label's ampere-hours: `home_with`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub share: Option<f64>,
    /// Hours to spare: `long`. [h]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hours: Option<f64>,
    /// Weight at most: `light`, `liftable`. [kg]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mass_kg: Option<f64>,
    /// Money at most: `cheap_now`, `cheap_over_years`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price: Option<f64>,
    /// Minute of the day: `full_by`. [min from midnight]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub minute: Option<f64>,
    /// Years of warranty: `warranty`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub years: Option<f64>,
    /// Batteries at most: `few`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub count: Option<f64>,
    /// The bay that is meant: `fits`; all of them together if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bay: Option<String>,
}

impl WantDocument {
    /// The name of a kind's limit and where it stands.
    const fn limit(&mut self, kind: Kind) -> Option<(&'static str, &mut Option<f64>)> {
        Some(match kind {
            Kind::HomeWith => ("share", &mut self.share),
            Kind::Long => ("hours", &mut self.hours),
            Kind::Light | Kind::Liftable => ("mass_kg", &mut self.mass_kg),
            Kind::CheapNow | Kind::CheapOverYears => ("price", &mut self.price),
            Kind::FullBy => ("minute", &mut self.minute),
            Kind::Warranty => ("years", &mut self.years),
            Kind::Few => ("count", &mut self.count),
            Kind::Fits | Kind::MovesOn | Kind::Monitor | Kind::NoLead => return None,
        })
    }
}

pub(super) fn check(c: &mut Checker, docs: &[WantDocument]) -> Vec<Want> {
    c.at_most("wants", docs.len(), Kind::ALL.len());
    let mut wants: Vec<Want> = Vec::new();
    for (n, doc) in docs.iter().enumerate().take(Kind::ALL.len()) {
        let at = |name: &str| format!("wants[{n}].{name}");
        let (kind, level) = (Kind::from_key(&doc.kind), Level::from_key(&doc.level));
        if kind.is_none() {
            c.fault(at("kind"), format!("must be one of: {}", Kind::keys()));
        }
        if level.is_none() {
            c.fault(at("level"), format!("must be one of: {}", Level::keys()));
        }
        let (Some(kind), Some(level)) = (kind, level) else { continue };
        if wants.iter().any(|w| w.kind == kind) {
            c.fault(at("kind"), "is wanted twice; each kind once");
            continue;
        }
        let mut want = Want::of(kind, level);
        let mut rest = doc.clone();
        if let (Some((name, value)), Some(range)) = (rest.limit(kind), kind.limit()) {
            want.limit = c.optional(at(name), value.take(), range).unwrap_or(want.limit);
        }
        if kind == Kind::Fits {
            want.bay = rest.bay.take().map(|bay| c.name(at("bay"), &bay));
        }
        let plain = WantDocument {
            kind: rest.kind.clone(),
            level: rest.level.clone(),
            ..WantDocument::default()
        };
        if rest != plain {
            c.fault(
                format!("wants[{n}]"),
                format!("has a limit that {} knows nothing of", kind.key()),
            );
        }
        wants.push(want);
    }
    wants
}

pub(super) fn write(want: &Want) -> WantDocument {
    let mut doc = WantDocument {
        kind: want.kind.key().to_owned(),
        level: want.level.key().to_owned(),
        bay: want.bay.clone(),
        ..WantDocument::default()
    };
    if let Some((_, value)) = doc.limit(want.kind) {
        *value = Some(want.limit);
    }
    doc
}
