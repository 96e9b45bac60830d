-- Version 116: visitors find pages by their details as well, are told how words are spelt that nothing has, and what they
-- seek in vain is counted.
CREATE EXTENSION IF NOT EXISTS pg_trgm;

-- What a page says, cut down as a language or none has it; what names it weighs most. Of texts the marks are left out, and
-- of details those that editors alone see.
CREATE FUNCTION page_words_as(p pages, cut regconfig) RETURNS tsvector LANGUAGE sql STABLE AS $$
    SELECT setweight(to_tsvector(cut, p.label || ' ' || p.title || ' ' || array_to_string(p.other_labels, ' ') ||
            ' ' || array_to_string(p.hidden_labels, ' ')), 'A') ||
        setweight(to_tsvector(cut, p.summary || ' ' || p.own_address), 'B') ||
        setweight(to_tsvector(cut, coalesce((
            SELECT string_agg(coalesce(regexp_replace(t.html, '<[^>]*>', ' ', 'g'), v.value), ' ')
            FROM json_each_text(p.details) v JOIN details d ON d.key = v.key
                LEFT JOIN texts t ON d.type = 'rich' AND t.hash = v.value
            WHERE d.shown <> 'editors' AND d.type IN ('line', 'text', 'rich', 'choice', 'choices', 'web', 'mail', 'phone')
            ), '')), 'C') ||
        setweight(to_tsvector(cut, coalesce(
            (SELECT regexp_replace(t.html, '<[^>]*>', ' ', 'g') FROM texts t WHERE t.hash = p.text_hash), '')), 'D')
$$;
CREATE OR REPLACE FUNCTION page_words(p pages, language text) RETURNS tsvector LANGUAGE sql STABLE AS $$
    SELECT page_words_as(p, words_of(language))
$$;
TRUNCATE search_words;
INSERT INTO search_words SELECT p.id, page_words(p, s.language) FROM pages p, site s WHERE NOT p.purged;

-- Words as they are spelt on pages. None is taken out: what is proposed is sought first for the visitor who asks.
CREATE TABLE spellings (word text PRIMARY KEY);
CREATE FUNCTION spellings_of(p pages) RETURNS SETOF text LANGUAGE sql STABLE AS $$
    SELECT word FROM unnest(tsvector_to_array(page_words_as(p, 'simple'))) AS word WHERE word ~ '^[[:alpha:]]{4,40}$'
$$;
INSERT INTO spellings SELECT DISTINCT spellings_of(p) FROM pages p WHERE NOT p.purged;
CREATE INDEX spellings_like ON spellings USING gin (word gin_trgm_ops);

-- What visitors sought and did not find: the words, how often, and the last day; nothing of who it was.
CREATE TABLE sought (
    words text PRIMARY KEY,
    times int NOT NULL DEFAULT 1,
    last  date NOT NULL
);
