//! Undo and redo, as the buttons of every page ask for them.

use crate::frame::form::Typed;
use lake_hour_store::Turned;

/// Which change the button stood for.
pub(crate) fn expected(typed: &Typed) -> Option<i64> {
    typed.get("change").parse().ok()
}

/// What came of undo or redo. Another window may have changed something since the button was drawn: that is
/// not turned unasked.
pub(crate) fn words(did: &str, turned: Turned) -> Option<String> {
    match turned {
        Turned::Nothing => None,
        Turned::Done(sentence) => Some(format!("{did}: {sentence}")),
        Turned::Other(sentence) => Some(format!(
            "Nothing was done: another window changed something since. Next would be: {sentence}"
        )),
    }
}
