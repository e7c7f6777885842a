-- What a file lists of a day stands beside what was noted by hand or listed by another file, and the later one counts: a file that is
-- taken out leaves what was there before it. position_note is rebuilt because only a batch's own word gives way to it from now on.

CREATE TABLE position_note_next (            -- how many shares the institution says an account holds at the end of a day
    id          INTEGER PRIMARY KEY AUTOINCREMENT,
    account_id  INTEGER NOT NULL REFERENCES account (id),
    security_id INTEGER NOT NULL REFERENCES security (id),
    day         TEXT NOT NULL,
    shares_e8   INTEGER NOT NULL,
    batch_id    INTEGER REFERENCES batch (id)
) STRICT;
INSERT INTO position_note_next (id, account_id, security_id, day, shares_e8, batch_id)
    SELECT id, account_id, security_id, day, shares_e8, batch_id FROM position_note;
DROP TABLE position_note;
ALTER TABLE position_note_next RENAME TO position_note;
CREATE UNIQUE INDEX position_note_by_source ON position_note (account_id, security_id, day, ifnull(batch_id, 0));
CREATE INDEX position_note_of_batch ON position_note (batch_id) WHERE batch_id IS NOT NULL;
