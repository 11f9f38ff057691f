-- What a rig went through and what is owned for it: outings, tests, packs. Each body is a document of docs/formats and bears
-- all that it needs, the plan it was driven by among it: it hangs on the rig alone, on nothing that Undo takes away.

CREATE TABLE logged (
    id     INTEGER PRIMARY KEY AUTOINCREMENT,
    rig_id INTEGER NOT NULL REFERENCES rig (id) ON DELETE CASCADE,
    -- The day, as "2026-09-22": by it entries stand in order.
    day    TEXT    NOT NULL,
    body   TEXT    NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE INDEX logged_of_rig ON logged (rig_id, day, id);
-- What a monitor recorded: an entry names it by its number. It is never changed, and stays where it is while an entry that
-- names it is taken out and brought back.
CREATE TABLE recorded (
    id     INTEGER PRIMARY KEY AUTOINCREMENT,
    rig_id INTEGER NOT NULL REFERENCES rig (id) ON DELETE CASCADE
) STRICT;
CREATE TABLE recorded_part (
    recorded_id INTEGER NOT NULL REFERENCES recorded (id) ON DELETE CASCADE,
    part        INTEGER NOT NULL,
    -- Rows packed and deflated.
    body        BLOB    NOT NULL,
    PRIMARY KEY (recorded_id, part)
) STRICT, WITHOUT ROWID;

-- Numbers begin where they do in a copy that was brought back.
INSERT INTO sqlite_sequence (name, seq) VALUES ('logged', 0), ('recorded', 0);
