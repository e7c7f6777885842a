"""Which accounts a step touched: by what the journal records, and by what it brought in, which the journal does not."""

# Of a step (:step): the accounts whose lines or noted values it changed; those its batch has rows for, those of the transfers its
# rows were matched with, and those of the entries that went to the trash with them.
ACCOUNTS_TOUCHED = """
    SELECT c.after ->> 'account_id' FROM journal_change c WHERE c.step_id = :step AND c.table_name IN ('line', 'value_note')
    UNION
    SELECT c.before ->> 'account_id' FROM journal_change c WHERE c.step_id = :step AND c.table_name IN ('line', 'value_note')
    UNION
    SELECT r.account_id FROM journal_step s JOIN brought_row r ON r.batch_id = s.batch_id WHERE s.id = :step
    UNION
    SELECT o.account_id FROM journal_step s
    JOIN brought_row r ON r.batch_id = s.batch_id AND r.verdict IN ('matched', 'changed', 'vanished')
    JOIN line l ON l.id = coalesce(r.line_id, r.match_line_id) JOIN line o ON o.entry_id = l.entry_id WHERE s.id = :step
    UNION
    SELECT o.value ->> 'account_id' FROM journal_step s
    JOIN brought_row r ON r.batch_id = s.batch_id AND r.verdict = 'vanished'
    JOIN trash t ON t.id = r.line_before ->> 'trash_id' JOIN json_each(t.snapshot, '$.line') o WHERE s.id = :step"""
