package desk

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"time"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/store"
)

// then has the desk look at the site as it was, where the address names a publication, or the moment of the lens lies
// in the past. What is seen is read only, and is what was public.
func (s *Server) then(r *http.Request, d *Desk) error {
	revision := Number[int64](r.FormValue("then"))
	at, err := time.ParseInLocation(lensLayout, d.At, d.Site.Settings().Zone)
	asked := err == nil && at.Before(d.Now.Add(-time.Minute))
	switch {
	case revision != 0:
		d.Then, err = s.Store.PastAt(r.Context(), revision)
	case asked:
		d.Then, err = s.Store.Then(r.Context(), at)
	default:
		return nil
	}
	if errors.Is(err, store.ErrNoPast) {
		d.Unkept = true
		return nil
	}
	if err != nil {
		return err
	}
	past := *d.Then
	if d.Veiled {
		past.Site = d.Veil()(past.Site)
	}
	d.Then, d.State, d.Site = &past, "now", past.Site
	if revision != 0 {
		d.ThenAsked = strconv.FormatInt(revision, 10)
		if !asked {
			d.At, d.Now = "", past.At // the moment of that publication
		}
	}
	return nil
}

// MustBeToday is the error of somebody who looks at the past, where nothing is said or done.
func (d *Desk) MustBeToday() error {
	if d.Then != nil {
		return &edit.Refusal{Sentence: "You are looking at the site as it was, which nobody changes. Go back to today."}
	}
	return nil
}

// ThenWords says which moment of the past one looks at.
func (d *Desk) ThenWords() string {
	words := "As it was on " + LongMoment(d.Site, d.Then.At)
	if d.At != "" {
		words = "As it was on " + LongMoment(d.Site, d.Lens.At)
	}
	if d.Then.By != "" && len(d.Then.Said) > 0 {
		words += fmt.Sprintf(", since %s published: %s", d.Then.By, Short(d.Then.Said[0]))
		if more := len(d.Then.Said) - 1; more > 0 {
			words += " and " + count.Of(more, "other edit", "other edits")
		}
	}
	return words
}

// ThenLink is the address of the tree as it was at a publication.
func (d *Desk) ThenLink(revision int64) string {
	return fmt.Sprintf("/tree?draft=%d&page=%d&then=%d", d.Draft.ID, d.Selected, revision)
}

// Today is the address of the same screen as it is today.
func (d *Desk) Today() string {
	return fmt.Sprintf("%s?draft=%d&page=%d&state=after", d.Path, d.Draft.ID, d.Selected)
}
