-- What an account held at the beginning of a day, where someone said so: the opening balance follows from it, so that rows dated
-- before count backwards. Of accounts there are it is what their opening entry says, unless lines are dated before that entry:
-- those stay as they are.

CREATE TABLE known_balance (
    id           INTEGER PRIMARY KEY REFERENCES account (id) ON DELETE CASCADE,   -- of the account
    day          TEXT NOT NULL,
    amount_minor INTEGER NOT NULL,
    entry_id     INTEGER UNIQUE REFERENCES entry (id) ON DELETE SET NULL          -- the opening balance
) STRICT;

INSERT INTO known_balance (id, day, amount_minor, entry_id)
SELECT l.account_id, l.day, l.amount_minor, l.entry_id FROM line l JOIN line c ON c.entry_id = l.entry_id AND c.category_id = 2
WHERE l.account_id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM line o WHERE o.account_id = l.account_id AND o.day < l.day)
GROUP BY l.account_id HAVING count(*) = 1;
