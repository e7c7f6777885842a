-- The books in full: every kind of account with its terms, owners and facets; value notes; tags and members; attachments;
-- pending entries of a bank; the text index behind find; where a statement begins; saved filters; rates with their source.
-- Old rows are kept as they are; account, category, brought_row and rate are rebuilt because their checks or keys change.

CREATE TABLE account_next (
    id          INTEGER PRIMARY KEY AUTOINCREMENT,
    name        TEXT NOT NULL UNIQUE COLLATE NOCASE,
    kind        TEXT NOT NULL CHECK (kind IN ('current', 'savings', 'cash', 'card', 'loan', 'mortgage', 'property', 'vehicle',
                    'asset', 'liability', 'brokerage', 'pension', 'benefit', 'deposit')),
    side        TEXT NOT NULL CHECK (side IN ('asset', 'liability')),
    everyday    INTEGER NOT NULL CHECK (everyday IN (0, 1)),
    currency    TEXT NOT NULL CHECK (length(currency) = 3),
    institution TEXT NOT NULL DEFAULT '',
    number      TEXT NOT NULL DEFAULT '',    -- the bank's identifier, by which a file finds its account
    group_name  TEXT NOT NULL,
    opened_on   TEXT NOT NULL,
    closed_on   TEXT,                        -- a closed account keeps its history and takes no more entries
    shown       INTEGER NOT NULL DEFAULT 1 CHECK (shown IN (0, 1)),
    position    INTEGER NOT NULL DEFAULT 0,
    note        TEXT NOT NULL DEFAULT ''
) STRICT;
INSERT INTO account_next (id, name, kind, side, everyday, currency, institution, number, group_name, opened_on, shown,
                          position, note)
    SELECT id, name, kind, side, everyday, currency, institution, number, group_name, opened_on, shown, position, note
    FROM account;
DROP TABLE account;
ALTER TABLE account_next RENAME TO account;

CREATE TABLE account_terms (                 -- what only some kinds have; the id is the account's
    id                   INTEGER PRIMARY KEY REFERENCES account (id) ON DELETE CASCADE,
    limit_minor          INTEGER CHECK (limit_minor >= 0),
    rate                 TEXT,               -- a year, exact decimal: 0.185 is 18.5 per cent
    statement_day        INTEGER CHECK (statement_day BETWEEN 1 AND 31),
    due_day              INTEGER CHECK (due_day BETWEEN 1 AND 31),
    principal_minor      INTEGER CHECK (principal_minor >= 0),
    term_months          INTEGER CHECK (term_months > 0),
    payment_minor        INTEGER CHECK (payment_minor > 0),
    first_payment_on     TEXT,
    interest_category_id INTEGER REFERENCES category (id),   -- under which a payment's interest is filed
    set_by_id            INTEGER REFERENCES category (id),   -- from which a payment's principal is set by
    matures_on           TEXT,
    free_on              TEXT,               -- the day the money can first be taken out
    exit_cost_minor      INTEGER CHECK (exit_cost_minor >= 0),
    ceiling_minor        INTEGER CHECK (ceiling_minor >= 0), -- of a year's contributions, the employer's part counted in
    curve                TEXT NOT NULL DEFAULT '' CHECK (curve IN ('', 'carry', 'straight', 'percent', 'index')),
    curve_rate           TEXT,               -- for percent: a year, −0.15 loses 15 per cent
    curve_until          TEXT,               -- for straight: the day the last value is reached
    curve_last_minor     INTEGER,
    curve_index          TEXT                -- for index: the index's name at the market service
) STRICT;

CREATE TABLE account_owner (
    id         INTEGER PRIMARY KEY AUTOINCREMENT,
    account_id INTEGER NOT NULL REFERENCES account (id) ON DELETE CASCADE,
    member_id  INTEGER NOT NULL REFERENCES member (id) ON DELETE CASCADE,
    UNIQUE (account_id, member_id)
) STRICT;

