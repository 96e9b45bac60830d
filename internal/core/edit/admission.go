package edit

import (
	"fmt"
	"slices"

	"vineladder/internal/core/site"
)

// Moving never opens (rules 2.6): a page that comes to another place keeps the audience and the concealment that it
// had, as its own, where the place would admit somebody whom it did not admit before. Compared is admission alone, not
// status or window.

// An Admission is who is admitted to a page: the audience that holds for it, set on it or above, and whether it is
// concealed.
type Admission struct {
	Audience  site.Audience `json:"audience"`
	Concealed bool          `json:"concealed,omitempty"`
}

// admissionOf reads what holds for a page, in the tree or in the bin, by the path on which it stands.
func admissionOf(s *site.Site, id site.PageID) Admission {
	made := Admission{}
	for p := s.Page(id); p != nil; p = s.Page(p.Parent) {
		if made.Audience == site.AudienceInherited {
			made.Audience = p.Audience
		}
		made.Concealed = made.Concealed || p.Conceal
	}
	if made.Audience == site.AudienceInherited {
		made.Audience = site.AudienceEveryone
	}
	return made
}

// IsWider says whether an audience admits somebody whom another does not, asked over all roles that a person could
// hold. Any role of an audience suffices, so asking them one by one is asking all.
func IsWider(s *site.Site, audience, than site.Audience) bool {
	switch {
	case than == site.AudienceEveryone || audience == than:
		return false
	case audience == site.AudienceEveryone, than == site.AudienceEditors:
		return true
	case than == site.AudienceSignedIn:
		return false
	case audience == site.AudienceSignedIn, audience == site.AudienceEditors: // may lack the other's roles
		return true
	}
	admitted := than.Roles()
	return slices.ContainsFunc(audience.Roles(), func(role string) bool {
		return !slices.ContainsFunc(
			s.Holds([]string{role}),
			func(held string) bool { return slices.Contains(admitted, held) },
		)
	})
}

// keepClosed gives a page that is about to stand elsewhere what it needs so that nobody is admitted who was not, and
// the changes. wanted are changes that are asked for, as by an inverse: they are made as far as they don't open.
func (st *state) keepClosed(p *site.Page, was Admission, wanted []FieldChange) []FieldChange {
	before := *p
	wish(p, wanted)
	place := admissionOf(st.Peek(), p.Parent)
	is := place.Audience
	if p.Audience != site.AudienceInherited {
		is = p.Audience
	}
	if IsWider(st.Peek(), is, was.Audience) {
		p.Audience = was.Audience
	}
	if was.Concealed && !place.Concealed {
		p.Conceal = true
	}
	return kept(&before, p)
}

// wish makes changes of audience and concealment that are asked for, where the page still has what they start from.
func wish(p *site.Page, changes []FieldChange) {
	for _, c := range changes {
		switch {
		case c.Field == FieldAudience && c.Old == string(p.Audience):
			p.Audience = site.Audience(c.New)
		case c.Field == FieldConceal && c.Old == Value(p, FieldConceal):
			p.Conceal = c.New == "yes"
		}
	}
}

// kept gives the changes of audience and concealment between two states of a page.
func kept(before, p *site.Page) []FieldChange {
	var changes []FieldChange
	for _, field := range []Field{FieldAudience, FieldConceal} {
		if old, made := Value(before, field), Value(p, field); old != made {
			changes = append(changes, FieldChange{field, old, made, true})
		}
	}
	return changes
}

// standingAt says who is admitted to a page if it stands as it is given.
func (st *state) standingAt(p *site.Page) Admission {
	is := admissionOf(st.Peek(), p.Parent)
	if p.Audience != site.AudienceInherited {
		is.Audience = p.Audience
	}
	is.Concealed = is.Concealed || p.Conceal
	return is
}

// moved settles who is admitted to a page that moves: what it keeps, or, where the move goes back and nobody has
// changed an audience on either path since, what it had.
func (st *state) moved(p *site.Page, o OpMove, settled *OpMove) error {
	was := admissionOf(st.Peek(), p.ID)
	if o.Back && o.Was != nil && o.Is != nil && *o.Was == was {
		back := *p
		if wish(&back, o.Keeps); st.standingAt(&back) == *o.Is {
			settled.Keeps = kept(p, &back)
			p.Audience, p.Conceal = back.Audience, back.Conceal
			settled.Was, settled.Is = o.Was, o.Is
			return nil
		}
	}
	if o.Takes {
		place := admissionOf(st.Peek(), p.Parent)
		if o.Chosen != nil && *o.Chosen != place {
			return &Conflict{
				Page:   p.ID,
				Mine:   "who sees it is for its new place to say",
				Theirs: "who sees the new place has changed",
				Sentence: fmt.Sprintf(
					"Who sees the pages in “%s” was changed by somebody else; “%s” was to take that over.",
					st.Peek().Page(p.Parent).Label,
					p.Label,
				),
			}
		}
		settled.Takes, settled.Chosen = true, &place
	} else {
		settled.Keeps = st.keepClosed(p, was, o.Keeps)
	}
	if is := st.standingAt(p); is != was {
		settled.Was, settled.Is = &was, &is
	}
	return nil
}

// keepInBin writes the audience and concealment that hold for a page down on it, where it has them from above; or,
// going back, gives it what it had in the bin.
func (st *state) keepInBin(p *site.Page, o OpBin) []FieldChange {
	before, was := *p, admissionOf(st.Peek(), p.ID)
	if o.Back {
		wish(p, o.Keeps)
		return kept(&before, p)
	}
	if p.Audience == site.AudienceInherited && was.Audience != site.AudienceEveryone {
		p.Audience = was.Audience
	}
	p.Conceal = was.Concealed
	return kept(&before, p)
}

// closedCopy gives the fields that keep a copy from being admitted to by whom the original is not, at the place where
// it is made.
func closedCopy(s *site.Site, p *site.Page, parent site.PageID) []FieldChange {
	var fields []FieldChange
	was, place := admissionOf(s, p.ID), admissionOf(s, parent)
	if p.Audience == site.AudienceInherited && IsWider(s, place.Audience, was.Audience) {
		fields = append(fields, FieldChange{Field: FieldAudience, New: string(was.Audience)})
	}
	if !p.Conceal && was.Concealed && !place.Concealed {
		fields = append(fields, FieldChange{Field: FieldConceal, New: "yes"})
	}
	return fields
}

// admitsMore says whether a page is made with an audience that admits somebody whom its place would not admit.
func admitsMore(s *site.Site, o OpMake) bool {
	place := admissionOf(s, o.Place.Parent)
	return slices.ContainsFunc(o.Fields, func(c FieldChange) bool {
		return c.Field == FieldAudience && IsWider(s, site.Audience(c.New), place.Audience)
	})
}

// KeptAnew gives the pages that keep another audience or concealment by operations as they are applied now than when
// they were entered: what stood above them was changed by others meanwhile.
func KeptAnew(entered, applied []Op) []site.PageID {
	kept := map[site.PageID][]FieldChange{}
	for _, op := range entered {
		if page, keeps := keepsOf(op); page != 0 {
			kept[page] = keeps
		}
	}
	var anew []site.PageID
	for _, op := range applied {
		page, keeps := keepsOf(op)
		if before, entered := kept[page]; entered && page != 0 && !slices.Equal(before, keeps) {
			anew = append(anew, page)
		}
	}
	return anew
}

func keepsOf(op Op) (site.PageID, []FieldChange) {
	switch o := op.(type) {
	case OpMove:
		return o.Page, o.Keeps
	case OpRestore:
		return o.Page, o.Keeps
	}
	return 0, nil
}
