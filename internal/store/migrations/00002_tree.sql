-- +goose Up

-- What pages keep of where they stood, so that old addresses lead to them.
ALTER TABLE pages
    ADD COLUMN date      date,
    ADD COLUMN since     timestamptz,
    ADD COLUMN changed   timestamptz, -- when the revision was published
    ADD COLUMN binned_at timestamptz,
    ADD COLUMN leads_to  bigint,
    ADD COLUMN purged    boolean NOT NULL DEFAULT false,
    DROP CONSTRAINT pages_sort_check,
    ADD CONSTRAINT pages_sort_check CHECK (sort IN ('manual', 'label', 'newest', 'date', 'date-down'));
UPDATE pages SET changed = now(), since = coalesce(first_online, now()), binned_at = CASE WHEN binned THEN now() END;

-- Which pages a revision changed, for the instances that follow. An index over pages (revision) would do as well, and would
-- have every edit write every index of the page anew.
DROP INDEX pages_by_revision;
ALTER TABLE pages SET (fillfactor = 80);
CREATE TABLE page_changes (
    revision bigint PRIMARY KEY,
    pages    bigint[] NOT NULL
);

CREATE TABLE page_spells (
    page_id     bigint NOT NULL REFERENCES pages,
    seq         int NOT NULL, -- from 0, in the order of time
    parent_id   bigint NOT NULL, -- 0 for the home page
    segment     text COLLATE "C" NOT NULL,
    own_address text COLLATE "C" NOT NULL,
    began       timestamptz NOT NULL,
    ended       timestamptz NOT NULL CHECK (ended > began),
    PRIMARY KEY (page_id, seq)
);

CREATE TABLE kinds (
    key       text PRIMARY KEY CHECK (key ~ '^[a-z0-9-]+$'),
    name      text NOT NULL,
    date_name text NOT NULL,
    position  int NOT NULL
);

ALTER TABLE site ADD COLUMN bin_days int NOT NULL DEFAULT 30 CHECK (bin_days >= 0);

-- Drafts that people share, hand over, and set to publish at a moment. A draft that was thrown away keeps its steps.
ALTER TABLE drafts
    ADD COLUMN publish_at timestamptz,
    ADD COLUMN planned_by bigint REFERENCES accounts, -- whose rights count when it is due
    ADD COLUMN trouble    text NOT NULL DEFAULT '',   -- why it was not published when it was due
    ADD COLUMN thrown_at  timestamptz,
    DROP CONSTRAINT drafts_owner_id_name_key;
CREATE UNIQUE INDEX drafts_by_name ON drafts (owner_id, name) WHERE thrown_at IS NULL;
CREATE INDEX drafts_planned ON drafts (publish_at) WHERE publish_at IS NOT NULL;
CREATE TABLE draft_people (
    draft_id   bigint NOT NULL REFERENCES drafts,
    account_id bigint NOT NULL REFERENCES accounts,
    PRIMARY KEY (draft_id, account_id)
);
CREATE INDEX draft_people_by_account ON draft_people (account_id);

ALTER TABLE publications
    ADD COLUMN draft   text NOT NULL DEFAULT '', -- the name of the draft, where there was one
    ADD COLUMN planned timestamptz;              -- the moment that it was set to, where it was

-- Operations of a publication, in rows of many: a row for each would be checked against its publication one by one.
ALTER TABLE publication_ops RENAME TO publication_ops_one_by_one;
ALTER TABLE publication_ops_one_by_one RENAME CONSTRAINT publication_ops_pkey TO publication_ops_one_by_one_pkey;
CREATE TABLE publication_ops (
    revision bigint NOT NULL REFERENCES publications,
    seq      int NOT NULL, -- of the row
    ops      json NOT NULL,
    PRIMARY KEY (revision, seq)
);
INSERT INTO publication_ops SELECT revision, 0, json_agg(op ORDER BY seq) FROM publication_ops_one_by_one GROUP BY revision;
DROP TABLE publication_ops_one_by_one;

-- What was done outside drafts and publications: emptying the bin, throwing a draft away, handing one over.
CREATE TABLE records (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    at         timestamptz NOT NULL DEFAULT now(),
    account_id bigint REFERENCES accounts,
    by_name    text NOT NULL,
    said       text NOT NULL
);

-- The pages to which a text links.
ALTER TABLE texts ADD COLUMN links bigint[] NOT NULL DEFAULT '{}';

-- Where a person was last, in an area of the workbench.
CREATE TABLE places (
    account_id bigint NOT NULL REFERENCES accounts,
    area       text NOT NULL,
    page_id    bigint NOT NULL,
    PRIMARY KEY (account_id, area)
);

-- +goose Down
DROP TABLE page_changes, places, records, draft_people, kinds, page_spells;
ALTER TABLE texts DROP COLUMN links;
ALTER TABLE publication_ops RENAME TO publication_ops_in_rows;
ALTER TABLE publication_ops_in_rows RENAME CONSTRAINT publication_ops_pkey TO publication_ops_in_rows_pkey;
CREATE TABLE publication_ops (revision bigint NOT NULL REFERENCES publications, seq int NOT NULL, op jsonb NOT NULL, PRIMARY KEY (revision, seq));
INSERT INTO publication_ops SELECT revision, row_number() OVER (PARTITION BY revision ORDER BY seq, place) - 1, op
    FROM publication_ops_in_rows, json_array_elements(ops) WITH ORDINALITY AS t (op, place);
DROP TABLE publication_ops_in_rows;
ALTER TABLE publications DROP COLUMN draft, DROP COLUMN planned;
DROP INDEX drafts_by_name, drafts_planned;
ALTER TABLE drafts DROP COLUMN publish_at, DROP COLUMN planned_by, DROP COLUMN trouble, DROP COLUMN thrown_at, ADD UNIQUE (owner_id, name);
ALTER TABLE site DROP COLUMN bin_days;
CREATE INDEX pages_by_revision ON pages (revision);
ALTER TABLE pages DROP COLUMN date, DROP COLUMN since, DROP COLUMN changed, DROP COLUMN binned_at, DROP COLUMN leads_to, DROP COLUMN purged;
