-- What a waiting file still asks stands in a column, not in a sentence; the accounts it speaks of, and the shares it brings, in
-- tables of their own. Until now both lay as JSON in batch.mapping, which is for the columns of a CSV alone from here on.

ALTER TABLE batch ADD COLUMN asks TEXT NOT NULL DEFAULT '' CHECK (asks IN ('', 'account', 'accounts', 'columns'));

CREATE TABLE batch_account (                 -- an account a file speaks of, and which one here it is
    id         INTEGER PRIMARY KEY AUTOINCREMENT,
    batch_id   INTEGER NOT NULL REFERENCES batch (id) ON DELETE CASCADE,
    number     TEXT NOT NULL,                -- as the file writes it, without blanks
    kind       TEXT NOT NULL,                -- what it seems to be, a kind of account
    currency   TEXT NOT NULL,
    rows       INTEGER NOT NULL,
    first_day  TEXT,                         -- the first day the file speaks of
    account_id INTEGER REFERENCES account (id) ON DELETE SET NULL,
    UNIQUE (batch_id, number)
) STRICT;
CREATE INDEX batch_account_of_account ON batch_account (account_id) WHERE account_id IS NOT NULL;

CREATE TABLE brought_share (                 -- a move of shares, or a position listed, as the institution sent it
    id          INTEGER PRIMARY KEY AUTOINCREMENT,
    batch_id    INTEGER NOT NULL REFERENCES batch (id) ON DELETE CASCADE,
    account_id  INTEGER NOT NULL REFERENCES account (id) ON DELETE CASCADE,
    kind        TEXT NOT NULL,               -- a kind of move, or 'listed'
    code        TEXT NOT NULL,
    name        TEXT NOT NULL,
    day         TEXT NOT NULL,
    shares_e8   INTEGER NOT NULL,
    total_minor INTEGER,
    reason      TEXT NOT NULL DEFAULT '',
    bank_ref    TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX brought_share_of_batch ON brought_share (batch_id, account_id);

UPDATE batch SET asks = 'columns' WHERE state = 'waiting' AND format = 'csv' AND problem <> '';
UPDATE batch SET asks = 'accounts', problem = '' WHERE state = 'waiting' AND format <> 'csv' AND problem <> '';
INSERT INTO batch_account (batch_id, number, kind, currency, rows, account_id)
    SELECT b.id, n.value, a.kind, a.currency, 0, a.id
    FROM batch b JOIN json_each(iif(b.mapping = '', '{}', b.mapping), '$.numbers') n JOIN account a ON a.id = n.key
    WHERE b.state = 'waiting' AND b.format <> 'csv' AND b.asks = '';
-- Files of shares that wait are read anew: they ask once more which account is which, and propose the one they had.
UPDATE batch SET asks = 'accounts' WHERE state = 'waiting' AND format <> 'csv' AND json_extract(iif(mapping = '', '{}', mapping), '$.shares') <> '{}';
INSERT INTO batch_account (batch_id, number, kind, currency, rows, account_id)
    SELECT b.id, n.key, a.kind, a.currency, 0, a.id
    FROM batch b JOIN json_each(iif(b.mapping = '', '{}', b.mapping), '$.shares') n JOIN account a ON a.id = n.value
    WHERE b.asks = 'accounts' AND b.mapping <> '' ON CONFLICT DO NOTHING;
DELETE FROM brought_row WHERE batch_id IN (SELECT id FROM batch WHERE asks = 'accounts');
DELETE FROM bank_balance WHERE batch_id IN (SELECT id FROM batch WHERE asks = 'accounts');
UPDATE batch SET mapping = '' WHERE format <> 'csv';
