-- Version 107: branches can ask for a second person, and drafts for approval.
ALTER TABLE pages ADD second_person boolean NOT NULL DEFAULT false; -- nobody publishes alone here what they made
-- Who asked for a draft to be published, and what came of it. Asking anew replaces what was said before.
CREATE TABLE approvals (
    draft_id    bigint PRIMARY KEY REFERENCES drafts ON DELETE CASCADE,
    asked_by    bigint NOT NULL REFERENCES accounts,
    asked_at    timestamptz NOT NULL DEFAULT now(),
    note        text NOT NULL DEFAULT '',
    steps       bigint NOT NULL, -- the newest step there was
    answered_by bigint REFERENCES accounts, -- who sent it back; null: it waits
    answered_at timestamptz,
    answer      text NOT NULL DEFAULT ''
);
-- What colleagues say of a draft, or of one edit in it.
CREATE TABLE remarks (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    draft_id   bigint NOT NULL REFERENCES drafts ON DELETE CASCADE,
    step_id    bigint, -- null: of all of it
    account_id bigint NOT NULL REFERENCES accounts,
    at         timestamptz NOT NULL DEFAULT now(),
    said       text NOT NULL
);
CREATE INDEX remarks_by_draft ON remarks (draft_id);
