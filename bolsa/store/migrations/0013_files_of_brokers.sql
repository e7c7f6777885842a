-- No question is asked of rows by the bank's own id alone: they are compared among those of their days. The index of those ids
-- goes, which each brought row paid for. No row changes.

DROP INDEX brought_row_by_ref;
