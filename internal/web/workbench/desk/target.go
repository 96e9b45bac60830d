package desk

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"vineladder/internal/core/address"
	"vineladder/internal/core/ask"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// A hit is something that a picker found. Its key says what is kept: an identity, so nothing breaks when a page moves.
type Hit struct {
	Key     string `json:"key"` // as target.Text writes it
	ID      int64  `json:"id"`  // of a page; else 0
	Label   string `json:"label"`
	Address string `json:"address"`
	Where   string `json:"where"` // what it is and where it stands
	Reach   string `json:"reach"` // what the visitor gets there
	Fault   string `json:"fault,omitempty"`
	URL     string `json:"url,omitempty"` // the screen that has it, where it is no page
	Topic   bool   `json:"topic,omitempty"`
	File    bool   `json:"file,omitempty"`
}

// HitLimit is the number of hits that are offered.
const HitLimit = 12

// find searches what an item can lead to. The form's "sorts" says what besides pages may be found: files, web
// addresses, links that lead to no page.
func (s *Server) find(w http.ResponseWriter, r *http.Request, d *Desk) error {
	asked := strings.TrimSpace(r.FormValue("q"))
	words, own := s.OwnPath(asked)
	if r.FormValue("sorts") == "topic" {
		s.Say(w, http.StatusOK, Reply{Hits: d.topicsFor(words)})
		return nil
	}
	if r.FormValue("sorts") == "file" {
		more, err := s.OtherTargets(asked, own, []string{"file"})
		if err != nil {
			return err
		}
		s.Say(w, http.StatusOK, Reply{Hits: append(d.filesFor(words), more...)})
		return nil
	}
	if words == "" && slices.Contains(strings.Fields(r.FormValue("sorts")), "menu") { // the finder, before a word
		hits, err := s.atHand(r.Context(), d)
		if err != nil {
			return err
		}
		s.Say(w, http.StatusOK, Reply{Hits: hits})
		return nil
	}
	path, query, _ := strings.Cut(words, "?")
	hits := d.PagesFor(path, s.Now())
	if query != "" && len(hits) > 0 {
		hits[0] = d.narrowedHit(hits[0], query)
	}
	if sorts := strings.Fields(r.FormValue("sorts")); len(sorts) > 0 {
		more, err := s.OtherTargets(asked, own, sorts)
		if err != nil {
			return err
		}
		hits = append(append(hits, more...), d.thingsFor(words, sorts)...)
	}
	s.Say(w, http.StatusOK, Reply{Hits: hits})
	return nil
}

// OwnPath takes the site's own origin off a full address; own says that there was one.
func (s *Server) OwnPath(typed string) (path string, own bool) {
	path, own = strings.CutPrefix(strings.TrimSpace(typed), s.Settings.Site)
	if path, _, _ = strings.Cut(path, "#"); own && path == "" {
		path = "/"
	}
	return path, own
}

// PagesFor finds pages: the one at an address first, then those that have the words.
func (d *Desk) PagesFor(words string, now time.Time) []Hit {
	if words == "" {
		return nil
	}
	var ids []site.PageID
	if path, err := address.Normal("/" + strings.TrimLeft(words, "/")); err == nil {
		if found := address.Resolve(d.Site, path, now); found.Page != 0 && !found.Gone {
			ids = append(ids, found.Page)
		}
	}
	for _, id := range ask.Named(d.Site, words, d.Filter.Reads, HitLimit) {
		if !slices.Contains(ids, id) {
			ids = append(ids, id)
		}
	}
	hits := make([]Hit, min(len(ids), HitLimit))
	for i := range hits {
		hits[i] = d.pageHit(d.Site.Page(ids[i]))
	}
	return hits
}

// narrowedHit is the list of a page as a query narrows it, with the fault where it does not.
func (d *Desk) narrowedHit(of Hit, query string) Hit {
	id := site.PageID(of.ID)
	narrow, err := listing.ParseNarrowed(d.Site, id, query)
	if err != nil {
		of.Fault = err.Error()
		return of
	}
	if narrow != "" {
		of.Key, of.Address = of.Key+":"+narrow, of.Address+"?"+narrow
		of.Where = "Its list, narrowed to " + d.NarrowWords(id, narrow)
	}
	return of
}

