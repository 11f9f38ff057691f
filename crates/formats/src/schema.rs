//! The documents as JSON Schema, as committed under docs/formats.

use crate::decision::{ProposalsDocument, SharedDocument, TippingDocument};
use crate::logged::LogDocument;
use crate::plan::PlanDocument;
use crate::result::ResultDocument;
use crate::shelf::ShelfDocument;

/// JSON Schema of `lake-hour/plan`.
pub fn plan() -> String {
    pretty(&schemars::schema_for!(PlanDocument))
}

/// JSON Schema of `lake-hour/result`.
pub fn result() -> String {
    pretty(&schemars::schema_for!(ResultDocument))
}

/// JSON Schema of `lake-hour/shelf`.
pub fn shelf() -> String {
    pretty(&schemars::schema_for!(ShelfDocument))
}

/// JSON Schema of `lake-hour/tipping`.
pub fn tipping() -> String {
    pretty(&schemars::schema_for!(TippingDocument))
}

/// JSON Schema of `lake-hour/proposals`.
pub fn proposals() -> String {
    pretty(&schemars::schema_for!(ProposalsDocument))
}

/// JSON Schema of `lake-hour/log`.
pub fn log() -> String {
    pretty(&schemars::schema_for!(LogDocument))
}

/// JSON Schema of `lake-hour/shared`.
pub fn shared() -> String {
    pretty(&schemars::schema_for!(SharedDocument))
}

/// The documents as OpenAPI has them: under their names, those they are made of among them.
pub fn components() -> std::collections::BTreeMap<String, serde_json::Value> {
    let mut settings = schemars::generate::SchemaSettings::draft2020_12();
    settings.definitions_path = "/components/schemas".into();
    let mut generator = settings.into_generator();
    generator.subschema_for::<PlanDocument>();
    generator.subschema_for::<ResultDocument>();
    generator.subschema_for::<TippingDocument>();
    generator.subschema_for::<ProposalsDocument>();
    let all = generator.take_definitions(true);
    all.into_iter().collect()
}

fn pretty(schema: &schemars::Schema) -> String {
    // A schema is made of strings, numbers and lists: it can always be written.
    let mut text = serde_json::to_string_pretty(schema).unwrap_or_default();
    text.push('\n');
    text
}

#[cfg(test)]
mod tests {
    /// Written anew by `lake-hour schema plan > docs/formats/plan.schema.json` (`result`, `shelf`).
    #[test]
    fn the_committed_schemas_are_current() {
        let committed = include_str!("../../../docs/formats/plan.schema.json");
        assert!(committed == super::plan(), "docs/formats/plan.schema.json is out of date");
        let committed = include_str!("../../../docs/formats/result.schema.json");
        assert!(committed == super::result(), "docs/formats/result.schema.json is out of date");
        let committed = include_str!("../../../docs/formats/shelf.schema.json");
        assert!(committed == super::shelf(), "docs/formats/shelf.schema.json is out of date");
        let committed = include_str!("../../../docs/formats/tipping.schema.json");
        assert!(committed == super::tipping(), "docs/formats/tipping.schema.json is out of date");
        let committed = include_str!("../../../docs/formats/proposals.schema.json");
        assert!(
            committed == super::proposals(),
            "docs/formats/proposals.schema.json is out of date"
        );
        let committed = include_str!("../../../docs/formats/log.schema.json");
        assert!(committed == super::log(), "docs/formats/log.schema.json is out of date");
        let committed = include_str!("../../../docs/formats/shared.schema.json");
        assert!(committed == super::shared(), "docs/formats/shared.schema.json is out of date");
    }
}
