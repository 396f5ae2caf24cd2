-- +goose Up
-- Which entry has set another one off; its index is made behind.
ALTER TABLE entry ADD COLUMN cause TEXT AS (iif(json_valid(body), json_extract(body, '$.cause'), NULL)) VIRTUAL;

-- +goose Down
ALTER TABLE entry DROP COLUMN cause;
