-- What holdings are made of and when they are meant for: classes with targets, the parts of mixed funds and of accounts whose value is
-- noted, bands of years set by hand; and the years members were born in, by which a target may go. Old rows are kept as they are.

ALTER TABLE member ADD COLUMN birth_year INTEGER CHECK (birth_year BETWEEN 1850 AND 2200);

CREATE TABLE asset_class (
    id       INTEGER PRIMARY KEY AUTOINCREMENT,
    name     TEXT NOT NULL UNIQUE COLLATE NOCASE,
    position INTEGER NOT NULL,
    band     TEXT NOT NULL CHECK (band IN ('near', 'middle', 'far')),   -- the years its money is meant for unless said otherwise
    target   TEXT NOT NULL DEFAULT ''        -- per cent of all, or a formula of age such as '110 - age'; '' where none is set
) STRICT;
INSERT INTO asset_class (name, position, band) VALUES
    ('Shares', 1, 'far'), ('Bonds', 2, 'middle'), ('Cash and deposits', 3, 'near'), ('Houses and things', 4, 'far');

CREATE TABLE class_part (                    -- so many per cent of a security, or of an account, are of a class
    id          INTEGER PRIMARY KEY AUTOINCREMENT,
    security_id INTEGER REFERENCES security (id) ON DELETE CASCADE,
    account_id  INTEGER REFERENCES account (id) ON DELETE CASCADE,
    class_id    INTEGER NOT NULL REFERENCES asset_class (id) ON DELETE CASCADE,
    percent     TEXT NOT NULL,               -- an exact decimal
    CHECK ((security_id IS NULL) <> (account_id IS NULL)),
    UNIQUE (security_id, class_id),
    UNIQUE (account_id, class_id)
) STRICT;

CREATE TABLE holding_band (                  -- set by hand: for which years shares, an account's cash or an account as a whole is meant
    id          INTEGER PRIMARY KEY AUTOINCREMENT,
    account_id  INTEGER NOT NULL REFERENCES account (id) ON DELETE CASCADE,
    security_id INTEGER REFERENCES security (id) ON DELETE CASCADE,
    band        TEXT NOT NULL CHECK (band IN ('near', 'middle', 'far'))
) STRICT;
CREATE UNIQUE INDEX holding_band_of ON holding_band (account_id, coalesce(security_id, 0));

CREATE TABLE mix_plan (                      -- one row
    id                 INTEGER PRIMARY KEY CHECK (id = 1),
    near_years         INTEGER NOT NULL DEFAULT 2 CHECK (near_years BETWEEN 0 AND 60),
    middle_years       INTEGER NOT NULL DEFAULT 5 CHECK (middle_years BETWEEN 0 AND 60),
    contribution_minor INTEGER NOT NULL DEFAULT 0 CHECK (contribution_minor >= 0),   -- a month, in home currency
    aged_id            INTEGER REFERENCES member (id) ON DELETE SET NULL             -- whose age formulas go by
) STRICT;
INSERT INTO mix_plan (id) VALUES (1);
