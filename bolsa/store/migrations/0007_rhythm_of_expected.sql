-- An expected amount may come every so many months from its month on, or once. Old figures carry on as before: every month.

ALTER TABLE expected ADD COLUMN every INTEGER NOT NULL DEFAULT 1 CHECK (every BETWEEN 0 AND 120);  -- months; 0 is in that month alone
