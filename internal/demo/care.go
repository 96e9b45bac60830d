package demo

import (
	"context"
	"time"

	"vineladder/internal/clock"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// lookAfter says who looks after the top branches, how often, and what some of them noted.
func lookAfter(ctx context.Context, st *store.Store, by store.Account) error {
	s := st.Published().Site
	var ops []edit.Op
	set := func(label string, f edit.Field, value string) {
		id := find(s, label)
		ops = append(ops, edit.OpEdit{Page: id, Fields: []edit.FieldChange{
			{Field: f, Old: edit.Value(s.Page(id), f), New: value},
		}})
	}
	for _, of := range []struct {
		label string
		owner site.Owner
	}{
		{"Harbours", site.RoleOwner("harbour-masters")},
		{"Sailings", site.PersonOwner("structure")},
		{"Freight", site.PersonOwner("freight")},
		{"Board papers", site.RoleOwner("board-members")},
		{"About the Board", site.PersonOwner("keeper")},
	} {
		set(of.label, edit.FieldOwner, string(of.owner))
	}
	set("Harbour rules", edit.FieldReview, "12")
	set("About the Board", edit.FieldReview, "24")
	set("Freight", edit.FieldReview, "6")
	set(
		"Harbour rules",
		edit.FieldNote,
		"The fines are those of the byelaws of 2019; ask the clerk before changing them.",
	)
	set("Fares", edit.FieldNote, "The prices come from the Board in February; the table is typed by hand.")
	const why = "Nobody knew any more who answers for which pages."
	if _, err := st.PublishBecause(ctx, by, "said who looks after the branches", why, ops); err != nil {
		return err
	}
	return age(ctx, st, by)
}

// age makes the words of a few pages older than a review allows.
func age(ctx context.Context, st *store.Store, by store.Account) error {
	s, worded := st.Published().Site, map[site.PageID]time.Time{}
	now := clock.Now()
	old := func(label string, months, days int) { worded[find(s, label)] = now.AddDate(0, -months, -days) }
	old("Harbour rules", 14, 3)
	old("Freight rates", 7, 12)
	old("Cranes and forklifts", 5, 20)
	return st.DateWords(ctx, by, worded)
}
