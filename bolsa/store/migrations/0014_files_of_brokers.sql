-- What a broker's table says of shares held before keeps since when they are held, and a trade in preview can be left out by hand.
-- A file may lie with a trade as it may with an entry: what lay with an entry stays there. No row changes.

ALTER TABLE brought_share ADD COLUMN basis_day TEXT;
ALTER TABLE brought_share ADD COLUMN take INTEGER NOT NULL DEFAULT 1 CHECK (take IN (0, 1));
