//! A list as numbered rows with a blank one behind.

use super::Field;

/// A list as a page shows it.
#[derive(Debug, Clone)]
pub(crate) struct ListView {
    /// Unique on the page.
    pub(crate) id: &'static str,
    /// What one entry is called.
    pub(crate) what: &'static str,
    /// Where it is sent.
    pub(crate) action: String,
    pub(crate) rows: Vec<Vec<Field>>,
    /// As many as fit.
    pub(crate) most: usize,
    /// One tick for all of it: name, label, on.
    pub(crate) tick: Option<(&'static str, &'static str, bool)>,
}

impl ListView {
    /// Whether one more fits: the blank row is shown then.
    pub(crate) const fn has_room(&self) -> bool {
        self.rows.len() <= self.most
    }

    /// What a field is called to who cannot see its column.
    pub(crate) fn label(&self, field: &Field) -> String {
        let row = field.name.rsplit_once('_').and_then(|(_, n)| n.parse::<usize>().ok());
        match row {
            Some(n) if n + 1 < self.rows.len() => {
                format!("{} {}: {}", self.what, n + 1, field.spec.label)
            }
            _ => format!("New {}: {}", self.what, field.spec.label),
        }
    }
}
