-- Sorting in full: rules and how they fared, what filed an entry, questions put to members, entries kept out of the answers, payees
-- kept apart from those like them or with a usual category, tags with a line of the tax form, what was said no to when payees and
-- transfers were proposed. No old row changes: no payee is kept apart, no tag has a tax line, no entry is kept out.

CREATE TABLE rule (
    id       INTEGER PRIMARY KEY AUTOINCREMENT,
    position INTEGER NOT NULL,               -- they are looked through in this order
    is_on    INTEGER NOT NULL DEFAULT 1 CHECK (is_on IN (0, 1)),
    made_on  TEXT NOT NULL                   -- the day it was made or last changed
) STRICT;

CREATE TABLE rule_condition (                -- one value of a condition; those of one number are alternatives
    id          INTEGER PRIMARY KEY AUTOINCREMENT,
    rule_id     INTEGER NOT NULL REFERENCES rule (id) ON DELETE CASCADE,
    number      INTEGER NOT NULL,
    kind        TEXT NOT NULL CHECK (kind IN ('payee', 'text', 'amount', 'direction', 'account', 'member', 'category', 'weekday', 'day')),
    how         TEXT NOT NULL DEFAULT '',
    text        TEXT NOT NULL DEFAULT '',
    least       INTEGER,                     -- an amount in minor units, a day of the month, a weekday (Monday 0)
    most        INTEGER,
    currency    TEXT NOT NULL DEFAULT '',
    account_id  INTEGER REFERENCES account (id),
    member_id   INTEGER REFERENCES member (id),
    category_id INTEGER REFERENCES category (id)
) STRICT;
CREATE INDEX condition_of_rule ON rule_condition (rule_id, number);

CREATE TABLE rule_action (                   -- one thing done; the parts of a split have one number
    id           INTEGER PRIMARY KEY AUTOINCREMENT,
    rule_id      INTEGER NOT NULL REFERENCES rule (id) ON DELETE CASCADE,
    number       INTEGER NOT NULL,
    kind         TEXT NOT NULL CHECK (kind IN ('file', 'transfer', 'split', 'rename', 'tag', 'member', 'ask', 'series', 'keep_out')),
    text         TEXT NOT NULL DEFAULT '',
    category_id  INTEGER REFERENCES category (id),
    account_id   INTEGER REFERENCES account (id),
    member_id    INTEGER REFERENCES member (id),
    series_id    INTEGER REFERENCES series (id) ON DELETE CASCADE,
    tag_id       INTEGER REFERENCES tag (id),
    amount_minor INTEGER,
    share_e6     INTEGER
) STRICT;
CREATE INDEX action_of_rule ON rule_action (rule_id, number);

CREATE TABLE rule_met (                      -- an entry a rule met when rules ran, and who came before it, if that left it nothing to say
    id        INTEGER PRIMARY KEY AUTOINCREMENT,
    rule_id   INTEGER NOT NULL REFERENCES rule (id) ON DELETE CASCADE,
    entry_id  INTEGER NOT NULL REFERENCES entry (id) ON DELETE CASCADE,
    day       TEXT NOT NULL,                 -- the entry's
    before_id INTEGER REFERENCES rule (id) ON DELETE SET NULL,
    UNIQUE (rule_id, entry_id)
) STRICT;
CREATE INDEX met_by_day ON rule_met (rule_id, day);
CREATE INDEX met_of_entry ON rule_met (entry_id);

CREATE TABLE filing (                        -- what filed an entry, where no person decided it by itself
    id          INTEGER PRIMARY KEY REFERENCES entry (id) ON DELETE CASCADE,
    way         TEXT NOT NULL CHECK (way IN ('rule', 'suggestion')),
    rule_id     INTEGER REFERENCES rule (id) ON DELETE SET NULL,
    category_id INTEGER REFERENCES category (id) ON DELETE CASCADE,   -- where it was filed then; none: a transfer or a split
    words       TEXT NOT NULL,               -- the rule's sentence, or the suggestion's reason, as it was then
    filed_on    TEXT NOT NULL
) STRICT;
CREATE INDEX filing_of_rule ON filing (rule_id) WHERE rule_id IS NOT NULL;

CREATE TABLE question (                      -- an entry put to a member, until it is answered
    id          INTEGER PRIMARY KEY AUTOINCREMENT,
    entry_id    INTEGER NOT NULL REFERENCES entry (id) ON DELETE CASCADE,
    member_id   INTEGER NOT NULL REFERENCES member (id),
    asked_by    INTEGER REFERENCES member (id),
    asked_on    TEXT NOT NULL,
    note        TEXT NOT NULL DEFAULT '',
    rule_id     INTEGER REFERENCES rule (id) ON DELETE SET NULL,
    answered_on TEXT,
    answer      TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX question_of_entry ON question (entry_id);
CREATE INDEX question_open ON question (member_id) WHERE answered_on IS NULL;

CREATE TABLE kept_out (                      -- entries that no answer counts; the id is the entry's
    id INTEGER PRIMARY KEY REFERENCES entry (id) ON DELETE CASCADE
) STRICT;

CREATE TABLE proposal_refused (              -- two payees that are not one, two entries that are no transfer
    id    INTEGER PRIMARY KEY AUTOINCREMENT,
    kind  TEXT NOT NULL CHECK (kind IN ('payees', 'transfer', 'double')),
    one   INTEGER NOT NULL,                  -- ids of payees or of entries, the smaller first
    other INTEGER NOT NULL,
    UNIQUE (kind, one, other)
) STRICT;

ALTER TABLE payee ADD COLUMN category_id INTEGER REFERENCES category (id);                          -- where it usually goes, as a person said
ALTER TABLE payee ADD COLUMN apart INTEGER NOT NULL DEFAULT 0 CHECK (apart IN (0, 1));              -- never one shop with those like it
ALTER TABLE tag ADD COLUMN tax_line TEXT NOT NULL DEFAULT '';                                       -- of the tax form
ALTER TABLE tag ADD COLUMN tax_copy INTEGER NOT NULL DEFAULT 0 CHECK (tax_copy >= 0);               -- which of several such forms; 0: the only one

-- What is kept out leaves the kept sums of the answers, and comes back with them.
DROP VIEW answer_line;
CREATE VIEW answer_line AS                   -- what each category line adds to it
SELECT l.id AS line_id, l.entry_id, l.category_id, substr(l.day, 1, 7) AS month, e.payee_id, coalesce(l.member_id, 0) AS member_id,
    coalesce((SELECT a.account_id FROM line a WHERE a.entry_id = l.entry_id AND a.account_id IS NOT NULL ORDER BY a.id LIMIT 1), 0)
        AS account_id, l.currency, l.amount_minor
FROM line l JOIN entry e ON e.id = l.entry_id
WHERE l.account_id IS NULL AND NOT EXISTS (SELECT 1 FROM kept_out k WHERE k.id = l.entry_id);

CREATE TRIGGER answer_kept_out BEFORE INSERT ON kept_out BEGIN
    INSERT INTO answer_month SELECT category_id, month, payee_id, member_id, account_id, currency, -amount_minor
    FROM answer_line WHERE entry_id = NEW.id
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE TRIGGER answer_taken_back AFTER DELETE ON kept_out BEGIN
    INSERT INTO answer_month SELECT category_id, month, payee_id, member_id, account_id, currency, amount_minor
    FROM answer_line WHERE entry_id = OLD.id
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE INDEX trade_by_entry ON trade (entry_id) WHERE entry_id IS NOT NULL;
CREATE INDEX payday_by_entry ON payday (entry_id) WHERE entry_id IS NOT NULL;
