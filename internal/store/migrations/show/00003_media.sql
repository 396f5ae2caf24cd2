-- +goose Up
CREATE TABLE media (
	id     TEXT PRIMARY KEY, -- of the bytes: SHA-256
	name   TEXT NOT NULL,
	kind   TEXT NOT NULL,    -- a media type
	width  INTEGER NOT NULL, -- pixels
	height INTEGER NOT NULL,
	frames INTEGER NOT NULL,
	tags   TEXT NOT NULL DEFAULT '',
	added  TEXT NOT NULL,
	body   BLOB NOT NULL
) STRICT;

-- +goose Down
DROP TABLE media;
