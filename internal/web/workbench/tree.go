package workbench

import (
	"cmp"
	"net/http"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/address"
	"vineladder/internal/core/ask"
	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/web/public"
)

// treeView is the tree area: the frame, the ladder, the sheet and what will change.
type treeView struct {
	*desk
	Area   string
	Ladder ladder
	Sheet  sheet
	Dock   dock
	Site   string // origin of the public site
	Roles  []site.Role
	Name   string // of the site
	Strip  []tick
	Asks   []ask.Question
	Drafts []store.DraftLine
}

// A dock is the line that says what will change.
type dock struct {
	Sentences []consequence.Sentence
	Edits     int
	Held      int
	Undo      string
	Redo      string
}

const windowRows = 80

// tree renders the tree area, or with X-Part only its parts.
func (s *Server) tree(w http.ResponseWriter, r *http.Request, d *desk) error {
	if r.FormValue("page") == "" {
		last, err := s.store.Place(r.Context(), d.Who.ID, "tree")
		if err != nil {
			return err
		}
		if d.Site.InTree(last) {
			d.Selected = last
		}
	} else if err := s.store.SetPlace(r.Context(), d.Who.ID, "tree", d.Selected); err != nil {
		return err
	}
	open, err := s.store.OpenBranches(r.Context(), d.Who.ID, "tree")
	if err != nil {
		return err
	}
	from := -1
	if n, err := strconv.Atoi(r.FormValue("from")); err == nil {
		from = max(0, n)
	} else if missing := closedAbove(d.Site, d.Selected, open); len(missing) > 0 {
		if err := s.store.SetOpen(r.Context(), d.Who.ID, "tree", true, missing...); err != nil {
			return err
		}
		for _, id := range missing {
			open[id] = true
		}
	}
	view := treeView{desk: d, Area: "tree", Ladder: d.rows(open, from, windowRows), Site: s.settings.Site,
		Roles: d.Site.Roles(), Name: d.Site.Settings().Name}
	if r.Header.Get("X-Part") == "rows" {
		s.render(w, r, "rows", view)
		return nil
	}
	view.Sheet, view.Strip, view.Asks = s.sheet(d), s.strip(d), ask.Questions()
	if view.Drafts, err = s.store.DraftsOf(r.Context(), d.Who.ID); err != nil {
		return err
	}
	if view.Dock, err = s.dock(r, d); err != nil {
		return err
	}
	if r.Header.Get("X-Part") != "" {
		s.render(w, r, "parts", view)
		return nil
	}
	s.render(w, r, "tree", view)
	return nil
}

// closedAbove gives the ancestors that must open for a page to be in sight.
func closedAbove(s *site.Site, id site.PageID, open map[site.PageID]bool) []site.PageID {
	var closed []site.PageID
	for p := s.Page(s.Page(id).Parent); p != nil; p = s.Page(p.Parent) {
		if !open[p.ID] && p.Parent != 0 {
			closed = append(closed, p.ID)
		}
	}
	return closed
}

// changes says what will change, at the moment of the lens or at the one that the draft is set to. Now is the usual moment,
// and computed once for all who ask.
func (s *Server) changes(r *http.Request, d *desk) ([]consequence.Sentence, error) {
	if d.At == "" && d.Draft.Planned.IsZero() {
		return s.store.Consequences(r.Context(), d.Draft)
	}
	viewers, err := s.viewers(r, d)
	if err != nil {
		return nil, err
	}
	return consequence.Compare(d.Draft.Base.Site, d.Draft.After(s.now()), viewers).Sentences(), nil
}

func (s *Server) dock(r *http.Request, d *desk) (dock, error) {
	made := dock{Edits: len(d.Draft.Steps), Held: len(d.Draft.Held)}
	var err error
	if made.Sentences, err = s.changes(r, d); err != nil {
		return dock{}, err
	}
	if at := store.LastOf(d.Draft.Steps, d.Who.ID); at >= 0 {
		made.Undo = d.Draft.Steps[at].Said
	}
	for _, step := range d.Draft.Undone {
		if step.By == d.Who.ID {
			made.Redo = step.Said
			break
		}
	}
	return made, nil
}

