package public

import (
	"context"
	"net/http"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/store"
)

type texts map[string]string

func (t texts) Texts(context.Context, []string) (map[string]string, error) { return t, nil }

func render(t *testing.T, s *site.Site, lens reach.Lens, path, base string) Response {
	r, err := NewRenderer(
		texts{"h": `<p>See <a href="page:3">Fares</a> and <a href="page:4">Rotas</a>.</p>`},
		func(name string) string { return "/assets/" + name },
		"https://harbour.example",
	)
	require.NoError(t, err)
	path, query, _ := strings.Cut(path, "?")
	answer, err := r.Render(context.Background(), Request{Site: s, Lens: lens, Path: path, Query: query, Base: base})
	require.NoError(t, err)
	return answer
}

var staff = reach.Lens{Visitor: reach.Visitor{SignedIn: true, Roles: []string{"staff"}}, At: testkit.Now}

func TestLinksInTextFollowThePageAndTheVisitor(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings | text=h\n    Fares\n    Rotas | audience=staff")
	out := string(render(t, s, reach.Lens{At: testkit.Now}, "/sailings", "").Body)
	assert.Contains(t, out, `See <a href="/sailings/fares">Fares</a> and Rotas.`, "out of reach: plain text")
	assert.Contains(t, string(render(t, s, staff, "/sailings", "").Body), `<a href="/sailings/rotas">Rotas</a>`)
	moved, _, err := edit.Apply(s, edit.OpMove{Page: 3, To: edit.Place{Parent: 1}}, testkit.Now)
	require.NoError(t, err)
	assert.Contains(
		t,
		string(render(t, moved, reach.Lens{At: testkit.Now}, "/sailings", "").Body),
		`<a href="/fares">Fares</a>`,
	)
	assert.Contains(
		t,
		string(render(t, s, reach.Lens{At: testkit.Now}, "/sailings", "/proof/x").Body),
		`<a href="/proof/x/sailings/fares">Fares</a>`,
		"a preview stays in the preview",
	)
}

func TestBreadcrumbNamesWhatIsOutOfReachAndLeavesOutWhatIsConcealed(t *testing.T) {
	s := testkit.Outline(
		t,
		"Home\n  Handbook | audience=staff\n    Open | audience=everyone\n  Room | audience=operators conceal=yes\n    "+
			"Hall | audience=everyone",
	)
	crumbs := func(label string) []crumb {
		return breadcrumb(Request{Site: s, Lens: reach.Lens{At: testkit.Now}}, testkit.Find(t, s, label))
	}
	assert.Equal(t, []crumb{{"Home", "/"}, {"Handbook", ""}, {"Open", "/handbook/open"}}, crumbs("Open"))
	assert.Equal(t, []crumb{{"Home", "/"}, {"Hall", "/room/hall"}}, crumbs("Hall"))
	assert.Empty(t, crumbs("Home"))
}

func TestLabelsAreEscapedEverywhere(t *testing.T) {
	b := site.NewBuilder(testkit.Settings())
	testkit.Furnish(b, site.SelfBeside)
	s := b.Site()
	for i, label := range []string{"Home", "<script>alert(1)</script>"} {
		op := edit.OpMake{
			Page:  site.PageID(i + 1),
			Place: edit.Place{Parent: site.PageID(i)},
			Fields: []edit.FieldChange{
				{Field: edit.FieldLabel, New: label},
				{Field: edit.FieldTitle, New: `"><img>` + label},
			},
		}
		if i > 0 {
			op.Fields = append(op.Fields, edit.FieldChange{Field: edit.FieldStatus, New: "live"})
		}
		var err error
		s, _, err = edit.Apply(s, op, testkit.Now)
		require.NoError(t, err)
	}
	page := string(render(t, s, reach.Lens{At: testkit.Now}, "/script-alert-1-script", "").Body)
	assert.NotContains(t, page, "<script>alert")
	assert.NotContains(t, page, "<img>")
	assert.Contains(t, page, "&lt;script&gt;alert(1)&lt;/script&gt;</a>")
}

