-- Version 119: the site as it was. Each publication keeps the rows that it changes as they were before it; a past site is
-- today's with these put back.
CREATE TABLE past_pages (
    revision bigint NOT NULL, -- that changed the page
    page_id  bigint NOT NULL,
    was      json,            -- its row before that; null: it was not there
    spells   json NOT NULL,  -- its rows of where it stood before
    purged   boolean NOT NULL DEFAULT false, -- what it said is gone for good
    PRIMARY KEY (page_id, revision)
);
CREATE INDEX past_pages_by_revision ON past_pages (revision);
CREATE TABLE past_tables (
    revision bigint NOT NULL, -- that changed rows of the table
    name     text NOT NULL,
    rows     json NOT NULL,  -- all of them, before that
    PRIMARY KEY (name, revision)
);
-- When revisions were made; the first is that with which the past begins.
CREATE TABLE moments (
    revision bigint PRIMARY KEY,
    at       timestamptz NOT NULL
);
INSERT INTO moments SELECT s.revision, coalesce((SELECT max(at) FROM publications), now()) FROM site s;
