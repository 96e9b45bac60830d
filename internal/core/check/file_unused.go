package check

import (
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

func fileUnused() Check {
	return Check{
		Key: "file-unused", Name: "Files that nothing uses", Weight: Advice,
		Why: "No text, item or block shows the file or leads to it.",
		Page: func(l *Look, p *site.Page, _ Standing, tell Tell) {
			if p.IsFile() && len(l.Site.UsesOf(p.ID)) == 0 {
				tell(site.PageThing(p.ID), p.ID, "", "Nothing uses the file %s.", l.label(p.ID))
			}
		},
		FixWords: "Put it in the bin",
		Fix: func(l *Look, p Problem) []edit.Op {
			if id := site.PageID(p.On.ID); l.Site.InTree(id) {
				return []edit.Op{edit.OpBin{Page: id, Seen: l.Site.Page(id).Revision, From: edit.PlaceOf(l.Site, id)}}
			}
			return nil
		},
	}
}
