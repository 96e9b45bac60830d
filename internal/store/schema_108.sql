-- Version 108: a second factor at sign-in.
ALTER TABLE accounts
    ADD totp     text NOT NULL DEFAULT '',      -- secret of a device, base32 (RFC 6238); '' for none
    ADD totp_step bigint NOT NULL DEFAULT 0,    -- the newest step of time of which a code was used: none is good twice
    ADD recovery bytea[] NOT NULL DEFAULT '{}'; -- hashes of codes that are left, each good once
ALTER TABLE site ADD second_factor boolean NOT NULL DEFAULT false; -- asked of who holds any permission
