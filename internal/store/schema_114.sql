-- Version 114: the words by which visitors find pages, and the page on which they search.
ALTER TABLE site ADD search_page bigint REFERENCES pages;

-- How PostgreSQL cuts words of a language down; a language that it does not know is taken as it is written.
CREATE FUNCTION words_of(language text) RETURNS regconfig LANGUAGE sql IMMUTABLE AS $$
    SELECT CASE split_part(language, '-', 1)
        WHEN 'en' THEN 'english' WHEN 'de' THEN 'german' WHEN 'fr' THEN 'french' WHEN 'nl' THEN 'dutch'
        WHEN 'nb' THEN 'norwegian' WHEN 'no' THEN 'norwegian' WHEN 'nn' THEN 'norwegian' WHEN 'sv' THEN 'swedish'
        WHEN 'da' THEN 'danish' WHEN 'fi' THEN 'finnish' WHEN 'it' THEN 'italian' WHEN 'es' THEN 'spanish'
        WHEN 'pt' THEN 'portuguese' WHEN 'hu' THEN 'hungarian' WHEN 'ro' THEN 'romanian' WHEN 'ru' THEN 'russian'
        WHEN 'tr' THEN 'turkish' ELSE 'simple' END::regconfig
$$;

-- What a page says in all, what names it weighing most. Of a text the marks are left out. Details are left out, since some
-- are for editors only.
CREATE FUNCTION page_words(p pages, language text) RETURNS tsvector LANGUAGE sql STABLE AS $$
    SELECT setweight(to_tsvector(words_of(language), p.label || ' ' || p.title || ' ' || array_to_string(p.other_labels, ' ') ||
            ' ' || array_to_string(p.hidden_labels, ' ')), 'A') ||
        setweight(to_tsvector(words_of(language), p.summary || ' ' || p.own_address), 'B') ||
        setweight(to_tsvector(words_of(language), coalesce(
            (SELECT regexp_replace(t.html, '<[^>]*>', ' ', 'g') FROM texts t WHERE t.hash = p.text_hash), '')), 'D')
$$;

CREATE TABLE search_words (
    page_id bigint PRIMARY KEY REFERENCES pages ON DELETE CASCADE,
    words   tsvector NOT NULL
);

INSERT INTO search_words SELECT p.id, page_words(p, s.language) FROM pages p, site s WHERE NOT p.purged;
CREATE INDEX search_words_by_word ON search_words USING gin (words);
