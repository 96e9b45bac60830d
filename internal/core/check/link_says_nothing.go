package check

import (
	"strings"

	"vineladder/internal/core/site"
)

func linkSaysNothing() Check {
	return Check{
		Key: "link-says-nothing", Name: "Links whose words say nothing", Weight: Doubt,
		Why: "Who hears the links of a page one by one can't tell where “here” leads (WCAG 2.2, 2.4.4; failure F84).",
		Page: func(l *Look, p *site.Page, _ Standing, tell Tell) {
			for _, fault := range l.Site.TextFaults(p.Text) {
				if words, is := strings.CutPrefix(fault, site.FaultVagueLink); is {
					tell(site.PageThing(p.ID), p.ID, words, "The text of %s has a link “%s”.", l.label(p.ID), words)
				}
			}
		},
	}
}
