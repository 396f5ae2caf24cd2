-- +goose Up
-- What is still under way, to be ended when Synaptor ended first.
ALTER TABLE entry ADD COLUMN open INTEGER NOT NULL DEFAULT 0;
UPDATE entry SET open = 1 WHERE json_extract(body, '$.outcome') = 'under way';
CREATE INDEX entry_open ON entry (id) WHERE open = 1;

-- +goose Down
DROP INDEX entry_open;
ALTER TABLE entry DROP COLUMN open;
