-- A person may say that a due has not come, which makes it late before its bank is asked. due_mark is rebuilt without the list of its
-- kinds, which the core keeps; no row changes.

CREATE TABLE due_mark_next (                 -- what a person said of one due, or of one entry of the payee
    id        INTEGER PRIMARY KEY AUTOINCREMENT,
    series_id INTEGER NOT NULL REFERENCES series (id) ON DELETE CASCADE,
    kind      TEXT NOT NULL,
    day       TEXT NOT NULL,                 -- the due's, or the entry's that is kept out
    line_id   INTEGER                        -- the entry's line on the series' account, while it is there
) STRICT;
INSERT INTO due_mark_next (id, series_id, kind, day, line_id) SELECT id, series_id, kind, day, line_id FROM due_mark;
DROP TABLE due_mark;
ALTER TABLE due_mark_next RENAME TO due_mark;
CREATE INDEX due_mark_of_series ON due_mark (series_id);
