package sheet_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/formats/sheet"
)

// harbours is a site with a type of page that has details of several sorts.
func harbours(t *testing.T) *site.Site {
	b := site.NewBuilder(testkit.Settings())
	b.SetRoles(testkit.Roles())
	b.SetKinds([]site.Kind{{Key: "page", Name: "Page"}, {Key: "harbour", Name: "Harbour"}})
	b.SetDetails([]site.Detail{
		{Key: "harbour.depth", Label: "Depth", Type: site.DetailNumber},
		{Key: "harbour.services", Label: "Services", Type: site.DetailChoices, Choices: "Fuel\nWater"},
		{Key: "harbour.office", Label: "Office", Type: site.DetailPage},
		{Key: "harbour.story", Label: "Story", Type: site.DetailRich},
	})
	return read(t, b.Site(), `key,parent_key,label,kind,harbour.depth,harbour.services,harbour.office
home,,Home,,,,
north,home,North pier,harbour,3.5,"Fuel
Water",office
office,home,Pier office,,,,
`)
}

// Details are columns: what goes out comes in the same, on another site too, where pages have other numbers.
func TestDetailsAreColumns(t *testing.T) {
	s := harbours(t)
	pier := s.Page(testkit.Find(t, s, "North pier"))
	office := testkit.Find(t, s, "Pier office")
	assert.Equal(t, map[string]string{
		"harbour.depth": "3.5", "harbour.services": "Fuel\nWater", "harbour.office": fmt.Sprint("page:", office),
	}, pier.Values.All())
	assert.NotContains(t, sheet.Columns(s), "harbour.story", "texts have no place in a sheet")
	ops, err := sheet.Read(strings.NewReader(export(t, s)), s, testkit.Now, ids)
	require.NoError(t, err)
	assert.Empty(t, ops, "an export says what stands")
	cleared := read(t, s, "key,parent_key,harbour.depth,harbour.office\nnorth,home,,home\n")
	pier = cleared.Page(pier.ID)
	assert.Equal(t, []string{"", fmt.Sprint("page:", s.Home())},
		[]string{pier.Values.Get("harbour.depth"), pier.Values.Get("harbour.office")})
	binned, _, err := edit.Apply(s, edit.OpBin{Page: office}, testkit.Now)
	require.NoError(t, err)
	ops, err = sheet.Read(strings.NewReader(export(t, binned)), binned, testkit.Now, ids)
	require.NoError(t, err)
	assert.Empty(t, ops, "what points at a page in the bin stays unsaid")
}

func TestDetailsThatCanNotBeAreSaidWithTheirPlace(t *testing.T) {
	s := harbours(t)
	for row, says := range map[string]string{
		"north,home,deep,":  "line 2, column 12 (harbour.depth):",
		"office,home,3,":    "“office” is of the type “Page”, which has no such detail",
		"north,home,,south": "there is no page “south”, neither here nor on the site",
	} {
		_, err := sheet.Read(strings.NewReader("key,parent_key,harbour.depth,harbour.office\n"+row+"\n"), s, testkit.Now, ids)
		assert.ErrorContains(t, err, says, row)
	}
	_, err := sheet.Read(strings.NewReader("key,parent_key,harbour.mast\nhome,,\n"), s, testkit.Now, ids)
	assert.ErrorContains(t, err, "there is no column “harbour.mast”")
}
