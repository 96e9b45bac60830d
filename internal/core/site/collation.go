package site

import (
	"cmp"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"unicode"

	"golang.org/x/text/collate"
	"golang.org/x/text/language"
	"golang.org/x/text/unicode/norm"
)

// A Language is one in which a site can be kept: its pages are ordered by label as its readers expect.
type Language struct {
	Tag  string // BCP 47, without a region
	Name string
}

// Languages that a site can be kept in: those whose order by label agrees with CLDR's, on all Latin letters with marks;
// the tests hold each against ICU. A site may name a region with them, as in “en-GB”.
var Languages = []Language{
	{"eu", "Basque"},
	{"ca", "Catalan"},
	{"cs", "Czech"},
	{"da", "Danish"},
	{"nl", "Dutch"},
	{"en", "English"},
	{"fo", "Faroese"},
	{"fr", "French"},
	{"de", "German"},
	{"hu", "Hungarian"},
	{"is", "Icelandic"},
	{"ga", "Irish"},
	{"it", "Italian"},
	{"lt", "Lithuanian"},
	{"lb", "Luxembourgish"},
	{"se", "Northern Sami"},
	{"nb", "Norwegian Bokmål"},
	{"nn", "Norwegian Nynorsk"},
	{"pl", "Polish"},
	{"pt", "Portuguese"},
	{"ro", "Romanian"},
	{"sk", "Slovak"},
	{"sl", "Slovenian"},
	{"es", "Spanish"},
	{"sv", "Swedish"},
	{"tr", "Turkish"},
	{"cy", "Welsh"},
}

// KnowsLanguage says whether a site can be kept in a language, with or without a region.
func KnowsLanguage(tag string) bool {
	parsed, err := language.Parse(tag)
	if err != nil {
		return false
	}
	base, _ := parsed.Base()
	return slices.ContainsFunc(Languages, func(l Language) bool { return l.Tag == base.String() })
}

// A collation compares labels in one language. Collators are not safe for concurrent use and dear to make, so they are
// pooled; all Sites that grow from one share it.
type collation struct {
	pool   sync.Pool
	danish bool
	keys   sync.Map // words -> their collation key
	kept   atomic.Int64
}

// keyLimit bounds the keys that are kept, of words that were put in order.
const keyLimit = 200_000

// key gives what words are compared by, as Collate does but for Danish, byte by byte (UTS #10, 4.4).
func (c *collation) key(words string) string {
	if found, known := c.keys.Load(words); known {
		return found.(string)
	}
	collator := c.pool.Get().(*collate.Collator)
	var buffer collate.Buffer
	made := string(collator.KeyFromString(&buffer, norm.NFD.String(words)))
	c.pool.Put(collator)
	if c.kept.Add(1) > keyLimit {
		c.keys.Clear()
		c.kept.Store(1)
	}
	c.keys.Store(words, made)
	return made
}

// SortByHeading puts pages in the order of their long names in the site's language; equals by code points and number.
func (s *Site) SortByHeading(pages []PageID) {
	type sortable struct {
		key string
		*Page
	}
	all := make([]sortable, len(pages))
	for i, id := range pages {
		all[i].Page = s.Page(id)
		if !s.collation.danish {
			all[i].key = s.collation.key(all[i].Heading())
		}
	}
	slices.SortFunc(all, func(a, b sortable) int {
		c := cmp.Compare(a.key, b.key)
		if s.collation.danish {
			c = s.Collate(a.Heading(), b.Heading())
		}
		return cmp.Or(c, cmp.Compare(a.Heading(), b.Heading()), cmp.Compare(a.ID, b.ID))
	})
	for i := range all {
		pages[i] = all[i].ID
	}
}

func newCollation(lang string) *collation {
	tag := language.Make(lang)
	base, _ := tag.Base()
	switch base.String() {
	case "nb", "no", "nn":
		tag = language.Danish // the tables have no Norwegian; CLDR orders its letters as the Danish ones
	}
	return &collation{pool: sync.Pool{New: func() any { return collate.New(tag) }}, danish: base.String() == "da"}
}

// Collate compares two labels by the Unicode Collation Algorithm in the site's language (UTS #10). Letters are taken
// apart from their marks first, so that a pair of letters counts as one also where the second has a mark.
func (s *Site) Collate(a, b string) int {
	a, b = norm.NFD.String(a), norm.NFD.String(b)
	if s.collation.danish {
		return s.collation.compareDanish(a, b)
	}
	return s.collation.compare(a, b)
}

func (c *collation) compare(a, b string) int {
	collator := c.pool.Get().(*collate.Collator)
	defer c.pool.Put(collator)
	return collator.CompareString(a, b)
}

// asDanish writes what CLDR orders in Danish otherwise than the package's older tables do: œ is oe with a mark, þ is
// th, ę an e with a mark, and an a before a capital one no å. A combining grapheme joiner (U+034F) keeps two letters,
// or a letter and its mark, from being read as one.
var asDanish = strings.NewReplacer(
	"œ",
	"oe\u0338",
	"Œ",
	"Oe\u0338",
	"þ",
	"th",
	"Þ",
	"Th",
	"aA",
	"a\u034fA",
	"e\u0328",
	"e\u034f\u0328",
	"E\u0328",
	"E\u034f\u0328",
)

// compareDanish adds what CLDR says of Danish and the package has not: of two labels alike but for case, the one with
// the capital is first.
func (c *collation) compareDanish(a, b string) int {
	a, b = asDanish.Replace(a), asDanish.Replace(b)
	return cmp.Or(c.compare(strings.ToLower(a), strings.ToLower(b)), compareCase(a, b))
}

// compareCase puts the one of two labels first that has a capital where they first differ so.
func compareCase(a, b string) int {
	one, two := []rune(a), []rune(b)
	for i := range min(len(one), len(two)) {
		switch upper := unicode.IsUpper(one[i]); {
		case upper == unicode.IsUpper(two[i]):
		case upper:
			return -1
		default:
			return 1
		}
	}
	return 0
}
