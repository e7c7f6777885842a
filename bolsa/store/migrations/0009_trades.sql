-- Shares are valued: securities with a market and prices, trades with their cash and basis, lots. Every move of shares becomes the
-- trade it was: what was paid or received stays its total. An account's worth goes on being the one that is noted until it is set
-- to be counted by its shares (account.counts_shares), so that no figure moves by itself. A journal step about a move of shares is
-- about its trade from now on. category is rebuilt because it gets a role more.

ALTER TABLE account ADD COLUMN counts_shares INTEGER NOT NULL DEFAULT 0 CHECK (counts_shares IN (0, 1));
ALTER TABLE account_terms ADD COLUMN lot_method TEXT NOT NULL DEFAULT 'first'
    CHECK (lot_method IN ('first', 'average', 'highest', 'chosen'));

ALTER TABLE security ADD COLUMN symbol TEXT NOT NULL DEFAULT '';      -- by which its market knows it
ALTER TABLE security ADD COLUMN market TEXT NOT NULL DEFAULT '';      -- ISO 10383 code; '' if it is traded nowhere
ALTER TABLE security ADD COLUMN currency TEXT NOT NULL DEFAULT '';
ALTER TABLE security ADD COLUMN kind TEXT NOT NULL DEFAULT 'other' CHECK (kind IN ('share', 'fund', 'bond', 'other'));
ALTER TABLE security ADD COLUMN matures_on TEXT;
ALTER TABLE security ADD COLUMN is_compared INTEGER NOT NULL DEFAULT 0 CHECK (is_compared IN (0, 1));  -- followed, never counted
UPDATE security SET currency = coalesce(
    (SELECT a.currency FROM share_move m JOIN account a ON a.id = m.account_id WHERE m.security_id = security.id ORDER BY m.id LIMIT 1),
    (SELECT a.currency FROM position_note p JOIN account a ON a.id = p.account_id WHERE p.security_id = security.id ORDER BY p.id LIMIT 1),
    (SELECT home_currency FROM household), '');

CREATE TABLE price (                         -- the close of a day as the market tells it; it can be asked again
    security_id INTEGER NOT NULL REFERENCES security (id) ON DELETE CASCADE,
    day         TEXT NOT NULL,
    price_e8    INTEGER NOT NULL CHECK (price_e8 > 0),
    PRIMARY KEY (security_id, day)
) STRICT, WITHOUT ROWID;

CREATE TABLE price_note (                    -- a price set by hand; it goes before the market's of that day
    id          INTEGER PRIMARY KEY AUTOINCREMENT,
    security_id INTEGER NOT NULL REFERENCES security (id) ON DELETE CASCADE,
    day         TEXT NOT NULL,
    price_e8    INTEGER NOT NULL CHECK (price_e8 > 0),
    UNIQUE (security_id, day)
) STRICT;

CREATE TABLE market_event (                  -- splits and distributions as the market tells them
    security_id INTEGER NOT NULL REFERENCES security (id) ON DELETE CASCADE,
    kind        TEXT NOT NULL CHECK (kind IN ('split', 'dividend')),
    day         TEXT NOT NULL,               -- the first day without it (ex)
    pay_day     TEXT,
    amount_e8   INTEGER,                     -- a dividend's, of one share, in the security's currency
    ratio_new   INTEGER,
    ratio_old   INTEGER,
    PRIMARY KEY (security_id, kind, day)
) STRICT, WITHOUT ROWID;

CREATE TABLE trade (                         -- what happened to shares of a security in an account, and the cash it moved there
    id             INTEGER PRIMARY KEY AUTOINCREMENT,
    account_id     INTEGER NOT NULL REFERENCES account (id),
    security_id    INTEGER NOT NULL REFERENCES security (id),
    day            TEXT NOT NULL,
    kind           TEXT NOT NULL CHECK (kind IN ('opening', 'buy', 'sell', 'reinvest', 'dividend', 'split', 'lieu', 'return', 'fee',
                       'in', 'out')),
    shares_e8      INTEGER NOT NULL DEFAULT 0,   -- above zero into the account
    total_minor    INTEGER,                  -- what was paid (negative) or received in the account's currency, the fee counted in;
                                             -- of 'opening' and 'in' what they had cost
    fee_minor      INTEGER NOT NULL DEFAULT 0 CHECK (fee_minor >= 0),
    basis_day      TEXT,                     -- of 'opening' and 'in': since when they are held
    taxed_minor    INTEGER,                  -- a distribution's parts, in the account's currency
    untaxed_minor  INTEGER,
    credit_minor   INTEGER,
    withheld_minor INTEGER,
    ex_day         TEXT,
    ratio_new      INTEGER CHECK (ratio_new > 0),    -- of 'split': so many new shares
    ratio_old      INTEGER CHECK (ratio_old > 0),    -- for so many old ones
    reason         TEXT NOT NULL DEFAULT '',
    bank_ref       TEXT NOT NULL DEFAULT '',
    batch_id       INTEGER REFERENCES batch (id),
    entry_id       INTEGER UNIQUE REFERENCES entry (id) ON DELETE SET NULL   -- the cash in the ledger, kept by Bolsa
) STRICT;
INSERT INTO trade (id, account_id, security_id, day, kind, shares_e8, total_minor, reason, bank_ref, batch_id)
    SELECT id, account_id, security_id, day, kind, shares_e8, total_minor, reason, bank_ref, batch_id FROM share_move;
