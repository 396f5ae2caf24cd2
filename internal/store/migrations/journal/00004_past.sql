-- +goose Up
-- What readings became, and what happened: for the question of what a reflex would have done. Times are microseconds since 1970.
CREATE TABLE past_key (id INTEGER PRIMARY KEY, key TEXT NOT NULL UNIQUE);
CREATE TABLE past (key INTEGER NOT NULL, at INTEGER NOT NULL, value TEXT NOT NULL);
CREATE INDEX past_key_at ON past (key, at);
CREATE TABLE past_event (at INTEGER NOT NULL, body TEXT NOT NULL);
CREATE INDEX past_event_at ON past_event (at);

-- +goose Down
DROP TABLE past_event;
DROP TABLE past;
DROP TABLE past_key;
