package check

import (
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

func ownerGone() Check {
	return Check{
		Key: "owner-gone", Name: "Pages whose owner is gone", Weight: Doubt,
		Why: "The account can't sign in any more; until somebody else looks after the pages, the next owner above does " +
			"(rules 13).",
		Page: func(l *Look, p *site.Page, _ Standing, tell Tell) {
			if login, is := p.Owner.Person(); is && l.Care != nil && l.Care.Gone[login] {
				tell(
					site.PageThing(p.ID),
					p.ID,
					string(p.Owner),
					"%s is looked after by “%s”, who is gone.",
					l.label(p.ID),
					login,
				)
			}
		},
		FixWords: "Leave it to the owner above",
		Fix:      func(l *Look, p Problem) []edit.Op { return l.setPage(p, edit.FieldOwner, "") },
	}
}
