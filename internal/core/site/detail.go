package site

import (
	"encoding/json"
	"maps"
	"slices"
	"strings"
)

// A Detail is a field of a page type's own, such as the depth of a harbour (rules 7.1). Details are comparable.
type Detail struct {
	Key      string // the type's, a full stop, and its own, as in "harbour.depth"; it never changes
	Rank     string // place among those of the type
	Label    string
	Type     DetailType
	Unit     string // of a number
	Choices  string // one a line
	Help     string // for editors
	Required bool
	Shows    DetailShows
}

// DetailType is what the values of a detail are.
type DetailType string

// DetailTypes are all of them, in the order in which they are offered.
const (
	DetailLine    DetailType = "line"
	DetailText    DetailType = "text"
	DetailRich    DetailType = "rich"
	DetailNumber  DetailType = "number"
	DetailYes     DetailType = "yes"
	DetailDate    DetailType = "date"
	DetailDates   DetailType = "dates"
	DetailMoment  DetailType = "moment"
	DetailChoice  DetailType = "choice"
	DetailChoices DetailType = "choices"
	DetailPage    DetailType = "page"
	DetailFile    DetailType = "file"
	DetailPicture DetailType = "picture"
	DetailWeb     DetailType = "web"
	DetailMail    DetailType = "mail"
	DetailPhone   DetailType = "phone"
)

// DetailShows says where visitors find the values of a detail.
type DetailShows string

// Both on the page and as a column of listings, on one of the two, or nowhere: for editors only.
const (
	DetailBoth    DetailShows = "both"
	DetailFact    DetailShows = "page"
	DetailColumn  DetailShows = "column"
	DetailEditors DetailShows = "editors"
)

// Kind is the key of the page type that a detail belongs to.
func (d Detail) Kind() string { return KindOfDetail(d.Key) }

// KindOfDetail is the page type in the key of a detail.
func KindOfDetail(key string) string {
	kind, _, _ := strings.Cut(key, ".")
	return kind
}

// OnPage and InLists say whether visitors find a detail on its pages, and in listings.
func (d Detail) OnPage() bool  { return d.Shows == DetailBoth || d.Shows == DetailFact }
func (d Detail) InLists() bool { return d.Shows == DetailBoth || d.Shows == DetailColumn }

// ChoiceList gives what can be chosen.
func (d Detail) ChoiceList() []string {
	return strings.FieldsFunc(d.Choices, func(r rune) bool { return r == '\n' })
}

// AllDetails gives the details of every page type, by type and in their order.
func (s *Site) AllDetails() []Detail { return s.details }

// Details gives those of one page type, in their order.
func (s *Site) Details(kind string) []Detail {
	from, _ := slices.BinarySearchFunc(s.details, kind, func(d Detail, kind string) int {
		return strings.Compare(d.Kind(), kind)
	})
	to := from
	for to < len(s.details) && s.details[to].Kind() == kind {
		to++
	}
	return s.details[from:to:to]
}

// Detail finds one by its key; nil if there is none.
func (s *Site) Detail(key string) *Detail {
	all := s.Details(KindOfDetail(key))
	for i := range all {
		if all[i].Key == key {
			return &all[i]
		}
	}
	return nil
}

// SetDetails replaces the details of all page types.
func (b *Builder) SetDetails(details []Detail) {
	b.site.details = slices.Clone(details)
	slices.SortFunc(b.site.details, func(x, y Detail) int {
		if c := strings.Compare(x.Kind(), y.Kind()); c != 0 {
			return c
		}
		if c := strings.Compare(x.Rank, y.Rank); c != 0 {
			return c
		}
		return strings.Compare(x.Key, y.Key)
	})
}

// Values are what a page has for details, each in its canonical form, as one JSON object with its keys in order: so a
// page with none costs nothing, and equal ones are equal strings. "" has none. Those of a detail that is gone, or of a
// type that the page had before, stay.
type Values string

// All gives every value by its key.
func (v Values) All() map[string]string {
	all := map[string]string{}
	if v != "" {
		_ = json.Unmarshal([]byte(v), &all) // they were written below
	}
	return all
}

// Get gives one value by a key, which begins with a letter; "" if there is none. It looks for the key as ValuesOf
// writes it, so that no other value is read: within one, a quotation mark has a backslash before it, and behind one
// that ends a value stands no letter.
func (v Values) Get(key string) string {
	name, err := json.Marshal(key)
	if v == "" || err != nil {
		return ""
	}
	written := string(name) + `:"`
	at := strings.Index(string(v), written)
	if at < 0 {
		return ""
	}
	begin := at + len(written)
	end := begin
	for plain := true; end < len(v); end++ {
		switch {
		case v[end] == '"' && plain:
			return string(v[begin:end])
		case v[end] == '"':
			var read string
			_ = json.Unmarshal([]byte(v[begin-1:end+1]), &read) // it was written so
			return read
		case v[end] == '\\':
			plain = false
			end++
		}
	}
	return ""
}

// With gives the values with one set; an empty one is none.
func (v Values) With(key, value string) Values {
	all := v.All()
	if all[key] = value; value == "" {
		delete(all, key)
	}
	return ValuesOf(all)
}

// ValuesOf writes values.
func ValuesOf(all map[string]string) Values {
	all = maps.Clone(all)
	maps.DeleteFunc(all, func(_, value string) bool { return value == "" })
	if len(all) == 0 {
		return ""
	}
	written, err := json.Marshal(all)
	if err != nil {
		panic(err) // strings can be written
	}
	return Values(written)
}

// ParseValues reads values from outside; false for what is no object of words.
func ParseValues(text string) (Values, bool) {
	all := map[string]string{}
	if text != "" && json.Unmarshal([]byte(text), &all) != nil {
		return "", false
	}
	return ValuesOf(all), true
}
