-- +goose Up
ALTER TABLE person ADD COLUMN panel INTEGER NOT NULL DEFAULT 0;          -- 1: a panel, which is paired by a code
ALTER TABLE person ADD COLUMN until INTEGER NOT NULL DEFAULT 0;          -- when its right ends; 0: when somebody takes it away
ALTER TABLE invitation ADD COLUMN person TEXT NOT NULL DEFAULT '';       -- who is expected by it; '': whoever comes
ALTER TABLE session ADD COLUMN address TEXT NOT NULL DEFAULT '';         -- where it was used last
ALTER TABLE token ADD COLUMN terms TEXT NOT NULL DEFAULT '';             -- what narrows it, as JSON
CREATE TABLE setting (
    name  TEXT PRIMARY KEY,
    value TEXT NOT NULL -- JSON
) STRICT;

-- +goose Down
DROP TABLE setting;
ALTER TABLE token DROP COLUMN terms;
ALTER TABLE session DROP COLUMN address;
ALTER TABLE invitation DROP COLUMN person;
ALTER TABLE person DROP COLUMN until;
ALTER TABLE person DROP COLUMN panel;
