-- Version 120: conditions on pages under a name, which many placements have together. A placement that has a set keeps what
-- the set says beside it, as its own.
CREATE SEQUENCE set_ids START 1001;
CREATE TABLE condition_sets (
    id        bigint PRIMARY KEY,
    name      text NOT NULL CHECK (name <> ''),
    named     text NOT NULL, -- as in “branch:12|pattern:/notices/**”
    left_out  text NOT NULL, -- the same
    kinds     text[] NOT NULL,
    not_kinds text[] NOT NULL
);
ALTER TABLE placements ADD set_id bigint REFERENCES condition_sets DEFERRABLE INITIALLY DEFERRED;
