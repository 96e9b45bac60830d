-- Version 113: what search engines are told of.
ALTER TABLE pages ADD kept_out boolean NOT NULL DEFAULT false; -- of search engines, with all below
ALTER TABLE site ADD robots text NOT NULL DEFAULT ''; -- rules for them, as lines of RFC 9309; empty: they may read all
