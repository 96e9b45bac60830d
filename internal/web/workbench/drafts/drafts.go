package drafts

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/web/public"
	"vineladder/internal/web/workbench/desk"
)

// draftsView is the drafts area: every draft that one may open as a card, the moments to come, the history beside them,
// and the bin.
type draftsView struct {
	*desk.Desk
	Area      string
	Name      string
	Cards     []card
	Approvals []askedLine // drafts of others that wait for the person's approval
	Line      []tick
	Thrown    []store.DraftLine
	ShownTo   []shownTo       // without an account
	People    []store.Account // with whom a draft can be shared, and who can take it over
	Bin       []desk.Binned
	Days      int
	History   []historyLine
	Asked     asked
	Records   []store.Record
	More      int64
	Keep      grant.Answer
}

// An askedLine is a draft for which somebody asks for approval.
type askedLine struct{ By, Note, At, Link string }

type historyLine struct {
	store.Publication
	When, Planned string
}

const historyPage = 50

func (s *Area) drafts(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	view := draftsView{
		Desk: d, Area: "drafts", Name: d.Site.Settings().Name, Bin: bin(d), Days: d.Site.Settings().BinDays,
		Keep: d.May(string(site.ActionKeep)),
	}
	var err error
	if view.Cards, err = s.cards(r, d); err != nil {
		return err
	}
	asked, err := s.ToApprove(r, d)
	if err != nil {
		return err
	}
	for _, a := range asked {
		link := d.Link("/tree", "draft", strconv.FormatInt(a.Draft, 10)) + "&show=review"
		view.Approvals = append(view.Approvals, askedLine{a.Name, a.Note, desk.LongMoment(d.Site, a.At), link})
	}
	view.Line = s.timeLine(d, view.Cards)
	if view.Thrown, err = s.Store.Thrown(r.Context(), d.Who.ID, 10); err != nil {
		return err
	}
	if view.Records, err = s.Store.Records(r.Context(), 10); err != nil {
		return err
	}
	if view.ShownTo, err = s.shown(r, d); err != nil {
		return err
	}
	if view.People, err = s.colleagues(r, d); err != nil {
		return err
	}
	if err := s.history(r, &view); err != nil {
		return err
	}
	s.Render(w, r, "drafts", view)
	return nil
}

// At says when a step was done.
func (v draftsView) At(t time.Time) string {
	return t.In(v.Desk.Site.Settings().Zone).Format("2 Jan, 15:04")
}

// Shares says whether somebody shares the draft at hand.
func (v draftsView) Shares(account int64) bool { return slices.Contains(v.Draft.People, account) }

// Emptiable lists the pages of which the bin can be emptied: public in the bin, and kept there long enough.
func (v draftsView) Emptiable() string {
	var ids []string
	for _, item := range v.emptiable() {
		ids = append(ids, strconv.FormatInt(int64(item.ID), 10))
	}
	return strings.Join(ids, ",")
}

// EmptiableCount is the number of pages that would go, with all below.
func (v draftsView) EmptiableCount() int {
	n := 0
	for _, item := range v.emptiable() {
		n += 1 + item.Pages
	}
	return n
}

func (v draftsView) emptiable() []desk.Binned {
	return slices.DeleteFunc(slices.Clone(v.Bin), func(item desk.Binned) bool { return item.Draft || item.Kept != "" })
}

// colleagues are the other people who have business in the workbench.
func (s *Area) colleagues(r *http.Request, d *desk.Desk) ([]store.Account, error) {
	people, err := s.Store.People(r.Context())
	return slices.DeleteFunc(people, func(a store.Account) bool {
		return a.ID == d.Who.ID || !grant.Works(d.Draft.Base.Site, a.Roles)
	}), err
}

func bin(d *desk.Desk) []desk.Binned {
	var items []desk.Binned
	for _, id := range d.Site.Binned() {
		items = append(items, d.Binned(id))
	}
	return items
}

// draftDo does one thing with a draft: make, rename, share, hand over, throw away, bring back, plan.
func (s *Area) draftDo(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	ctx, id, by := r.Context(), d.Draft.ID, d.Who
	number, _ := strconv.ParseInt(r.FormValue("account"), 10, 64)
	words := ""
	people, err := s.colleagues(r, d)
	if err != nil {
		return err
	}
	known := slices.IndexFunc(people, func(a store.Account) bool { return a.ID == number })
	switch chi.URLParam(r, "do") {
	case "new":
		if id, err = s.Store.NewDraft(ctx, by, r.FormValue("name")); err == nil {
			words = "The draft is there. What you edit now goes into it."
		}
	case "rename":
		words, err = "The draft has its new name.", s.Store.Rename(ctx, id, by, r.FormValue("name"))
	case "share":
		words = "The draft is shared. The link to this screen shows it to them."
		if r.FormValue("on") != "yes" {
			words = "The draft is not shared with them any more."
		}
		if known < 0 {
			return &edit.Refusal{Sentence: "This person has no business in the workbench."}
		}
		err = s.Store.Share(ctx, id, by, number, r.FormValue("on") == "yes")
	case "hand-over":
		if known < 0 {
			return &edit.Refusal{Sentence: "Choose who shall have the draft."}
		}
		to := people[known]
		words, err = "The draft is "+to.Name+"'s now. You go on sharing it.", s.Store.HandOver(ctx, id, by, to)
	case "throw":
		words, err = "The draft is thrown away. It can be brought back below.", s.Store.ThrowAway(ctx, id, by)
	case "fetch":
		thrown, _ := strconv.ParseInt(r.FormValue("thrown"), 10, 64)
		id, words, err = thrown, "The draft is back.", s.Store.Fetch(ctx, thrown, by)
	case "only":
		parted, err := s.Store.Part(ctx, id, by, d.Selected)
		if err != nil {
			return err
		}
		s.Say(w, http.StatusOK, desk.Reply{Draft: parted})
		return nil
	case "without": // the edits of a page go on waiting, and the others can be published
		page := desk.Number[site.PageID](r.FormValue("page"))
		parted, err := s.Store.Part(ctx, id, by, page)
		if err != nil {
			return err
		}
		if parted == id {
			return &edit.Refusal{Sentence: "All edits of this draft hang together with that page; none is left to publish."}
		}
		words = "The edits of the page wait in a draft of their own."
	case "join":
		id, err = s.Store.Join(ctx, id, by)
		words = "The edits are back among the others."
	case "plan":
		words, err = s.plan(r, d)
	case "show":
		words, err = s.showTo(r, d)
	case "show-no-more":
		words = "The link shows nothing any more."
		err = s.Store.EndLink(ctx, by, id, desk.Number[int64](r.FormValue("link")))
	default:
		return &edit.Refusal{Sentence: "This is not known."}
	}
	if err != nil {
		return err
	}
	s.Say(w, http.StatusOK, desk.Reply{Said: words, Draft: id})
	return nil
}

