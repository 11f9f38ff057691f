-- Names are compared with the case of all letters folded (Ärger and ärger are one battery), large
-- changes of the shelf are made and turned in pieces, and what is remembered of them is bounded.

ALTER TABLE battery ADD COLUMN name_key TEXT NOT NULL DEFAULT '';
UPDATE battery SET name_key = folded(name);
DROP INDEX battery_name;
DROP INDEX battery_shown;
-- Not unique: a shelf from before may hold two names that are one now, and both stay.
CREATE INDEX battery_key ON battery (name_key);
CREATE INDEX battery_shown ON battery (hidden, name_key);

ALTER TABLE shelf_change ADD COLUMN bytes INTEGER NOT NULL DEFAULT 0;
-- The last battery that changed places, while the change is being turned.
ALTER TABLE shelf_change ADD COLUMN turned_to INTEGER;
CREATE INDEX shelf_was_battery ON shelf_was (battery_id, change_id);
