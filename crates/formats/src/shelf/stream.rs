//! A JSON shelf read battery by battery, so that a file of any length takes little memory.

use super::{FORMAT, MOST_BATTERIES, VERSION, read_candidate};
use crate::fault::Faults;
use crate::metered::Metered;
use lake_hour_core::shelf::Candidate;
use serde::Deserializer;
use serde::de::{DeserializeSeed, Error, IgnoredAny, MapAccess, SeqAccess, Visitor};
use serde_json::value::RawValue;
use std::io::{BufReader, Read};
use std::ops::ControlFlow;

/// Longest text of one battery. [bytes]
const LONGEST_BATTERY: u64 = 256 * 1024;

/// Reads a shelf from a file and hands over its batteries as they come: their number counted from 1, how
/// many bytes were read, and the battery or what is wrong with it. It may be told to stop.
///
/// # Errors
/// Why nothing of the file can be taken, as a sentence. Batteries may have been handed over before that
/// is known.
pub fn each(
    file: impl Read,
    mut take: impl FnMut(u64, u64, Result<Candidate, Faults>) -> ControlFlow<()>,
) -> Result<(), String> {
    let metered = Metered::new(file, "one battery", LONGEST_BATTERY);
    let (refill, given) = (metered.refill(), metered.given());
    let mut stopped = false;
    let mut hand_over = |n, battery| {
        refill();
        stopped = take(n, given(), battery).is_break();
        !stopped
    };
    // A metered read is short; the buffer before the parser makes its single bytes cheap.
    let mut json =
        serde_json::Deserializer::from_reader(BufReader::with_capacity(1 << 14, metered));
    let read = Shelf { take: &mut hand_over }.deserialize(&mut json);
    let read = read.and_then(|()| json.end());
    match read {
        Err(_) if stopped => Ok(()),
        Err(e) => Err(format!("The file cannot be read: {e}.")),
        Ok(()) => Ok(()),
    }
}

struct Shelf<'a, F> {
    take: &'a mut F,
}

impl<'de, F: FnMut(u64, Result<Candidate, Faults>) -> bool> DeserializeSeed<'de> for Shelf<'_, F> {
    type Value = ();

    fn deserialize<D: Deserializer<'de>>(self, json: D) -> Result<(), D::Error> {
        json.deserialize_map(self)
    }
}

impl<'de, F: FnMut(u64, Result<Candidate, Faults>) -> bool> Visitor<'de> for Shelf<'_, F> {
    type Value = ();

    fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "a shelf: an object with \"format\": \"{FORMAT}\" and \"batteries\"")
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<(), A::Error> {
        let (mut format, mut version, mut batteries) = (false, false, false);
        while let Some(key) = map.next_key::<String>()? {
            let again = match key.as_str() {
                "format" => {
                    let told: String = map.next_value()?;
                    if told != FORMAT {
                        return Err(A::Error::custom(format!("format must be \"{FORMAT}\"")));
                    }
                    std::mem::replace(&mut format, true)
                }
                "version" => {
                    let told: u32 = map.next_value()?;
                    if told != VERSION {
                        let says = format!("this program reads version {VERSION} of a shelf");
                        return Err(A::Error::custom(says));
                    }
                    std::mem::replace(&mut version, true)
                }
                "batteries" => {
                    map.next_value_seed(Batteries { take: self.take })?;
                    std::mem::replace(&mut batteries, true)
                }
                _ => {
                    map.next_value::<IgnoredAny>()?;
                    let key: String = key.chars().take(40).collect();
                    return Err(A::Error::custom(format!("\"{key}\" is no part of a shelf")));
                }
            };
            if again {
                return Err(A::Error::custom(format!("\"{key}\" comes twice")));
            }
        }
        for (told, what) in [(format, "format"), (version, "version"), (batteries, "batteries")] {
            if !told {
                return Err(A::Error::custom(format!("\"{what}\" is missing")));
            }
        }
        Ok(())
    }
}

struct Batteries<'a, F> {
    take: &'a mut F,
}

impl<'de, F: FnMut(u64, Result<Candidate, Faults>) -> bool> DeserializeSeed<'de>
    for Batteries<'_, F>
{
    type Value = ();

    fn deserialize<D: Deserializer<'de>>(self, json: D) -> Result<(), D::Error> {
        json.deserialize_seq(self)
    }
}

impl<'de, F: FnMut(u64, Result<Candidate, Faults>) -> bool> Visitor<'de> for Batteries<'_, F> {
    type Value = ();

    fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("a list of batteries")
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut seq: A) -> Result<(), A::Error> {
        let mut n = 0;
        while let Some(text) = seq.next_element::<Box<RawValue>>()? {
            n += 1;
            if n > MOST_BATTERIES as u64 {
                return Err(A::Error::custom(format!(
                    "at most {MOST_BATTERIES} batteries are read"
                )));
            }
            if !(self.take)(n, read_candidate(text.get())) {
                return Err(A::Error::custom("told to stop"));
            }
        }
        Ok(())
    }
}
