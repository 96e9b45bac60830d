-- Version 121: web addresses that texts link to are known beside them, and are looked at now and then.
ALTER TABLE site
    ADD look_at_links boolean NOT NULL DEFAULT false,
    ADD most_beside   int NOT NULL DEFAULT 0 CHECK (most_beside >= 0), -- 0: as usual
    ADD most_levels   int NOT NULL DEFAULT 0 CHECK (most_levels >= 0);
ALTER TABLE texts ADD web text[]; -- NULL: nobody has looked yet
CREATE TABLE web_addresses (
    address   text PRIMARY KEY,
    host      text NOT NULL,
    looked_at timestamptz,                        -- last
    next_at   timestamptz NOT NULL,               -- when to look again; an instance that looks puts it off first
    failures  int NOT NULL DEFAULT 0,             -- in a row
    fault     text NOT NULL DEFAULT '',
    since     timestamptz                         -- of the first of these failures
);
CREATE INDEX web_addresses_next ON web_addresses (next_at);
-- When somebody was last written to about the pages that they look after.
CREATE TABLE review_letters (
    account_id bigint PRIMARY KEY REFERENCES accounts ON DELETE CASCADE,
    at         timestamptz NOT NULL
);
-- How many words a text has; and how many pages there were as of a publication, for who is not signed in.
ALTER TABLE texts ADD words int; -- NULL: nobody has counted yet
CREATE TABLE site_numbers (
    revision bigint PRIMARY KEY,
    pages    int NOT NULL,
    online   int NOT NULL,
    reached  int NOT NULL,
    listed   int NOT NULL
);
-- Links by which somebody without an account looks at a draft, until a day.
CREATE TABLE draft_links (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    draft_id   bigint NOT NULL REFERENCES drafts,
    account_id bigint NOT NULL REFERENCES accounts, -- who shows it, and may read no less than is shown
    reader     text NOT NULL CHECK (reader <> ''),
    at         timestamptz NOT NULL DEFAULT now(),
    ends_at    timestamptz NOT NULL,
    signed_in  boolean NOT NULL, -- as which visitor it is shown
    roles      text[] NOT NULL
);
CREATE INDEX draft_links_by_draft ON draft_links (draft_id);
