package workbench

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strconv"

	"vineladder/internal/core/consequence"
	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// step goes one step back or forth in the draft, says it and goes there.
func (s *Server) step(
	verb string,
	do func(context.Context, int64, store.Account) (*store.Draft, store.Step, error),
) deskHandler {
	return func(w http.ResponseWriter, r *http.Request, d *desk) error {
		made, step, err := do(r.Context(), d.Draft.ID, d.Who)
		if err != nil {
			return err
		}
		page := d.Selected
		if len(step.Ops) > 0 {
			if subject := step.Ops[0].Subject(); made.Site.InTree(subject) {
				page = subject
			} else if d.Draft.Site.InTree(subject) {
				page = neighbour(d.Draft.Site, subject)
			}
		}
		answer := reply{Said: verb + step.Said + ".", Page: int64(page)}
		if len(step.Ops) > 0 {
			if e, m := holding(made.Site, edit.ItemOf(step.Ops[0])); e != nil {
				answer.Menu, answer.Item = int64(m.ID), itemID{Entry: e.ID}.String()
			}
		}
		s.say(w, http.StatusOK, answer)
		return nil
	}
}

// reviewView is what a person reads before publishing.
type reviewView struct {
	*desk
	Sentences []consequence.Sentence
	Steps     []store.Step
	Held      []heldView
	Kept      []string // pages that keep another audience than when their move was made
	Publish   grant.Answer
	Audiences []string
	Left      int // role sets that were not compared
}

type heldView struct {
	Index                    int
	Label, Why, Mine, Theirs string
	CanInsist                bool
}