CREATE TABLE facet (                         -- a way of arranging accounts that is the household's own
    id   INTEGER PRIMARY KEY AUTOINCREMENT,
    name TEXT NOT NULL UNIQUE COLLATE NOCASE
) STRICT;
INSERT INTO facet (name) VALUES ('Tax treatment'), ('Purpose');

CREATE TABLE account_facet (
    id         INTEGER PRIMARY KEY AUTOINCREMENT,
    account_id INTEGER NOT NULL REFERENCES account (id) ON DELETE CASCADE,
    facet_id   INTEGER NOT NULL REFERENCES facet (id) ON DELETE CASCADE,
    value      TEXT NOT NULL,
    UNIQUE (account_id, facet_id)
) STRICT;

CREATE TABLE category_next (
    id            INTEGER PRIMARY KEY AUTOINCREMENT,
    group_id      INTEGER NOT NULL REFERENCES category_group (id),
    name          TEXT NOT NULL UNIQUE COLLATE NOCASE,
    type          TEXT NOT NULL CHECK (type IN ('income', 'spending', 'transfer')),
    role          TEXT UNIQUE CHECK (role IN ('unsorted', 'opening', 'exchange', 'market')),  -- the four Bolsa itself needs
    position      INTEGER NOT NULL DEFAULT 0,
    in_budget     INTEGER NOT NULL DEFAULT 1 CHECK (in_budget IN (0, 1)),
    carries       INTEGER NOT NULL DEFAULT 1 CHECK (carries IN (0, 1)),
    carries_minus INTEGER NOT NULL DEFAULT 0 CHECK (carries_minus IN (0, 1)),
    retired       INTEGER NOT NULL DEFAULT 0 CHECK (retired IN (0, 1)),
    note          TEXT NOT NULL DEFAULT ''
) STRICT;
INSERT INTO category_next (id, group_id, name, type, role, position, in_budget, carries, carries_minus, retired, note)
    SELECT id, group_id, name, type, role, position, in_budget, carries, carries_minus, retired, note FROM category;
DROP TABLE category;
ALTER TABLE category_next RENAME TO category;
CREATE INDEX category_of_group ON category (group_id, position);
INSERT INTO category (group_id, name, type, role, position, in_budget)
    SELECT 1, iif(EXISTS (SELECT 1 FROM category WHERE name = 'Market gain and loss'), 'Market gain and loss, by Bolsa',
                  'Market gain and loss'), 'transfer', 'market', 3, 0;

CREATE TABLE value_note (                    -- what an apart account was worth at the end of a day
    id           INTEGER PRIMARY KEY AUTOINCREMENT,
    account_id   INTEGER NOT NULL REFERENCES account (id) ON DELETE CASCADE,
    day          TEXT NOT NULL,
    amount_minor INTEGER NOT NULL,
    source       TEXT NOT NULL CHECK (source IN ('hand', 'brought', 'carried', 'curve', 'index', 'between')),
    entry_id     INTEGER REFERENCES entry (id) ON DELETE SET NULL,  -- the entry that books gain or loss up to it, if any
    UNIQUE (account_id, day)
) STRICT;
CREATE INDEX value_note_of_entry ON value_note (entry_id) WHERE entry_id IS NOT NULL;

CREATE TABLE tag (
    id      INTEGER PRIMARY KEY AUTOINCREMENT,
    name    TEXT NOT NULL UNIQUE COLLATE NOCASE,
    note    TEXT NOT NULL DEFAULT '',
    retired INTEGER NOT NULL DEFAULT 0 CHECK (retired IN (0, 1))
) STRICT;

CREATE TABLE line_tag (
    id      INTEGER PRIMARY KEY AUTOINCREMENT,
    line_id INTEGER NOT NULL REFERENCES line (id) ON DELETE CASCADE,
    tag_id  INTEGER NOT NULL REFERENCES tag (id) ON DELETE CASCADE,
    UNIQUE (line_id, tag_id)
) STRICT;
CREATE INDEX line_tag_of_tag ON line_tag (tag_id, line_id);

