-- How debts are paid off together: what is paid beyond the least payments, in which order, and single payments. No row changes.

CREATE TABLE debt_plan (                     -- one row
    id         INTEGER PRIMARY KEY CHECK (id = 1),
    more_minor INTEGER NOT NULL DEFAULT 0 CHECK (more_minor >= 0),   -- a month, in home currency
    order_key  TEXT NOT NULL DEFAULT 'rate' CHECK (order_key IN ('rate', 'balance', 'hand'))
) STRICT;
INSERT INTO debt_plan (id) VALUES (1);

CREATE TABLE debt_place (                    -- the order by hand
    id         INTEGER PRIMARY KEY AUTOINCREMENT,
    account_id INTEGER NOT NULL UNIQUE REFERENCES account (id) ON DELETE CASCADE,
    position   INTEGER NOT NULL
) STRICT;

CREATE TABLE debt_payment (                  -- paid once, beyond all else
    id           INTEGER PRIMARY KEY AUTOINCREMENT,
    month        TEXT NOT NULL UNIQUE,
    amount_minor INTEGER NOT NULL CHECK (amount_minor > 0)
) STRICT;
