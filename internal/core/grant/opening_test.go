package grant_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/piece"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// readers gives which of a few people see what a block says on any page at a moment: page by page, as it is shown.
func readers(s *site.Site, says string, at time.Time) []bool {
	found := make([]bool, 0, 8)
	for _, roles := range [][]string{nil, {}, {"staff"}, {"masters"}, {"operators"}, {"masters", "operators"}} {
		lens := reach.Lens{Visitor: reach.Visitor{SignedIn: roles != nil, Roles: s.Holds(roles)}, At: at}
		frame, sees := region.NewFrame(s, lens), false
		s.Walk(s.Home(), func(p *site.Page) bool {
			if reach.Ask(s, p.ID, lens) == reach.Sees {
				_, areas := frame.On(p.ID)
				for _, area := range areas {
					for _, st := range area.Standings {
						piece, isText := st.Block.Shows.(site.BlockText)
						sees = sees || st.Why == "" && isText && piece.Text == says
					}
				}
			}
			return true
		})
		found = append(found, sees)
	}
	return found
}

// Nobody without the right to admit shows what a block says to who saw it nowhere: held against the pages as they are
// shown, one by one, for edits of every sort.
func TestBlocksOpenToNobodyNew(t *testing.T) {
	opened, kept := 0, 0
	rapid.Check(t, func(t *rapid.T) {
		public, block := testkit.RandomFurnished(t, rapid.IntRange(2, 8).Draw(t, "pages"))
		public = saying(public, block.ID, "secret")
		next := int64(100)
		op := testkit.RandomBlockOp(t, public, &next)
		after, _, err := edit.Apply(public, op, testkit.Now)
		if _, settings := op.(edit.OpEditSettings); err != nil || settings {
			return
		}
		new := false
		var ever [6]bool
		for _, at := range edges(public, after) {
			was, is := readers(public, "secret", at), readers(after, "secret", at)
			for i := range is {
				ever[i] = ever[i] || was[i]
				new = new || is[i] && !ever[i]
			}
		}
		why := grant.Opens(public, after, []edit.Op{op}, testkit.Now)
		if new {
			opened++
			assert.NotEmpty(t, why, "%#v", op)
		} else {
			kept++
			assert.Empty(t, why, "%#v", op)
		}
	})
	assert.Greater(t, opened, 2)
	assert.Greater(t, kept, 20)
}

func saying(s *site.Site, block site.BlockID, text string) *site.Site {
	d := s.Builder()
	d.SetBlocks([]site.Block{{ID: block, Name: "Words", Shows: site.BlockText{Text: text}}}, s.Placements())
	return d.Site()
}

// edges gives now and each moment to come at which a placement begins or ends, in order.
func edges(sites ...*site.Site) []time.Time {
	moments := []time.Time{testkit.Now}
	for _, s := range sites {
		for _, p := range s.Placements() {
			for _, at := range []time.Time{p.LiveFrom, p.LiveUntil} {
				if at.After(testkit.Now) {
					moments = append(moments, at)
				}
			}
		}
	}
	slices.SortFunc(moments, time.Time.Compare)
	return moments
}

