-- Version 109: accounts of the organisation's own, by OpenID Connect.
ALTER TABLE accounts
    ADD issuer  text NOT NULL DEFAULT '', -- who vouches for it; '' for an account that has a password here alone
    ADD subject text NOT NULL DEFAULT ''; -- whom it means there; never an address
CREATE UNIQUE INDEX accounts_outside ON accounts (issuer, subject) WHERE issuer <> '';
-- Groups of the organisation, and the roles that their members have here.
CREATE TABLE group_roles (
    outside text NOT NULL CHECK (outside <> ''),
    role    text NOT NULL REFERENCES roles,
    PRIMARY KEY (outside, role)
);
-- Roles by groups, replaced at each sign-in. What was not confirmed for a month counts no more.
CREATE TABLE mapped_roles (
    account_id   bigint NOT NULL REFERENCES accounts,
    role         text NOT NULL REFERENCES roles,
    confirmed_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (account_id, role)
);
CREATE VIEW held_roles AS
    SELECT account_id, role FROM account_roles
    UNION SELECT account_id, role FROM mapped_roles WHERE confirmed_at > now() - interval '30 days';
