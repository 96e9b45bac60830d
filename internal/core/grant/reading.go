package grant

import (
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// Reads says whether somebody may read what a page says, its text, title and summary, in the workbench: who is admitted
// to it, or may set who is (rules 8.1). Its label, the last part of its address and its place are for all who may edit
// or order.
func Reads(s *site.Site, roles []string, page site.PageID) Answer {
	if Reader(s, roles)(page) {
		return Answer{Yes: true}
	}
	return Answer{
		Why: "This page is not for you: you may order it, and not read it. Who may set who sees it can change that.",
	}
}

// Reader is Reads for many pages, without reasons: rights are looked up once.
func Reader(s *site.Site, roles []string) func(site.PageID) bool {
	h := Holding(s, roles)
	if h.Through(site.ActionAdmit, site.SiteThing) != nil {
		return func(site.PageID) bool { return true }
	}
	lens := reach.Lens{Visitor: reach.As(s, roles)}
	panel := reach.NewPanel(lens)
	return func(page site.PageID) bool {
		return panel.AdmittedBefore(s, page) != 0 || h.Through(site.ActionAdmit, site.PageThing(page)) != nil
	}
}

// MayWrite asks for every page that operations write on whether the person may read it, and gives the first no.
func MayWrite(s *site.Site, roles []string, ops []edit.Op) Answer {
	for _, op := range ops {
		o, is := op.(edit.OpEdit)
		if !is || s.Page(o.Page) == nil {
			continue
		}
		for _, c := range o.Fields {
			if !edit.FieldHas(c.Field, edit.Inner) {
				continue
			}
			if answer := Reads(s, roles, o.Page); !answer.Yes {
				return answer
			}
		}
	}
	return Answer{Yes: true}
}