ALTER TABLE line ADD COLUMN member_id INTEGER REFERENCES member (id);
CREATE INDEX line_of_member ON line (member_id, day) WHERE member_id IS NOT NULL;

ALTER TABLE entry ADD COLUMN origin TEXT NOT NULL DEFAULT '' CHECK (origin IN ('', 'adjustment', 'value'));
CREATE INDEX entry_by_origin ON entry (origin, day) WHERE origin <> '';

CREATE TABLE attachment (
    id         INTEGER PRIMARY KEY AUTOINCREMENT,
    entry_id   INTEGER NOT NULL REFERENCES entry (id) ON DELETE CASCADE,
    name       TEXT NOT NULL,
    media_type TEXT NOT NULL CHECK (media_type IN ('image/jpeg', 'image/png', 'image/webp', 'image/gif', 'application/pdf')),
    bytes      INTEGER NOT NULL,
    sha256     TEXT NOT NULL REFERENCES attachment_file (sha256),
    added_at   TEXT NOT NULL
) STRICT;
CREATE INDEX attachment_of_entry ON attachment (entry_id);

CREATE TABLE attachment_file (               -- the bytes, once, however often attached; kept until the trash is emptied
    sha256    TEXT PRIMARY KEY,
    content   BLOB NOT NULL,
    thumbnail BLOB NOT NULL                  -- PNG
) STRICT;

CREATE TABLE saved_filter (
    id      INTEGER PRIMARY KEY AUTOINCREMENT,
    name    TEXT NOT NULL UNIQUE COLLATE NOCASE,
    address TEXT NOT NULL                    -- the query of a register's address
) STRICT;

CREATE TABLE rate_next (                     -- units of home currency for one unit of this one, times 1e8
    id       INTEGER PRIMARY KEY AUTOINCREMENT,
    currency TEXT NOT NULL CHECK (length(currency) = 3),
    day      TEXT NOT NULL,
    rate_e8  INTEGER NOT NULL CHECK (rate_e8 > 0),
    source   TEXT NOT NULL CHECK (source IN ('hand', 'feed')),
    UNIQUE (currency, day)
) STRICT;
INSERT INTO rate_next (currency, day, rate_e8, source) SELECT currency, day, rate_e8, 'hand' FROM rate;
DROP TABLE rate;
ALTER TABLE rate_next RENAME TO rate;

ALTER TABLE statement ADD COLUMN opening_day TEXT;  -- the statement's first day; NULL where it follows the one before

ALTER TABLE connection_account ADD COLUMN last_seen TEXT;      -- the last day the institution sent this account
ALTER TABLE connection_account ADD COLUMN missing_since TEXT;  -- the day it was first missing there, while it is

CREATE TABLE brought_row_next (              -- every row as the bank sent it, and what became of it
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
    pending        INTEGER NOT NULL DEFAULT 0 CHECK (pending IN (0, 1)),  -- announced by the bank, not booked yet
    verdict        TEXT NOT NULL CHECK (verdict IN ('new', 'known', 'matched', 'suspicious', 'changed', 'vanished')),
    take           INTEGER NOT NULL CHECK (take IN (0, 1)),
    reason         TEXT NOT NULL DEFAULT '',
    match_line_id  INTEGER,                  -- the line it is, or would be, merged with
    line_id        INTEGER,                  -- the line it became or was merged into
    line_before    TEXT                      -- for a merge: state, bank_ref, raw_text of the line before, as JSON
) STRICT;
INSERT INTO brought_row_next (id, batch_id, account_id, day, amount_minor, payee, payee_key, memo, bank_ref, value_day,
                              file_line, verdict, take, reason, match_line_id, line_id, line_before)
    SELECT id, batch_id, account_id, day, amount_minor, payee, payee_key, memo, bank_ref, value_day, file_line, verdict, take,
           reason, match_line_id, line_id, line_before FROM brought_row;
