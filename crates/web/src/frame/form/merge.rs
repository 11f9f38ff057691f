//! Two windows on one form: what each of them changed is kept, whichever is sent last.

use super::Typed;
use std::collections::{BTreeMap, BTreeSet};

/// What a window knows of a form, as it says itself.
#[derive(Debug, Clone, Default, PartialEq, Eq, serde::Deserialize)]
pub(super) struct Seen {
    /// Fields that somebody typed in.
    touched: BTreeSet<String>,
    /// What it saw in fields: as they were kept, then what it sent itself since. All of them of a list.
    was: BTreeMap<String, Vec<String>>,
}

/// A form over how things stand now.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Merged {
    /// The fields as they are to be read.
    pub(crate) typed: Typed,
    /// Somebody else had changed the same since this window saw it; what is typed here wins.
    pub(crate) over: bool,
}

/// The list was changed in another window, and no row of it can be told from another: nothing is removed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Moved;

/// Which row of a list a field stands in.
fn row(name: &str) -> Option<usize> {
    name.rsplit_once('_')?.1.parse().ok()
}

fn stem(name: &str) -> &str {
    name.rsplit_once('_').map_or(name, |(stem, _)| stem)
}

fn rows<'a>(names: impl Iterator<Item = &'a String>) -> usize {
    names.filter_map(|n| row(n)).max().map_or(0, |n| n + 1)
}

impl Typed {
    /// Lays what was typed in this window over how the form stands `now`. A form that does not say what
    /// its window saw, as one sent without scripts, is taken as it is.
    pub(crate) fn over(self, now: &Self) -> Result<Merged, Moved> {
        let Some(Seen { touched, was }) = self.seen.clone() else {
            return Ok(Merged { typed: self, over: false });
        };
        let (rows_now, rows_seen) = (rows(now.fields.keys()), rows(was.keys()));
        // Whether it stands as this window saw it, or sent it itself.
        let same = |name: &str| {
            let now = now.get(name);
            was.get(name).is_none_or(|seen| seen.iter().any(|s| s == now))
        };
        if let Some(gone) = self.taken_out() {
            let its_own = was.keys().filter(|n| row(n) == Some(gone)).all(|n| same(n));
            if rows_now != rows_seen || !its_own {
                return Err(Moved);
            }
        }
        if rows_now < rows_seen {
            // A row has gone, and which one cannot be told: the list as it is typed here is the list.
            return Ok(Merged { typed: self, over: true });
        }
        let mut fields = now.fields.clone();
        let mut over = false;
        for (name, value) in &self.fields {
            match row(name).filter(|n| *n >= rows_seen) {
                // A new row goes behind those that came meanwhile.
                Some(n) => {
                    let name = format!("{}_{}", stem(name), n + rows_now - rows_seen);
                    fields.insert(name, value.clone());
                }
                None if touched.contains(name) || !now.has(name) => {
                    over |= !same(name) && now.get(name) != value;
                    fields.insert(name.clone(), value.clone());
                }
                None => {}
            }
        }
        // A tick that was taken away is not sent at all.
        for name in touched.iter().filter(|n| !self.has(n) && now.has(n)) {
            fields.insert(name.clone(), String::new());
        }
        Ok(Merged { typed: Self { fields, seen: None, units: self.units }, over })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn typed(fields: &[(&str, &str)]) -> Typed {
        fields.iter().fold(Typed::default(), |t, (name, value)| t.with(name, *value))
    }

    fn sent(fields: &[(&str, &str)], seen: &[(&str, &[&str])]) -> Typed {
        let was: BTreeMap<_, Vec<_>> = seen
            .iter()
            .map(|(name, values)| {
                ((*name).to_owned(), values.iter().map(|v| (*v).to_owned()).collect())
            })
            .collect();
        let untouched = |name: &str| {
            let value = fields.iter().find(|(n, _)| *n == name).map(|(_, value)| *value);
            was.get(name).is_some_and(|seen| seen.first().map(String::as_str) == value)
        };
        let touched = was.keys().filter(|n| !untouched(n)).cloned().collect();
        Typed { seen: Some(Seen { touched, was }), ..typed(fields) }
    }

    #[test]
    fn another_field_of_the_same_form_stays_as_the_other_window_left_it() {
        let now = typed(&[("name", "Grebe"), ("hull", "400"), ("deck", "wood")]);
        let mine =
            sent(&[("name", "Skiff"), ("hull", "420"), ("deck", "wood")], &[("hull", &["380"])]);
        let Merged { typed, over } = mine.over(&now).unwrap();
        assert_eq!((typed.get("name"), typed.get("hull")), ("Grebe", "420"));
        assert!(over, "380 had become 400 meanwhile");
        let mine = sent(&[("name", "Skiff"), ("hull", "420")], &[("hull", &["380", "400"])]);
        assert!(!mine.over(&now).unwrap().over, "400 was this window's own");
    }

    #[test]
    fn a_form_without_scripts_is_taken_as_it_is() {
        let mine = typed(&[("name", "Skiff")]);
        let merged = mine.clone().over(&typed(&[("name", "Grebe")])).unwrap();
        assert_eq!(merged, Merged { typed: mine, over: false });
    }

    #[test]
    fn a_tick_taken_away_is_taken_away() {
        let now = typed(&[("pins", "yes"), ("name", "a")]);
        let mine = sent(&[("name", "a")], &[("pins", &["yes"])]);
        assert_eq!(mine.over(&now).unwrap().typed.get("pins"), "");
        let untouched = sent(&[("name", "b")], &[("name", &["a"])]);
        assert_eq!(untouched.over(&now).unwrap().typed.get("pins"), "yes");
    }

    #[test]
    fn two_new_rows_are_both_kept() {
        let now = typed(&[("name_0", "Bow"), ("name_1", "Theirs")]);
        let mine = sent(&[("name_0", "Bow"), ("name_1", "Mine")], &[("name_0", &["Bow"])]);
        let Merged { typed, over } = mine.over(&now).unwrap();
        assert_eq!(
            [typed.get("name_0"), typed.get("name_1"), typed.get("name_2")],
            ["Bow", "Theirs", "Mine"]
        );
        assert!(!over);
    }

    #[test]
    fn no_other_row_is_removed_than_the_one_that_was_seen() {
        let seen: &[(&str, &[&str])] = &[("name_0", &["Bow"]), ("name_1", &["Stern"])];
        let remove = sent(&[("name_0", "Bow"), ("name_1", "Stern"), ("take-out", "1")], seen);
        assert_eq!(remove.clone().over(&typed(&[("name_0", "Stern")])), Err(Moved));
        assert_eq!(
            remove.clone().over(&typed(&[("name_0", "Bow"), ("name_1", "Mid")])),
            Err(Moved)
        );
        let same = typed(&[("name_0", "Bow"), ("name_1", "Stern")]);
        assert_eq!(remove.over(&same).unwrap().typed.taken_out(), Some(1));
    }

    #[test]
    fn where_a_row_has_gone_the_later_list_wins_and_says_so() {
        let seen: &[(&str, &[&str])] = &[("name_0", &["Bow"]), ("name_1", &["Stern"])];
        let mine = sent(&[("name_0", "Bow"), ("name_1", "Rear")], seen);
        let merged = mine.over(&typed(&[("name_0", "Stern")])).unwrap();
        assert_eq!((merged.typed.get("name_0"), merged.over), ("Bow", true));
    }
}
