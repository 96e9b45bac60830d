-- Version 101: topics. They are pages of a kind of their own, in topic lists, which are pages too; pages bear them.
ALTER TABLE pages
    ADD topics        bigint[] NOT NULL DEFAULT '{}', -- that the page bears, ascending
    ADD other_labels  text[] COLLATE "C" NOT NULL DEFAULT '{}', -- of a topic
    ADD hidden_labels text[] COLLATE "C" NOT NULL DEFAULT '{}',
    ADD scope_note    text NOT NULL DEFAULT '',
    ADD merged_into   bigint; -- in the bin it counts as that topic

-- Conditions of blocks name topics too.
ALTER TABLE placement_spots ADD topic boolean NOT NULL DEFAULT false;

-- A site that was begun before gets their kinds; a new one is founded with them.
INSERT INTO kinds (key, name, date_name, position)
SELECT made.key, made.name, '', (SELECT max(position) FROM kinds) + made.position
FROM (VALUES ('topic-list', 'Topic list', 1), ('topic', 'Topic', 2)) AS made (key, name, position)
WHERE EXISTS (SELECT FROM kinds)
ON CONFLICT (key) DO NOTHING;
