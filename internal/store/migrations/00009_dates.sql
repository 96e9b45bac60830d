-- +goose Up

-- In which order people type and read day, month and year.
ALTER TABLE site ADD COLUMN date_order text NOT NULL DEFAULT 'day-month'
    CHECK (date_order IN ('day-month', 'month-day', 'year-month'));

-- +goose Down
ALTER TABLE site DROP COLUMN date_order;
