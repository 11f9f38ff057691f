-- One rig with its day, its house rules, its stretches and its packs. What is looked up by stands in
-- columns; frames and bodies are the documents of docs/formats, whose names carry the units.

CREATE TABLE rig (
    id       INTEGER PRIMARY KEY,
    name     TEXT    NOT NULL,
    archived INTEGER NOT NULL DEFAULT 0,
    frame    TEXT    NOT NULL CHECK (json_valid(frame))
) STRICT;

CREATE TABLE stretch (
    id       INTEGER PRIMARY KEY,
    rig_id   INTEGER NOT NULL REFERENCES rig (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    body     TEXT    NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE INDEX stretch_of_rig ON stretch (rig_id, position);

CREATE TABLE pack (
    id       INTEGER PRIMARY KEY,
    rig_id   INTEGER NOT NULL REFERENCES rig (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    body     TEXT    NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE INDEX pack_of_rig ON pack (rig_id, position);

-- What a rig looked like before each change, so that any change can be taken back.
CREATE TABLE history (
    id       INTEGER PRIMARY KEY,
    rig_id   INTEGER NOT NULL REFERENCES rig (id) ON DELETE CASCADE,
    undone   INTEGER NOT NULL DEFAULT 0,
    sentence TEXT    NOT NULL,
    snapshot TEXT    NOT NULL CHECK (json_valid(snapshot))
) STRICT;
CREATE INDEX history_of_rig ON history (rig_id, undone, id);
