-- The first schema: household, accounts, categories, entries and their lines, bringing in, checking, placing, journal.
-- There are no old rows. Later steps are new files; this one is never edited again.

CREATE TABLE household (
    id            INTEGER PRIMARY KEY CHECK (id = 1),
    name          TEXT NOT NULL,
    home_currency TEXT NOT NULL CHECK (length(home_currency) = 3),
    time_zone     TEXT NOT NULL,
    set_day       TEXT                       -- the day the clock is set to (demo and tests); NULL follows the machine
) STRICT;

CREATE TABLE setting (
    name  TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT, WITHOUT ROWID;

CREATE TABLE member (
    id   INTEGER PRIMARY KEY AUTOINCREMENT,
    name TEXT NOT NULL UNIQUE COLLATE NOCASE
) STRICT;

CREATE TABLE account (
    id          INTEGER PRIMARY KEY AUTOINCREMENT,
    name        TEXT NOT NULL UNIQUE COLLATE NOCASE,
    kind        TEXT NOT NULL CHECK (kind IN ('current', 'savings', 'cash', 'card', 'loan', 'property')),
    side        TEXT NOT NULL CHECK (side IN ('asset', 'liability')),
    everyday    INTEGER NOT NULL CHECK (everyday IN (0, 1)),
    currency    TEXT NOT NULL CHECK (length(currency) = 3),
    institution TEXT NOT NULL DEFAULT '',
    number      TEXT NOT NULL DEFAULT '',    -- the bank's identifier, by which a file finds its account
    group_name  TEXT NOT NULL,
    opened_on   TEXT NOT NULL,
    shown       INTEGER NOT NULL DEFAULT 1 CHECK (shown IN (0, 1)),
    position    INTEGER NOT NULL DEFAULT 0,
    note        TEXT NOT NULL DEFAULT ''
) STRICT;

CREATE TABLE bank_balance (                  -- what the bank said an account holds on a day
    id           INTEGER PRIMARY KEY AUTOINCREMENT,
    account_id   INTEGER NOT NULL REFERENCES account (id) ON DELETE CASCADE,
    day          TEXT NOT NULL,
    amount_minor INTEGER NOT NULL,
    batch_id     INTEGER REFERENCES batch (id) ON DELETE CASCADE
) STRICT;
CREATE INDEX bank_balance_of_account ON bank_balance (account_id, day);
CREATE INDEX bank_balance_of_batch ON bank_balance (batch_id);

CREATE TABLE rate (                          -- units of home currency for one unit of this one, times 1e8
    currency TEXT NOT NULL CHECK (length(currency) = 3),
    day      TEXT NOT NULL,
    rate_e8  INTEGER NOT NULL CHECK (rate_e8 > 0),
    PRIMARY KEY (currency, day)
) STRICT, WITHOUT ROWID;

CREATE TABLE category_group (
    id       INTEGER PRIMARY KEY AUTOINCREMENT,
    name     TEXT NOT NULL UNIQUE COLLATE NOCASE,
    position INTEGER NOT NULL DEFAULT 0
) STRICT;

CREATE TABLE category (
    id            INTEGER PRIMARY KEY AUTOINCREMENT,
    group_id      INTEGER NOT NULL REFERENCES category_group (id),
    name          TEXT NOT NULL UNIQUE COLLATE NOCASE,
    type          TEXT NOT NULL CHECK (type IN ('income', 'spending', 'transfer')),
    role          TEXT UNIQUE CHECK (role IN ('unsorted', 'opening', 'exchange')),  -- the three Bolsa itself needs
    position      INTEGER NOT NULL DEFAULT 0,
    in_budget     INTEGER NOT NULL DEFAULT 1 CHECK (in_budget IN (0, 1)),
    carries       INTEGER NOT NULL DEFAULT 1 CHECK (carries IN (0, 1)),
    carries_minus INTEGER NOT NULL DEFAULT 0 CHECK (carries_minus IN (0, 1)),
    retired       INTEGER NOT NULL DEFAULT 0 CHECK (retired IN (0, 1)),
    note          TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX category_of_group ON category (group_id, position);

CREATE TABLE payee (
    id   INTEGER PRIMARY KEY AUTOINCREMENT,
    name TEXT NOT NULL UNIQUE COLLATE NOCASE
) STRICT;

CREATE TABLE batch (                         -- one bringing-in: waiting in preview, then brought in, undone, or found empty of news
    id         INTEGER PRIMARY KEY AUTOINCREMENT,
    source     TEXT NOT NULL CHECK (source IN ('file', 'connection')),
    name       TEXT NOT NULL,                -- the file's name, or the institution's
    sha256     TEXT NOT NULL DEFAULT '',
    state      TEXT NOT NULL CHECK (state IN ('waiting', 'brought', 'undone', 'empty')),
    made_at    TEXT NOT NULL,
    brought_at TEXT,
    account_id INTEGER REFERENCES account (id),   -- for a file: the account it was brought to
    format     TEXT NOT NULL DEFAULT '',     -- ofx, camt, mt940, csv
    mapping    TEXT NOT NULL DEFAULT '',     -- for CSV: the mapping it was read with, as JSON
    warnings   TEXT NOT NULL DEFAULT '[]',   -- what was odd yet could be read, as a JSON list of sentences
    problem    TEXT NOT NULL DEFAULT ''      -- why a waiting file cannot be read yet
) STRICT;

CREATE TABLE upload (                        -- the file of a waiting batch, kept so that its mapping can be changed
    batch_id INTEGER PRIMARY KEY REFERENCES batch (id) ON DELETE CASCADE,
    content  BLOB NOT NULL
) STRICT;

CREATE TABLE csv_mapping (                   -- how the household reads a CSV of this shape
    id      INTEGER PRIMARY KEY AUTOINCREMENT,
    shape   TEXT NOT NULL UNIQUE,
    mapping TEXT NOT NULL
) STRICT;

CREATE TABLE brought_row (                   -- every row as the bank sent it, and what became of it
    id             INTEGER PRIMARY KEY AUTOINCREMENT,
    batch_id       INTEGER NOT NULL REFERENCES batch (id) ON DELETE CASCADE,
    account_id     INTEGER NOT NULL REFERENCES account (id),
    day            TEXT NOT NULL,
    amount_minor   INTEGER NOT NULL,
    payee          TEXT NOT NULL,
    payee_key      TEXT NOT NULL,            -- the payee in comparable form, by which a renamed payee is known again
    memo           TEXT NOT NULL,
    bank_ref       TEXT NOT NULL,
    value_day      TEXT,
    file_line      INTEGER NOT NULL,
    verdict        TEXT NOT NULL CHECK (verdict IN ('new', 'known', 'matched', 'suspicious')),
    take           INTEGER NOT NULL CHECK (take IN (0, 1)),
    reason         TEXT NOT NULL DEFAULT '',
    match_line_id  INTEGER,                  -- the line it is, or would be, merged with
    line_id        INTEGER,                  -- the line it became or was merged into
    line_before    TEXT                      -- for a merge: state, bank_ref, raw_text of the line before, as JSON
) STRICT;
CREATE INDEX brought_row_of_batch ON brought_row (batch_id);
CREATE INDEX brought_row_of_account ON brought_row (account_id, day);
CREATE INDEX brought_row_by_ref ON brought_row (account_id, bank_ref) WHERE bank_ref <> '';
CREATE INDEX brought_row_by_payee ON brought_row (payee_key, id) WHERE line_id IS NOT NULL;
CREATE INDEX brought_row_of_line ON brought_row (line_id);

CREATE TABLE entry (
    id       INTEGER PRIMARY KEY AUTOINCREMENT,
    day      TEXT NOT NULL,
    payee_id INTEGER NOT NULL REFERENCES payee (id),
    memo     TEXT NOT NULL DEFAULT '',
    note     TEXT NOT NULL DEFAULT '',
    batch_id INTEGER REFERENCES batch (id)
) STRICT;
CREATE INDEX entry_of_payee ON entry (payee_id, day);
CREATE INDEX entry_of_batch ON entry (batch_id) WHERE batch_id IS NOT NULL;

CREATE TABLE statement (
    id              INTEGER PRIMARY KEY AUTOINCREMENT,
    account_id      INTEGER NOT NULL REFERENCES account (id),
    closing_day     TEXT NOT NULL,
    opening_minor   INTEGER NOT NULL,
    closing_minor   INTEGER NOT NULL,
    state           TEXT NOT NULL CHECK (state IN ('open', 'reconciled')),
    reconciled_at   TEXT
) STRICT;
CREATE INDEX statement_of_account ON statement (account_id, closing_day);

CREATE TABLE statement_tick (                -- a line ticked on a statement that is still open
    id           INTEGER PRIMARY KEY AUTOINCREMENT,
    statement_id INTEGER NOT NULL REFERENCES statement (id) ON DELETE CASCADE,
    line_id      INTEGER NOT NULL UNIQUE REFERENCES line (id) ON DELETE CASCADE
) STRICT;
CREATE INDEX tick_of_statement ON statement_tick (statement_id);

CREATE TABLE line (
    id           INTEGER PRIMARY KEY AUTOINCREMENT,
    entry_id     INTEGER NOT NULL REFERENCES entry (id) ON DELETE CASCADE,
    account_id   INTEGER REFERENCES account (id),
    category_id  INTEGER REFERENCES category (id),
    currency     TEXT NOT NULL CHECK (length(currency) = 3),
    amount_minor INTEGER NOT NULL,
    day          TEXT NOT NULL,
    state        TEXT CHECK (state IN ('pending', 'cleared', 'reconciled')),
    bank_ref     TEXT NOT NULL DEFAULT '',
    value_day    TEXT,
    raw_text     TEXT NOT NULL DEFAULT '',
    statement_id INTEGER REFERENCES statement (id),
    everyday     INTEGER NOT NULL DEFAULT 0 CHECK (everyday IN (0, 1)),  -- the entry touches an everyday account
    CHECK (account_id IS NOT NULL OR category_id IS NOT NULL),
    CHECK ((account_id IS NULL) = (state IS NULL)),
    CHECK ((state = 'reconciled') = (statement_id IS NOT NULL) OR state IS NULL)
) STRICT;
CREATE INDEX line_of_entry ON line (entry_id);
CREATE INDEX line_of_account ON line (account_id, day, id, amount_minor) WHERE account_id IS NOT NULL;
CREATE INDEX line_of_amount ON line (account_id, amount_minor, day) WHERE account_id IS NOT NULL;
CREATE INDEX line_of_category ON line (category_id, day, id) WHERE category_id IS NOT NULL;
CREATE INDEX line_not_reconciled ON line (account_id, state, day, amount_minor) WHERE state <> 'reconciled';
CREATE INDEX line_of_statement ON line (statement_id) WHERE statement_id IS NOT NULL;

-- Kept totals: what each account and category moved in each month, so that a month's page never reads the history.
-- The triggers below are the only writers; `bolsa check` compares them with the lines.
CREATE TABLE account_month (
    account_id   INTEGER NOT NULL REFERENCES account (id) ON DELETE CASCADE,
    month        TEXT NOT NULL,
    amount_minor INTEGER NOT NULL,
    PRIMARY KEY (account_id, month)
) STRICT, WITHOUT ROWID;

CREATE TABLE category_month (
    category_id  INTEGER NOT NULL REFERENCES category (id) ON DELETE CASCADE,
    month        TEXT NOT NULL,
    currency     TEXT NOT NULL,
    report_minor INTEGER NOT NULL,           -- category lines alone: income and spending
    budget_minor INTEGER NOT NULL,           -- lines that leave everyday money, money set by included
    PRIMARY KEY (category_id, month, currency)
) STRICT, WITHOUT ROWID;
CREATE INDEX category_month_by_month ON category_month (month, category_id);

CREATE TRIGGER line_added AFTER INSERT ON line BEGIN
    INSERT INTO account_month (account_id, month, amount_minor)
    SELECT NEW.account_id, substr(NEW.day, 1, 7), NEW.amount_minor WHERE NEW.account_id IS NOT NULL
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
    INSERT INTO category_month (category_id, month, currency, report_minor, budget_minor)
    SELECT NEW.category_id, substr(NEW.day, 1, 7), NEW.currency,
           iif(NEW.account_id IS NULL, NEW.amount_minor, 0), NEW.everyday * NEW.amount_minor
    WHERE NEW.category_id IS NOT NULL
    ON CONFLICT DO UPDATE SET report_minor = report_minor + excluded.report_minor,
                              budget_minor = budget_minor + excluded.budget_minor;
END;

CREATE TRIGGER line_removed AFTER DELETE ON line BEGIN
    UPDATE account_month SET amount_minor = amount_minor - OLD.amount_minor
    WHERE account_id = OLD.account_id AND month = substr(OLD.day, 1, 7);
    UPDATE category_month SET report_minor = report_minor - iif(OLD.account_id IS NULL, OLD.amount_minor, 0),
                              budget_minor = budget_minor - OLD.everyday * OLD.amount_minor
    WHERE category_id = OLD.category_id AND month = substr(OLD.day, 1, 7) AND currency = OLD.currency;
END;

CREATE TRIGGER line_changed AFTER UPDATE OF account_id, category_id, currency, amount_minor, day, everyday ON line BEGIN
    UPDATE account_month SET amount_minor = amount_minor - OLD.amount_minor
    WHERE account_id = OLD.account_id AND month = substr(OLD.day, 1, 7);
    UPDATE category_month SET report_minor = report_minor - iif(OLD.account_id IS NULL, OLD.amount_minor, 0),
                              budget_minor = budget_minor - OLD.everyday * OLD.amount_minor
    WHERE category_id = OLD.category_id AND month = substr(OLD.day, 1, 7) AND currency = OLD.currency;
    INSERT INTO account_month (account_id, month, amount_minor)
    SELECT NEW.account_id, substr(NEW.day, 1, 7), NEW.amount_minor WHERE NEW.account_id IS NOT NULL
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
    INSERT INTO category_month (category_id, month, currency, report_minor, budget_minor)
    SELECT NEW.category_id, substr(NEW.day, 1, 7), NEW.currency,
           iif(NEW.account_id IS NULL, NEW.amount_minor, 0), NEW.everyday * NEW.amount_minor
    WHERE NEW.category_id IS NOT NULL
    ON CONFLICT DO UPDATE SET report_minor = report_minor + excluded.report_minor,
                              budget_minor = budget_minor + excluded.budget_minor;
END;

CREATE TABLE expected (                      -- an amount set by hand for a month; it carries on until the next one
    id           INTEGER PRIMARY KEY AUTOINCREMENT,
    category_id  INTEGER NOT NULL REFERENCES category (id) ON DELETE CASCADE,
    month        TEXT NOT NULL,
    amount_minor INTEGER NOT NULL CHECK (amount_minor >= 0),
    UNIQUE (category_id, month)
) STRICT;

CREATE TABLE placing (                       -- one placing, taking back, or side of a shift
    id           INTEGER PRIMARY KEY AUTOINCREMENT,
    category_id  INTEGER NOT NULL REFERENCES category (id) ON DELETE CASCADE,
    month        TEXT NOT NULL,
    amount_minor INTEGER NOT NULL,
    made_on      TEXT NOT NULL,
    other_id     INTEGER REFERENCES category (id) ON DELETE SET NULL,  -- for a shift: the other category
    reason       TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX placing_of_category ON placing (category_id, month);
CREATE INDEX placing_by_month ON placing (month, made_on);

CREATE TABLE placed_month (                  -- kept total of placing, written by the triggers below
    category_id  INTEGER NOT NULL REFERENCES category (id) ON DELETE CASCADE,
    month        TEXT NOT NULL,
    amount_minor INTEGER NOT NULL,
    PRIMARY KEY (category_id, month)
) STRICT, WITHOUT ROWID;

CREATE TRIGGER placing_added AFTER INSERT ON placing BEGIN
    INSERT INTO placed_month (category_id, month, amount_minor) VALUES (NEW.category_id, NEW.month, NEW.amount_minor)
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;
CREATE TRIGGER placing_removed AFTER DELETE ON placing BEGIN
    UPDATE placed_month SET amount_minor = amount_minor - OLD.amount_minor
    WHERE category_id = OLD.category_id AND month = OLD.month;
END;
CREATE TRIGGER placing_changed AFTER UPDATE ON placing BEGIN
    UPDATE placed_month SET amount_minor = amount_minor - OLD.amount_minor
    WHERE category_id = OLD.category_id AND month = OLD.month;
    INSERT INTO placed_month (category_id, month, amount_minor) VALUES (NEW.category_id, NEW.month, NEW.amount_minor)
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE TABLE trash (                         -- a deleted entry, whole, until the trash is emptied
    id         INTEGER PRIMARY KEY AUTOINCREMENT,
    entry_id   INTEGER NOT NULL,
    deleted_at TEXT NOT NULL,
    title      TEXT NOT NULL,
    snapshot   TEXT NOT NULL                 -- the entry's and its lines' rows as JSON
) STRICT;

CREATE TABLE connection (
    id           INTEGER PRIMARY KEY AUTOINCREMENT,
    institution  TEXT NOT NULL,
    base_url     TEXT NOT NULL,
    token        TEXT NOT NULL DEFAULT '',
    state        TEXT NOT NULL CHECK (state IN ('working', 'broken', 'cut off')),
    last_success TEXT,
    last_error   TEXT NOT NULL DEFAULT ''
) STRICT;

CREATE TABLE connection_account (
    id            INTEGER PRIMARY KEY AUTOINCREMENT,
    connection_id INTEGER NOT NULL REFERENCES connection (id) ON DELETE CASCADE,
    remote_number TEXT NOT NULL,
    remote_name   TEXT NOT NULL,
    remote_kind   TEXT NOT NULL,
    currency      TEXT NOT NULL,
    account_id    INTEGER REFERENCES account (id) ON DELETE SET NULL,
    UNIQUE (connection_id, remote_number)
) STRICT;

CREATE TABLE sitting (
    id          INTEGER PRIMARY KEY AUTOINCREMENT,
    started_at  TEXT NOT NULL,
    day         TEXT NOT NULL,
    member_id   INTEGER REFERENCES member (id),
    step        TEXT NOT NULL,               -- where it was left: bring, sort, check, place, look
    finished_at TEXT,
    worth_minor INTEGER NOT NULL             -- net worth when it began, to say what changed since
) STRICT;

-- The journal: a step is one thing a person did; its changes are the rows before and after, written by triggers that
-- store/journal.py makes from the schema. `journal_step_now` names the step that is being recorded, if any.
CREATE TABLE journal_step (
    id        INTEGER PRIMARY KEY AUTOINCREMENT,
    at        TEXT NOT NULL,
    member_id INTEGER REFERENCES member (id),
    sentence  TEXT NOT NULL,
    batch_id  INTEGER,                       -- for a bringing-in: the batch, whose undo is its own
    undone_by INTEGER REFERENCES journal_step (id)
) STRICT;

CREATE TABLE journal_change (
    id         INTEGER PRIMARY KEY AUTOINCREMENT,
    step_id    INTEGER NOT NULL REFERENCES journal_step (id),
    table_name TEXT NOT NULL,
    row_id     INTEGER NOT NULL,
    before     TEXT,
    after      TEXT
) STRICT;
CREATE INDEX journal_change_of_step ON journal_change (step_id);
CREATE INDEX journal_change_of_row ON journal_change (table_name, row_id);

CREATE TABLE journal_step_now (
    step_id INTEGER NOT NULL
) STRICT;

-- The categories Bolsa itself needs.
INSERT INTO category_group (id, name, position) VALUES (1, 'Kept by Bolsa', 1000);
INSERT INTO category (id, group_id, name, type, role, position, in_budget) VALUES
    (1, 1, 'Not sorted yet', 'spending', 'unsorted', 0, 0),
    (2, 1, 'Opening balances', 'transfer', 'opening', 1, 0),
    (3, 1, 'Currency exchange', 'transfer', 'exchange', 2, 0);
