package wording

import (
	"cmp"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/picture"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
)

// versionsView is what a text of a page has been, and two of its versions side by side.
type versionsView struct {
	desk.Screen
	Page     *site.Page
	Field    edit.Field
	Of       string // the name of the field
	Unread   string // why the person may not read the text; "" if they may
	Edit     bool   // they may edit it here
	Stands   string // hash of what stands in the draft
	Versions []version
	Was, Is  version
	Base     string
	Held     string // index of the held edit that this decides; "" for none
	Parts    []part
	Differ   int
}

// A version is one that a text has had, or has in a draft.
type version struct {
	Hash  string
	Words string // since when, by whom
	Left  bool   // which of the two it is on the screen
	Right bool
	Links struct{ Left, Right string }
}

// A part is a stretch of both versions, as it is shown.
type part struct {
	Same    template.HTML
	Many    int // paragraphs that are the same, more than are shown
	Was, Is template.HTML
	Differs bool
	N       int // among those that differ
	Takes   text.Side
}

// versions shows what a text has been, and what differs between two of it.
func (s *Area) versions(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	screen, err := s.Screen(r, d, "versions")
	if err != nil {
		return err
	}
	view := versionsView{
		Screen: screen,
		Page:   d.Site.Page(d.Selected),
		Field:  fieldOf(r, d.Site),
		Base:   r.FormValue("base"),
		Held:   r.FormValue("held"),
	}
	if answer := d.Reads(d.Selected); answer.Yes {
		view.Edit = d.State == "after" && d.MayHere(string(site.ActionEdit)).Yes
		err = s.layOut(r, d, &view)
	} else {
		view.Unread = answer.Why
	}
	if err != nil {
		return err
	}
	name := "versions"
	if r.Header.Get("X-Part") != "" {
		name = "versions-parts"
	}
	s.Render(w, r, name, &view)
	return nil
}

// fieldOf reads of which field the versions are: the text of the page, or a detail that is one.
func fieldOf(r *http.Request, on *site.Site) edit.Field {
	if of := on.Detail(r.FormValue("field")); of != nil && of.Type == site.DetailRich {
		return edit.DetailField(of.Key)
	}
	return edit.FieldText
}

// layOut reads the versions and lays two side by side: those that are asked for, else the newest two.
func (s *Area) layOut(r *http.Request, d *desk.Desk, view *versionsView) error {
	published, err := s.Store.TextVersions(r.Context(), d.Selected, view.Field)
	if err != nil {
		return err
	}
	view.Of = "text"
	if of := d.Site.Detail(string(view.Field)); of != nil {
		view.Of = of.Label
	}
	view.Stands = edit.Value(d.Draft.Site.Page(d.Selected), view.Field)
	view.Versions = listed(d, published, view.Stands)
	var newer, older version
	if n := len(view.Versions); n > 0 {
		newer, older = view.Versions[0], view.Versions[min(1, n-1)]
	}
	view.Was = view.named(r, "was", older)
	view.Is = view.named(r, "is", newer)
	for i := range view.Versions {
		v := &view.Versions[i]
		v.Left, v.Right = v.Hash == view.Was.Hash, v.Hash == view.Is.Hash
		v.Links.Left, v.Links.Right = view.link(v.Hash, view.Is.Hash), view.link(view.Was.Hash, v.Hash)
	}
	texts, err := s.Store.Texts(r.Context(), []string{view.Base, view.Was.Hash, view.Is.Hash})
	if err != nil {
		return err
	}
	view.Parts, view.Differ = shown(d, text.Compare(texts[view.Base], texts[view.Was.Hash], texts[view.Is.Hash]))
	return nil
}

// listed names the versions, that of the draft first where it is another; each text once, as it was first published.
func listed(d *desk.Desk, published []store.TextVersion, stands string) []version {
	var all []version
	if len(published) == 0 || published[0].Hash != stands {
		all = append(all, version{Hash: stands, Words: "in " + d.Draft.Name})
	}
	for _, v := range published {
		words := "before that"
		if v.Revision > 0 {
			words = desk.MomentWords(d.Site, v.At) + ", " + v.By
		}
		if v.Draft != "" {
			words += ", “" + desk.Short(v.Draft) + "”"
		}
		all = append(all, version{Hash: v.Hash, Words: words})
	}
	return all
}

// named gives the version that is asked for. One that is none of the list is a text that somebody has at hand, as in a
// conflict: who knows its hash has read it.
func (v *versionsView) named(r *http.Request, side string, otherwise version) version {
	if !r.Form.Has(side) {
		return otherwise
	}
	hash := r.FormValue(side)
	if at := slices.IndexFunc(v.Versions, func(of version) bool { return of.Hash == hash }); at >= 0 {
		return v.Versions[at]
	}
	return version{Hash: hash, Words: "your text"}
}

func (v *versionsView) link(was, is string) string {
	return v.Link("/versions", "page", fmt.Sprint(v.Page.ID)) + "&" +
		url.Values{"field": {string(v.Field)}, "was": {was}, "is": {is}}.Encode()
}

