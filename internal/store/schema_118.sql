-- Version 118: who looks after pages, when somebody looks whether they are still right, and who did; a note for colleagues,
-- and why something was published.
ALTER TABLE pages ADD owner text NOT NULL DEFAULT '', ADD review text NOT NULL DEFAULT '', ADD note text NOT NULL DEFAULT '',
    ADD worded timestamptz; -- when its own words last changed in public
UPDATE pages SET worded = changed;
CREATE TABLE reviews (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    page_id    bigint NOT NULL REFERENCES pages,
    branch     boolean NOT NULL, -- for all below too
    account_id bigint NOT NULL REFERENCES accounts,
    at         timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX reviews_by_page ON reviews (page_id, at);
ALTER TABLE site ADD ask_why boolean NOT NULL DEFAULT false; -- publications ask for a reason
ALTER TABLE publications ADD reason text NOT NULL DEFAULT '';

-- What each person opened last, and keeps at hand; and when they last looked at what waits.
CREATE TABLE recent_pages (
    account_id bigint NOT NULL REFERENCES accounts,
    page_id    bigint NOT NULL,
    at         timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (account_id, page_id)
);
CREATE INDEX recent_by_time ON recent_pages (account_id, at DESC);
CREATE TABLE kept_pages (
    account_id bigint NOT NULL REFERENCES accounts,
    page_id    bigint NOT NULL,
    at         timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (account_id, page_id)
);
CREATE TABLE last_looks (
    account_id bigint PRIMARY KEY REFERENCES accounts,
    at         timestamptz NOT NULL,
    before     timestamptz NOT NULL -- the look before that one, which news are counted from for an hour
);
