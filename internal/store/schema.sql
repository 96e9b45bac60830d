-- The data model, version 100. What comes later is a migration of its own, in a file with its number.
--
-- The published site is kept in tables of what stands: site, roles, kinds, pages, menus, entries, blocks, placements. Drafts and the history are
-- logs of operations beside them, which are only added to. Settings of open families, as of types of blocks and items, are jsonb: core
-- checks them before they are written; what they name is drawn out into columns that PostgreSQL checks.

-- One row: what holds for the whole site, and the revision that the tables stand at.
CREATE TABLE site (
    id           int PRIMARY KEY DEFAULT 1 CHECK (id = 1),
    revision     bigint NOT NULL DEFAULT 0,
    name         text NOT NULL DEFAULT '',
    language     text NOT NULL DEFAULT 'en',
    zone         text NOT NULL DEFAULT 'UTC',
    date_order   text NOT NULL DEFAULT 'day-month' CHECK (date_order IN ('day-month', 'month-day', 'year-month')),
    not_found    bigint, -- pages that stand in for others
    no_access    bigint,
    sign_in_page bigint,
    closed_page  bigint,
    closed       boolean NOT NULL DEFAULT false,
    register     boolean NOT NULL DEFAULT false, -- whether visitors may make themselves an account
    pale_badges  boolean NOT NULL DEFAULT false,
    layout       text NOT NULL DEFAULT '',
    bin_days     int NOT NULL DEFAULT 30 CHECK (bin_days >= 0),
    secret       bytea NOT NULL DEFAULT decode(replace(gen_random_uuid()::text || gen_random_uuid()::text, '-', ''), 'hex')
);
INSERT INTO site DEFAULT VALUES;

CREATE TABLE roles (
    key      text PRIMARY KEY CHECK (key ~ '^[a-z0-9-]+$'),
    name     text NOT NULL,
    position int NOT NULL
);
CREATE TABLE role_includes (
    role     text NOT NULL REFERENCES roles,
    included text NOT NULL REFERENCES roles CHECK (included <> role),
    PRIMARY KEY (role, included)
);
CREATE TABLE role_actions (
    role   text NOT NULL REFERENCES roles,
    action text NOT NULL,
    PRIMARY KEY (role, action)
);

-- Types of pages.
CREATE TABLE kinds (
    key       text PRIMARY KEY CHECK (key ~ '^[a-z0-9-]+$'),
    name      text NOT NULL,
    date_name text NOT NULL,
    layout    text NOT NULL DEFAULT '',
    position  int NOT NULL
);

-- An account can be disabled. Its epoch rises when its password changes or it is disabled; a session is good for the epoch in which it began.
CREATE TABLE accounts (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    login       text NOT NULL UNIQUE CHECK (login = lower(login) AND login <> ''),
    name        text NOT NULL,
    password    text NOT NULL, -- Argon2id, PHC string
    created_at  timestamptz NOT NULL DEFAULT now(),
    disabled_at timestamptz,
    epoch       int NOT NULL DEFAULT 0
);
CREATE TABLE account_roles (
    account_id bigint NOT NULL REFERENCES accounts,
    role       text NOT NULL REFERENCES roles,
    PRIMARY KEY (account_id, role)
);

-- Sessions, by the hashes of their tokens, and whose they are.
CREATE TABLE sessions (
    hash    bytea PRIMARY KEY,
    account bigint REFERENCES accounts ON DELETE CASCADE, -- null: nobody is signed in
    site    text NOT NULL,                                -- whose cookie it is
    data    bytea NOT NULL,
    began   timestamptz NOT NULL DEFAULT now(),
    seen    timestamptz NOT NULL DEFAULT now(),           -- within some minutes
    expiry  timestamptz NOT NULL
);
CREATE INDEX sessions_by_account ON sessions (account);
CREATE INDEX sessions_by_expiry ON sessions (expiry);

-- Hashes of the links behind which a site without pages is set up.
CREATE TABLE setup_links (
    hash bytea PRIMARY KEY,
    at   timestamptz NOT NULL DEFAULT now()
);

-- What concerns safety: never changed, only added to.
CREATE TABLE audit (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    at      timestamptz NOT NULL DEFAULT now(),
    what    text NOT NULL,              -- a word: "sign-in", "sign-in failed", "refused", "account", …
    account text NOT NULL DEFAULT '',   -- sign-in name of who did it, or "the operator"
    client  text NOT NULL DEFAULT '',   -- its address
    about   text NOT NULL DEFAULT '',   -- in words
    times   int NOT NULL DEFAULT 1      -- failures of one client on one account within a minute are one row
);
CREATE INDEX audit_by_time ON audit (at);

-- Page text, by the hash of its sanitised HTML, with the pages to which it links.
CREATE TABLE texts (
    hash  text PRIMARY KEY,
    html  text NOT NULL,
    links bigint[] NOT NULL DEFAULT '{}'
);

