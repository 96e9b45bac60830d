-- Version 117: what is wrong in a text by itself is known beside it, and what somebody decided to be meant so is no
-- problem until a day.
ALTER TABLE texts ADD faults text[]; -- NULL: nobody has looked yet
CREATE TABLE meant (
    check_key  text NOT NULL,
    about      text NOT NULL, -- the thing, as in “page:12”
    value      text NOT NULL, -- what it was like: once that is another, it is asked again
    reason     text NOT NULL CHECK (reason <> ''),
    until      date NOT NULL, -- the day on which it is asked again
    account_id bigint NOT NULL REFERENCES accounts,
    at         timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (check_key, about, value)
);
