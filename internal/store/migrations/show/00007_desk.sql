-- +goose Up
-- How somebody has arranged the Desk: theirs, and so no part of the show.
CREATE TABLE desk (
    person TEXT PRIMARY KEY, -- an id; empty: this computer itself
    body   TEXT NOT NULL
) STRICT;

-- +goose Down
DROP TABLE desk;
