-- What was spent and received by payee and member is kept by month, as it is by category: a year of a hundred thousand lines need
-- not be read through for a question. It is filled from the lines there are. An entry that is deleted takes its sums with it before
-- its lines go, since they no longer know its payee then.
--
-- No question is asked of rows by the bank's own id alone: they are compared among those of their days. The index of those ids
-- goes, which each brought row paid for. No row of either changes.

CREATE TABLE answer_month (                  -- category lines alone: income and spending
    category_id  INTEGER NOT NULL REFERENCES category (id) ON DELETE CASCADE,
    month        TEXT NOT NULL,
    payee_id     INTEGER NOT NULL REFERENCES payee (id) ON DELETE CASCADE,
    member_id    INTEGER NOT NULL,           -- 0 for nobody named
    currency     TEXT NOT NULL,
    amount_minor INTEGER NOT NULL,
    PRIMARY KEY (category_id, month, payee_id, member_id, currency)
) STRICT, WITHOUT ROWID;

INSERT INTO answer_month
SELECT l.category_id, substr(l.day, 1, 7), e.payee_id, coalesce(l.member_id, 0), l.currency, sum(l.amount_minor)
FROM line l JOIN entry e ON e.id = l.entry_id WHERE l.account_id IS NULL GROUP BY 1, 2, 3, 4, 5;

CREATE TRIGGER answer_added AFTER INSERT ON line WHEN NEW.account_id IS NULL BEGIN
    INSERT INTO answer_month (category_id, month, payee_id, member_id, currency, amount_minor)
    SELECT NEW.category_id, substr(NEW.day, 1, 7), payee_id, coalesce(NEW.member_id, 0), NEW.currency, NEW.amount_minor
    FROM entry WHERE id = NEW.entry_id
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE TRIGGER answer_removed AFTER DELETE ON line WHEN OLD.account_id IS NULL BEGIN
    UPDATE answer_month SET amount_minor = amount_minor - OLD.amount_minor
    WHERE category_id = OLD.category_id AND month = substr(OLD.day, 1, 7) AND member_id = coalesce(OLD.member_id, 0)
        AND currency = OLD.currency AND payee_id = (SELECT payee_id FROM entry WHERE id = OLD.entry_id);
END;

CREATE TRIGGER answer_changed AFTER UPDATE OF entry_id, account_id, category_id, currency, amount_minor, day, member_id ON line BEGIN
    UPDATE answer_month SET amount_minor = amount_minor - OLD.amount_minor
    WHERE OLD.account_id IS NULL AND category_id = OLD.category_id AND month = substr(OLD.day, 1, 7)
        AND member_id = coalesce(OLD.member_id, 0) AND currency = OLD.currency
        AND payee_id = (SELECT payee_id FROM entry WHERE id = OLD.entry_id);
    INSERT INTO answer_month (category_id, month, payee_id, member_id, currency, amount_minor)
    SELECT NEW.category_id, substr(NEW.day, 1, 7), payee_id, coalesce(NEW.member_id, 0), NEW.currency, NEW.amount_minor
    FROM entry WHERE id = NEW.entry_id AND NEW.account_id IS NULL
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE TRIGGER answer_of_other_payee AFTER UPDATE OF payee_id ON entry WHEN NEW.payee_id <> OLD.payee_id BEGIN
    INSERT INTO answer_month (category_id, month, payee_id, member_id, currency, amount_minor)
    SELECT category_id, substr(day, 1, 7), OLD.payee_id, coalesce(member_id, 0), currency, -amount_minor
    FROM line WHERE entry_id = NEW.id AND account_id IS NULL
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
    INSERT INTO answer_month (category_id, month, payee_id, member_id, currency, amount_minor)
    SELECT category_id, substr(day, 1, 7), NEW.payee_id, coalesce(member_id, 0), currency, amount_minor
    FROM line WHERE entry_id = NEW.id AND account_id IS NULL
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

CREATE TRIGGER answer_gone BEFORE DELETE ON entry BEGIN
    INSERT INTO answer_month (category_id, month, payee_id, member_id, currency, amount_minor)
    SELECT category_id, substr(day, 1, 7), OLD.payee_id, coalesce(member_id, 0), currency, -amount_minor
    FROM line WHERE entry_id = OLD.id AND account_id IS NULL
    ON CONFLICT DO UPDATE SET amount_minor = amount_minor + excluded.amount_minor;
END;

DROP INDEX brought_row_by_ref;
