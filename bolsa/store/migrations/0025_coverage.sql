-- Which days of an account a batch's source told all bookings of: where two sources cover the same days, their bookings are the same
-- ones. Of batches brought in before nobody kept the period they declared, so it is that of their rows.

CREATE TABLE coverage (
    id          INTEGER PRIMARY KEY AUTOINCREMENT,
    batch_id    INTEGER NOT NULL REFERENCES batch (id) ON DELETE CASCADE,
    account_id  INTEGER NOT NULL REFERENCES account (id),
    first_day   TEXT NOT NULL,
    last_day    TEXT NOT NULL,
    is_declared INTEGER NOT NULL CHECK (is_declared IN (0, 1))   -- the source named the period; otherwise its rows did
) STRICT;
CREATE INDEX coverage_of_account ON coverage (account_id, last_day);
CREATE INDEX coverage_of_batch ON coverage (batch_id);

INSERT INTO coverage (batch_id, account_id, first_day, last_day, is_declared)
SELECT r.batch_id, r.account_id, min(r.day), max(r.day), 0 FROM brought_row r JOIN batch b ON b.id = r.batch_id
WHERE b.state IN ('brought', 'undone', 'waiting') AND r.pending = 0 AND r.verdict <> 'vanished' GROUP BY r.batch_id, r.account_id;
