-- What follows a new line stands in one trigger, not two, and asks nothing first: where many lines are written at once, the
-- trigger is set aside meanwhile (store/ledger/entries.py), so the switch that told it to keep still is not needed. Rows of which
-- nothing became are not indexed by what became of them: the index is written once a row. No row changes.

DROP TRIGGER line_text_added;
DROP TRIGGER line_added;
CREATE TRIGGER line_added AFTER INSERT ON line BEGIN
    INSERT INTO line_text (rowid, words)
    SELECT NEW.id, p.name || ' ' || e.memo || ' ' || e.note || ' ' || NEW.raw_text
    FROM entry e JOIN payee p ON p.id = e.payee_id WHERE e.id = NEW.entry_id AND NEW.account_id IS NOT NULL;
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

DROP TABLE many_lines_now;

DROP INDEX brought_row_of_line;
CREATE INDEX brought_row_of_line ON brought_row (line_id) WHERE line_id IS NOT NULL;
