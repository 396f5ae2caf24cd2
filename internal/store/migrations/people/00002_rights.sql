-- +goose Up
ALTER TABLE person ADD COLUMN rights TEXT NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE person DROP COLUMN rights;
