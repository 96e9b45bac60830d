-- Version 112: files. They are pages of a kind of their own, in folders or below the page that they belong to.
ALTER TABLE pages ADD bytes text COLLATE "C" NOT NULL DEFAULT ''; -- of a file: hash, type, size and pixels

INSERT INTO kinds (key, name, date_name, position)
SELECT made.key, made.name, '', (SELECT max(position) FROM kinds) + made.position
FROM (VALUES ('folder', 'Folder', 1), ('file', 'File', 2)) AS made (key, name, position)
WHERE EXISTS (SELECT FROM kinds)
ON CONFLICT (key) DO NOTHING;
