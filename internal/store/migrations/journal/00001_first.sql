-- +goose Up
CREATE TABLE entry (
    id   TEXT PRIMARY KEY, -- sorts by time
    body TEXT NOT NULL     -- JSON
) STRICT;

-- +goose Down
DROP TABLE entry;
