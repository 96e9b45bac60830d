-- Version 105: roles are edits of drafts, and hold permissions on parts of the site. What stands in arrays is checked by
-- the program, which alone knows what the things of a permission are. A role that was taken away keeps its row, so that
-- no other one has its key.
ALTER TABLE roles
    ADD includes text[] NOT NULL DEFAULT '{}', -- keys of roles, sorted
    ADD grants   text[] NOT NULL DEFAULT '{}', -- as in “arrange:page:12”, sorted
    ADD gone     boolean NOT NULL DEFAULT false;
UPDATE roles SET
    includes = ARRAY(SELECT included FROM role_includes WHERE role = key ORDER BY included COLLATE "C"),
    -- Topics were for all who edit; they have a permission of their own now.
    grants = ARRAY(SELECT DISTINCT given || ':site' AS g FROM role_actions,
        unnest(CASE action WHEN 'edit' THEN ARRAY['edit', 'classify'] ELSE ARRAY[action] END) AS given
        WHERE role = key ORDER BY g);
DROP TABLE role_includes;
DROP TABLE role_actions;
