-- Version 103: pages list others below their text.
ALTER TABLE pages ADD listing text NOT NULL DEFAULT ''; -- as in "notice;;branch:4;newest;5"; none where empty
