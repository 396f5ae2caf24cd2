-- +goose Up
CREATE TABLE live (
    name TEXT PRIMARY KEY,
    body TEXT NOT NULL
) STRICT;

-- +goose Down
DROP TABLE live;
