-- +goose Up
-- States of the show that are kept, by themselves or by name.
CREATE TABLE version (
    id    INTEGER PRIMARY KEY,
    at    TEXT NOT NULL,              -- RFC 3339
    name  TEXT NOT NULL DEFAULT '',   -- empty: it was kept by itself
    why   TEXT NOT NULL,              -- in words
    actor TEXT NOT NULL,
    seq   INTEGER NOT NULL,           -- the last edit that is in it
    needs TEXT NOT NULL,              -- the ids of the passwords and pictures that are in it
    body  BLOB NOT NULL               -- the canonical JSON, compressed
) STRICT;

-- +goose Down
DROP TABLE version;
