-- +goose Up
-- Entities that cannot be read, so that nothing is lost.
CREATE TABLE aside (
    kind TEXT NOT NULL,
    id   TEXT NOT NULL,
    rev  INTEGER NOT NULL,
    body TEXT NOT NULL, -- as it was found
    at   TEXT NOT NULL, -- when, RFC 3339
    why  TEXT NOT NULL
) STRICT;

-- +goose Down
DROP TABLE aside;
