-- Aims, priorities and allowances, trials of a year, and months that are closed; indexes that serve sums over many trades. Categories
-- stay as they are: none has a priority of its own yet, so their order in the groups is that of filling.

ALTER TABLE category ADD COLUMN priority INTEGER NOT NULL DEFAULT 0;              -- among all; 0: after those that have one, by place
ALTER TABLE category ADD COLUMN member_id INTEGER REFERENCES member (id);         -- whose allowance it is

CREATE TABLE aim (                           -- how a category's needs come about; one without a row is filled month by month
    id           INTEGER PRIMARY KEY REFERENCES category (id) ON DELETE CASCADE,
    kind         TEXT NOT NULL CHECK (kind IN ('spread', 'build', 'keep', 'steady')),
    amount_minor INTEGER NOT NULL DEFAULT 0,
    by_day       TEXT,                       -- of a build: when it is to be there
    each_minor   INTEGER,                    -- or so much a month until it is
    repeat       INTEGER NOT NULL DEFAULT 0, -- and again after so many months; 0: never
    since        TEXT NOT NULL,              -- the month it was set in
    mark         TEXT NOT NULL DEFAULT '',   -- a sign of the household's own
    sha256       TEXT REFERENCES attachment_file (sha256)   -- or a picture
) STRICT;

CREATE TABLE aim_account (                   -- the accounts an aim reads its progress from
    id         INTEGER PRIMARY KEY AUTOINCREMENT,
    aim_id     INTEGER NOT NULL REFERENCES aim (id) ON DELETE CASCADE,
    account_id INTEGER NOT NULL REFERENCES account (id) ON DELETE CASCADE,
    UNIQUE (aim_id, account_id)
) STRICT;

CREATE TABLE trial (                         -- changes of the year that are not kept; one without a name is being tried
    id   INTEGER PRIMARY KEY AUTOINCREMENT,
    name TEXT NOT NULL DEFAULT ''
) STRICT;

CREATE TABLE trial_cell (
    id           INTEGER PRIMARY KEY AUTOINCREMENT,
    trial_id     INTEGER NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    category_id  INTEGER NOT NULL REFERENCES category (id) ON DELETE CASCADE,
    month        TEXT NOT NULL,
    amount_minor INTEGER CHECK (amount_minor >= 0),          -- NULL clears the figure of the plan
    every        INTEGER NOT NULL DEFAULT 1,
    is_end       INTEGER NOT NULL DEFAULT 0 CHECK (is_end IN (0, 1)),   -- nothing is expected from this month on
    UNIQUE (trial_id, category_id, month, is_end)
) STRICT;

CREATE TABLE trial_aim (
    id           INTEGER PRIMARY KEY AUTOINCREMENT,
    trial_id     INTEGER NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    category_id  INTEGER NOT NULL REFERENCES category (id) ON DELETE CASCADE,
    kind         TEXT NOT NULL CHECK (kind IN ('month', 'spread', 'build', 'keep', 'steady')),
    amount_minor INTEGER NOT NULL DEFAULT 0,
    by_day       TEXT,
    each_minor   INTEGER,
    repeat       INTEGER NOT NULL DEFAULT 0,
    since        TEXT NOT NULL,
    UNIQUE (trial_id, category_id)
) STRICT;

CREATE TABLE closed_month (                  -- a month that was looked through and closed, with how it stood then
    id             INTEGER PRIMARY KEY AUTOINCREMENT,
    month          TEXT NOT NULL UNIQUE,
    closed_on      TEXT NOT NULL,
    member_id      INTEGER REFERENCES member (id),
    unplaced_minor INTEGER NOT NULL,
    left_open      TEXT NOT NULL DEFAULT ''   -- what of the checklist was open, as it was said
) STRICT;

CREATE TABLE closed_category (
    id           INTEGER PRIMARY KEY AUTOINCREMENT,
    closed_id    INTEGER NOT NULL REFERENCES closed_month (id) ON DELETE CASCADE,
    category_id  INTEGER NOT NULL REFERENCES category (id) ON DELETE CASCADE,
    placed_minor INTEGER NOT NULL,
    spent_minor  INTEGER NOT NULL,
    left_minor   INTEGER NOT NULL,
    UNIQUE (closed_id, category_id)
) STRICT;

CREATE INDEX trade_moved ON trade (account_id, security_id, day, shares_e8) WHERE shares_e8 <> 0;
CREATE INDEX trade_total ON trade (kind, day, account_id, security_id, total_minor);
