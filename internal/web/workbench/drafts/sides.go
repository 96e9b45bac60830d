package drafts

import (
	"cmp"
	"fmt"
	"net/http"
	"slices"
	"time"

	"vineladder/internal/core/address"
	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/measure"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/web/public"
	"vineladder/internal/web/workbench/desk"
)

// sidesLimit is the number of pages that can be looked through before and after publishing.
const sidesLimit = 300

// sides are the pages that a draft concerns for a visitor, to be seen before and after publishing.
type sides struct {
	As    string `json:"as"`    // whose eyes, in words
	Pages []side `json:"pages"` // those with fewest clicks from the home page first
	Of    int    `json:"of"`    // how many are concerned
}

// A side is one page, with the addresses of its two previews.
type side struct {
	Page   site.PageID `json:"page"`
	Label  string      `json:"label"`
	When   string      `json:"when,omitempty"` // the moment from which it differs, if that is to come
	Was    string      `json:"was"`            // its address, now and after
	Is     string      `json:"is"`
	Before string      `json:"before"` // of the previews
	After  string      `json:"after"`
	Left   string      `json:"left,omitempty"` // who the two visitors are, where the same is shown to two
	Right  string      `json:"right,omitempty"`
}

// showSides lists the pages concerned with the addresses of their previews.
func (s *Area) showSides(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	if beside := r.FormValue("beside"); beside != "" {
		return s.showVisitors(w, r, d, beside)
	}
	viewers, err := s.Viewers(r, d)
	if err != nil {
		return err
	}
	said, err := s.Changes(r, d)
	if err != nil {
		return err
	}
	now := s.Now()
	was, is := d.Draft.Base.Site, d.Draft.After(now)
	reads := d.Reader()
	list := slices.DeleteFunc(concerned(said, viewers, d.Lens), func(c concern) bool { return !reads(c.page) })
	made := sides{As: d.LensWords(), Of: len(list)}
	near, nearOnce := measure.Clicks(is, d.Lens), measure.Clicks(was, d.Lens)
	clicks := func(id site.PageID) int {
		for _, far := range []map[site.PageID]int{near, nearOnce} {
			if n, ok := far[id]; ok {
				return n
			}
		}
		return 1 << 30
	}
	slices.SortStableFunc(list, func(a, b concern) int {
		return cmp.Or(cmp.Compare(clicks(a.page), clicks(b.page)), cmp.Compare(a.page, b.page))
	})
	for _, c := range list[:min(len(list), sidesLimit)] {
		one, err := s.side(r, d, was, is, c)
		if err != nil {
			return err
		}
		made.Pages = append(made.Pages, one)
	}
	s.Say(w, http.StatusOK, desk.Reply{Sides: &made})
	return nil
}

// showVisitors gives the selected page as two visitors get it, from the draft.
func (s *Area) showVisitors(w http.ResponseWriter, r *http.Request, d *desk.Desk, beside string) error {
	if err := d.MustRead(); err != nil {
		return err
	}
	if beside == "signed-out" {
		beside = ""
	}
	other, words, known := d.LensAs(beside)
	if !known {
		return &edit.Refusal{Sentence: "There is no such visitor."}
	}
	at := desk.AddressOf(d.Site, d.Selected)
	one := side{
		Page: d.Selected, Label: d.Site.Page(d.Selected).Label, Was: at, Is: at, Left: d.LensWords(), Right: words,
	}
	draft := d.Draft.ID
	if d.State == "now" {
		draft = 0
	}
	var err error
	if one.Before, err = s.proofOf(r, d.Who, proven{Draft: draft}, d.Lens, at, false); err != nil {
		return err
	}
	if one.After, err = s.proofOf(r, d.Who, proven{Draft: draft}, other, at, false); err != nil {
		return err
	}
	s.Say(w, http.StatusOK, desk.Reply{Sides: &sides{As: d.LensWords(), Of: 1, Pages: []side{one}}})
	return nil
}

