-- Days on which to think of something. No row changes.

CREATE TABLE reminder (
    id      INTEGER PRIMARY KEY AUTOINCREMENT,
    day     TEXT NOT NULL,
    words   TEXT NOT NULL,
    done_on TEXT                             -- NULL while it is open
) STRICT;
CREATE INDEX reminder_open ON reminder (day) WHERE done_on IS NULL;
