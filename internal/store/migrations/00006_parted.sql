-- +goose Up

-- The draft that a page's edits were taken from, to be published by themselves; such a draft closes when it is published.
ALTER TABLE drafts ADD COLUMN parted_from bigint REFERENCES drafts;

-- +goose Down
ALTER TABLE drafts DROP COLUMN parted_from;
