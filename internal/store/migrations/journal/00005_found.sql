-- +goose Up
-- What entries are found by; one that is damaged is found by nothing. Their indexes, and the words of those that are there, are made behind (store/journalfind.go), since there may be many.
ALTER TABLE entry ADD COLUMN at INTEGER AS (iif(json_valid(body), unixepoch(json_extract(body, '$.at')), NULL)) VIRTUAL;
ALTER TABLE entry ADD COLUMN controller TEXT AS (iif(json_valid(body), json_extract(body, '$.controller'), NULL)) VIRTUAL;
ALTER TABLE entry ADD COLUMN control TEXT AS (iif(json_valid(body), json_extract(body, '$.control'), NULL)) VIRTUAL;
ALTER TABLE entry ADD COLUMN device TEXT AS (iif(json_valid(body), json_extract(body, '$.device'), NULL)) VIRTUAL;
ALTER TABLE entry ADD COLUMN actor TEXT AS (iif(json_valid(body), json_extract(body, '$.actor'), NULL)) VIRTUAL;
ALTER TABLE entry ADD COLUMN outcome TEXT AS (iif(json_valid(body), json_extract(body, '$.outcome'), NULL)) VIRTUAL;
-- The words of entries, each under the number that its id is.
CREATE VIRTUAL TABLE word USING fts5(words, content = '', contentless_delete = 1, tokenize = 'unicode61 remove_diacritics 0');
CREATE TABLE behind (what TEXT PRIMARY KEY, until TEXT NOT NULL) STRICT;

-- +goose Down
DROP TABLE behind;
DROP TABLE word;
ALTER TABLE entry DROP COLUMN outcome;
ALTER TABLE entry DROP COLUMN actor;
ALTER TABLE entry DROP COLUMN device;
ALTER TABLE entry DROP COLUMN control;
ALTER TABLE entry DROP COLUMN controller;
ALTER TABLE entry DROP COLUMN at;
