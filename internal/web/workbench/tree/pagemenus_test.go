package tree

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/testkit"
	"vineladder/internal/web/workbench/desk/desktest"
)

func TestWhereAPageShowsInMenus(t *testing.T) {
	d := desktest.WithMenus(t)
	places, _ := pageMenus(d, testkit.Find(t, d.Site, "Winter"))
	var got []string
	for _, p := range places {
		got = append(got, p.Words+" ("+p.Way+")")
	}
	assert.Equal(
		t,
		[]string{
			"first in Header, level 2, in “Sailings” (follows the tree)",
			"first in Side menu, level 2, in “Sailings” (follows the tree)",
			"first in Tasks block, level 1 (own item)",
		},
		got,
	)
	places, _ = pageMenus(d, testkit.Find(t, d.Site, "Offline"))
	assert.Equal(t, "In “Tasks”, not shown. No: its page is not online", places[0].Words)
	_, not := pageMenus(d, testkit.Find(t, d.Site, "Handbook"))
	assert.Equal(t, "this visitor does not reach the page", not)

	gaps := menuGapsOf(d)
	assert.Equal(
		t,
		[]gapChoice{{"menu:2", "last in Tasks"}, {"after:11", "after Winter"}, {"into:11", "below Winter"}},
		gaps[1].Gaps[:3],
	)
	for _, choice := range gaps[1].Gaps {
		_, err := readGap(d.Site, choice.Key)
		assert.NoError(t, err, choice.Key)
	}
	for _, gone := range []string{"menu:99", "after:99", "into:99"} {
		_, err := readGap(d.Site, gone)
		assert.ErrorContains(t, err, "not there any more")
	}
}
