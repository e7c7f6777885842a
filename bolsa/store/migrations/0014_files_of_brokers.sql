-- What a broker's table says of shares held before keeps since when they are held, and a trade in preview can be left out by hand.
-- A file may lie with a trade as it may with an entry: what lay with an entry stays there. No row changes.

ALTER TABLE brought_share ADD COLUMN basis_day TEXT;
ALTER TABLE brought_share ADD COLUMN take INTEGER NOT NULL DEFAULT 1 CHECK (take IN (0, 1));

CREATE TABLE attachment_next (
    id         INTEGER PRIMARY KEY AUTOINCREMENT,
    entry_id   INTEGER REFERENCES entry (id) ON DELETE CASCADE,
    name       TEXT NOT NULL,
    media_type TEXT NOT NULL CHECK (media_type IN ('image/jpeg', 'image/png', 'image/webp', 'image/gif', 'application/pdf')),
    bytes      INTEGER NOT NULL,
    sha256     TEXT NOT NULL REFERENCES attachment_file (sha256),
    added_at   TEXT NOT NULL,
    trade_id   INTEGER REFERENCES trade (id) ON DELETE CASCADE,
    CHECK ((entry_id IS NULL) <> (trade_id IS NULL))
) STRICT;
INSERT INTO attachment_next (id, entry_id, name, media_type, bytes, sha256, added_at)
    SELECT id, entry_id, name, media_type, bytes, sha256, added_at FROM attachment;
DROP TABLE attachment;
ALTER TABLE attachment_next RENAME TO attachment;
CREATE INDEX attachment_of_entry ON attachment (entry_id);
CREATE INDEX attachment_of_trade ON attachment (trade_id) WHERE trade_id IS NOT NULL;
