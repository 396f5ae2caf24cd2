-- +goose Up
CREATE TABLE person (
    id      TEXT PRIMARY KEY,
    name    TEXT NOT NULL UNIQUE COLLATE NOCASE,
    role    TEXT NOT NULL,
    hash    TEXT NOT NULL, -- of the passphrase, as argon2id writes it
    made    INTEGER NOT NULL
) STRICT;
CREATE TABLE invitation (
    hash    TEXT PRIMARY KEY, -- of the link
    role    TEXT NOT NULL,
    made_by TEXT NOT NULL,
    until   INTEGER NOT NULL
) STRICT;
CREATE TABLE session (
    hash    TEXT PRIMARY KEY, -- of the cookie
    data    BLOB NOT NULL,
    person  TEXT NOT NULL,    -- '' until somebody has signed in
    agent   TEXT NOT NULL,
    since   INTEGER NOT NULL,
    seen    INTEGER NOT NULL,
    until   INTEGER NOT NULL
) STRICT;
CREATE INDEX session_person ON session (person);
CREATE TABLE token (
    id      TEXT PRIMARY KEY,
    name    TEXT NOT NULL,
    role    TEXT NOT NULL,
    hash    TEXT NOT NULL UNIQUE,
    made    INTEGER NOT NULL,
    used    INTEGER NOT NULL  -- 0: never
) STRICT;

-- +goose Down
DROP TABLE token;
DROP TABLE session;
DROP TABLE invitation;
DROP TABLE person;
