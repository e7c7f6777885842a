-- Shares: the securities the household knows, what moved its shares, and the positions its institutions declare.
-- Old rows are kept as they are. Investment statements that were kept before are read when they are brought in again.

CREATE TABLE security (
    id   INTEGER PRIMARY KEY AUTOINCREMENT,
    name TEXT NOT NULL UNIQUE COLLATE NOCASE,
    code TEXT NOT NULL DEFAULT ''            -- the ISIN, or what the institution's files call it
) STRICT;
CREATE UNIQUE INDEX security_by_code ON security (code) WHERE code <> '';

CREATE TABLE share_move (                    -- shares that came into an account (positive) or left it, and why
    id          INTEGER PRIMARY KEY AUTOINCREMENT,
    account_id  INTEGER NOT NULL REFERENCES account (id),
    security_id INTEGER NOT NULL REFERENCES security (id),
    day         TEXT NOT NULL,
    kind        TEXT NOT NULL CHECK (kind IN ('opening', 'buy', 'sell', 'reinvest', 'split', 'in', 'out')),
    shares_e8   INTEGER NOT NULL CHECK (shares_e8 <> 0),
    total_minor INTEGER,                     -- what was paid for them (negative) or received, in the account's currency
    reason      TEXT NOT NULL DEFAULT '',    -- why they came or went where nothing was paid
    bank_ref    TEXT NOT NULL DEFAULT '',
    batch_id    INTEGER REFERENCES batch (id)
) STRICT;
CREATE INDEX share_move_of_account ON share_move (account_id, security_id, day);
CREATE INDEX share_move_of_batch ON share_move (batch_id) WHERE batch_id IS NOT NULL;

CREATE TABLE position_note (                 -- how many shares the institution says an account holds at the end of a day
    id          INTEGER PRIMARY KEY AUTOINCREMENT,
    account_id  INTEGER NOT NULL REFERENCES account (id),
    security_id INTEGER NOT NULL REFERENCES security (id),
    day         TEXT NOT NULL,
    shares_e8   INTEGER NOT NULL,
    batch_id    INTEGER REFERENCES batch (id),
    UNIQUE (account_id, security_id, day)
) STRICT;
CREATE INDEX position_note_of_batch ON position_note (batch_id) WHERE batch_id IS NOT NULL;
