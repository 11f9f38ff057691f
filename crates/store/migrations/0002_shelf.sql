-- The shelf: candidate batteries, one shelf for all rigs. The body is a document of docs/formats; what
-- is sorted, filtered and compared by stands beside it in columns.

CREATE TABLE battery (
    id         INTEGER PRIMARY KEY,
    name       TEXT    NOT NULL,
    chemistry  TEXT    NOT NULL,
    lead       INTEGER NOT NULL,
    system_v   INTEGER,
    volts      REAL    NOT NULL,
    ah         REAL,
    wh         REAL,
    kg         REAL,
    price      REAL,
    amps       REAL,
    cycles     REAL,
    price_ah   REAL,
    price_wh   REAL,
    kg_wh      REAL,
    size_class TEXT,
    heater     INTEGER NOT NULL,
    monitor    INTEGER NOT NULL,
    hidden     INTEGER NOT NULL,
    -- Doubts about the label by itself; those against the rest of the shelf change with the shelf.
    doubts     INTEGER NOT NULL,
    price_ok   INTEGER NOT NULL,
    weight_ok  INTEGER NOT NULL,
    body       TEXT    NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE UNIQUE INDEX battery_name ON battery (name COLLATE NOCASE);
CREATE INDEX battery_shown ON battery (hidden, name COLLATE NOCASE);
CREATE INDEX battery_price ON battery (lead, price_wh) WHERE price_wh IS NOT NULL;
CREATE INDEX battery_weight ON battery (lead, kg_wh) WHERE kg_wh IS NOT NULL;

-- What each changed battery was before a change (nothing, if it was not there), so that any change, a
-- whole import too, can be taken back.
CREATE TABLE shelf_change (
    id       INTEGER PRIMARY KEY,
    undone   INTEGER NOT NULL DEFAULT 0,
    sentence TEXT    NOT NULL
) STRICT;
CREATE TABLE shelf_was (
    change_id  INTEGER NOT NULL REFERENCES shelf_change (id) ON DELETE CASCADE,
    battery_id INTEGER NOT NULL,
    body       TEXT    CHECK (body IS NULL OR json_valid(body)),
    PRIMARY KEY (change_id, battery_id)
) STRICT, WITHOUT ROWID;
