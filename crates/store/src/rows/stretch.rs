//! A stretch of the day as a row.

use crate::error::StoreError;
use lake_hour_core::day::{Duty, Stretch};
use lake_hour_core::units::{Amps, Hours, Watts};
use rusqlite::{Connection, Row, named_params};
use serde::{Deserialize, Serialize};

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub(crate) struct StretchRow {
    pub(crate) id: i64,
    pub(crate) position: i64,
    name: String,
    minutes: f64,
    kind: String,
    amount: f64,
}

impl StretchRow {
    pub(crate) fn new(id: i64, position: i64, stretch: &Stretch) -> Self {
        let (kind, amount) = match stretch.duty {
            Duty::Off => ("off", 0.0),
            Duty::Current(a) => ("current", a.value()),
            Duty::Power(w) => ("power", w.value()),
            Duty::Setting(s) => ("setting", s),
        };
        Self {
            id,
            position,
            name: stretch.name.clone(),
            minutes: stretch.lasts.minutes(),
            kind: kind.to_owned(),
            amount,
        }
    }

    pub(crate) fn stretch(&self) -> Result<Stretch, StoreError> {
        let unknown = |_| StoreError::Unknown("stretch");
        Ok(Stretch {
            name: self.name.clone(),
            lasts: Hours::try_new(self.minutes / 60.0).map_err(unknown)?,
            duty: match self.kind.as_str() {
                "off" => Duty::Off,
                "current" => Duty::Current(Amps::try_new(self.amount).map_err(unknown)?),
                "power" => Duty::Power(Watts::try_new(self.amount).map_err(unknown)?),
                "setting" => Duty::Setting(self.amount),
                _ => return Err(StoreError::Unknown("stretch")),
            },
        })
    }

    fn from_row(row: &Row<'_>) -> rusqlite::Result<Self> {
        Ok(Self {
            id: row.get("id")?,
            position: row.get("position")?,
            name: row.get("name")?,
            minutes: row.get("minutes")?,
            kind: row.get("kind")?,
            amount: row.get("amount")?,
        })
    }

    pub(crate) fn all(c: &Connection, rig: i64) -> Result<Vec<Self>, StoreError> {
        let mut select =
            c.prepare_cached("SELECT * FROM stretch WHERE rig_id = ?1 ORDER BY position, id")?;
        let rows = select.query_map([rig], Self::from_row)?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// Writes the row; an id of 0 is given a new one, which is returned.
    pub(crate) fn put(&self, c: &Connection, rig: i64) -> Result<i64, StoreError> {
        c.prepare_cached(
            "INSERT OR REPLACE INTO stretch (id, rig_id, position, name, minutes, kind, amount)
             VALUES (nullif(:id, 0), :rig, :position, :name, :minutes, :kind, :amount)",
        )?
        .execute(named_params! {
            ":id": self.id,
            ":rig": rig,
            ":position": self.position,
            ":name": self.name,
            ":minutes": self.minutes,
            ":kind": self.kind,
            ":amount": self.amount,
        })?;
        Ok(c.last_insert_rowid())
    }
}
