-- Which column of a monitor's table is what, as its owner said it by hand: by the words of its headings, so that the next file of
-- that monitor is read the same.
CREATE TABLE monitor_columns (
    headings TEXT PRIMARY KEY,
    -- Keys of columns with their places, as [["time", 0], ["amps", 2]].
    said     TEXT NOT NULL CHECK (json_valid(said))
) STRICT, WITHOUT ROWID;
