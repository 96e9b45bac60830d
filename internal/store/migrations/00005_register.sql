-- +goose Up

-- Whether visitors may make themselves an account.
ALTER TABLE site ADD COLUMN register boolean NOT NULL DEFAULT false;

-- +goose Down
ALTER TABLE site DROP COLUMN register;