// A shownTo is a link by which somebody without an account looks at the draft.
type shownTo struct {
	store.DraftLink
	Until string
	As    string
	URL   string
}

// showTo makes a link to the draft, as the visitor as whom it is looked at.
func (s *Area) showTo(r *http.Request, d *desk.Desk) (string, error) {
	ends, err := d.Calendar().Read(r.FormValue("until"), true)
	if err != nil {
		return "", err
	}
	if ends.IsZero() {
		return "", &edit.Refusal{Sentence: "Say until when the link shows the draft."}
	}
	ask := grant.Shown{Reader: r.FormValue("reader"), Ends: ends, As: d.Lens.Visitor}
	if _, err := s.Store.ShowDraft(r.Context(), d.Who, d.Draft.ID, ask); err != nil {
		return "", err
	}
	return "The link is below: whoever has it sees the draft, and no more than you may read.", nil
}

// shown gives the links to the draft.
func (s *Area) shown(r *http.Request, d *desk.Desk) ([]shownTo, error) {
	links, err := s.Store.LinksTo(r.Context(), d.Draft.ID)
	if err != nil {
		return nil, err
	}
	all := make([]shownTo, len(links))
	for i, l := range links {
		token, err := s.Signer.Sign(public.Proof{
			By: l.Account, Link: l.ID, Draft: l.Draft, SignedIn: l.As.SignedIn, Roles: l.As.Roles, Expires: l.Ends,
		})
		if err != nil {
			return nil, fmt.Errorf("sign a link to a draft: %w", err)
		}
		as := "signed out"
		for _, key := range l.As.Roles {
			as = d.Site.RoleName(key)
		}
		if l.As.SignedIn && len(l.As.Roles) == 0 {
			as = "signed in"
		}
		all[i] = shownTo{l, desk.MomentWords(d.Site, l.Ends), as, s.Settings.Site + "/proof/" + token + "/"}
	}
	return all, nil
}

// plan sets the moment of a draft, or takes it away.
func (s *Area) plan(r *http.Request, d *desk.Desk) (string, error) {
	at, err := d.Calendar().Read(r.FormValue("moment"), false)
	if err != nil {
		return "", err
	}
	if at.IsZero() {
		return "The draft waits until somebody publishes it.", s.Store.Plan(r.Context(), d.Draft.ID, d.Who, time.Time{})
	}
	if !at.After(s.Now()) {
		return "", &edit.Refusal{Sentence: "That moment is over. Choose one to come, or publish now."}
	}
	switch answer, err := s.mayPublish(r.Context(), d); {
	case err != nil:
		return "", err
	case !answer.Yes:
		return "", fmt.Errorf("%w: %s", desk.ErrForbidden, answer.Why)
	}
	return fmt.Sprintf(
			"It will be published on %s. Editing it takes that back.",
			desk.LongMoment(d.Site, at),
		), s.Store.Plan(
			r.Context(),
			d.Draft.ID,
			d.Who,
			at,
		)
}

// emptyBin takes pages out of the bin for good. It is the one thing that asks whether one is sure.
func (s *Area) emptyBin(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	if answer := d.May(string(site.ActionKeep)); !answer.Yes {
		return fmt.Errorf("%w: %s", desk.ErrForbidden, answer.Why)
	}
	if r.FormValue("sure") != "yes" {
		return &edit.Refusal{Sentence: "Say first that you are sure; this can't be undone."}
	}
	pages := desk.ReadIDs(r.FormValue("pages"))
	if len(pages) == 0 {
		return &edit.Refusal{Sentence: "Nothing in the bin can be emptied yet."}
	}
	if err := s.Store.EmptyBin(r.Context(), d.Who, pages); err != nil {
		return err
	}
	s.Log.Info("emptied the bin", "by", d.Who.Login, "pages", len(pages))
	s.Say(w, http.StatusOK, desk.Reply{Said: "The bin is emptied. The addresses of what was in it answer “gone”."})
	return nil
}
