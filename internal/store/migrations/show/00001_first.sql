-- +goose Up
CREATE TABLE entity (
    kind TEXT NOT NULL,
    id   TEXT NOT NULL,
    rev  INTEGER NOT NULL, -- the edit that last wrote it
    body TEXT NOT NULL,    -- canonical JSON
    PRIMARY KEY (kind, id)
) STRICT;

CREATE TABLE edit (
    seq     INTEGER PRIMARY KEY,
    at      TEXT NOT NULL,
    session TEXT NOT NULL, -- whose undo list it is in
    actor   TEXT NOT NULL,
    name    TEXT NOT NULL,
    changes TEXT NOT NULL, -- JSON, with inverses
    state   TEXT NOT NULL CHECK (state IN ('done', 'undone', 'gone'))
) STRICT;

CREATE INDEX edit_session ON edit (session, state, seq);

-- +goose Down
DROP TABLE edit;
DROP TABLE entity;
