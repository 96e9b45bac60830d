package grid

import (
	"slices"
	"strings"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// inside stands between the name of a topic list, or topic, and that of a topic in it.
const inside = " › "

// topicNames finds topics by what people call them. It is filled when it is first asked.
type topicNames struct {
	site *site.Site
	by   map[string][]site.PageID // by folded label, alone and with those above before it
}

func (n *topicNames) fill() {
	if n.by != nil {
		return
	}
	n.by = map[string][]site.PageID{}
	for _, id := range n.site.Topics().IDs {
		p := n.site.Page(id)
		for _, name := range []string{p.Label, n.full(id)} {
			n.by[fold(name)] = append(n.by[fold(name)], id)
		}
	}
}

// full names a topic with all that it stands in, from its list on.
func (n *topicNames) full(id site.PageID) string {
	p := n.site.Page(id)
	name := p.Label
	for !p.IsTopicList() {
		if p = n.site.Page(p.Parent); p == nil || !p.Gathers() {
			break
		}
		name = p.Label + inside + name
	}
	return name
}

// of names a topic, with what it stands in where another topic has the same name.
func (n *topicNames) of(id site.PageID) string {
	n.fill()
	label := n.site.Page(id).Label
	if len(n.by[fold(label)]) > 1 { // another topic has it
		return n.full(id)
	}
	return label
}

// only gives the topic that alone is called just so; 0: none, or several.
func (n *topicNames) only(name string) (only site.PageID) {
	n.fill()
	for _, id := range n.by[fold(name)] {
		if n.site.Page(id).Label != name && n.full(id) != name {
			continue
		}
		if only != 0 {
			return 0
		}
		only = id
	}
	return only
}

func (n *topicNames) find(name string) (site.PageID, error) {
	n.fill()
	meant := n.by[fold(name)]
	switch {
	case len(meant) == 1:
		return meant[0], nil
	case len(meant) == 0:
		return 0, typed.Refuse("There is no topic “%s”.", strings.TrimSpace(name))
	}
	var ways []string
	for _, id := range meant {
		ways = append(ways, "“"+n.full(id)+"”")
	}
	if slices.Sort(ways); len(slices.Compact(ways)) < len(meant) {
		return 0, typed.Refuse("Several topics are called “%s”; choose it on the page itself.", strings.TrimSpace(name))
	}
	const many = "Several topics are called “%s”: write %s."
	return 0, typed.Refuse(many, strings.TrimSpace(name), strings.Join(ways, " or "))
}

// topicsColumn is the column of the topics that a page bears, by name. Those in the bin are not named, and stay.
func (t *Table) topicsColumn() Column {
	c := t.column(edit.FieldTopics, "Topics")
	c.Several = true
	c.write = func(p *site.Page) string {
		var names []string
		for _, id := range p.Topics {
			if t.site.InTree(id) {
				names = append(names, t.topics.of(id))
			}
		}
		return strings.Join(names, apart)
	}
	c.read = func(p *site.Page, text string) (string, error) {
		var meant []site.PageID
		for name := range strings.FieldsFuncSeq(text, func(r rune) bool { return r == ';' || r == '\n' }) {
			if strings.TrimSpace(name) == "" {
				continue
			}
			id, err := t.named(p, strings.TrimSpace(name), meant)
			if err != nil {
				return "", err
			}
			meant = append(meant, id)
		}
		for _, id := range p.Topics {
			if !t.site.InTree(id) {
				meant = append(meant, id)
			}
		}
		slices.Sort(meant)
		value := edit.TopicsText(slices.Compact(meant)...)
		return value, edit.CheckField(t.site, edit.FieldTopics, value)
	}
	return c
}

// named finds the topic that is meant by a name in the cell of a page, besides those that are meant already. Where
// several are called so, the one that the page bears is meant; a name that is written just so comes first.
func (t *Table) named(p *site.Page, name string, meant []site.PageID) (site.PageID, error) {
	same := []func(string) bool{
		func(other string) bool { return other == name },
		func(other string) bool { return fold(other) == fold(name) },
	}
	for _, is := range same {
		for _, id := range p.Topics {
			if t.site.InTree(id) && !slices.Contains(meant, id) && is(t.topics.of(id)) {
				return id, nil
			}
		}
		if id := t.topics.only(name); id != 0 {
			return id, nil
		}
	}
	return t.topics.find(name)
}

// TopicNames names every topic that can stand in a cell, in the tree's order.
func (t *Table) TopicNames() (names []string) {
	for _, id := range t.site.Topics().IDs {
		names = append(names, t.topics.of(id))
	}
	return names
}
