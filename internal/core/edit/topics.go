package edit

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// TopicLimit is the number of topics that a page can bear, LabelsLimit that of the other labels of a topic.
const (
	TopicLimit  = 200
	LabelsLimit = 100
)

// pageNumbers is the form of a set of pages, as in “page:12|page:15”.
func pageNumbers() Form[[]site.PageID] {
	return Form[[]site.PageID]{
		Write: func(value []site.PageID) string { return TopicsText(value...) },
		Read: func(_ *site.Site, text string) ([]site.PageID, error) {
			var all []site.PageID
			for word := range strings.FieldsFuncSeq(text, func(r rune) bool { return r == '|' }) {
				number, _ := strings.CutPrefix(word, "page:")
				id, err := strconv.ParseInt(number, 10, 64)
				if err != nil || id < 1 {
					return nil, refuse("“%s” is not the number of a topic.", word)
				}
				all = append(all, site.PageID(id))
			}
			slices.Sort(all)
			return slices.Compact(all), nil
		},
	}
}

// TopicsText writes topics down as the field of a page has them.
func TopicsText(topics ...site.PageID) string {
	words := make([]string, len(topics))
	for i, id := range topics {
		words[i] = fmt.Sprintf("page:%d", id)
	}
	return strings.Join(words, "|")
}

// setTopics gives a page its topics. Those that it bears already may be in the bin; others must be there.
func setTopics(s *site.Site, p *site.Page, topics []site.PageID) error {
	if len(topics) > TopicLimit {
		return refuse("A page can bear %d topics at most; these are %d.", TopicLimit, len(topics))
	}
	for _, id := range topics {
		if slices.Contains(p.Topics, id) {
			continue
		}
		switch topic := s.Page(id); {
		case topic == nil || topic.Purged:
			return &Conflict{Page: id, Sentence: "One of these topics is not there any more."}
		case !topic.IsTopic():
			return refuse("“%s” is no topic.", topic.Label)
		}
	}
	p.Topics = topics
	return nil
}

// ListsPlace gives the place of a new topic list: after the last one that there is; for the first one in a page
// “Topics”, which the operations make if it is not there.
func ListsPlace(s *site.Site, newIDs func(int) ([]site.PageID, error)) ([]Op, Place, error) {
	if lists := s.TopicLists(); len(lists) > 0 {
		last := lists[len(lists)-1]
		_, after := s.Neighbours(last)
		return nil, Place{Parent: s.Page(last).Parent, After: last, Before: after}, nil
	}
	if above := s.Child(s.Home(), "topics"); above != 0 {
		return nil, Place{Parent: above}, nil
	}
	ids, err := newIDs(1)
	if err != nil {
		return nil, Place{}, err
	}
	return []Op{OpMake{Page: ids[0], Place: Place{Parent: s.Home()}, Fields: []FieldChange{
		{Field: FieldLabel, New: "Topics"},
		{Field: FieldSegment, New: "topics"},
		{Field: FieldStatus, New: string(site.StatusLive)},
		{Field: FieldListed, New: "no"},
	}}}, Place{Parent: ids[0]}, nil
}

// setMergedInto says as which topic one counts once it is in the bin. One that comes back to itself is refused.
func setMergedInto(s *site.Site, p *site.Page, to site.PageID) error {
	if to == 0 {
		p.MergedInto = 0
		return nil
	}
	into := s.Page(to)
	switch {
	case !into.IsTopic() || s.TopicOf(to) == 0:
		return refuse("“%s” is no topic of the site.", into.Label)
	case s.TopicOf(to) == p.ID:
		return refuse("“%s” can't be merged into itself.", p.Label)
	case s.IsWithin(to, p.ID):
		return refuse("“%s” stands in “%s”; what is narrower can't take it over.", into.Label, p.Label)
	case s.TopicList(to) != s.TopicList(p.ID) && s.TopicList(p.ID) != nil:
		return refuse("“%s” and “%s” stand in different lists; topics are merged in one list.", p.Label, into.Label)
	}
	p.MergedInto = to
	return nil
}

