package drafts

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"vineladder/internal/core/check"
	"vineladder/internal/core/consequence"
	"vineladder/internal/core/count"
	"vineladder/internal/core/detail"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
)

// step goes one step back or forth in the draft, says it and goes there.
func (s *Area) step(
	verb string,
	do func(context.Context, int64, store.Account) (*store.Draft, store.Step, error),
) desk.DeskHandler {
	return func(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
		made, step, err := do(r.Context(), d.Draft.ID, d.Who)
		if err != nil {
			return err
		}
		page := d.Selected
		if len(step.Ops) > 0 {
			if subject := step.Ops[0].Subject(); made.Site.InTree(subject) {
				page = subject
			} else if d.Draft.Site.InTree(subject) {
				page = desk.Neighbour(d.Draft.Site, subject)
			}
		}
		answer := desk.Reply{Said: verb + step.Said + ".", Page: int64(page)}
		if len(step.Ops) > 0 {
			if e, m := desk.Holding(made.Site, edit.ItemOf(step.Ops[0])); e != nil {
				answer.Menu, answer.Item = int64(m.ID), desk.ItemID{Entry: e.ID}.String()
			}
		}
		s.Say(w, http.StatusOK, answer)
		return nil
	}
}

// reviewView is what a person reads before publishing.
type reviewView struct {
	*desk.Desk
	Sentences []consequence.Sentence
	Steps     []store.Step
	Held      []heldView
	Lacks     []lackView
	Kept      []string // pages that keep another audience than when their move was made
	Publish   grant.Answer
	Audiences []string
	Left      int // role sets that were not compared

	Approval approvalView

	New, Mended []check.Problem // by the draft
	NewLines    []desk.ProblemLine
}

// A lackView is a page that would be live without what its type needs.
type lackView struct {
	Page  site.PageID
	Label string
	Words string
}

// lacksOf gives each page that is in the way of publishing, once.
func lacksOf(d *desk.Desk) []lackView {
	var all []lackView
	for _, lack := range detail.Losing(d.Draft.Base.Site, d.Draft.Site) {
		words := lack.Words(d.Draft.Site)
		if last := len(all) - 1; last >= 0 && all[last].Page == lack.Page {
			all[last].Words += ", " + words
			continue
		}
		all = append(all, lackView{lack.Page, d.Draft.Site.Page(lack.Page).Label, words})
	}
	return all
}

type heldView struct {
	Index                    int
	Label, Why, Mine, Theirs string
	CanInsist                bool
	Join                     string // where two texts are laid side by side; "" for what is none
}

func (s *Area) review(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	viewers, err := s.Viewers(r, d)
	if err != nil {
		return err
	}
	view := reviewView{
		Desk:      d,
		Steps:     d.Draft.Steps,
		Audiences: viewers.Names,
		Left:      viewers.Left,
	}
	if view.Publish, err = s.mayPublish(r.Context(), d); err != nil {
		return err
	}
	if view.Approval, err = s.approvalOf(r.Context(), d, view.Publish); err != nil {
		return err
	}
	if view.Sentences, err = s.Changes(r, d); err != nil {
		return err
	}
	view.Sentences = d.Readable(view.Sentences)
	on := *d
	on.Site = d.Draft.Site
	view.Lacks = lacksOf(d)
	deeds, err := s.published(r.Context(), d)
	if err != nil {
		return err
	}
	for i, h := range d.Draft.Held {
		view.Held = append(view.Held, describeHeld(&on, i, h, deeds))
	}
	for _, step := range d.Draft.Steps {
		for _, id := range step.KeptAnew() {
			if p := d.Draft.Site.Page(id); p != nil && p.Audience != site.AudienceInherited {
				view.Kept = append(
					view.Kept,
					fmt.Sprintf(
						"“%s” keeps “%s” where it stands now.",
						p.Label,
						d.Draft.Site.AudienceWords(p.Audience),
					),
				)
			}
		}
	}
	problems, err := s.Problems(r, d)
	if err != nil {
		return err
	}
	view.New, view.Mended = problems.New, problems.Mended
	view.NewLines = d.Lines(s.Server, view.New[:min(len(view.New), newProblems)])
	s.Render(w, r, "review", view)
	return nil
}

// newProblems is how many problems that a draft brings are told before it is published.
const newProblems = 5

// AsksWhy says whether who publishes must say why.
func (v reviewView) AsksWhy() bool { return v.Draft.Base.Site.Settings().AskWhy }

// MoreNew counts the others.
func (v reviewView) MoreNew() int { return len(v.New) - len(v.NewLines) }

// Pages says whether any page differs for somebody.
func (v reviewView) Pages() bool {
	return slices.ContainsFunc(v.Sentences, func(s consequence.Sentence) bool { return len(s.Pages) > 0 })
}

// published finds who published what the held edits meet.
func (s *Area) published(ctx context.Context, d *desk.Desk) (map[*edit.Conflict]store.Deed, error) {
	var conflicts []*edit.Conflict
	for _, h := range d.Draft.Held {
		if conflict, is := h.Why.(*edit.Conflict); is && conflict.NamesSomebody() {
			conflicts = append(conflicts, conflict)
		}
	}
	found, err := s.Store.PublishedBy(ctx, conflicts)
	deeds := map[*edit.Conflict]store.Deed{}
	for i, deed := range found {
		deeds[conflicts[i]] = deed
	}
	return deeds, err
}

