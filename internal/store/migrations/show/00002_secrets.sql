-- +goose Up
CREATE TABLE secret (
    id  TEXT PRIMARY KEY,
    box BLOB NOT NULL
) STRICT;

-- +goose Down
DROP TABLE secret;