DROP TABLE brought_row;
ALTER TABLE brought_row_next RENAME TO brought_row;
CREATE INDEX brought_row_of_batch ON brought_row (batch_id);
CREATE INDEX brought_row_of_account ON brought_row (account_id, day);
CREATE INDEX brought_row_by_ref ON brought_row (account_id, bank_ref) WHERE bank_ref <> '';
CREATE INDEX brought_row_by_payee ON brought_row (payee_key, id) WHERE line_id IS NOT NULL;
CREATE INDEX brought_row_of_line ON brought_row (line_id);

-- The words of every account line, for find: payee, memo, note, and what the bank sent. The rowid is the line's id.
CREATE VIRTUAL TABLE line_text USING fts5 (words, tokenize = "unicode61 remove_diacritics 2", prefix = '2 3 4 5 6', detail = none);
INSERT INTO line_text (rowid, words)
    SELECT l.id, p.name || ' ' || e.memo || ' ' || e.note || ' ' || l.raw_text
    FROM line l JOIN entry e ON e.id = l.entry_id JOIN payee p ON p.id = e.payee_id WHERE l.account_id IS NOT NULL;

-- While a row stands here the words and the kept totals of new lines are written afterwards, all at once: under triggers the
-- index writes itself out after every single row, and a total is looked up for every line (store/entries.py).
CREATE TABLE many_lines_now (
    reason TEXT NOT NULL
) STRICT;

CREATE TRIGGER line_text_added AFTER INSERT ON line
WHEN NEW.account_id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM many_lines_now) BEGIN
    INSERT INTO line_text (rowid, words)
    SELECT NEW.id, p.name || ' ' || e.memo || ' ' || e.note || ' ' || NEW.raw_text
    FROM entry e JOIN payee p ON p.id = e.payee_id WHERE e.id = NEW.entry_id;
END;
DROP TRIGGER line_added;
CREATE TRIGGER line_added AFTER INSERT ON line WHEN NOT EXISTS (SELECT 1 FROM many_lines_now) BEGIN
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
CREATE TRIGGER line_text_removed AFTER DELETE ON line WHEN OLD.account_id IS NOT NULL BEGIN
    DELETE FROM line_text WHERE rowid = OLD.id;
END;
CREATE TRIGGER line_text_changed AFTER UPDATE OF raw_text, account_id, entry_id ON line BEGIN
    DELETE FROM line_text WHERE rowid = OLD.id;
    INSERT INTO line_text (rowid, words)
    SELECT NEW.id, p.name || ' ' || e.memo || ' ' || e.note || ' ' || NEW.raw_text
    FROM entry e JOIN payee p ON p.id = e.payee_id WHERE e.id = NEW.entry_id AND NEW.account_id IS NOT NULL;
END;
CREATE TRIGGER entry_text_changed AFTER UPDATE OF payee_id, memo, note ON entry BEGIN
    DELETE FROM line_text WHERE rowid IN (SELECT id FROM line WHERE entry_id = NEW.id AND account_id IS NOT NULL);
    INSERT INTO line_text (rowid, words)
    SELECT l.id, p.name || ' ' || NEW.memo || ' ' || NEW.note || ' ' || l.raw_text
    FROM line l JOIN payee p ON p.id = NEW.payee_id WHERE l.entry_id = NEW.id AND l.account_id IS NOT NULL;
END;
CREATE TRIGGER payee_text_changed AFTER UPDATE OF name ON payee WHEN OLD.name IS NOT NEW.name BEGIN
    DELETE FROM line_text WHERE rowid IN (
        SELECT l.id FROM entry e JOIN line l ON l.entry_id = e.id WHERE e.payee_id = NEW.id AND l.account_id IS NOT NULL);
    INSERT INTO line_text (rowid, words)
    SELECT l.id, NEW.name || ' ' || e.memo || ' ' || e.note || ' ' || l.raw_text
    FROM entry e JOIN line l ON l.entry_id = e.id WHERE e.payee_id = NEW.id AND l.account_id IS NOT NULL;
END;