// NarrowWords says what the list of a page is narrowed to, as in “Document type: Policies”.
func (d *Desk) NarrowWords(page site.PageID, narrow string) string {
	var words []string
	q, _ := listing.Asked(d.Site.Page(page).Listing)
	for _, f := range listing.Named(d.Site, q, narrow) {
		words = append(words, f.Label+": "+f.Values[0].Words)
	}
	return strings.Join(words, ", ")
}

// topicsFor finds topics by words in any of their labels; without words the first ones.
func (d *Desk) topicsFor(words string) []Hit {
	var hits []Hit
	fits := ask.Words(words, d.Filter.Reads)
	for _, list := range d.Site.TopicLists() {
		d.Site.Walk(list, func(p *site.Page) bool {
			if p.IsTopic() && fits(p) {
				hits = append(hits, d.topicHit(p))
			}
			return len(hits) < HitLimit
		})
	}
	return hits
}

// topicHit says of a topic in which list and broader topics it stands.
func (d *Desk) topicHit(p *site.Page) Hit {
	var above []string
	for _, over := range d.Site.Path(p.ID) {
		if over.Gathers() && over.ID != p.ID {
			above = append(above, over.Label)
		}
	}
	return Hit{
		Key: fmt.Sprintf("page:%d", p.ID), ID: int64(p.ID), Label: p.Label, Address: AddressOf(d.Site, p.ID),
		Where: "Topic, in " + strings.Join(above, " › "), Topic: true,
	}
}

func (d *Desk) pageHit(p *site.Page) Hit {
	switch {
	case p.IsTopic():
		return d.topicHit(p)
	case p.IsFile():
		return d.FileHit(d.Site, p)
	}
	return Hit{
		Key: fmt.Sprintf(
			"page:%d",
			p.ID,
		), ID: int64(p.ID), Label: p.Label, Address: AddressOf(d.Site, p.ID), Where: "Page, " + Place(d.Site, p.ID),
		Reach: "This visitor " + VisitorGets(d.Site, p.ID, d.Lens),
	}
}

// visitorLinks are the targets that are no page of the site and no address.
var visitorLinks = []Hit{
	{Key: "heading", Label: "A heading without a link", Where: "Groups the items below it"},
	{Key: "account:" + string(site.AccountSignIn), Label: "Sign in", Where: "Account: shows to who is signed out"},
	{Key: "account:" + string(site.AccountSignOut), Label: "Sign out", Where: "Account: shows to who is signed in"},
	{
		Key:   "account:" + string(site.AccountRegister),
		Label: "Register",
		Where: "Account: shows to who is signed out, while the site lets visitors register",
	},
	{Key: "account:" + string(site.AccountDetails), Label: "My details", Where: "Account: shows to who is signed in"},
}

// OtherTargets finds what an item can lead to that is no page: files, addresses elsewhere and links of visitors’
// accounts.
func (s *Server) OtherTargets(words string, own bool, sorts []string) ([]Hit, error) {
	var hits []Hit
	if slices.Contains(sorts, "web") && !own && strings.Contains(words, ":") {
		made := Hit{Key: "web:" + words, Label: words, Where: "Web address elsewhere; only its form is checked"}
		if _, err := typed.Web(words); err != nil {
			made.Fault = err.Error()
		}
		hits = append(hits, made)
	}
	if slices.Contains(sorts, "file") {
		names, err := s.Settings.Files.Dir.Names()
		if err != nil {
			return nil, err
		}
		for _, name := range names {
			if len(hits) < HitLimit && HasAll(name+" file", words) {
				hits = append(hits, Hit{Key: "file:" + name, Label: name, Address: "/files/" + name, Where: "File"})
			}
		}
	}
	if slices.Contains(sorts, "link") {
		for _, link := range visitorLinks {
			if sort, _, _ := strings.Cut(link.Where, ":"); HasAll(link.Label+" "+sort, words) {
				hits = append(hits, link)
			}
		}
	}
	return hits, nil
}

// HasAll says whether every word that was typed stands in a label.
func HasAll(label, typed string) bool {
	label = strings.ToLower(label)
	for _, word := range strings.Fields(strings.ToLower(typed)) {
		if !strings.Contains(label, word) {
			return false
		}
	}
	return true
}
