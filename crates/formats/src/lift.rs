//! Documents as a database keeps them: each begins with the version it was written in, and older ones are
//! lifted here, nowhere else.
//!
//! A version is only ever added. What lies between two of them is one function of [`LIFTS`].

use crate::fault::Faults;
use crate::plan;
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::{Map, Value};

/// The version this program writes.
pub(crate) const VERSION: u32 = 2;

/// What a kept document begins with, before its own fields.
const MARK: &str = "{\"kept\":";

/// Which kind of document is kept.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Kind {
    Candidate,
    Frame,
    Stretch,
    Pack,
    Logged,
}

/// From a version to the next.
type Lift = fn(Kind, &mut Map<String, Value>);

/// From each version to the next, beginning with the first, which bore no mark.
const LIFTS: [Lift; VERSION as usize - 1] = [first_to_second];

/// What a seller says stood beside the battery, and is part of it now; a pack was kept bare, and has the
/// number of its battery beside it now.
fn first_to_second(kind: Kind, doc: &mut Map<String, Value>) {
    match kind {
        Kind::Candidate => figures_together(doc),
        Kind::Pack => {
            let pack = std::mem::take(doc);
            doc.insert("pack".to_owned(), Value::Object(pack));
        }
        // None was kept before the second.
        Kind::Frame | Kind::Stretch | Kind::Logged => {}
    }
}

fn figures_together(doc: &mut Map<String, Value>) {
    let beside: Vec<String> = doc
        .keys()
        .filter(|k| !["battery", "accepted", "hidden"].contains(&k.as_str()))
        .cloned()
        .collect();
    for key in beside {
        if let Some(value) = doc.remove(&key)
            && let Some(Value::Object(battery)) = doc.get_mut("battery")
        {
            battery.entry(key).or_insert(value);
        }
    }
}

/// A document as it is kept. What can be written always can: every figure is finite.
pub(crate) fn keep(document: &impl Serialize) -> String {
    let text = serde_json::to_string(document).unwrap_or_default();
    match text.strip_prefix('{') {
        Some("}") => format!("{MARK}{VERSION}}}"),
        Some(fields) => format!("{MARK}{VERSION},{fields}"),
        None => text,
    }
}

/// Reads a kept document of any version.
///
/// # Errors
/// [`Faults`] when the text is no such document, or was kept by a newer program.
pub(crate) fn read<D: DeserializeOwned>(kind: Kind, text: &str) -> Result<D, Faults> {
    let marked = text.strip_prefix(MARK).and_then(|rest| {
        let digits = rest.find(|c: char| !c.is_ascii_digit())?;
        let version: u32 = rest[..digits].parse().ok()?;
        let rest = &rest[digits..];
        Some((version, format!("{{{}", rest.strip_prefix(',').unwrap_or(rest))))
    });
    match marked {
        Some((VERSION, plain)) => plan::document(plain.as_bytes()),
        Some((version, _)) if version > VERSION => Err(Faults::one(
            "",
            format!("kept by a newer program: version {version}; this one reads up to {VERSION}"),
        )),
        Some((version, plain)) => lifted(kind, version, &plain),
        // A battery without a mark may stand in a file of today: as it stands, if it can be read so.
        None if kind == Kind::Candidate => plan::document(text.as_bytes())
            .or_else(|faults| lifted(kind, 1, text).map_err(|_: Faults| faults)),
        None => lifted(kind, 1, text),
    }
}

fn lifted<D: DeserializeOwned>(kind: Kind, version: u32, text: &str) -> Result<D, Faults> {
    let mut doc: Map<String, Value> = plan::document(text.as_bytes())?;
    for lift in LIFTS.iter().skip((version as usize).saturating_sub(1)) {
        lift(kind, &mut doc);
    }
    plan::document(Value::Object(doc).to_string().as_bytes())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::plan::{read_pack, write_pack};
    use crate::shelf::{CandidateDocument, read_candidate, write_candidate};

    /// As the first version kept it, before documents bore a mark.
    const FIRST: &str = r#"{"battery":{"name":"Tern","chemistry":"lfp","nominal_voltage_v":12.8,"ratings":
        [{"capacity_ah":100,"hours":5}]},"build":"prismatic","heater":true,"ingress":"IP67","hidden":true}"#;

    #[test]
    fn what_an_older_program_kept_is_lifted_and_kept_anew() {
        let old = read_candidate(FIRST).expect("the first version");
        assert_eq!(old.battery.heater, Some(true));
        assert!(old.hidden);
        let now = write_candidate(&old);
        assert!(now.starts_with("{\"kept\":2,\"battery\":{\"name\":\"Tern\""), "{now}");
        assert_eq!(read_candidate(&now).expect("this version"), old);
        // With its own mark, too.
        let marked = FIRST.replacen('{', "{\"kept\":1,", 1);
        assert_eq!(read_candidate(&marked).expect("marked"), old);
    }

    #[test]
    fn a_pack_kept_bare_is_lifted() {
        let old = r#"{"name":"Two","series":2,"from":"Tern","battery":{"name":"Tern","chemistry":"lfp",
            "nominal_voltage_v":12.8,"capacity_ah":100}}"#;
        let (pack, shelf) = read_pack(old).expect("the first version");
        assert_eq!((pack.name.as_str(), pack.series, shelf), ("Two", 2, None));
        let now = write_pack(&pack, Some(17));
        assert_eq!(read_pack(&now).expect("this version"), (pack, Some(17)));
    }

    #[test]
    fn what_a_newer_program_kept_is_not_guessed_at() {
        let newer = write_candidate(&read_candidate(FIRST).expect("good")).replacen("2", "3", 1);
        let faults = read_candidate(&newer).expect_err("newer");
        assert!(faults.0[0].says.starts_with("kept by a newer program: version 3"), "{faults:?}");
        for bad in ["{\"kept\":}", "{\"kept\":99999999999999}", "{\"kept\":2", "{\"kept\":2,}", ""]
        {
            assert!(read::<CandidateDocument>(Kind::Candidate, bad).is_err(), "{bad}");
        }
    }
}
