package public

import (
	"html/template"

	"vineladder/internal/core/look"
	"vineladder/internal/core/picture"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A fact is what a page shows of one detail of its type.
type fact struct {
	Label  string
	Values []factValue
}

type factValue struct {
	Words   string
	Href    string
	Picture *picture.Picture // the words are its alternative
	Rich    template.HTML
}

// factsOf gives what a page shows of the details of its type to a visitor.
func factsOf(q Request, id site.PageID) look.Facts {
	p := q.Site.Page(id)
	if p == nil {
		return nil
	}
	panel := reach.NewPanel(q.Lens)
	made := look.FactsOf(q.Site, p, func(to site.PageID) bool { return panel.At(q.Site, to).Reachable() != 0 })
	made.Rebase(q.Base)
	return made
}

// dressed gives facts as the theme shows them.
func dressed(facts look.Facts, texts map[string]string, linked func(string, bool) template.HTML) []fact {
	var all []fact
	for _, f := range facts {
		made := fact{Label: f.Label}
		for _, v := range f.Values {
			one := factValue{Words: v.Words, Href: v.Href, Picture: v.File}
			if v.Rich != "" {
				one.Rich = linked(texts[v.Rich], true)
			}
			made.Values = append(made.Values, one)
		}
		all = append(all, made)
	}
	return all
}