func (s *Area) side(r *http.Request, d *desk.Desk, was, is *site.Site, c concern) (side, error) {
	at, made := d.Lens.At, side{Page: c.page, Was: addressIn(was, c.page), Is: addressIn(is, c.page)}
	if p := is.Page(c.page); p != nil {
		made.Label = p.Label
	} else if p := was.Page(c.page); p != nil {
		made.Label = p.Label
	}
	if c.from.After(at) {
		at, made.When = c.from, desk.LongMoment(is, c.from)
	}
	lens := d.Lens
	lens.At = at
	var err error
	if made.Before, err = s.proofOf(r, d.Who, proven{}, lens, cmp.Or(made.Was, made.Is), false); err != nil {
		return made, err
	}
	made.After, err = s.proofOf(r, d.Who, proven{Draft: d.Draft.ID}, lens, cmp.Or(made.Is, made.Was), false)
	return made, err
}

// addressIn gives the address of a page on a site; "" where it has none.
func addressIn(s *site.Site, id site.PageID) string {
	if !s.InTree(id) {
		return ""
	}
	return address.Of(s, id)
}

// A concern is a page that differs, and from when; zero: from publication on.
type concern struct {
	page site.PageID
	from time.Time
}

// concerned gives the pages that sentences are about for one of the viewers, each with the first moment at which it
// differs. Where the viewer is none of those compared, nothing is left out.
func concerned(said []consequence.Sentence, viewers consequence.Viewers, lens reach.Lens) []concern {
	viewer := slices.IndexFunc(viewers.Panel.Lenses(), func(l reach.Lens) bool {
		return l.SignedIn == lens.SignedIn && slices.Equal(l.Roles, lens.Roles)
	})
	var list []concern
	at := map[site.PageID]int{}
	for _, sentence := range said {
		if viewer >= 0 && sentence.For != nil && !slices.Contains(sentence.For, viewer) {
			continue
		}
		for _, id := range sentence.Pages {
			if i, known := at[id]; !known {
				at[id] = len(list)
				list = append(list, concern{id, sentence.From})
			} else if sentence.From.Before(list[i].from) {
				list[i].from = sentence.From
			}
		}
	}
	return list
}

// proofLife is how long a preview's address works.
const proofLife = 30 * time.Minute

// preview gives the address at which the real public page of the draft is shown for the lens.
func (s *Area) preview(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	if err := d.MustRead(); err != nil {
		return err
	}
	draft := d.Draft.ID
	if d.State == "now" {
		draft = 0
	}
	of := proven{Draft: draft}
	if d.Then != nil {
		of = proven{Then: d.Then.Revision}
	}
	url, err := s.proofOf(r, d.Who, of, d.Lens, desk.AddressOf(d.Site, d.Selected), r.FormValue("outline") == "yes")
	if err != nil {
		return err
	}
	s.Say(w, http.StatusOK, desk.Reply{URL: url})
	return nil
}

// proven is which site a preview shows: a draft, the past, or what is public.
type proven struct{ Draft, Then int64 }

// proofOf gives the address of a preview.
func (s *Area) proofOf(
	r *http.Request,
	by store.Account,
	of proven,
	lens reach.Lens,
	path string,
	outline bool,
) (string, error) {
	token, err := s.Signer.Sign(
		public.Proof{
			By:       by.ID,
			Epoch:    by.Epoch,
			Session:  store.SessionMark(s.Sessions.Token(r.Context())),
			Draft:    of.Draft,
			Then:     of.Then,
			SignedIn: lens.SignedIn,
			Roles:    lens.Roles,
			At:       lens.At,
			Expires:  s.Now().Add(proofLife),
			Outline:  outline,
		},
	)
	if err != nil {
		return "", fmt.Errorf("sign the address of a preview: %w", err)
	}
	return s.Settings.Site + "/proof/" + token + path, nil
}
