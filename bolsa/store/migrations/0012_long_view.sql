-- Plans of years ahead, one a case; the first is the one the others are compared with. No row changes.

CREATE TABLE plan_case (
    id       INTEGER PRIMARY KEY AUTOINCREMENT,
    name     TEXT NOT NULL UNIQUE COLLATE NOCASE,
    position INTEGER NOT NULL,
    plan     TEXT NOT NULL                   -- JSON, as core/ahead/plan.py writes and reads it
) STRICT;
