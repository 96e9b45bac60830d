package edit

import (
	"slices"
	"strings"

	"vineladder/internal/core/detail"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// Fields of a page type, besides its name and its layout.
const (
	FieldDateName     Field = "date_name"     // what the date of its pages means; empty: they have none
	FieldDefaultPlace Field = "default_place" // number of the page below which its pages are made, or empty
	FieldPagesListed  Field = "pages_listed"  // yes, no
	FieldTopicLists   Field = "topic_lists"   // of which its pages must bear a topic, as in “page:12|page:15”
)

// Fields of a detail of a page type, besides its label.
const (
	FieldType     Field = "type" // which never changes
	FieldRank     Field = "rank" // its place among those of the type
	FieldUnit     Field = "unit"
	FieldChoices  Field = "choices" // one a line
	FieldHelp     Field = "help"
	FieldRequired Field = "required" // yes, no
	FieldShown    Field = "shown"    // both, page, column, editors
)

// NameLimit bounds the names of page types and details, in characters.
const NameLimit = 80

// kindFields is every field of a page type.
var kindFields = family[site.Kind]{
	Column[site.Kind, string]{
		Fact: Fact{Field: FieldName},
		Get:  func(k *site.Kind) string { return k.Name },
		Set: func(_ *site.Site, k *site.Kind, name string) error {
			if k.Name = name; name == "" {
				return refuse("A page type needs a name.")
			}
			return nil
		},
		Form: line("A name", NameLimit),
	},
	at(
		Fact{Field: FieldDateName, Words: "meaning of the date"},
		line("What the date means", NameLimit), func(k *site.Kind) *string { return &k.DateName },
	),
	at(Fact{Field: FieldLayout}, layout(), func(k *site.Kind) *string { return &k.Layout }),
	at(
		Fact{Field: FieldDefaultPlace, Words: "place in which its pages are made", Traits: Choosing},
		pageNumber(inTree), func(k *site.Kind) *site.PageID { return &k.Place },
	),
	at(
		Fact{Field: FieldPagesListed, Words: "place of its pages in menus"},
		flagOff(), func(k *site.Kind) *bool { return &k.Unlisted },
	),
	at(
		Fact{Field: FieldTopicLists, Words: "topic lists that its pages need", Apart: "|", Traits: Naming},
		topicLists(), func(k *site.Kind) *string { return &k.Lists },
	),
}

// KindValue gives a field of a page type in its canonical form.
func KindValue(k *site.Kind, of Field) string { return kindFields.value(k, of) }

// topicLists is the form of a set of topic lists.
func topicLists() Form[string] {
	return Form[string]{
		Write: func(value string) string { return value },
		Read: func(s *site.Site, text string) (string, error) {
			lists, err := pageNumbers().Read(s, text)
			if err != nil {
				return "", err
			}
			for _, id := range lists {
				switch p := s.Page(id); {
				case p == nil || p.Purged:
					return "", &typed.Missing{Page: id, Sentence: "One of these topic lists is not there any more."}
				case p.Kind != site.KindTopicList:
					return "", refuse("“%s” is no topic list.", p.Label)
				}
			}
			return TopicsText(lists...), nil
		},
	}
}

// detailFields is every field of a detail.
var detailFields = family[site.Detail]{
	Column[site.Detail, string]{
		Fact: Fact{Field: FieldLabel},
		Get:  func(d *site.Detail) string { return d.Label },
		Set: func(_ *site.Site, d *site.Detail, label string) error {
			if d.Label = label; label == "" {
				return refuse("A detail needs a label.")
			}
			return nil
		},
		Form: line("A label", NameLimit),
	},
	Column[site.Detail, site.DetailType]{
		Fact: Fact{Field: FieldType, Words: "sort of value"},
		Get:  func(d *site.Detail) site.DetailType { return d.Type },
		Set: func(_ *site.Site, d *site.Detail, is site.DetailType) error {
			if d.Type != "" && d.Type != is {
				return refuse("What sort of value “%s” has never changes; make another detail.", d.Label)
			}
			d.Type = is
			return nil
		},
		Form: choice(detailTypes()...),
	},
	at(Fact{Field: FieldRank, Words: "place in the order"}, rankForm(), func(d *site.Detail) *string { return &d.Rank }),
	at(Fact{Field: FieldUnit}, line("A unit", 20), func(d *site.Detail) *string { return &d.Unit }),
	at(Fact{Field: FieldChoices}, choiceLines(), func(d *site.Detail) *string { return &d.Choices }),
	at(
		Fact{Field: FieldHelp, Words: "help for editors"},
		line("Help", SummaryLimit), func(d *site.Detail) *string { return &d.Help },
	),
	at(
		Fact{Field: FieldRequired, Words: "need of a value"},
		flag().or("no"), func(d *site.Detail) *bool { return &d.Required },
	),
	at(
		Fact{Field: FieldShown, Words: "place where it is shown"},
		choice(site.DetailBoth, site.DetailFact, site.DetailColumn, site.DetailEditors).or(string(site.DetailBoth)),
		func(d *site.Detail) *site.DetailShows { return &d.Shows },
	),
}

// DetailValue gives a field of a detail in its canonical form.
func DetailValue(d *site.Detail, of Field) string { return detailFields.value(d, of) }

func detailTypes() []site.DetailType {
	var all []site.DetailType
	for _, t := range detail.Types() {
		all = append(all, t.Key)
	}
	return all
}

// rankForm is the form of a rank, which is made by the program.
func rankForm() Form[string] {
	return Form[string]{
		Write: func(value string) string { return value },
		Read: func(_ *site.Site, text string) (string, error) {
			if !site.IsRank(text) {
				return "", refuse("“%s” is no rank.", text)
			}
			return text, nil
		},
	}
}

// choiceLimit is the number of words to choose from.
const choiceLimit = 200

// choiceLines is the form of what can be chosen, a line each.
func choiceLines() Form[string] {
	return Form[string]{
		Write: func(value string) string { return value },
		Read: func(_ *site.Site, text string) (string, error) {
			var all []string
			for row := range strings.SplitSeq(text, "\n") {
				word, err := typed.Line(row, "A choice", detail.Limit)
				if err != nil {
					return "", err
				}
				if word != "" && !slices.Contains(all, word) {
					all = append(all, word)
				}
			}
			if len(all) > choiceLimit {
				return "", refuse("There can be %d choices at most; these are %d.", choiceLimit, len(all))
			}
			return strings.Join(all, "\n"), nil
		},
	}
}
