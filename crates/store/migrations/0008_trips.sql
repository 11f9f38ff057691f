-- Trips under way, and what was heard of them: nothing that was heard is lost where the program ends in the middle of one.

CREATE TABLE trip (
    id     INTEGER PRIMARY KEY AUTOINCREMENT,
    rig_id INTEGER NOT NULL REFERENCES rig (id) ON DELETE CASCADE,
    -- What it began with, a document of docs/formats.
    body   TEXT    NOT NULL CHECK (json_valid(body)),
    -- Seconds since 1970.
    began  INTEGER NOT NULL,
    ended  INTEGER,
    -- The recorded rows that the log's entry of it names.
    recorded_id INTEGER REFERENCES recorded (id) ON DELETE SET NULL
) STRICT;
-- One at a time.
CREATE UNIQUE INDEX trip_under_way ON trip (rig_id) WHERE ended IS NULL;
CREATE TABLE trip_part (
    trip_id INTEGER NOT NULL REFERENCES trip (id) ON DELETE CASCADE,
    part    INTEGER NOT NULL,
    -- Lines of what was heard, deflated.
    body    BLOB    NOT NULL,
    PRIMARY KEY (trip_id, part)
) STRICT, WITHOUT ROWID;

-- Phones and tablets that were let in. What each shows is kept as its SHA-256 only.
CREATE TABLE device (
    id    INTEGER PRIMARY KEY AUTOINCREMENT,
    name  TEXT    NOT NULL,
    token BLOB    NOT NULL UNIQUE CHECK (length(token) = 32),
    since INTEGER NOT NULL,
    seen  INTEGER NOT NULL
) STRICT;

-- Numbers begin where they do in a copy that was brought back.
INSERT INTO sqlite_sequence (name, seq) VALUES ('trip', 0), ('device', 0);