func (s *Server) review(w http.ResponseWriter, r *http.Request, d *desk) error {
	viewers, err := s.viewers(r, d)
	if err != nil {
		return err
	}
	view := reviewView{
		desk:      d,
		Steps:     d.Draft.Steps,
		Publish:   d.May(string(site.ActionPublish)),
		Audiences: viewers.Names,
		Left:      viewers.Left,
	}
	if view.Sentences, err = s.changes(r, d); err != nil {
		return err
	}
	view.Sentences = d.readable(view.Sentences)
	on := *d
	on.Site = d.Draft.Site
	deeds, err := s.published(r.Context(), d)
	if err != nil {
		return err
	}
	for i, h := range d.Draft.Held {
		view.Held = append(view.Held, on.describeHeld(i, h, deeds))
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
	s.render(w, r, "review", view)
	return nil
}

// readable leaves out of sentences the words of pages that the person may not read.
func (d *desk) readable(sentences []consequence.Sentence) []consequence.Sentence {
	made, reads := slices.Clone(sentences), d.reader()
	for i, s := range made {
		if len(s.Words) > 0 && s.Block == 0 &&
			slices.ContainsFunc(s.Pages, func(id site.PageID) bool { return !reads(id) }) {
			made[i].Words = nil
		}
	}
	return made
}

// Pages says whether any page differs for somebody.
func (v reviewView) Pages() bool {
	return slices.ContainsFunc(v.Sentences, func(s consequence.Sentence) bool { return len(s.Pages) > 0 })
}

// published finds who published what the held edits meet.
func (s *Server) published(ctx context.Context, d *desk) (map[*edit.Conflict]store.Deed, error) {
	var conflicts []*edit.Conflict
	for _, h := range d.Draft.Held {
		if conflict, is := h.Why.(*edit.Conflict); is && conflict.NamesSomebody() {
			conflicts = append(conflicts, conflict)
		}
	}
	found, err := s.store.PublishedBy(ctx, conflicts)
	deeds := map[*edit.Conflict]store.Deed{}
	for i, deed := range found {
		deeds[conflicts[i]] = deed
	}
	return deeds, err
}

// whoWords names who did something, and when; "" if nobody was found.
func (d *desk) whoWords(deed store.Deed) string {
	name := deed.Name
	if deed.By == d.Who.ID {
		name = "you"
	}
	if deed.At.IsZero() || name == "" {
		return ""
	}
	return name + " on " + deed.At.In(d.Site.Settings().Zone).Format("2 January at 15:04")
}

// named gives a conflict met while editing with the name of who did what it comes from, in the draft or in public.
func (s *Server) named(r *http.Request, d *desk, met *edit.Conflict) error {
	deed := store.Deed{}
	if draft, err := s.store.Draft(r.Context(), d.Draft.ID); err == nil {
		deed = draft.DoneIn(met)
	}
	if deed.At.IsZero() {
		found, err := s.store.PublishedBy(r.Context(), []*edit.Conflict{met})
		if err != nil {
			s.log.Error("find who met an edit", "error", err)
		} else {
			deed = found[0]
		}
	}
	said := *met
	if who := d.whoWords(deed); who != "" {
		said.Sentence = met.Said(who)
	}
	return &said
}

func (d *desk) describeHeld(index int, h store.HeldOp, deeds map[*edit.Conflict]store.Deed) heldView {
	v := heldView{Index: index, Label: d.aboutWords(h.Op), Why: h.Why.Error(), CanInsist: edit.CanInsist(h.Held)}
	conflict, ok := h.Why.(*edit.Conflict)
	if who := d.whoWords(deeds[conflict]); who != "" {
		v.Why = conflict.Said(who)
	}
	switch {
	case ok && conflict.Field == edit.FieldText:
		v.Mine, v.Theirs = "your text", "the text that is public now"
	case ok && conflict.Field != "":
		v.Mine, v.Theirs = d.valueWords(conflict.Field, conflict.Mine), d.valueWords(conflict.Field, conflict.Theirs)
	case ok:
		v.Mine, v.Theirs = conflict.Mine, conflict.Theirs
	}
	return v
}

// decideHeld settles a conflict: mine, or what is public now.
func (s *Server) decideHeld(w http.ResponseWriter, r *http.Request, d *desk) error {
	index, err := strconv.Atoi(r.FormValue("held"))
	if err != nil || index < 0 || index >= len(d.Draft.Held) || r.FormValue("version") != fmt.Sprint(d.Draft.Version) {
		return store.ErrReview
	}
	held, words := d.Draft.Held[index], "Left out; what is public now stays."
	if r.FormValue("keep") == "mine" {
		words = "Yours is kept and will be published."
		_, err = s.store.Insist(r.Context(), d.Draft.ID, d.Who, held)
	} else {
		_, err = s.store.Drop(r.Context(), d.Draft.ID, held)
	}
	if err != nil {
		return err
	}
	s.say(w, http.StatusOK, reply{Said: words})
	return nil
}

// publish makes the draft public, if it is still what was reviewed.
func (s *Server) publish(w http.ResponseWriter, r *http.Request, d *desk) error {
	if answer := d.May(string(site.ActionPublish)); !answer.Yes {
		return fmt.Errorf("%w: %s", errForbidden, answer.Why)
	}
	revision, _ := strconv.ParseInt(r.FormValue("revision"), 10, 64)
	version, _ := strconv.ParseInt(r.FormValue("version"), 10, 64)
	made, err := s.store.Publish(r.Context(), d.Draft.ID, d.Who, store.Reviewed{Revision: revision, Version: version})
	if err != nil {
		return err
	}
	s.log.Info("published", "revision", made.Revision, "by", d.Who.Login, "steps", len(d.Draft.Steps))
	words := fmt.Sprintf("Published: %s edits are public now.", count.Number(len(d.Draft.Steps)))
	if len(d.Draft.Steps) == 1 {
		words = fmt.Sprintf("Published: %s. It is public now.", d.Draft.Steps[0].Said)
	}
	at := ""
	if made.Site.InTree(d.Selected) && reach.WhyOffline(made.Site, d.Selected, s.now()).Cause == nil {
		at = s.settings.Site + addressOf(made.Site, d.Selected)
	}
	s.say(w, http.StatusOK, reply{Said: words, Page: made.Revision, URL: at, Draft: s.goesOnIn(r.Context(), d)})
	return nil
}

// goesOnIn gives the draft in which a person goes on after publishing a parted one, which is closed: where its edits
// came from, if that is there and theirs, else the one that everybody has. 0: where they are.
func (s *Server) goesOnIn(ctx context.Context, d *desk) int64 {
	if d.Draft.PartedFrom == 0 {
		return 0
	}
	if from, err := s.store.Draft(ctx, d.Draft.PartedFrom); err == nil && from.IsFor(d.Who.ID) {
		return from.ID
	}
	mine, err := s.store.MyChanges(ctx, d.Who.ID)
	if err != nil {
		s.log.Error("find the draft of a person", "of", d.Who.Login, "error", err)
	}
	return mine
}

// takeBack puts the opposite of a publication into the draft, as one step.
func (s *Server) takeBack(w http.ResponseWriter, r *http.Request, d *desk) error {
	revision, _ := strconv.ParseInt(r.FormValue("revision"), 10, 64)
	ops, err := s.store.Inverses(r.Context(), revision)
	if err != nil {
		return err
	}
	words := fmt.Sprintf("took back publication %d", revision)
	_, err = s.store.AddStep(r.Context(), d.Draft.ID, d.Who, words, func(draft *store.Draft) ([]edit.Op, error) {
		return ops, s.allowed(d, draft, ops)
	})
	if err != nil {
		return err
	}
	page := d.Selected
	if len(ops) > 0 && d.Draft.Site.InTree(ops[0].Subject()) {
		page = ops[0].Subject()
	}
	s.say(
		w,
		http.StatusOK,
		reply{Said: "The opposite edits are in your draft. Look at what will change, then publish.", Page: int64(page)},
	)
	return nil
}
