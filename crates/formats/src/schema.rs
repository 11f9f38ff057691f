//! The documents as JSON Schema, as committed under docs/formats.

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
    }
}
