-- Version 115: who has which page open in the workbench. Lost with the server, which is no loss.
CREATE UNLOGGED TABLE here (
    account_id bigint PRIMARY KEY REFERENCES accounts,
    page_id    bigint NOT NULL,
    at         timestamptz NOT NULL
);
CREATE INDEX here_by_page ON here (page_id);
