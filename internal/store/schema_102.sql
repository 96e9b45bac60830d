-- Version 102: page types have details of their own, and pages values for them.
ALTER TABLE pages ADD details json; -- values by the keys of details; null for none

ALTER TABLE kinds
    ADD place    bigint,                         -- page below which pages of the type are made
    ADD unlisted boolean NOT NULL DEFAULT false, -- they are made unlisted
    ADD lists    text NOT NULL DEFAULT '';       -- topic lists that they need, as in "page:12|page:15"

CREATE TABLE details (
    key      text COLLATE "C" PRIMARY KEY CHECK (key ~ '^[a-z0-9-]+[.][a-z0-9-]+$'), -- type of page, and its own
    rank     text COLLATE "C" NOT NULL,
    label    text NOT NULL,
    type     text NOT NULL,
    unit     text NOT NULL,
    choices  text NOT NULL, -- one a line
    help     text NOT NULL,
    required boolean NOT NULL,
    shown    text NOT NULL
);
