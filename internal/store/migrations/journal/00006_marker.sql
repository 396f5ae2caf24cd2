-- +goose Up
-- Points in time that somebody wants to find again. Times are microseconds since 1970.
CREATE TABLE marker (
    id   TEXT PRIMARY KEY,
    at   INTEGER NOT NULL,
    show TEXT NOT NULL,
    body TEXT NOT NULL -- JSON
) STRICT;
CREATE INDEX marker_at ON marker (show, at);

-- +goose Down
DROP TABLE marker;