func TestStatusesWithoutChosenPages(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Handbook | audience=staff own_address=/hb\n  Short | short_addresses=/s")
	signedIn := reach.Lens{Visitor: reach.Visitor{SignedIn: true}, At: testkit.Now}
	assert.Equal(t, http.StatusNotFound, render(t, s, signedIn, "/%zz", "").Status, "a broken escape is no address")
	assert.Equal(t, http.StatusForbidden, render(t, s, signedIn, "/hb", "").Status)
	assert.Equal(
		t,
		http.StatusNotFound,
		render(t, s, signedIn, "/handbook", "").Status,
		"the tree's address gives way to the own one",
	)
	assert.Equal(t, Response{Status: 308, Location: "/short?q=1"}, render(t, s, signedIn, "/s?q=1", ""))
	assert.Equal(t, "/proof/t/sign-in?to=%2Fhb", render(t, s, reach.Lens{At: testkit.Now}, "/hb", "/proof/t").Location)
}

func TestAnswersEndWithTheRevisionAndAtEachTimeEdge(t *testing.T) {
	s := testkit.Outline(t, "Home\n  A | live_from=2026-11-24T13:00:00Z\n  B | live_until=2026-11-24T14:00:00Z")
	var c cache
	p := &store.Published{Revision: 1, Site: s}
	first := c.at(p, testkit.Now)
	first.put("/a", Response{Status: 200, Body: []byte(strings.Repeat("words ", 400))}, `"x"`)
	assert.NotNil(t, c.at(p, testkit.Now.Add(59*time.Minute)).get("/a"))
	assert.Less(t, len(first.get("/a").packed), 2400)
	assert.Nil(t, c.at(p, testkit.Now.Add(time.Hour)).get("/a"), "A comes")
	assert.Equal(t, testkit.Now.Add(2*time.Hour), c.at(p, testkit.Now.Add(time.Hour)).until, "then B goes")
	assert.True(t, c.at(p, testkit.Now.Add(3*time.Hour)).until.IsZero())
	c.at(p, testkit.Now).put("/a", Response{Status: 200, Body: []byte("x")}, `"x"`)
	assert.Nil(t, c.at(&store.Published{Revision: 2, Site: s}, testkit.Now).get("/a"))
}

// Who was never admitted to a binned page is not led on by its addresses (rules 3.5).
func TestABinnedPageLeadsOnOnlyWhomItAdmitted(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Handbook | audience=staff short_addresses=/hb\n  Contact")
	s = edit.Settle(site.NewBuilder(testkit.Settings()).Site(), s, testkit.Now.Add(-time.Hour))
	handbook, contact := testkit.Find(t, s, "Handbook"), testkit.Find(t, s, "Contact")
	binned, _, err := edit.Apply(s, edit.OpBin{Page: handbook}, testkit.Now)
	require.NoError(t, err)
	binned = edit.Settle(s, binned, testkit.Now)
	led, _, err := edit.Apply(binned, edit.OpEdit{Page: handbook, Fields: []edit.FieldChange{
		{Field: edit.FieldLeadsTo, New: strconv.FormatInt(int64(contact), 10)},
	}}, testkit.Now)
	require.NoError(t, err)
	for _, path := range []string{"/handbook", "/hb"} {
		assert.Equal(t, http.StatusGone, render(t, binned, staff, path, "").Status, path)
		assert.Equal(t, http.StatusNotFound, render(t, binned, reach.Lens{At: testkit.Now}, path, "").Status, path)
		assert.Equal(t, "/contact", render(t, led, staff, path, "").Location, path)
		assert.Equal(t, http.StatusNotFound, render(t, led, reach.Lens{At: testkit.Now}, path, "").Status, path)
	}
}
