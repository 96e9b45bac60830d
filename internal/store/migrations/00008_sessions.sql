-- +goose Up

-- Sessions are known by the hashes of their tokens, and whose they are. Those from before end.
DROP TABLE sessions;
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

-- +goose Down
DROP TABLE sessions;
CREATE TABLE sessions (
    token  text PRIMARY KEY,
    data   bytea NOT NULL,
    expiry timestamptz NOT NULL
);
CREATE INDEX sessions_expiry ON sessions (expiry);
