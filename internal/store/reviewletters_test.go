package store_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/clock"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
)

// Whoever looks after pages that are due is written to once a week, with those that are theirs; nobody else is.
func TestPeopleAreWrittenToAboutReviews(t *testing.T) {
	st := storetest.New(t)
	set := func(field edit.Field, value string) edit.FieldChange {
		return edit.FieldChange{Field: field, New: value}
	}
	page := func(id site.PageID, label, owner, review string) edit.Op {
		op := edit.OpMake{Page: id, Fields: []edit.FieldChange{
			set(edit.FieldLabel, label), set(edit.FieldOwner, owner), set(edit.FieldReview, review),
		}}
		if id > 1 {
			op.Place.Parent = 1
			op.Fields = append(op.Fields, set(edit.FieldStatus, "live"))
		}
		return op
	}
	_, err := st.PublishDirect(ctx, store.Account{Name: "Test"}, "made", []edit.Op{
		edit.OpMakeRole{Role: "boats", Fields: map[edit.Field]string{
			edit.FieldName: "Boat crew", edit.FieldPermissions: "edit:site",
		}},
		page(1, "Home", "person:runa", "never"), page(2, "Fares", "", "1"), page(3, "Winter", "role:boats", "1"),
		page(4, "Summer", "role:boats", ""),
	})
	require.NoError(t, err)
	require.NoError(t, st.DateWords(ctx, store.Account{Name: "Test"}, map[site.PageID]time.Time{
		2: clock.Now().AddDate(0, -3, 0), 3: clock.Now().AddDate(0, -1, 3), 4: clock.Now().AddDate(-1, 0, 0),
	}))
	person(t, st, "runa", "Runa Tveit", "runa@harbour.example")
	person(t, st, "idris", "Idris Calder", "idris@harbour.example", "boats")
	person(t, st, "greta", "Greta Holm", "greta@harbour.example")
	person(t, st, "silent", "Silent", "", "boats")
	written, err := st.WriteAboutReviews(ctx, "https://bench.example/reviews")
	require.NoError(t, err)
	assert.Equal(t, 2, written)
	again, err := st.WriteAboutReviews(ctx, "https://bench.example/reviews")
	require.NoError(t, err)
	assert.Zero(t, again, "once a week")
	letters, err := st.Outbox(ctx, 10)
	require.NoError(t, err)
	require.Len(t, letters, 2)
	said := map[string]string{}
	for _, l := range letters {
		said[l.Recipient] = l.Subject + "\n" + l.Body
	}
	runa, idris := said["runa@harbour.example"], said["idris@harbour.example"]
	assert.True(t, strings.HasPrefix(runa, "1 page to look at again\nRuna Tveit,\n"), runa)
	assert.Contains(t, runa, "1 is overdue")
	assert.Contains(t, runa, "- Fares, due on ")
	assert.Contains(t, idris, "- Winter, due on ")
	assert.NotContains(t, idris, "Fares")
	assert.NotContains(t, idris, "overdue")
	assert.NotContains(t, idris, "Summer", "nobody set when to look at it")
}

func person(t *testing.T, st *store.Store, login, name, address string, roles ...string) {
	t.Helper()
	_, err := st.AddAccount(ctx, login, name, "nine-islands-"+login, roles)
	require.NoError(t, err)
	if address != "" {
		_, err := st.DB().ExecContext(ctx, `UPDATE accounts SET email = $2 WHERE login = $1`, login, address)
		require.NoError(t, err)
	}
}
