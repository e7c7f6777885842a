-- Pay is taken apart: a series that comes in, the lines of its payslip, and each payday confirmed into one entry whose lines are all
-- of these. What a payslip said stands in the ledger alone; payday_line says which line of the entry is which of the payslip.

CREATE TABLE pay (
    id        INTEGER PRIMARY KEY AUTOINCREMENT,
    series_id INTEGER NOT NULL UNIQUE REFERENCES series (id),  -- employer, account, rhythm and net
    member_id INTEGER REFERENCES member (id),
    kept_from TEXT NOT NULL                  -- the first payday that is kept; before it the lines' start figures stand
) STRICT;

CREATE TABLE pay_line (
    id           INTEGER PRIMARY KEY AUTOINCREMENT,
    pay_id       INTEGER NOT NULL REFERENCES pay (id),
    position     INTEGER NOT NULL,
    kind         TEXT NOT NULL CHECK (kind IN ('earned', 'before', 'tax', 'after', 'employer')),
    name         TEXT NOT NULL,
    amount_minor INTEGER,
    percent      TEXT,                       -- of gross, an exact decimal
    account_id   INTEGER REFERENCES account (id) ON DELETE SET NULL,
    category_id  INTEGER REFERENCES category (id) ON DELETE SET NULL,
    start_minor  INTEGER NOT NULL DEFAULT 0, -- what the payslip said of the year before the first payday that is kept
    is_usual     INTEGER NOT NULL DEFAULT 1 CHECK (is_usual IN (0, 1)),
    CHECK (amount_minor IS NULL OR percent IS NULL),
    CHECK (account_id IS NULL OR category_id IS NULL)
) STRICT;
CREATE INDEX pay_line_of_pay ON pay_line (pay_id, position);

CREATE TABLE payday (                        -- one that was confirmed
    id       INTEGER PRIMARY KEY AUTOINCREMENT,
    pay_id   INTEGER NOT NULL REFERENCES pay (id),
    day      TEXT NOT NULL,                  -- of the series' rhythm
    entry_id INTEGER NOT NULL UNIQUE REFERENCES entry (id) ON DELETE CASCADE,
    is_made  INTEGER NOT NULL CHECK (is_made IN (0, 1)),  -- the entry was made by confirming: the books had no deposit yet
    UNIQUE (pay_id, day)
) STRICT;

CREATE TABLE payday_line (
    id          INTEGER PRIMARY KEY AUTOINCREMENT,
    line_id     INTEGER NOT NULL UNIQUE REFERENCES line (id) ON DELETE CASCADE,
    payday_id   INTEGER NOT NULL REFERENCES payday (id) ON DELETE CASCADE,
    pay_line_id INTEGER NOT NULL REFERENCES pay_line (id)
) STRICT;
CREATE INDEX payday_line_of_payday ON payday_line (payday_id);
CREATE INDEX payday_line_of_pay_line ON payday_line (pay_line_id);
