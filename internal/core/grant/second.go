package grant

import (
	"fmt"

	"vineladder/internal/core/site"
)

// Demanding gives the page that asks for a second person where a page stands: itself or the nearest above; nil for
// none.
func Demanding(s *site.Site, id site.PageID) *site.Page {
	for p := s.Page(id); p != nil; p = s.Page(p.Parent) {
		if p.SecondPerson {
			return p
		}
	}
	return nil
}

// MayAlone asks whether somebody publishes nothing that they made where a second person is asked for: on the page of an
// operation as it is public, or as it will be (rules 8.2). Who last entered, redid or insisted on an edit made it.
func MayAlone(public, after *site.Site, publisher int64, publishers []string, steps []Made) Answer {
	for _, step := range steps {
		if step.By != publisher || publisher == 0 {
			continue
		}
		for _, op := range step.Ops {
			id := op.Subject()
			demanding := Demanding(public, id)
			if demanding == nil {
				demanding = Demanding(after, id)
			}
			if demanding != nil {
				const no = "“%s” asks for a second person: what you edited there is for somebody else to publish."
				return Answer{
					Why:   fmt.Sprintf(no, demanding.Label),
					Alone: May(public, publishers, site.ActionKeep, site.SiteThing).Yes,
				}
			}
		}
	}
	return Answer{Yes: true}
}