func (s *Server) openBranch(w http.ResponseWriter, r *http.Request) {
	id, _ := strconv.ParseInt(r.FormValue("page"), 10, 64)
	if err := s.store.SetOpen(r.Context(), who(r).ID, "tree", r.FormValue("open") == "yes", site.PageID(id)); err != nil {
		s.refuse(w, r, err)
		return
	}
	s.say(w, http.StatusOK, reply{})
}

// A hit is a page that a search found.
type hit struct {
	ID      int64  `json:"id"`
	Label   string `json:"label"`
	Address string `json:"address"`
	Where   string `json:"where"`
}

const hitLimit = 12

// find searches pages by label, address or pasted full address; accents, case, word order and a missing slash don't matter.
func (s *Server) find(w http.ResponseWriter, r *http.Request, d *desk) error {
	s.say(w, http.StatusOK, reply{Hits: search(d.Site, strings.TrimPrefix(strings.TrimSpace(r.FormValue("q")), s.settings.Site), s.now())})
	return nil
}

func search(on *site.Site, words string, now time.Time) []hit {
	if words == "" {
		return nil
	}
	var exact, starts, rest []hit
	as := func(p *site.Page) hit { return hit{int64(p.ID), p.Label, address.Of(on, p.ID), place(on, p.ID)} }
	if path, err := address.Normal("/" + strings.TrimLeft(words, "/")); err == nil {
		if found := address.Resolve(on, path, now); found.Page != 0 && !found.Gone {
			exact = append(exact, as(on.Page(found.Page)))
		}
	}
	folded := strings.Split(address.Segment(words), "-")
	lower := strings.ToLower(words)
	on.Walk(on.Home(), func(p *site.Page) bool {
		switch {
		case len(exact) > 0 && exact[0].ID == int64(p.ID):
		case strings.HasPrefix(strings.ToLower(p.Label), lower):
			starts = append(starts, as(p))
		case len(rest) < hitLimit && (strings.Contains(strings.ToLower(p.Label), lower) || containsAll(p.Segment, folded)):
			rest = append(rest, as(p))
		}
		return len(starts) < hitLimit
	})
	hits := append(append(exact, starts...), rest...)
	return hits[:min(len(hits), hitLimit)]
}

func containsAll(segment string, words []string) bool {
	for _, word := range words {
		if !strings.Contains(segment, word) {
			return false
		}
	}
	return true
}

// proofLife is how long a preview's address works.
const proofLife = 30 * time.Minute

// preview gives the address at which the real public page of the draft is shown for the lens.
func (s *Server) preview(w http.ResponseWriter, r *http.Request, d *desk) error {
	proof := public.Proof{SignedIn: d.Lens.SignedIn, Roles: d.Lens.Roles, At: d.Lens.At, Expires: s.now().Add(proofLife)}
	if d.State == "after" {
		proof.Draft = d.Draft.ID
	}
	token, err := s.signer.Sign(proof)
	if err != nil {
		return err
	}
	s.say(w, http.StatusOK, reply{URL: s.settings.Site + "/proof/" + token + addressOf(d.Site, d.Selected)})
	return nil
}

// short bounds what a step says of a label.
func short(label string) string {
	if runes := []rune(label); len(runes) > 60 {
		return string(runes[:59]) + "…"
	}
	return label
}

func said(verb string, p *site.Page) string {
	return verb + " “" + short(cmp.Or(p.Label, p.Key)) + "”"
}

// settingVerb says what setting a field does.
func settingVerb(field edit.Field, value string) string {
	switch {
	case field == edit.Label:
		return "renamed"
	case field == edit.Text:
		return "wrote the text of"
	case field == edit.Status && value == string(site.Live):
		return "set live"
	case field == edit.Status:
		return "took offline"
	case field == edit.Listed && value == "yes":
		return "listed"
	case field == edit.Listed:
		return "unlisted"
	case field == edit.Pin && value == "":
		return "unpinned"
	}
	return "changed the " + field.Words() + " of"
}