// Another block that comes to say the same words, and an item that leaves the audiences above it.
func TestWhatElseOpens(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Handbook | audience=staff\n  News")
	d := s.Builder()
	d.SetBlocks(
		[]site.Block{
			{ID: 1, Name: "Rota", Shows: site.BlockText{Text: "rota"}},
			{ID: 2, Name: "Hours", Shows: site.BlockText{Text: "hours"}},
		},
		[]site.Placement{
			{ID: 1, Block: 1, Region: "side", Conditions: site.Conditions{Audience: "staff"}},
			{ID: 2, Block: 2, Region: "side"},
		},
	)
	d.SetMenus([]site.Menu{{ID: 1, Key: "main", Name: "Main", Entries: []site.Entry{
		{ID: 1, Shows: site.ItemHeading{}, Label: "For staff", Audience: "staff"},
		{ID: 2, Parent: 1, Shows: site.ItemWeb{Address: "https://rota.example/"}, Label: "Rota"},
		{ID: 3, Parent: 1, Shows: site.ItemPage{Page: 3}},
		{ID: 4, Shows: site.ItemHeading{}, Label: "Operators", Audience: "operators", Parent: 1},
		{ID: 5, Shows: site.ItemWeb{Address: "https://both.example/"}, Label: "Both", Parent: 4},
	}}})
	s = d.Site()
	after := func(op edit.Op) (*site.Site, edit.Op) {
		next, settled, err := edit.Apply(s, op, testkit.Now)
		require.NoError(t, err)
		return next, settled
	}
	piece := func(block site.BlockID, text string) edit.Op {
		b := s.Block(block)
		return edit.OpEditBlock{
			Block: block,
			Fields: []edit.FieldChange{
				{
					Field: edit.FieldPiece,
					Old:   edit.BlockValue(b, edit.FieldPiece),
					New:   piece.Text(site.BlockText{Text: text}),
				},
			},
		}
	}
	for _, c := range []struct {
		op  edit.Op
		why string
	}{
		{piece(2, "rota"), "It shows what the block “Hours” says to people who see it nowhere now"},
		{piece(2, "new words"), ""},
		{piece(1, "hours"), ""},
		{edit.OpMoveEntry{Entry: 2, To: edit.Gap{Menu: 1}}, ""},
		{edit.OpMoveEntry{Entry: 3, To: edit.Gap{Menu: 1}}, ""},
		{edit.OpMoveEntry{Entry: 5, To: edit.Gap{Menu: 1, Parent: 1}}, ""},
		{edit.OpMoveEntry{Entry: 5, To: edit.Gap{Menu: 1}}, "The item is for “operators” and “staff”, by the items above " +
			"it, and at its new place for everyone"},
	} {
		next, op := after(c.op)
		assert.Equal(t, c.why, grant.Opens(s, next, []edit.Op{op}, testkit.Now), "%#v", c.op)
		answer := grant.MayOpen(s, next, nil, []edit.Op{op}, testkit.Now)
		assert.Equal(t, c.why == "", answer.Yes)
		assert.Contains(t, answer.Why, c.why)
	}
	next, op := after(edit.OpMoveEntry{Entry: 2, To: edit.Gap{Menu: 1}})
	assert.Equal(
		t,
		site.Audience("staff"),
		next.Menu(1).Entry(2).Audience,
		"it takes the one audience that it had from above",
	)
	back, _, err := edit.Apply(next, op.Inverse(), testkit.Now)
	require.NoError(t, err)
	assert.Empty(t, back.Menu(1).Entry(2).Audience, "undone it is as it was")
	next, _ = after(edit.OpMoveEntry{Entry: 5, To: edit.Gap{Menu: 1, Parent: 1}})
	assert.Equal(t, site.Audience("operators"), next.Menu(1).Entry(5).Audience)
}

// What is opened is asked of the whole draft when it is published, of those whose maker may not admit, and of the
// publisher.
func TestOpeningIsAskedAtPublishing(t *testing.T) {
	s := testkit.Outline(t, "Home\n  News")
	d := s.Builder()
	d.SetRoles(
		append(testkit.Roles(), site.Role{Key: "placer", Name: "Placer", Grants: site.OnSite(site.ActionPlace)},
			site.Role{Key: "press", Name: "Press", Grants: site.OnSite(site.ActionPublish)},
			site.Role{Key: "chief", Name: "Chief", Grants: site.OnSite(site.ActionAdmit, site.ActionPlace)}),
	)
	d.SetBlocks([]site.Block{{ID: 1, Name: "Rota", Shows: site.BlockText{Text: "rota"}}},
		[]site.Placement{{ID: 1, Block: 1, Region: "side", Conditions: site.Conditions{Audience: "staff"}}})
	s = d.Site()
	op := edit.OpPutPlacement{Placement: 9, Block: 1, Slot: edit.Slot{Region: "header"}}
	after, settled, err := edit.Apply(s, op, testkit.Now)
	require.NoError(t, err)
	for _, c := range []struct {
		maker, publisher []string
		yes              bool
	}{
		{[]string{"placer"}, []string{"press"}, false},
		{[]string{"chief"}, []string{"press"}, true},
		{[]string{"placer"}, []string{"press", "chief"}, true},
		{nil, []string{"press"}, false},
	} {
		made := []grant.Made{{Ops: []edit.Op{settled}, Roles: c.maker}}
		answer := grant.MayPublish(s, after, c.publisher, made, testkit.Now)
		assert.Equal(t, c.yes, answer.Yes, "%v %v: %s", c.maker, c.publisher, answer.Why)
	}
	answer := grant.MayPublish(
		s,
		after,
		[]string{"press"},
		[]grant.Made{{Ops: []edit.Op{settled}, Roles: []string{"placer"}}},
		testkit.Now,
	)
	assert.Contains(t, answer.Why, "“Rota” says to people who see it nowhere now")
}
