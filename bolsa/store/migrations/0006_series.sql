-- What comes again and again is kept: series with their rhythm, what was refused of the proposals, and what a person said of single
-- dues and entries. An everyday account may have a floor. Nothing old changes; until now series were only found, never kept.

CREATE TABLE series (
    id                INTEGER PRIMARY KEY AUTOINCREMENT,
    payee_id          INTEGER NOT NULL REFERENCES payee (id),
    account_id        INTEGER NOT NULL REFERENCES account (id),
    category_id       INTEGER REFERENCES category (id),
    rrule             TEXT NOT NULL,         -- RFC 5545, without DTSTART
    start_day         TEXT NOT NULL,         -- from which the rule counts
    short_month       TEXT NOT NULL CHECK (short_month IN ('last', 'skip')),
    weekend           TEXT NOT NULL CHECK (weekend IN ('stay', 'before', 'after')),
    amount_minor      INTEGER NOT NULL CHECK (amount_minor <> 0),  -- in the account's currency, from its side
    amount_kind       TEXT NOT NULL CHECK (amount_kind IN ('fixed', 'last')),
    tolerance_days    INTEGER NOT NULL CHECK (tolerance_days BETWEEN 0 AND 31),
    tolerance_percent INTEGER NOT NULL CHECK (tolerance_percent BETWEEN 0 AND 100),
    ended_on          TEXT                   -- its last day, where it ended
) STRICT;
CREATE INDEX series_of_account ON series (account_id);
CREATE INDEX series_of_payee ON series (payee_id);

CREATE TABLE series_refused (                -- a proposal that is not to be made again
    id         INTEGER PRIMARY KEY AUTOINCREMENT,
    payee_id   INTEGER NOT NULL REFERENCES payee (id),
    account_id INTEGER NOT NULL REFERENCES account (id),
    UNIQUE (payee_id, account_id)
) STRICT;

CREATE TABLE due_mark (                      -- what a person said of one due, or of one entry of the payee
    id        INTEGER PRIMARY KEY AUTOINCREMENT,
    series_id INTEGER NOT NULL REFERENCES series (id) ON DELETE CASCADE,
    kind      TEXT NOT NULL CHECK (kind IN ('skipped', 'matched', 'out')),
    day       TEXT NOT NULL,                 -- the due's, or the entry's that is kept out
    line_id   INTEGER,                       -- the entry's line on the series' account, while it is there
    CHECK ((kind = 'skipped') = (line_id IS NULL))
) STRICT;
CREATE INDEX due_mark_of_series ON due_mark (series_id);

ALTER TABLE account_terms ADD COLUMN floor_minor INTEGER;  -- the balance an everyday account should not go below
