//! Devices that were let in, and what each may do.

use crate::error::StoreError;
use rusqlite::types::{FromSql, FromSqlError, FromSqlResult, ValueRef};
use rusqlite::{Connection, OptionalExtension, Row, params};

/// What a device may do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Role {
    /// Look at the trip that is under way.
    Watch,
    /// Look at everything of the rigs, and write to the trip and the log.
    Log,
    /// All but what is done at the machine only.
    Everything,
}

impl Role {
    /// All of them, the least first.
    pub const ALL: [Self; 3] = [Self::Watch, Self::Log, Self::Everything];

    /// As it is kept and typed.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Watch => "watch",
            Self::Log => "log",
            Self::Everything => "everything",
        }
    }

    /// The role of this key.
    pub fn of(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|role| role.key() == key)
    }
}

impl FromSql for Role {
    fn column_result(value: ValueRef<'_>) -> FromSqlResult<Self> {
        Self::of(value.as_str()?).ok_or(FromSqlError::InvalidType)
    }
}

/// A device that was let in.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Device {
    /// Which.
    pub id: i64,
    /// What it is called.
    pub name: String,
    /// What it may do.
    pub role: Role,
    /// When it was let in, and when it was seen last: seconds since 1970.
    pub since: i64,
    /// As above.
    pub seen: i64,
}

impl Device {
    /// Whether it was not seen for so long that it is let in no more.
    pub const fn is_expired(&self, now: i64) -> bool {
        now - self.seen > UNUSED
    }
}

/// Most devices.
const MOST: i64 = 20;
/// One that was not seen for ninety days is let in no more. [s]
const UNUSED: i64 = 90 * 86_400;
/// It is written down no oftener that one was seen. [s]
const SEEN: i64 = 600;

fn of_row(r: &Row<'_>) -> rusqlite::Result<Device> {
    Ok(Device {
        id: r.get("id")?,
        name: r.get("name")?,
        role: r.get("role")?,
        since: r.get("since")?,
        seen: r.get("seen")?,
    })
}

/// Lets a device in.
pub(crate) fn let_in(
    c: &Connection,
    name: &str,
    role: Role,
    token: &[u8],
    now: i64,
) -> Result<i64, StoreError> {
    // Those that are let in no more make room.
    c.execute("DELETE FROM device WHERE ?1 - seen > ?2", [now, UNUSED])?;
    let there: i64 = c.query_row("SELECT count(*) FROM device", [], |r| r.get(0))?;
    if there >= MOST {
        return Err(StoreError::Full { what: "paired devices", most: MOST as usize });
    }
    c.execute(
        "INSERT INTO device (name, role, token, since, seen) VALUES (?1, ?2, ?3, ?4, ?4)",
        params![name, role.key(), token, now],
    )?;
    Ok(c.last_insert_rowid())
}

/// Devices that were let in.
pub(crate) fn devices(c: &Connection) -> Result<Vec<Device>, StoreError> {
    let mut select = c.prepare_cached("SELECT * FROM device ORDER BY id")?;
    Ok(select.query_map([], of_row)?.collect::<Result<_, _>>()?)
}

/// The device that shows this, where it is let in still.
pub(crate) fn device_of(
    c: &Connection,
    token: &[u8],
    now: i64,
) -> Result<Option<Device>, StoreError> {
    let mut select = c.prepare_cached("SELECT * FROM device WHERE token = ?1")?;
    let found = select.query_row([token], of_row).optional()?;
    Ok(found.filter(|device| !device.is_expired(now)))
}

/// Whether it is worth writing down that one was seen. A clock that was set back counts as later.
pub(crate) const fn is_news(device: &Device, now: i64) -> bool {
    now < device.seen || now - device.seen > SEEN
}

/// It was seen.
pub(crate) fn seen(c: &Connection, id: i64, now: i64) -> Result<(), StoreError> {
    c.execute("UPDATE device SET seen = ?2 WHERE id = ?1", [id, now])?;
    Ok(())
}

/// It is called otherwise, or may do something else.
pub(crate) fn tell(c: &Connection, id: i64, name: &str, role: Role) -> Result<(), StoreError> {
    let told = c.execute(
        "UPDATE device SET name = ?2, role = ?3 WHERE id = ?1",
        params![id, name, role.key()],
    )?;
    if told == 0 { Err(StoreError::NotFound("device")) } else { Ok(()) }
}

/// It is not let in any more.
pub(crate) fn shut_out(c: &Connection, id: i64) -> Result<(), StoreError> {
    c.execute("DELETE FROM device WHERE id = ?1", [id])?;
    Ok(())
}
