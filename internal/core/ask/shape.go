// Package ask answers questions about the pages of a site as a lens sees them: which are offline, unlisted, never
// seen, not changed for a year. The ladder filters by it, selections are made with it, the site picture is shaded by
// it. It walks a branch once and carries down what pages inherit, so a question costs the pages it looks at and
// nothing for their depth.
package ask

import (
	"time"

	"vineladder/internal/core/care"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// Shape is how a page can be found, in effect: the four that a rung of the ladder draws.
type Shape string

const (
	ShapeFull  Shape = "full"  // online and listed
	ShapeHalf  Shape = "half"  // online, not listed
	ShapeStub  Shape = "stub"  // not online
	ShapeClock Shape = "clock" // not online, only on account of a live window
)

// ShapeOf gives a page's shape and the page that causes it: itself, or one above; nil for Full.
func ShapeOf(s *site.Site, id site.PageID, at time.Time) (Shape, *site.Page) {
	if why := reach.WhyOffline(s, id, at); why.Cause != nil {
		if why.Window {
			return ShapeClock, why.Cause
		}
		return ShapeStub, why.Cause
	}
	if why := menu.WhyUnlisted(s, id); why != nil {
		return ShapeHalf, why
	}
	return ShapeFull, nil
}

// Facts are what is known of a page on the way down the tree.
type Facts struct {
	Page  *site.Page
	Level int
	Shape Shape
	State reach.State
	Care  care.Of
}

// below gives the facts of a page from its parent's; nil above stands for the home page. The nearest cause to the home
// page names the shape of a page that is not online; nothing is asked of the pages above again.
func (w *walk) below(above *Facts, p *site.Page) Facts {
	f := Facts{Page: p, Shape: ShapeFull}
	if above == nil {
		f.Care = w.known.Below(care.Of{}, p)
	} else {
		f.Care = w.known.Below(above.Care, p)
	}
	if above == nil {
		f.State = w.panel.Home(p)
	} else {
		f.Level, f.State = above.Level+1, w.panel.Below(above.State, p)
	}
	switch {
	case above != nil && (above.Shape == ShapeStub || above.Shape == ShapeClock):
		f.Shape = above.Shape
	case p.Status != site.StatusLive:
		f.Shape = ShapeStub
	case !p.Window().Holds(w.lens.At):
		f.Shape = ShapeClock
	case !p.Listed || above != nil && above.Shape == ShapeHalf:
		f.Shape = ShapeHalf
	}
	return f
}
