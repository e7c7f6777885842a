-- One number that is another after every change, whoever makes it: what was reckoned while it stood is true as long as it stands.

CREATE TABLE content_mark (
    id   INTEGER PRIMARY KEY CHECK (id = 1),
    mark INTEGER NOT NULL
) STRICT;
INSERT INTO content_mark (id, mark) VALUES (1, random());
