-- +goose Up

-- An account can be disabled. Its epoch rises when its password changes or it is disabled; a session is good for the epoch in which it began.
ALTER TABLE accounts
    ADD COLUMN disabled_at timestamptz,
    ADD COLUMN epoch       int NOT NULL DEFAULT 0;

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

-- A planned draft that failed by no fault of its own is tried again, after growing pauses, and others go on meanwhile.
ALTER TABLE drafts
    ADD COLUMN attempts int NOT NULL DEFAULT 0,
    ADD COLUMN retry_at timestamptz;

-- +goose Down
ALTER TABLE drafts DROP COLUMN retry_at, DROP COLUMN attempts;
DROP TABLE audit;
DROP TABLE setup_links;
ALTER TABLE accounts DROP COLUMN epoch, DROP COLUMN disabled_at;
