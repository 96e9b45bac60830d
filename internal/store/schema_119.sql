-- Version 119: the site as it was. Each publication keeps the rows that it changes as they were before it; a past site is
-- today's with these put back. A column that pages or page_spells get later is given to past_pages and past_spells too.
CREATE TABLE past_pages AS SELECT
    0::bigint AS past_revision, -- that changed the page
    false AS past_absent,       -- it was not there before
    false AS past_purged,       -- what it said is gone for good
    p.* FROM pages p WITH NO DATA;
CREATE UNIQUE INDEX past_pages_by_page ON past_pages (id, past_revision);
CREATE INDEX past_pages_by_revision ON past_pages (past_revision);
CREATE TABLE past_spells AS SELECT 0::bigint AS past_revision, s.* FROM page_spells s WITH NO DATA;
CREATE INDEX past_spells_by_page ON past_spells (page_id, past_revision);
CREATE TABLE past_tables (
    revision bigint NOT NULL, -- that changed rows of the table
    name     text NOT NULL,
    rows     json NOT NULL,   -- all of them, before that
    PRIMARY KEY (name, revision)
);
-- When revisions were made; the first is that with which the past begins.
CREATE TABLE moments (
    revision bigint PRIMARY KEY,
    at       timestamptz NOT NULL
);
INSERT INTO moments SELECT s.revision, coalesce((SELECT max(at) FROM publications), now()) FROM site s;
