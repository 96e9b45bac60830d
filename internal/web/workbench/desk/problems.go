package desk

import (
	"net/http"
	"slices"
	"sync"
	"time"

	"vineladder/internal/core/check"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// Problems are those of what somebody looks at.
type Problems struct {
	All         []check.Problem
	New, Mended []check.Problem // by the draft; none of what is public now
	Meant       []MeantProblem
	Counting    bool // the checks of the whole site are still asked
}

// A MeantProblem is one of which somebody said that it is meant so.
type MeantProblem struct {
	check.Problem
	By store.Meant
}

// problems keeps what was found, of what is public and of the drafts that were looked at last.
type problems struct {
	sync.Mutex
	public *check.Found
	until  time.Time // from then on time itself may have changed something
	steps  []*step   // the last used first
	asking bool      // the checks of the whole public site are asked
}

// A step is what was found of one draft as it stands.
type step struct {
	of     *site.Site
	found  *check.Step
	asking bool
}

// Bounds of what is kept: drafts at once, and for how long what hangs on the time may be old.
const (
	stepsKept = 12
	foundFor  = time.Hour
)

// Problems finds what is wrong in what somebody looks at. Whoever does not read a page does not hear of its problems.
func (s *Server) Problems(r *http.Request, d *Desk) (made Problems, err error) {
	meant, err := s.Store.WhatIsMeant(r.Context())
	if err != nil {
		return made, err
	}
	public, step := s.found(d)
	reads := d.Reader()
	keep := func(problems []check.Problem) (kept []check.Problem) {
		for _, p := range problems {
			if p.Page != 0 && !reads(p.Page) {
				continue
			}
			if by, is := meant[p.Key()]; is {
				made.Meant = append(made.Meant, MeantProblem{p, by})
				continue
			}
			kept = append(kept, p)
		}
		return kept
	}
	if step == nil {
		made.All, made.Counting = keep(public.All()), !public.Far
		return made, nil
	}
	made.All, made.Counting = keep(step.All()), !step.Far()
	said := made.Meant
	made.New, made.Mended = keep(step.New()), keep(step.Mended())
	made.Meant = said
	return made, nil
}

// ProblemsOn gives those of a few things, as their sheets have them.
func (s *Server) ProblemsOn(r *http.Request, d *Desk, things ...site.Thing) ([]ProblemLine, error) {
	if d.Then != nil { // what was wrong then is for the area of problems
		return nil, nil
	}
	meant, err := s.Store.WhatIsMeant(r.Context())
	if err != nil {
		return nil, err
	}
	of := s.about(d)
	var found []check.Problem
	for _, thing := range things {
		for _, p := range of(thing) {
			if _, is := meant[p.Key()]; !is && (p.Page == 0 || d.Reads(p.Page).Yes) {
				found = append(found, p)
			}
		}
	}
	return d.Lines(s, found), nil
}

// about gives the problems of single things. For who may not know of every page they are looked at alone.
func (s *Server) about(d *Desk) func(site.Thing) []check.Problem {
	if d.Veiled {
		return check.NewLook(d.Site, d.Now, s.Settings.Site).With(d.Besides()).About
	}
	public, step := s.found(d)
	if step != nil {
		return step.About
	}
	return public.About
}

// found gives what was found in what is public, and what a draft makes of it; nil where that is not looked at.
func (s *Server) found(d *Desk) (public *check.Found, of *check.Step) {
	look := func(on *site.Site) *check.Look { return check.NewLook(on, d.Now, s.Settings.Site).With(d.Besides()) }
	if d.Then != nil {
		return check.Find(look(d.Site)).WithFar(), nil
	}
	if d.Veiled { // what somebody else may see says more than this person may know
		public = check.Find(look(d.Draft.Base.Site)).WithFar()
		if d.State == "now" {
			return public, nil
		}
		return public, public.After(look(d.Site)).WithFar()
	}
	public = s.problems.ofPublic(s.Store.Published().Site, look)
	if d.Draft.Base.Site != public.Site() { // the draft stands on what was public a moment ago
		public = check.Find(look(d.Draft.Base.Site))
	}
	if d.State == "now" || len(d.Draft.Steps) == 0 {
		return public, nil
	}
	return public, s.problems.ofDraft(public, look(d.Site).With(public.Besides()))
}

// ofPublic gives what is wrong in what is public. It is found from nothing once; after that from publication to
// publication, and anew in the background where time has passed.
func (p *problems) ofPublic(public *site.Site, look func(*site.Site) *check.Look) *check.Found {
	p.Lock()
	defer p.Unlock()
	now := look(public)
	switch {
	case p.public == nil:
		p.public = check.Find(now)
		p.renew(now)
	case p.public.Site() != public:
		p.public = p.public.After(look(public).With(p.public.Besides())).Found()
	case (p.public.Besides() != now.Besides || !now.At.Before(p.until)) && !p.asking:
		p.until = now.At.Add(foundFor) // nobody else begins meanwhile
		p.inBackground(func() *check.Found { return check.Find(now).WithFar() })
	}
	if !p.public.Far && !p.asking {
		found := p.public
		p.inBackground(func() *check.Found { return found.WithFar() })
	}
	return p.public
}

// renew sets until when time changes nothing.
func (p *problems) renew(l *check.Look) {
	p.until = l.At.Add(foundFor)
	if edge := reach.NextEdge(l.Site, l.At); !edge.IsZero() && edge.Before(p.until) {
		p.until = edge
	}
}

// inBackground finds something and keeps it, unless something else was published meanwhile.
func (p *problems) inBackground(find func() *check.Found) {
	p.asking = true
	on := p.public
	go func() {
		found := find()
		p.Lock()
		defer p.Unlock()
		p.asking = false
		if p.public == on || p.public.Site() == found.Site() {
			p.public = found
			p.renew(check.NewLook(found.Site(), found.At(), ""))
		}
	}()
}

// ofDraft gives what is wrong after a draft.
func (p *problems) ofDraft(public *check.Found, l *check.Look) *check.Step {
	p.Lock()
	defer p.Unlock()
	at := slices.IndexFunc(p.steps, func(s *step) bool { return s.of == l.Site && s.found.On(public) })
	if at < 0 {
		p.steps = slices.Insert(p.steps, 0, &step{of: l.Site, found: public.After(l)})
		p.steps = p.steps[:min(len(p.steps), stepsKept)]
		at = 0
	}
	kept := p.steps[at]
	p.steps = slices.Insert(slices.Delete(p.steps, at, at+1), 0, kept)
	if !kept.found.Far() && !kept.asking {
		kept.asking = true
		found := kept.found
		go func() {
			whole := found.WithFar()
			p.Lock()
			defer p.Unlock()
			kept.found, kept.asking = whole, false
		}()
	}
	return kept.found
}

// A ProblemLine is a problem as a screen shows it.
type ProblemLine struct {
	check.Problem
	Weight check.Weight
	Fix    string // words on the button; "": there is no fix of one step
	Link   string // where the thing is edited
	ID     string // names it in forms
}

// Lines readies problems for a screen.
func (d *Desk) Lines(s *Server, problems []check.Problem) []ProblemLine {
	look := check.NewLook(d.Site, d.Now, s.Settings.Site).With(d.Besides())
	lines := make([]ProblemLine, len(problems))
	for i, p := range problems {
		words, _ := look.Mend(p)
		lines[i] = ProblemLine{p, check.WeightOf(p), words, d.ThingLink(p.On), ProblemID(p)}
	}
	return lines
}

// ProblemID names a problem in forms: the check, the thing and the value, a word each with the last to the end.
func ProblemID(p check.Problem) string { return p.Check + " " + p.On.String() + " " + p.Value }
