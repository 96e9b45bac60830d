package edit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	forms "vineladder/internal/core/typed"
)

// bare gives what the entries of a menu are, without their numbers: depth, label, and every field.
func bare(s *site.Site, m *site.Menu) []string {
	var all []string
	var list func(parent site.EntryID, indent string)
	list = func(parent site.EntryID, indent string) {
		for _, id := range m.Below(parent) {
			e := m.Entry(id)
			line := indent + s.EntryLabel(e)
			for _, f := range edit.EntryFields() {
				line += " " + edit.EntryValue(e, f)
			}
			all = append(all, line)
			list(id, indent+" ")
		}
	}
	list(0, "")
	return all
}

// A copy of a menu is as the menu is, under other numbers; branches that are put one by one make the same menu again.
func TestCopiesAreAsTheirOriginals(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 10)
		m := testkit.RandomMenu(t, s)
		ids, made := make([]site.EntryID, len(m.Entries)), make([]site.EntryID, len(m.Entries))
		for i := range m.Entries {
			ids[i], made[i] = m.Entries[i].ID, site.EntryID(1000+i)
		}
		forms := edit.CopyEntries(m, ids, made)
		copied, _, err := edit.Apply(s, edit.OpMakeMenu{Menu: 50, Name: "Copy", Entries: forms}, testkit.Now)
		require.NoError(t, err)
		require.Equal(t, bare(s, m), bare(copied, copied.Menu(50)))

		ops := append([]edit.Op{edit.OpMakeMenu{Menu: 51, Name: "Again"}}, edit.PutBranches(51, forms)...)
		again, applied, err := edit.ApplyAll(s, ops, testkit.Now)
		require.NoError(t, err)
		require.Equal(t, bare(s, m), bare(again, again.Menu(51)))
		for i := len(applied) - 1; i >= 0; i-- {
			again, _, err = edit.Apply(again, applied[i].Inverse(), testkit.Now)
			require.NoError(t, err)
		}
		require.Nil(t, again.Menu(51))
	})
}

func TestWhatAnOperationIsAbout(t *testing.T) {
	put := edit.OpPutEntries{Entries: []edit.EntryForm{{ID: 7}}}
	for _, op := range []edit.Op{
		put,
		edit.OpTakeEntry{Entry: 7, Was: put},
		edit.OpEditEntry{Entry: 7},
		edit.OpMoveEntry{Entry: 7},
	} {
		assert.Equal(t, site.EntryID(7), edit.ItemOf(op))
	}
	assert.Zero(t, edit.ItemOf(edit.OpMakeMenu{}))
}

func TestIconsAndAddressesAreChecked(t *testing.T) {
	s := testkit.Outline(t, "Home")
	s, _, err := edit.Apply(
		s,
		edit.OpMakeMenu{
			Menu: 2,
			Name: "Tasks",
			Entries: []edit.EntryForm{
				{ID: 9, Fields: map[edit.Field]string{edit.FieldShows: "heading", edit.FieldLabel: "Boats"}},
			},
		},
		testkit.Now,
	)
	require.NoError(t, err)
	icon := func(name string) error {
		_, _, err := edit.Apply(
			s,
			edit.OpEditEntry{Menu: 2, Entry: 9, Fields: []edit.FieldChange{{Field: edit.FieldIcon, New: name}}},
			testkit.Now,
		)
		return err
	}
	assert.NoError(t, icon("ship"))
	assert.ErrorContains(t, icon("skull"), "The theme has no icon “skull”.")
	for address, fault := range map[string]string{
		"https://tides.example/": "", "mailto:office@harbour.example": "",
		"tel:+44": "", "tides.example": "is not a web address", "javascript:alert(1)": "starts with https",
		"//x": "is not a web address",
	} {
		if _, err := forms.Web(address); fault == "" {
			assert.NoError(t, err, address)
		} else {
			assert.ErrorContains(t, err, fault, address)
		}
	}
}

// The copy of a page that lists what stands in it lists what stands in the copy; one that lists what is elsewhere goes
// on doing so, and what can't be asked for any more is left out.
func TestCopiesListTheirOwn(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Notices\n    Ice\n  Jobs\n  Fares")
	lists := func(page site.PageID, question string) {
		var err error
		s, _, err = edit.Apply(s, edit.OpEdit{Page: page, Fields: []edit.FieldChange{
			{Field: edit.FieldListing, New: question},
		}}, testkit.Now)
		require.NoError(t, err)
	}
	lists(2, ";;branch:2;label;5")
	lists(4, ";;branch:2;label;5")
	lists(3, ";;branch:3;label;5;cards;")
	copying := edit.Copying{Selection: []site.PageID{2}, Below: true, To: edit.Place{Parent: 5}}
	made := map[site.PageID]site.PageID{2: 20, 3: 30, 4: 40}
	text := func(p *site.Page) string { return p.Text }
	next, _, err := edit.ApplyAll(s, copying.Ops(s, made, text), testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, ";;branch:20;label;5", next.Page(20).Listing)
	assert.Equal(t, ";;branch:30;label;5;cards;", next.Page(30).Listing, "of what is copied with it")
	copying = edit.Copying{Selection: []site.PageID{4}, To: edit.Place{Parent: 5}}
	next, _, err = edit.ApplyAll(s, copying.Ops(s, map[site.PageID]site.PageID{4: 40}, text), testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, ";;branch:2;label;5", next.Page(40).Listing)
}