-- Ids come from one sequence each and are never used again.
CREATE SEQUENCE page_ids;
CREATE SEQUENCE menu_ids START 1001;
CREATE SEQUENCE entry_ids START 1001;
CREATE SEQUENCE block_ids START 1001;
CREATE SEQUENCE placement_ids START 1001;

CREATE TABLE pages (
    id              bigint PRIMARY KEY,
    key             text NOT NULL UNIQUE,
    parent_id       bigint REFERENCES pages DEFERRABLE INITIALLY DEFERRED,
    rank            text COLLATE "C" NOT NULL,
    pin             text NOT NULL CHECK (pin IN ('', 'start', 'end')),
    sort            text NOT NULL CHECK (sort IN ('manual', 'label', 'newest', 'date', 'date-down')),
    label           text NOT NULL CHECK (label <> ''),
    title           text NOT NULL,
    summary         text NOT NULL,
    kind            text NOT NULL,
    text_hash       text REFERENCES texts,
    date            date,
    segment         text COLLATE "C" NOT NULL,
    segment_follows boolean NOT NULL,
    own_address     text COLLATE "C" NOT NULL,
    short_addresses text[] COLLATE "C" NOT NULL,
    status          text NOT NULL CHECK (status IN ('live', 'offline')),
    live_from       timestamptz,
    live_until      timestamptz CHECK (live_until > live_from),
    listed          boolean NOT NULL,
    audience        text NOT NULL,
    conceal         boolean NOT NULL,
    layout          text NOT NULL DEFAULT '',
    branch_layout   text NOT NULL DEFAULT '',
    first_online    timestamptz,
    since           timestamptz, -- it stands where it does
    changed         timestamptz, -- when the revision was published
    binned          boolean NOT NULL,
    binned_at       timestamptz,
    leads_to        bigint, -- of a binned page: where its addresses lead
    purged          boolean NOT NULL DEFAULT false,
    revision        bigint NOT NULL,
    -- Pages in the bin keep their old place, so places are unique among those that are not; deferred, since one
    -- publication may exchange two.
    bin_ticket      bigint NOT NULL GENERATED ALWAYS AS (CASE WHEN binned THEN id ELSE 0 END) STORED,
    CONSTRAINT one_place UNIQUE (parent_id, rank, bin_ticket) DEFERRABLE INITIALLY DEFERRED,
    CONSTRAINT one_segment UNIQUE (parent_id, segment, bin_ticket) DEFERRABLE INITIALLY DEFERRED
) WITH (fillfactor = 80); -- so that most edits write no index anew
CREATE UNIQUE INDEX one_home ON pages ((true)) WHERE parent_id IS NULL;

-- Where pages stood before, so that old addresses lead to them.
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

-- Which pages a revision changed, for the instances that follow.
CREATE TABLE page_changes (
    revision bigint PRIMARY KEY,
    pages    bigint[] NOT NULL
);

CREATE TABLE menus (
    id       bigint PRIMARY KEY,
    key      text NOT NULL UNIQUE,
    name     text NOT NULL,
    position int NOT NULL,
    programs boolean NOT NULL DEFAULT false -- whether programs may read it
);
CREATE TABLE entries (
    id           bigint PRIMARY KEY,
    menu_id      bigint NOT NULL REFERENCES menus,
    parent_id    bigint REFERENCES entries DEFERRABLE INITIALLY DEFERRED,
    rank         text COLLATE "C" NOT NULL,
    type         text NOT NULL,
    settings     jsonb NOT NULL,
    label        text NOT NULL,
    hint         text NOT NULL,
    off          boolean NOT NULL,
    audience     text NOT NULL,
    live_from    timestamptz,
    live_until   timestamptz CHECK (live_until > live_from),
    new_tab      boolean NOT NULL,
    badge        text NOT NULL,
    badge_pair   text NOT NULL,
    badge_before boolean NOT NULL,
    icon         text NOT NULL,
    page_id      bigint GENERATED ALWAYS AS (coalesce(settings ->> 'page', settings ->> 'root')::bigint) STORED REFERENCES pages,
    CHECK (label <> '' OR page_id IS NOT NULL),
    CONSTRAINT one_entry_place UNIQUE (menu_id, parent_id, rank) DEFERRABLE INITIALLY DEFERRED
);

