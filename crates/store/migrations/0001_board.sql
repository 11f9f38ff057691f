-- One rig with its day, its house rules and its packs. Units stand in the column names.
-- Lists that are only ever read whole (draw curve, devices, ratings, cycle promises) are JSON.

CREATE TABLE rig (
    id                    INTEGER PRIMARY KEY,
    name                  TEXT    NOT NULL,
    currency              TEXT    NOT NULL,
    craft_kind            TEXT    NOT NULL,
    length_m              REAL,
    loaded_mass_kg        REAL,
    motor_name            TEXT    NOT NULL,
    system_voltage_v      REAL    NOT NULL,
    max_current_a         REAL,
    draw_curve            TEXT    NOT NULL CHECK (json_valid(draw_curve)),
    controller_max_v      REAL,
    controller_min_v      REAL,
    battery_mass_limit_kg REAL,
    day_start_minute      INTEGER NOT NULL,
    ambient_c             REAL,
    battery_start_c       REAL,
    outings_per_year      REAL    NOT NULL,
    devices               TEXT    NOT NULL CHECK (json_valid(devices)),
    floors                TEXT    NOT NULL CHECK (json_valid(floors)),
    reserve               REAL    NOT NULL,
    horizon_years         REAL    NOT NULL,
    kept_at_c             REAL    NOT NULL,
    resting_charge        REAL    NOT NULL
) STRICT;

CREATE TABLE stretch (
    id       INTEGER PRIMARY KEY,
    rig_id   INTEGER NOT NULL REFERENCES rig (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    name     TEXT    NOT NULL,
    minutes  REAL    NOT NULL,
    kind     TEXT    NOT NULL,
    amount   REAL    NOT NULL
) STRICT;
CREATE INDEX stretch_of_rig ON stretch (rig_id, position);

CREATE TABLE pack (
    id                     INTEGER PRIMARY KEY,
    rig_id                 INTEGER NOT NULL REFERENCES rig (id) ON DELETE CASCADE,
    position               INTEGER NOT NULL,
    name                   TEXT    NOT NULL,
    series                 INTEGER NOT NULL,
    parallel               INTEGER NOT NULL,
    extra_cost             REAL    NOT NULL,
    weak_capacity_share    REAL,
    weak_resistance_factor REAL,
    battery_name           TEXT    NOT NULL,
    chemistry              TEXT    NOT NULL,
    nominal_voltage_v      REAL    NOT NULL,
    ratings                TEXT    NOT NULL CHECK (json_valid(ratings)),
    cranking_a             REAL,
    mass_kg                REAL,
    length_mm              REAL,
    width_mm               REAL,
    height_mm              REAL,
    price                  REAL,
    max_continuous_a       REAL,
    peak_a                 REAL,
    peak_seconds           REAL,
    low_voltage_cutoff_v   REAL,
    resistance_ohm         REAL,
    cycles                 TEXT    NOT NULL CHECK (json_valid(cycles)),
    calendar_years         REAL
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
