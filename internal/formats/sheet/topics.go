package sheet

import (
	"errors"
	"slices"
	"strings"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// apart stands between the keys of the topics of a page.
const apart = '|'

// topicsCell writes the topics of a page by their keys. Those in the bin have no row, and stay on the page unsaid.
func topicsCell(s *site.Site, p *site.Page) string {
	var keys []string
	for _, id := range standing(s, p) {
		keys = append(keys, s.Page(id).Key)
	}
	return strings.Join(keys, string(apart))
}

// standing gives the topics of a page that are not in the bin.
func standing(s *site.Site, p *site.Page) []site.PageID {
	if p == nil {
		return nil
	}
	return slices.DeleteFunc(slices.Clone(p.Topics), func(id site.PageID) bool { return !s.InTree(id) })
}

// checkTopics finds rows that bear what is no topic, or not there.
func (p *plan) checkTopics() error {
	var faults []error
	for _, row := range p.rows {
		if p.isTopic(row.key) && strings.ContainsRune(row.key, apart) {
			faults = append(faults, row.fault("key", "the key of a topic can't have a “%c” in it", apart))
		}
		for _, key := range row.topics {
			switch page := p.page(key); {
			case p.byKey[key] == nil && (page == nil || !p.site.InTree(page.ID)):
				faults = append(faults, row.fault("topics", "there is no topic “%s”, neither here nor on the site", key))
			case !p.isTopic(key):
				faults = append(faults, row.fault("topics", "“%s” is no topic", key))
			}
		}
	}
	return errors.Join(faults...)
}

// isTopic says whether a page will be a topic.
func (p *plan) isTopic(key string) bool {
	if row := p.byKey[key]; row != nil {
		if kind, said := row.said(edit.FieldKind); said {
			return kind.value == site.KindTopic
		}
	}
	page := p.page(key)
	return page != nil && page.IsTopic()
}

// tag gives pages the topics that their rows say, when all pages are there.
func (p *plan) tag() {
	for _, row := range p.rows {
		if !row.tagged {
			continue
		}
		stands := standing(p.site, p.page(row.key))
		topics := make([]site.PageID, len(row.topics))
		for i, key := range row.topics {
			topics[i] = p.ids[key]
		}
		slices.Sort(topics)
		if topics = slices.Compact(topics); slices.Equal(topics, stands) {
			continue
		}
		p.ops = append(p.ops, edit.OpEdit{Page: p.ids[row.key], Fields: []edit.FieldChange{{
			Field: edit.FieldTopics, Old: edit.TopicsText(stands...), New: edit.TopicsText(topics...),
		}}})
	}
}