CREATE TABLE blocks (
    id        bigint PRIMARY KEY,
    name      text NOT NULL CHECK (name <> ''),
    title     text NOT NULL,
    titled    boolean NOT NULL,
    heading   int NOT NULL CHECK (heading BETWEEN 2 AND 4),
    type      text NOT NULL,
    settings  jsonb NOT NULL,
    menu_id   bigint GENERATED ALWAYS AS ((settings ->> 'menu')::bigint) STORED REFERENCES menus DEFERRABLE INITIALLY DEFERRED,
    entry_id  bigint GENERATED ALWAYS AS (nullif((settings #>> '{window,entry}')::bigint, 0)) STORED
        REFERENCES entries DEFERRABLE INITIALLY DEFERRED,
    text_hash text GENERATED ALWAYS AS (nullif(settings ->> 'text', '')) STORED REFERENCES texts
);
CREATE TABLE placements (
    id         bigint PRIMARY KEY,
    block_id   bigint NOT NULL REFERENCES blocks DEFERRABLE INITIALLY DEFERRED,
    region     text NOT NULL,
    rank       text COLLATE "C" NOT NULL,
    layout     text NOT NULL, -- empty: every layout that has the region
    off        boolean NOT NULL,
    kinds      text[] NOT NULL,
    not_kinds  text[] NOT NULL,
    audience   text NOT NULL,
    live_from  timestamptz,
    live_until timestamptz CHECK (live_until > live_from),
    CONSTRAINT one_placement_place UNIQUE (region, rank) DEFERRABLE INITIALLY DEFERRED
);
CREATE INDEX placements_by_block ON placements (block_id);
-- The pages and addresses that a placement names, or leaves out.
CREATE TABLE placement_spots (
    placement_id bigint NOT NULL REFERENCES placements ON DELETE CASCADE,
    left_out     boolean NOT NULL,
    seq          int NOT NULL,
    page_id      bigint REFERENCES pages,
    branch       boolean NOT NULL,
    pattern      text NOT NULL,
    PRIMARY KEY (placement_id, left_out, seq),
    CHECK ((page_id IS NULL) = (pattern <> ''))
);

-- A draft is a log of steps; version rises with every change of the log. One that was thrown away keeps its steps.
CREATE TABLE drafts (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    owner_id    bigint NOT NULL REFERENCES accounts,
    name        text NOT NULL,
    version     bigint NOT NULL DEFAULT 0,
    created_at  timestamptz NOT NULL DEFAULT now(),
    publish_at  timestamptz,
    planned_by  bigint REFERENCES accounts, -- whose rights count when it is due
    trouble     text NOT NULL DEFAULT '',   -- why it was not published when it was due
    attempts    int NOT NULL DEFAULT 0,     -- one that failed by no fault of its own is tried again, after growing pauses
    retry_at    timestamptz,
    thrown_at   timestamptz,
    parted_from bigint REFERENCES drafts    -- from which its edits were taken; it closes when it is published
);
CREATE UNIQUE INDEX drafts_by_name ON drafts (owner_id, name) WHERE thrown_at IS NULL;
CREATE INDEX drafts_planned ON drafts (publish_at) WHERE publish_at IS NOT NULL;
CREATE TABLE draft_people (
    draft_id   bigint NOT NULL REFERENCES drafts,
    account_id bigint NOT NULL REFERENCES accounts,
    PRIMARY KEY (draft_id, account_id)
);
CREATE INDEX draft_people_by_account ON draft_people (account_id);
CREATE TABLE draft_steps (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    draft_id   bigint NOT NULL REFERENCES drafts,
    account_id bigint NOT NULL REFERENCES accounts,
    at         timestamptz NOT NULL DEFAULT now(),
    said       text NOT NULL, -- the step in words: "moved “Fares”"
    ops        jsonb NOT NULL,
    state      text NOT NULL DEFAULT 'done' CHECK (state IN ('done', 'undone', 'dropped', 'published'))
);
CREATE INDEX draft_steps_open ON draft_steps (draft_id, id) WHERE state IN ('done', 'undone');

-- The history: every publication, never changed.
CREATE TABLE publications (
    revision   bigint PRIMARY KEY,
    at         timestamptz NOT NULL,
    account_id bigint REFERENCES accounts,
    by_name    text NOT NULL,
    said       text[] NOT NULL,          -- its steps in words
    sentences  jsonb NOT NULL,           -- its consequences in words
    draft      text NOT NULL DEFAULT '', -- the name of the draft, where there was one
    planned    timestamptz               -- the moment that it was set to, where it was
);
-- Its operations, in rows of many: a row for each would be checked against its publication one by one.
CREATE TABLE publication_ops (
    revision bigint NOT NULL REFERENCES publications,
    seq      int NOT NULL, -- of the row
    ops      json NOT NULL,
    PRIMARY KEY (revision, seq)
);

-- What was done outside drafts and publications: emptying the bin, throwing a draft away, handing one over.
CREATE TABLE records (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    at         timestamptz NOT NULL DEFAULT now(),
    account_id bigint REFERENCES accounts,
    by_name    text NOT NULL,
    said       text NOT NULL
);

-- Which branches a person has open in the workbench, and where they were last in an area.
CREATE TABLE open_branches (
    account_id bigint NOT NULL REFERENCES accounts,
    area       text NOT NULL,
    page_id    bigint NOT NULL,
    PRIMARY KEY (account_id, area, page_id)
);
CREATE TABLE places (
    account_id bigint NOT NULL REFERENCES accounts,
    area       text NOT NULL,
    page_id    bigint NOT NULL,
    PRIMARY KEY (account_id, area)
);