DROP TABLE share_move;
CREATE INDEX trade_of_account ON trade (account_id, security_id, day);
CREATE INDEX trade_of_security ON trade (security_id, day);
CREATE INDEX trade_of_batch ON trade (batch_id) WHERE batch_id IS NOT NULL;
UPDATE journal_change SET table_name = 'trade' WHERE table_name = 'share_move';

CREATE TABLE trade_lot (                     -- which lot a trade that takes shares out takes them from, where that is chosen
    id        INTEGER PRIMARY KEY AUTOINCREMENT,
    trade_id  INTEGER NOT NULL REFERENCES trade (id) ON DELETE CASCADE,
    lot_id    INTEGER NOT NULL REFERENCES trade (id) ON DELETE CASCADE,   -- the trade that brought the lot
    shares_e8 INTEGER NOT NULL CHECK (shares_e8 > 0)
) STRICT;
CREATE INDEX trade_lot_of_trade ON trade_lot (trade_id);
CREATE INDEX trade_lot_of_lot ON trade_lot (lot_id);

CREATE TABLE lot (                           -- kept: what is held now, by the trade that brought it
    account_id  INTEGER NOT NULL REFERENCES account (id) ON DELETE CASCADE,
    security_id INTEGER NOT NULL REFERENCES security (id) ON DELETE CASCADE,
    position    INTEGER NOT NULL,            -- in the order in which they came
    trade_id    INTEGER NOT NULL REFERENCES trade (id) ON DELETE CASCADE,
    day         TEXT NOT NULL,               -- since when it is held
    shares_e8   INTEGER NOT NULL,            -- below zero: sold, and never bought as far as the books know
    cost_minor  INTEGER NOT NULL,            -- in the account's currency,
    own_minor   INTEGER,                     -- in the security's, NULL where no rate is known,
    home_minor  INTEGER,                     -- and in home currency
    is_known    INTEGER NOT NULL CHECK (is_known IN (0, 1)),   -- 0: nobody said what they cost
    PRIMARY KEY (account_id, security_id, position)
) STRICT, WITHOUT ROWID;

CREATE TABLE disposal (                      -- kept: what was sold, lot by lot
    account_id     INTEGER NOT NULL REFERENCES account (id) ON DELETE CASCADE,
    security_id    INTEGER NOT NULL REFERENCES security (id) ON DELETE CASCADE,
    position       INTEGER NOT NULL,
    trade_id       INTEGER NOT NULL REFERENCES trade (id) ON DELETE CASCADE,   -- the sale
    lot_id         INTEGER REFERENCES trade (id) ON DELETE CASCADE,            -- the trade that brought the shares
    bought_on      TEXT NOT NULL,
    sold_on        TEXT NOT NULL,
    shares_e8      INTEGER NOT NULL,
    cost_minor     INTEGER NOT NULL,
    own_minor      INTEGER,
    home_minor     INTEGER,
    proceeds_minor INTEGER NOT NULL,
    proceeds_own   INTEGER,
    proceeds_home  INTEGER,
    currency_minor INTEGER,                  -- what the rate alone made of the cost, in home currency
    is_known       INTEGER NOT NULL CHECK (is_known IN (0, 1)),
    PRIMARY KEY (account_id, security_id, position)
) STRICT, WITHOUT ROWID;

CREATE TABLE suspect_kept (                  -- a suspicion about a basis that was looked at and is right as it is
    id   INTEGER PRIMARY KEY AUTOINCREMENT,
    key  TEXT NOT NULL UNIQUE
) STRICT;

ALTER TABLE brought_share ADD COLUMN fee_minor INTEGER NOT NULL DEFAULT 0;
ALTER TABLE brought_share ADD COLUMN withheld_minor INTEGER;
ALTER TABLE brought_share ADD COLUMN ratio_new INTEGER;
ALTER TABLE brought_share ADD COLUMN ratio_old INTEGER;

CREATE TABLE category_next (
    id            INTEGER PRIMARY KEY AUTOINCREMENT,
    group_id      INTEGER NOT NULL REFERENCES category_group (id),
    name          TEXT NOT NULL UNIQUE COLLATE NOCASE,
    type          TEXT NOT NULL CHECK (type IN ('income', 'spending', 'transfer')),
    role          TEXT UNIQUE CHECK (role IN ('unsorted', 'opening', 'exchange', 'market', 'trades')),  -- the five Bolsa itself needs
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
    SELECT 1, iif(EXISTS (SELECT 1 FROM category WHERE name = 'Trades'), 'Trades, by Bolsa', 'Trades'), 'transfer', 'trades', 4, 0;
