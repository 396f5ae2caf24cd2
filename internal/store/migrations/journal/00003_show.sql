-- +goose Up
-- Which show was open; empty: it is not known, as of all entries before this.
ALTER TABLE entry ADD COLUMN show TEXT NOT NULL DEFAULT '';
CREATE INDEX entry_show ON entry (show, id);

-- +goose Down
DROP INDEX entry_show;
ALTER TABLE entry DROP COLUMN show;
