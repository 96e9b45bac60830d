-- Version 106: people are asked in, and have addresses to which the program writes.
ALTER TABLE accounts
    ADD email     text NOT NULL DEFAULT '', -- as typed; '' for none
    ADD confirmed boolean NOT NULL DEFAULT false, -- whether a link that was sent there was used
    ADD seen      timestamptz; -- when somebody signed in last
-- Links that are good for one person, once and for a time: by the hash of what is secret in them.
CREATE TABLE personal_links (
    hash       bytea PRIMARY KEY,
    account_id bigint NOT NULL REFERENCES accounts,
    purpose    text NOT NULL CHECK (purpose IN ('invitation', 'password', 'address')),
    address    text NOT NULL DEFAULT '', -- that is confirmed by its use
    made_at    timestamptz NOT NULL DEFAULT now(),
    ends_at    timestamptz NOT NULL,
    used_at    timestamptz
);
CREATE INDEX personal_links_by_account ON personal_links (account_id);
-- What is to be sent. Without a mail server it stays here; the link in it is shown to one person, once.
CREATE TABLE outbox (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    at         timestamptz NOT NULL DEFAULT now(),
    account_id bigint REFERENCES accounts,
    recipient  text NOT NULL,
    subject    text NOT NULL,
    body       text NOT NULL, -- “%s” where the link stands
    link       text NOT NULL DEFAULT '', -- '' once it was sent or shown
    sent_at    timestamptz,
    shown_by   text NOT NULL DEFAULT '',
    tries      int NOT NULL DEFAULT 0,
    retry_at   timestamptz NOT NULL DEFAULT now(),
    fault      text NOT NULL DEFAULT ''
);
CREATE INDEX outbox_waiting ON outbox (retry_at) WHERE sent_at IS NULL;
