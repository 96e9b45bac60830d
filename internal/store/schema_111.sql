-- Version 111: pages that are only for who edits them are told, after some days.
ALTER TABLE site ADD ready_days int NOT NULL DEFAULT 30 CHECK (ready_days >= 0);
