-- A number is given once: what Undo may bring back under its old one meets nobody else there, of another rig
-- least of all, and a page that has been open for long changes nothing but what it shows.

CREATE TABLE stretch_kept (
    id       INTEGER PRIMARY KEY AUTOINCREMENT,
    rig_id   INTEGER NOT NULL REFERENCES rig (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    body     TEXT    NOT NULL CHECK (json_valid(body))
) STRICT;
INSERT INTO stretch_kept (id, rig_id, position, body) SELECT id, rig_id, position, body FROM stretch;
DROP TABLE stretch;
ALTER TABLE stretch_kept RENAME TO stretch;
CREATE INDEX stretch_of_rig ON stretch (rig_id, position);

CREATE TABLE pack_kept (
    id       INTEGER PRIMARY KEY AUTOINCREMENT,
    rig_id   INTEGER NOT NULL REFERENCES rig (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    body     TEXT    NOT NULL CHECK (json_valid(body))
) STRICT;
INSERT INTO pack_kept (id, rig_id, position, body) SELECT id, rig_id, position, body FROM pack;
DROP TABLE pack;
ALTER TABLE pack_kept RENAME TO pack;
CREATE INDEX pack_of_rig ON pack (rig_id, position);

-- The same of changes: by its number a window knows which one its Undo stands for.
CREATE TABLE history_kept (
    id       INTEGER PRIMARY KEY AUTOINCREMENT,
    rig_id   INTEGER NOT NULL REFERENCES rig (id) ON DELETE CASCADE,
    undone   INTEGER NOT NULL DEFAULT 0,
    sentence TEXT    NOT NULL,
    snapshot TEXT    NOT NULL CHECK (json_valid(snapshot))
) STRICT;
INSERT INTO history_kept (id, rig_id, undone, sentence, snapshot)
    SELECT id, rig_id, undone, sentence, snapshot FROM history;
DROP TABLE history;
ALTER TABLE history_kept RENAME TO history;
CREATE INDEX history_of_rig ON history (rig_id, undone, id);

CREATE TABLE shelf_change_kept (
    id        INTEGER PRIMARY KEY AUTOINCREMENT,
    undone    INTEGER NOT NULL DEFAULT 0,
    sentence  TEXT    NOT NULL,
    bytes     INTEGER NOT NULL DEFAULT 0,
    turned_to INTEGER
) STRICT;
INSERT INTO shelf_change_kept (id, undone, sentence, bytes, turned_to)
    SELECT id, undone, sentence, bytes, turned_to FROM shelf_change;
CREATE TABLE shelf_was_kept (
    change_id  INTEGER NOT NULL REFERENCES shelf_change_kept (id) ON DELETE CASCADE,
    battery_id INTEGER NOT NULL,
    body       TEXT    CHECK (body IS NULL OR json_valid(body)),
    PRIMARY KEY (change_id, battery_id)
) STRICT, WITHOUT ROWID;
INSERT INTO shelf_was_kept (change_id, battery_id, body) SELECT change_id, battery_id, body FROM shelf_was;
DROP TABLE shelf_was;
DROP TABLE shelf_change;
ALTER TABLE shelf_change_kept RENAME TO shelf_change;
ALTER TABLE shelf_was_kept RENAME TO shelf_was;
CREATE INDEX shelf_was_battery ON shelf_was (battery_id, change_id);

-- What only the history knows keeps its number too.
DELETE FROM sqlite_sequence WHERE name IN ('stretch', 'pack', 'battery');
INSERT INTO sqlite_sequence (name, seq)
    SELECT 'stretch', max(
        coalesce((SELECT max(id) FROM stretch), 0),
        coalesce((SELECT max(was.value ->> 'id') FROM history, json_each(history.snapshot, '$.stretches') AS was), 0));
INSERT INTO sqlite_sequence (name, seq)
    SELECT 'pack', max(
        coalesce((SELECT max(id) FROM pack), 0),
        coalesce((SELECT max(was.value ->> 'id') FROM history, json_each(history.snapshot, '$.packs') AS was), 0));
INSERT INTO sqlite_sequence (name, seq)
    SELECT 'battery', max(
        coalesce((SELECT max(id) FROM battery), 0),
        coalesce((SELECT max(battery_id) FROM shelf_was), 0));
