-- +goose Up

-- Entries of every type, in a tree.
ALTER TABLE entries
    ADD COLUMN parent_id  bigint REFERENCES entries DEFERRABLE INITIALLY DEFERRED,
    ADD COLUMN label      text NOT NULL DEFAULT '',
    ADD COLUMN hint       text NOT NULL DEFAULT '',
    ADD COLUMN off        boolean NOT NULL DEFAULT false,
    ADD COLUMN audience   text NOT NULL DEFAULT '',
    ADD COLUMN live_from  timestamptz,
    ADD COLUMN live_until timestamptz CHECK (live_until > live_from),
    ADD COLUMN new_tab    boolean NOT NULL DEFAULT false,
    ADD COLUMN badge      text NOT NULL DEFAULT '',
    ADD COLUMN badge_pair text NOT NULL DEFAULT '',
    ADD COLUMN badge_before boolean NOT NULL DEFAULT false,
    ADD COLUMN icon       text NOT NULL DEFAULT '',
    ADD COLUMN leads_to   text NOT NULL DEFAULT '', -- a web address, a file, or what an account entry does
    ALTER COLUMN page_id DROP NOT NULL,
    DROP CONSTRAINT entries_type_check,
    ADD CONSTRAINT entries_type_check CHECK (type IN ('page', 'branch', 'web', 'file', 'heading', 'account')),
    ADD CONSTRAINT entries_page_check CHECK ((type IN ('page', 'branch')) = (page_id IS NOT NULL)),
    ADD CONSTRAINT entries_label_check CHECK (label <> '' OR page_id IS NOT NULL),
    ADD CONSTRAINT one_entry_place UNIQUE (menu_id, parent_id, rank) DEFERRABLE INITIALLY DEFERRED;
ALTER TABLE menu_blocks
    ADD COLUMN entry_id bigint REFERENCES entries,
    DROP CONSTRAINT menu_blocks_starts_from_check,
    ADD CONSTRAINT menu_blocks_starts_from_check CHECK (starts_from IN ('trail', 'entry', 'whole'));

-- Ids of menus and items come from one sequence each and are never used again.
CREATE SEQUENCE menu_ids START 1001;
CREATE SEQUENCE entry_ids START 1001;

-- +goose Down
DROP SEQUENCE menu_ids, entry_ids;
DELETE FROM menu_blocks WHERE starts_from = 'entry';
ALTER TABLE menu_blocks DROP COLUMN entry_id;
DELETE FROM entries WHERE type <> 'branch' OR parent_id IS NOT NULL;
ALTER TABLE entries DROP CONSTRAINT one_entry_place, DROP CONSTRAINT entries_label_check, DROP CONSTRAINT entries_page_check, DROP COLUMN parent_id,
    DROP COLUMN label, DROP COLUMN hint, DROP COLUMN off, DROP COLUMN audience, DROP COLUMN live_from, DROP COLUMN live_until, DROP COLUMN new_tab,
    DROP COLUMN badge, DROP COLUMN badge_pair, DROP COLUMN badge_before, DROP COLUMN icon, DROP COLUMN leads_to;