// Sides are those of which one is taken where the versions differ.
func (v *versionsView) Sides() []desk.Option {
	return []desk.Option{
		{Value: string(text.SideWas), Words: "Take the left"},
		{Value: string(text.SideIs), Words: "Take the right"},
		{Value: string(text.SideBoth), Words: "Take both, left first"},
	}
}

// Hidden is what the form sends besides what is taken.
func (v *versionsView) Hidden() map[string]string {
	return map[string]string{
		"field": string(v.Field), "base": v.Base, "was": v.Was.Hash, "is": v.Is.Hash, "held": v.Held, "stands": v.Stands,
		"version": fmt.Sprint(v.Draft.Version),
	}
}

// Back says whether a version can be brought back: it is not what stands.
func (v *versionsView) Back(hash string) bool { return v.Edit && hash != v.Stands }

// shownSame bounds the paragraphs that both have and that are shown between two differences.
const shownSame = 3

// shown writes the parts as editors read them, and how many of them differ.
func shown(d *desk.Desk, parts []text.Part) ([]part, int) {
	reader := text.Reader{
		Part: true,
		Link: func(id site.PageID) (string, bool) {
			return d.Link("/tree", "page", fmt.Sprint(id)), d.Site.InTree(id)
		},
		Picture: func(id site.PageID, _ string) (picture.Picture, bool) {
			return picture.Picture{Src: fmt.Sprintf("/files/bytes?page=%d", id)}, d.Site.InTree(id)
		},
	}
	html := func(paragraphs []string) template.HTML {
		var all template.HTML
		for _, paragraph := range paragraphs {
			all += template.HTML(text.Render(paragraph, reader)) // kept texts are clean
		}
		return all
	}
	made := make([]part, len(parts))
	n := 0
	for i, p := range parts {
		if !p.Differs() {
			same := p.Same[:min(len(p.Same), shownSame)]
			made[i] = part{Same: html(same), Many: len(p.Same) - len(same)}
			continue
		}
		made[i] = part{Was: html(p.Was), Is: html(p.Is), Differs: true, N: n, Takes: cmp.Or(p.Suggests, text.SideIs)}
		n++
	}
	return made, n
}

// join makes the text of the page what was taken of two versions: an edit of the draft, or the decision of one that is
// held.
func (s *Area) join(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	if err := d.MustRead(); err != nil {
		return err
	}
	field := fieldOf(r, d.Draft.Site)
	texts, err := s.Store.Texts(r.Context(), []string{r.FormValue("base"), r.FormValue("was"), r.FormValue("is")})
	if err != nil {
		return err
	}
	parts := text.Compare(texts[r.FormValue("base")], texts[r.FormValue("was")], texts[r.FormValue("is")])
	whole := text.Side(r.FormValue("take"))
	joined := text.Join(parts, func(n int) text.Side {
		return cmp.Or(whole, text.Side(r.FormValue(fmt.Sprintf("part-%d", n))))
	})
	hashes, err := s.KeepTexts(r.Context(), d, joined)
	if err != nil {
		return err
	}
	if index := r.FormValue("held"); index != "" {
		return s.joinHeld(w, r, d, index, edit.FieldChange{Field: field, New: hashes[0]})
	}
	change := edit.FieldChange{Field: field, Old: r.FormValue("stands"), New: hashes[0]}
	p := d.Draft.Site.Page(d.Selected)
	said := "put together the text of “" + desk.Short(p.Label) + "”"
	if whole != "" {
		said = "brought back a text of “" + desk.Short(p.Label) + "”"
	}
	_, _, err = s.InDraft(r, d, func(*site.Site) ([]edit.Op, string, error) {
		return []edit.Op{edit.OpEdit{Page: p.ID, Fields: []edit.FieldChange{change}}}, said, nil
	})
	if err != nil {
		return err
	}
	s.Say(w, http.StatusOK, desk.Reply{Said: string(said[0]-'a'+'A') + said[1:] + "."})
	return nil
}

// joinHeld decides a held edit of a text for what was put together.
func (s *Area) joinHeld(
	w http.ResponseWriter, r *http.Request, d *desk.Desk, index string, change edit.FieldChange,
) error {
	at, err := strconv.Atoi(index)
	if err != nil || at < 0 || at >= len(d.Draft.Held) || r.FormValue("version") != fmt.Sprint(d.Draft.Version) {
		return store.ErrReview
	}
	held := d.Draft.Held[at]
	op, is := held.Op.(edit.OpEdit)
	if !is || op.Page != d.Selected {
		return store.ErrReview
	}
	op.Fields = slices.Clone(op.Fields)
	for i := range op.Fields {
		if op.Fields[i].Field == change.Field {
			op.Fields[i].New = change.New
		}
	}
	if err := s.Allowed(d, d.Draft, []edit.Op{op}); err != nil {
		return err
	}
	if _, err := s.Store.InsistOn(r.Context(), d.Draft.ID, d.Who, held, op); err != nil {
		return err
	}
	s.Say(w, http.StatusOK, desk.Reply{Said: "The texts are one now, and will be published.", URL: d.Link(
		"/tree", "page", fmt.Sprint(d.Selected))})
	return nil
}
