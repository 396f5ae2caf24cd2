-- +goose Up
CREATE TABLE known (
    device TEXT PRIMARY KEY,
    body   TEXT NOT NULL
) STRICT;

-- +goose Down
DROP TABLE known;
