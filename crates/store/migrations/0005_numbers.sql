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

-- What only the history knows keeps its number too.
DELETE FROM sqlite_sequence;
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
