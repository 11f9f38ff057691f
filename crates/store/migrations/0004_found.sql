-- A battery's document stands alone; what it is looked up by stands beside it, all of it made from the
-- document, so that a shelf of a hundred thousand is taken in without any document being read.

CREATE TABLE document (id INTEGER PRIMARY KEY, name TEXT NOT NULL, body TEXT NOT NULL) STRICT;
INSERT INTO document (id, name, body) SELECT id, name, body FROM battery;
DROP TABLE battery;
CREATE TABLE battery (
    id   INTEGER PRIMARY KEY AUTOINCREMENT,
    -- What it is called even where the document cannot be read any more.
    name TEXT    NOT NULL,
    body TEXT    NOT NULL CHECK (json_valid(body))
) STRICT;
INSERT INTO battery (id, name, body) SELECT id, name, body FROM document;
DROP TABLE document;

CREATE TABLE found (
    id         INTEGER PRIMARY KEY REFERENCES battery (id) ON DELETE CASCADE,
    -- What words are looked for in; it begins with the name, the case of its letters folded.
    words      TEXT    NOT NULL,
    chemistry  TEXT    NOT NULL,
    system_v   INTEGER,
    volts      REAL    NOT NULL,
    ah         REAL,
    kg         REAL,
    price      REAL,
    amps       REAL,
    years      REAL,
    -- Depth and cycles of each promise, as 64-bit floats, the lowest byte first.
    promises   BLOB    NOT NULL,
    size_class TEXT,
    -- Heater 1, monitor 2, hidden 4, price taken for right 8, weight taken for right 16.
    marks      INTEGER NOT NULL,
    -- Doubts about the label by itself; those against the rest of the shelf change with the shelf.
    doubts     INTEGER NOT NULL
) STRICT;
-- Not unique: a shelf from before may hold two names that are one now, and both stay.
CREATE INDEX found_words ON found (words);

-- By which rules all this was made: by others, it is made anew when the file is opened.
CREATE TABLE found_by (rules INTEGER NOT NULL) STRICT;
INSERT INTO found_by (rules) VALUES (0);