// Merge gives the operations that merge a topic into another one of its list (rules 7.7): what stands in it moves, its
// labels become other labels, its addresses lead there, and from then on who bears it counts as bearing the other.
func Merge(s *site.Site, topic, into site.PageID, seen int64) []Op {
	p, to := s.Page(topic), s.Page(into)
	var ops []Op
	for _, kid := range s.Children(topic) {
		ops = append(ops, OpMove{Page: kid, From: Place{Parent: topic}, To: Place{Parent: into}})
	}
	known := append(slices.Clone(to.OtherLabels), to.Label)
	more := slices.Clone(to.OtherLabels)
	for _, label := range append(slices.Clone(p.OtherLabels), p.Label) {
		if !slices.Contains(known, label) && !slices.Contains(to.HiddenLabels, label) {
			more = append(more, label)
		}
	}
	slices.Sort(more)
	edits := func(page site.PageID, of Field, was, is string) Op {
		return OpEdit{Page: page, Fields: []FieldChange{{Field: of, Old: was, New: is}}}
	}
	target := strconv.FormatInt(int64(into), 10)
	return append(ops,
		edits(into, FieldOtherLabels, Value(to, FieldOtherLabels), strings.Join(more, "\n")),
		edits(topic, FieldMergedInto, Value(p, FieldMergedInto), target),
		OpBin{Page: topic, Seen: seen},
		edits(topic, FieldLeadsTo, "", target),
	)
}

// labels is the form of a set of labels, one a line.
func labels() Form[[]string] {
	return Form[[]string]{
		Write: func(value []string) string { return strings.Join(value, "\n") },
		Read: func(_ *site.Site, text string) ([]string, error) {
			var all []string
			for one := range strings.Lines(text) {
				label, err := typed.Line(one, "A label", LabelLimit)
				if err != nil {
					return nil, err
				}
				if label != "" {
					all = append(all, label)
				}
			}
			slices.Sort(all)
			if all = slices.Compact(all); len(all) > LabelsLimit {
				return nil, refuse("A topic can have %d such labels at most; these are %d.", LabelsLimit, len(all))
			}
			return all, nil
		},
	}
}

// merged takes the change from one set to another over to what stands: what it adds is added, what it takes is taken.
func merged(stands, was, is, apart string) string {
	members := func(text string) []string {
		return slices.DeleteFunc(strings.Split(text, apart), func(one string) bool { return one == "" })
	}
	old, made := members(was), members(is)
	kept := slices.DeleteFunc(members(stands), func(one string) bool {
		return slices.Contains(old, one) && !slices.Contains(made, one)
	})
	for _, one := range made {
		if !slices.Contains(old, one) && !slices.Contains(kept, one) {
			kept = append(kept, one)
		}
	}
	return strings.Join(kept, apart)
}

// checkTopics refuses what a page can't be beside its parent and its own labels (rules 7): topics stand in topic lists
// and nothing else does, topics bear none, and a label is only one of what a topic is called (SKOS Reference, S13).
func (st *state) checkTopics(p *site.Page) error {
	above := st.Peek().Page(p.Parent)
	switch inside := above != nil && above.Gathers(); {
	case p.IsTopic() && !inside:
		return refuse("“%s” is a topic; it can stand in a topic list only.", p.Label)
	case !p.IsTopic() && inside:
		return refuse("“%s” gathers topics; “%s” is none and can't stand in it.", above.Label, p.Label)
	case p.Gathers() && p.Parent == 0:
		return refuse("The home page can't be a topic list.")
	case p.Gathers() && len(p.Topics) > 0:
		return refuse("“%s” is a topic itself and bears no others.", p.Label)
	case p.Gathers() && p.Listing != "":
		return refuse("“%s” gathers pages by their topics; it lists no others.", p.Label)
	case !p.IsTopic() && p.MergedInto != 0:
		return refuse("“%s” is no topic; it can't be merged into one.", p.Label)
	case !p.IsTopic() && len(p.OtherLabels)+len(p.HiddenLabels) > 0:
		return refuse("“%s” is no topic; only topics have other labels.", p.Label)
	}
	for _, label := range p.OtherLabels {
		if label == p.Label || slices.Contains(p.HiddenLabels, label) {
			return refuse("“%s” is called “%s” already; each label is given once.", p.Label, label)
		}
	}
	if slices.Contains(p.HiddenLabels, p.Label) {
		return refuse("“%s” is the label already; it can't be a hidden one too.", p.Label)
	}
	return nil
}
