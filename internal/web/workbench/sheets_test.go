package workbench

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/detail"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// Whatever a page has, its sheet can be opened: those of the demo, and one of a type with a detail of each sort, with a
// choice that is none any more, which asks for all that a list can ask for.
func TestEverySheetOpens(t *testing.T) {
	b := openBench(t, "keeper")
	by := store.Account{Name: "test"}
	var ops []edit.Op
	values := map[string]string{"choice": "Fuel", "choices": "Fuel\nWater", "yes": "yes", "number": "2.5"}
	for _, of := range detail.Types() {
		key := "harbour.all-" + string(of.Key)
		ops = append(ops, edit.OpMakeDetail{Detail: key, Fields: map[edit.Field]string{
			edit.FieldLabel: "All " + of.Words, edit.FieldType: string(of.Key), edit.FieldChoices: "Fuel\nWater",
			edit.FieldShown: string(site.DetailBoth),
		}})
	}
	var harbour site.PageID
	on := b.store.Published().Site
	on.Walk(on.Home(), func(p *site.Page) bool {
		if p.Kind == "harbour" && harbour == 0 {
			harbour = p.ID
		}
		return harbour == 0
	})
	fields := []edit.FieldChange{{
		Field: edit.FieldListing,
		New: "harbour;;;-harbour.all-number;5;cards;date=today-30..&harbour.all-choice=Fuel;" +
			"harbour.all-yes|harbour.all-choices",
	}}
	for key, value := range values {
		fields = append(fields, edit.FieldChange{Field: edit.Field("harbour.all-" + key), New: value})
	}
	ops = append(ops, edit.OpEdit{Page: harbour, Fields: fields})
	_, err := b.store.PublishDirect(context.Background(), by, "gave a harbour everything", ops)
	require.NoError(t, err)
	_, err = b.store.PublishDirect(context.Background(), by, "took a choice back", []edit.Op{edit.OpEditDetail{
		Detail: "harbour.all-choice",
		Fields: []edit.FieldChange{{Field: edit.FieldChoices, Old: "Fuel\nWater", New: "Water"}},
	}})
	require.NoError(t, err)
	on = b.store.Published().Site
	seen := 0
	on.Walk(on.Home(), func(p *site.Page) bool {
		status, body := b.ask(t, http.MethodGet, "/tree", url.Values{"page": {fmt.Sprint(p.ID)}})
		assert.Equal(t, http.StatusOK, status, p.Label)
		assert.True(t, strings.Contains(body, "</html>"), "the sheet of %s breaks off", p.Label)
		seen++
		return true
	})
	assert.Greater(t, seen, 100)
	_, body := b.ask(t, http.MethodGet, "/tree", url.Values{"page": {fmt.Sprint(harbour)}})
	for _, says := range []string{
		`<option value="Water">`, "(no choice any more)", "visitors narrow it by", "30 days before today", "as cards",
	} {
		assert.True(t, strings.Contains(body, says), says)
	}
}