func describeHeld(d *desk.Desk, index int, h store.HeldOp, deeds map[*edit.Conflict]store.Deed) heldView {
	v := heldView{Index: index, Label: aboutWords(d, h.Op), Why: h.Why.Error(), CanInsist: edit.CanInsist(h.Held)}
	conflict, ok := h.Why.(*edit.Conflict)
	if who := d.WhoWords(deeds[conflict]); who != "" {
		v.Why = conflict.Said(who)
	}
	switch {
	case ok && conflict.Field == edit.FieldText:
		v.Mine, v.Theirs = "your text", "the text that is public now"
		v.Join = joinLink(d, index, h, conflict)
	case ok && conflict.Field != "":
		v.Mine, v.Theirs = valueWords(
			d,
			conflict.Field,
			conflict.Mine,
		), valueWords(
			d,
			conflict.Field,
			conflict.Theirs,
		)
	case ok:
		v.Mine, v.Theirs = conflict.Mine, conflict.Theirs
	}
	return v
}

// joinLink leads to where a held text and the one that is public now are laid side by side.
func joinLink(d *desk.Desk, index int, h store.HeldOp, conflict *edit.Conflict) string {
	mine, is := edit.ChangeOf(h.Op, conflict.Field)
	if !is {
		return ""
	}
	return d.Link("/versions", "page", fmt.Sprint(conflict.Page)) + "&" + url.Values{
		"field": {string(conflict.Field)}, "base": {mine.Old}, "was": {mine.New}, "is": {conflict.Theirs},
		"held": {fmt.Sprint(index)},
	}.Encode()
}

// decideHeld settles a conflict: mine, or what is public now.
func (s *Area) decideHeld(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	index, err := strconv.Atoi(r.FormValue("held"))
	if err != nil || index < 0 || index >= len(d.Draft.Held) ||
		r.FormValue("version") != fmt.Sprint(d.Draft.Version) {
		return store.ErrReview
	}
	held, words := d.Draft.Held[index], "Left out; what is public now stays."
	if r.FormValue("keep") == "mine" {
		words = "Yours is kept and will be published."
		_, err = s.Store.Insist(r.Context(), d.Draft.ID, d.Who, held)
	} else {
		_, err = s.Store.Drop(r.Context(), d.Draft.ID, held)
	}
	if err != nil {
		return err
	}
	s.Say(w, http.StatusOK, desk.Reply{Said: words})
	return nil
}

// mayPublish says whether the person may publish the draft as it stands, and why not.
func (s *Area) mayPublish(ctx context.Context, d *desk.Desk) (grant.Answer, error) {
	if answer := d.MayAnywhere(string(site.ActionPublish)); !answer.Yes {
		return answer, nil
	}
	return s.Store.MayPublish(ctx, d.Draft, d.Who)
}

// publish makes the draft public, if it is still what was reviewed.
func (s *Area) publish(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	switch answer, err := s.mayPublish(r.Context(), d); {
	case err != nil:
		return err
	case !answer.Yes && !(answer.Alone && r.FormValue("alone") != ""):
		return fmt.Errorf("%w: %s", desk.ErrForbidden, answer.Why)
	}
	revision, _ := strconv.ParseInt(r.FormValue("revision"), 10, 64)
	version, _ := strconv.ParseInt(r.FormValue("version"), 10, 64)
	reviewed := store.Reviewed{
		Revision: revision,
		Version:  version,
		Alone:    r.FormValue("alone"),
		Why:      r.FormValue("why"),
	}
	made, err := s.Store.Publish(r.Context(), d.Draft.ID, d.Who, reviewed)
	if err != nil {
		return err
	}
	s.Log.Info("published", "revision", made.Revision, "by", d.Who.Login, "steps", len(d.Draft.Steps))
	words := fmt.Sprintf("Published: %s edits are public now.", count.Number(len(d.Draft.Steps)))
	if len(d.Draft.Steps) == 1 {
		words = fmt.Sprintf("Published: %s. It is public now.", d.Draft.Steps[0].Said)
	}
	at := ""
	if made.Site.InTree(d.Selected) && reach.WhyOffline(made.Site, d.Selected, s.Now()).Cause == nil {
		at = s.Settings.Site + desk.AddressOf(made.Site, d.Selected)
	}
	s.Say(w, http.StatusOK, desk.Reply{Said: words, Page: made.Revision, URL: at, Draft: s.goesOnIn(r.Context(), d)})
	return nil
}

// goesOnIn gives the draft in which a person goes on after publishing a parted one, which is closed: where its edits
// came from, if that is there and theirs, else the one that everybody has. 0: where they are.
func (s *Area) goesOnIn(ctx context.Context, d *desk.Desk) int64 {
	if d.Draft.PartedFrom == 0 {
		return 0
	}
	if from, err := s.Store.Draft(ctx, d.Draft.PartedFrom); err == nil && from.IsFor(d.Who.ID) {
		return from.ID
	}
	mine, err := s.Store.MyChanges(ctx, d.Who.ID)
	if err != nil {
		s.Log.Error("find the draft of a person", "of", d.Who.Login, "error", err)
	}
	return mine
}

// takeBack puts the opposite of a publication into the draft, as one step.
func (s *Area) takeBack(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	revision, _ := strconv.ParseInt(r.FormValue("revision"), 10, 64)
	ops, err := s.Store.Inverses(r.Context(), revision)
	if err != nil {
		return err
	}
	words := fmt.Sprintf("took back publication %d", revision)
	_, err = s.Store.AddStep(r.Context(), d.Draft.ID, d.Who, words, func(draft *store.Draft) ([]edit.Op, error) {
		return ops, s.Allowed(d, draft, ops)
	})
	if err != nil {
		return err
	}
	page := d.Selected
	if len(ops) > 0 && d.Draft.Site.InTree(ops[0].Subject()) {
		page = ops[0].Subject()
	}
	s.Say(
		w,
		http.StatusOK,
		desk.Reply{
			Said: "The opposite edits are in your draft. Look at what will change, then publish.",
			Page: int64(page),
		},
	)
	return nil
}
