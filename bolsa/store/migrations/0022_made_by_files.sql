-- An account a file made goes again when the file is taken out and nothing else came to it. Of accounts there are nobody knows it.
-- It is no reference: a batch that was put aside is gone, and what it made may come back by an undo.

ALTER TABLE account ADD COLUMN made_by_batch INTEGER;   -- whose file made it
CREATE INDEX account_of_batch ON account (made_by_batch) WHERE made_by_batch IS NOT NULL;
