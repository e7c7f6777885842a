-- What was spent and received is kept by account too, beside payee and member: the account of a category line is that of the first
-- account line of its entry, 0 where there is none. The table is made anew from the lines there are. While an entry's account lines
-- come, go or change, its sums are taken out before and put in after, since any of its category lines may stand on another account
-- then.

DROP TRIGGER answer_added;
DROP TRIGGER answer_removed;
DROP TRIGGER answer_changed;
DROP TRIGGER answer_of_other_payee;
DROP TRIGGER answer_gone;
DROP TABLE answer_month;

CREATE TABLE answer_month (                  -- category lines alone: income and spending
    category_id  INTEGER NOT NULL REFERENCES category (id) ON DELETE CASCADE,
    month        TEXT NOT NULL,
    payee_id     INTEGER NOT NULL REFERENCES payee (id) ON DELETE CASCADE,
    member_id    INTEGER NOT NULL,           -- 0 for nobody named
    account_id   INTEGER NOT NULL,           -- 0 for none
    currency     TEXT NOT NULL,
    amount_minor INTEGER NOT NULL,
    PRIMARY KEY (category_id, month, payee_id, member_id, account_id, currency)
) STRICT, WITHOUT ROWID;

CREATE VIEW answer_line AS                   -- what each category line adds to it
SELECT l.id AS line_id, l.entry_id, l.category_id, substr(l.day, 1, 7) AS month, e.payee_id, coalesce(l.member_id, 0) AS member_id,
    coalesce((SELECT a.account_id FROM line a WHERE a.entry_id = l.entry_id AND a.account_id IS NOT NULL ORDER BY a.id LIMIT 1), 0)
        AS account_id, l.currency, l.amount_minor
FROM line l JOIN entry e ON e.id = l.entry_id WHERE l.account_id IS NULL;

INSERT INTO answer_month
SELECT category_id, month, payee_id, member_id, account_id, currency, sum(amount_minor) FROM answer_line GROUP BY 1, 2, 3, 4, 5, 6;

CREATE TRIGGER answer_added AFTER INSERT ON line WHEN NEW.account_id IS NULL BEGIN
    INSERT INTO answer_month SELECT category_id, month, payee_id, member_id, account_id, currency, amount_minor
    FROM answer_line WHERE line_id = NEW.id
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE TRIGGER answer_removed BEFORE DELETE ON line WHEN OLD.account_id IS NULL BEGIN
    INSERT INTO answer_month SELECT category_id, month, payee_id, member_id, account_id, currency, -amount_minor
    FROM answer_line WHERE line_id = OLD.id
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE TRIGGER answer_before_change BEFORE UPDATE OF category_id, currency, amount_minor, day, member_id ON line
WHEN OLD.account_id IS NULL AND NEW.account_id IS NULL AND OLD.entry_id = NEW.entry_id BEGIN
    INSERT INTO answer_month SELECT category_id, month, payee_id, member_id, account_id, currency, -amount_minor
    FROM answer_line WHERE line_id = OLD.id
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE TRIGGER answer_after_change AFTER UPDATE OF category_id, currency, amount_minor, day, member_id ON line
WHEN OLD.account_id IS NULL AND NEW.account_id IS NULL AND OLD.entry_id = NEW.entry_id BEGIN
    INSERT INTO answer_month SELECT category_id, month, payee_id, member_id, account_id, currency, amount_minor
    FROM answer_line WHERE line_id = NEW.id
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE TRIGGER answer_before_account_added BEFORE INSERT ON line WHEN NEW.account_id IS NOT NULL BEGIN
    INSERT INTO answer_month SELECT category_id, month, payee_id, member_id, account_id, currency, -amount_minor
    FROM answer_line WHERE entry_id = NEW.entry_id
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE TRIGGER answer_after_account_added AFTER INSERT ON line WHEN NEW.account_id IS NOT NULL BEGIN
    INSERT INTO answer_month SELECT category_id, month, payee_id, member_id, account_id, currency, amount_minor
    FROM answer_line WHERE entry_id = NEW.entry_id
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE TRIGGER answer_before_account_removed BEFORE DELETE ON line WHEN OLD.account_id IS NOT NULL BEGIN
    INSERT INTO answer_month SELECT category_id, month, payee_id, member_id, account_id, currency, -amount_minor
    FROM answer_line WHERE entry_id = OLD.entry_id
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE TRIGGER answer_after_account_removed AFTER DELETE ON line WHEN OLD.account_id IS NOT NULL BEGIN
    INSERT INTO answer_month SELECT category_id, month, payee_id, member_id, account_id, currency, amount_minor
    FROM answer_line WHERE entry_id = OLD.entry_id
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE TRIGGER answer_before_account_changed BEFORE UPDATE OF entry_id, account_id ON line
WHEN OLD.account_id IS NOT NEW.account_id OR OLD.entry_id <> NEW.entry_id BEGIN
    INSERT INTO answer_month SELECT category_id, month, payee_id, member_id, account_id, currency, -amount_minor
    FROM answer_line WHERE entry_id IN (OLD.entry_id, NEW.entry_id)
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE TRIGGER answer_after_account_changed AFTER UPDATE OF entry_id, account_id ON line
WHEN OLD.account_id IS NOT NEW.account_id OR OLD.entry_id <> NEW.entry_id BEGIN
    INSERT INTO answer_month SELECT category_id, month, payee_id, member_id, account_id, currency, amount_minor
    FROM answer_line WHERE entry_id IN (OLD.entry_id, NEW.entry_id)
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE TRIGGER answer_before_other_payee BEFORE UPDATE OF payee_id ON entry WHEN NEW.payee_id <> OLD.payee_id BEGIN
    INSERT INTO answer_month SELECT category_id, month, payee_id, member_id, account_id, currency, -amount_minor
    FROM answer_line WHERE entry_id = OLD.id
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE TRIGGER answer_after_other_payee AFTER UPDATE OF payee_id ON entry WHEN NEW.payee_id <> OLD.payee_id BEGIN
    INSERT INTO answer_month SELECT category_id, month, payee_id, member_id, account_id, currency, amount_minor
    FROM answer_line WHERE entry_id = NEW.id
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE TRIGGER answer_gone BEFORE DELETE ON entry BEGIN
    INSERT INTO answer_month SELECT category_id, month, payee_id, member_id, account_id, currency, -amount_minor
    FROM answer_line WHERE entry_id = OLD.id
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;
