package edit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// topical has pages that bear topics, and a list in which a harbour stands in an island.
func topical(t testing.TB) *site.Site {
	return testkit.Outline(t, `
Home
  Places | kind=topic-list
    Øyra | kind=topic
      East pier | kind=topic
    The Calf | kind=topic
  Fares | topics=page:3|page:5
  Winter`)
}

func tag(page site.PageID, was, is string) edit.Op {
	return edit.OpEdit{Page: page, Fields: []edit.FieldChange{{Field: edit.FieldTopics, Old: was, New: is}}}
}

// Two who tag a page from what they both saw don't meet: what each adds is added, what each takes is taken.
func TestTwoTaggersOfAPageDontMeet(t *testing.T) {
	s := topical(t)
	both := edit.TopicsText(3, 5)
	for _, ops := range [][]edit.Op{
		{tag(6, both, edit.TopicsText(3, 4, 5)), tag(6, both, edit.TopicsText(5))},
		{tag(6, both, edit.TopicsText(5)), tag(6, both, edit.TopicsText(3, 4, 5))},
	} {
		made, _, err := edit.ApplyAll(s, ops, testkit.Now)
		require.NoError(t, err)
		assert.Equal(t, []site.PageID{4, 5}, made.Page(6).Topics)
		assert.Equal(t, []site.PageID{6}, made.Bearing(4))
		assert.Empty(t, made.Bearing(3))
	}
}

// Whatever sets are drawn: what stands afterwards is what stood, with what was added and without what was taken; and
// the inverse gives it back.
func TestASetTakesAChangeOver(t *testing.T) {
	s := topical(t)
	subset := rapid.SliceOfDistinct(rapid.SampledFrom([]site.PageID{3, 4, 5}), rapid.ID[site.PageID])
	rapid.Check(t, func(t *rapid.T) {
		stands, was, is := subset.Draw(t, "stands"), subset.Draw(t, "was"), subset.Draw(t, "is")
		before, _, err := edit.Apply(s, tag(7, "", edit.TopicsText(stands...)), testkit.Now)
		require.NoError(t, err)
		after, settled, err := edit.Apply(before, tag(7, edit.TopicsText(was...), edit.TopicsText(is...)), testkit.Now)
		require.NoError(t, err)
		for _, topic := range []site.PageID{3, 4, 5} {
			has := func(set []site.PageID) bool { return assert.ObjectsAreEqual(true, contains(set, topic)) }
			want := has(stands)
			if has(was) != has(is) {
				want = has(is)
			}
			assert.Equal(t, want, contains(after.Page(7).Topics, topic))
			assert.Equal(t, want, contains(after.Bearing(topic), 7))
		}
		back, _, err := edit.Apply(after, settled.Inverse(), testkit.Now)
		require.NoError(t, err)
		assert.Equal(t, before.Page(7).Topics, back.Page(7).Topics)
	})
}

func contains(set []site.PageID, id site.PageID) bool {
	for _, one := range set {
		if one == id {
			return true
		}
	}
	return false
}

// Topics stand in topic lists, and nothing else does, whatever operation would have it otherwise.
func TestTopicsStandInTheirLists(t *testing.T) {
	s := topical(t)
	made := func(kind string, parent site.PageID) edit.Op {
		return edit.OpMake{Page: 90, Place: edit.Place{Parent: parent}, Fields: []edit.FieldChange{
			{Field: edit.FieldLabel, New: "Made"}, {Field: edit.FieldKind, New: kind},
		}}
	}
	kind := func(page site.PageID, was, is string) edit.Op {
		return edit.OpEdit{Page: page, Fields: []edit.FieldChange{{Field: edit.FieldKind, Old: was, New: is}}}
	}
	label := func(field edit.Field, value string) edit.Op {
		return edit.OpEdit{Page: 3, Fields: []edit.FieldChange{{Field: field, New: value}}}
	}
	for name, c := range map[string]struct {
		op    edit.Op
		taken bool
	}{
		"a topic in a list":              {made("topic", 2), true},
		"a topic in a topic":             {made("topic", 3), true},
		"a topic in a page":              {made("topic", 1), false},
		"a page in a list":               {made("page", 2), false},
		"a page in a topic":              {made("page", 3), false},
		"a list in a list":               {made("topic-list", 2), false},
		"a list in a page":               {made("topic-list", 6), true},
		"a topic below another":          {edit.OpMove{Page: 5, To: edit.Place{Parent: 4}}, true},
		"a topic below its own narrower": {edit.OpMove{Page: 3, To: edit.Place{Parent: 4}}, false},
		"a topic out of its list":        {edit.OpMove{Page: 4, To: edit.Place{Parent: 6}}, false},
		"a page into a list":             {edit.OpMove{Page: 6, To: edit.Place{Parent: 2}}, false},
		"a list elsewhere":               {edit.OpMove{Page: 2, To: edit.Place{Parent: 6}}, true},
		"a topic that becomes a page":    {kind(5, "topic", "page"), false},
		"a page that becomes a list":     {kind(6, "page", "topic-list"), false},
		"the home page as a list":        {kind(1, "page", "topic-list"), false},
		"a topic that bears a topic":     {tag(3, "", edit.TopicsText(5)), false},
		"a page for a topic":             {tag(7, "", edit.TopicsText(6)), false},
		"a list for a topic":             {tag(7, "", edit.TopicsText(2)), false},
		"what is not there":              {tag(7, "", edit.TopicsText(99)), false},
		"another label":                  {label(edit.FieldOtherLabels, "The island"), true},
		"its own label again":            {label(edit.FieldOtherLabels, "Øyra"), false},
		"its own label as a hidden one":  {label(edit.FieldHiddenLabels, "Øyra"), false},
	} {
		next, _, err := edit.Apply(s, c.op, testkit.Now)
		assert.Equal(t, c.taken, err == nil, "%s: %v", name, err)
		if err != nil {
			assert.Same(t, s, next, name)
		}
	}
}

// Too many topics are refused in one sentence, and nothing is lost.
func TestAPageBearsSomeTopicsOnly(t *testing.T) {
	s := topical(t)
	many := make([]site.PageID, 10_000)
	for i := range many {
		many[i] = site.PageID(i + 100)
	}
	_, _, err := edit.Apply(s, tag(6, edit.TopicsText(3, 5), edit.TopicsText(many...)), testkit.Now)
	require.ErrorContains(t, err, "200 topics at most")
	assert.Equal(t, []site.PageID{3, 5}, s.Page(6).Topics)
}

// A topic in the bin counts nowhere, stays on its pages, and counts again when it comes back.
func TestATopicInTheBinStaysOnItsPages(t *testing.T) {
	s := topical(t)
	binned, settled, err := edit.Apply(s, edit.OpBin{Page: 3}, testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, []site.PageID{3, 5}, binned.Page(6).Topics)
	more, _, err := edit.Apply(binned, tag(6, edit.TopicsText(3, 5), edit.TopicsText(3)), testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, []site.PageID{3}, more.Page(6).Topics)
	back, _, err := edit.Apply(more, settled.Inverse(), testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, []site.PageID{6}, back.Bearing(3))
}

// Merging gives a topic all that another one has, for every page that bears it, without an edit of any; one step back
// parts them again.
func TestMergingOneTopicIntoAnother(t *testing.T) {
	s := topical(t)
	seven := tag(7, "", edit.TopicsText(5))
	s, _, err := edit.Apply(s, seven, testkit.Now)
	require.NoError(t, err)
	merged, settled, err := edit.ApplyAll(s, edit.Merge(s, 3, 5, 0), testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, s.Page(6), merged.Page(6), "no page is edited")
	assert.Equal(t, []site.PageID{5}, merged.TopicsOf(merged.Page(6)), "two that are one now count once")
	assert.Equal(t, []string{"Øyra"}, merged.Page(5).OtherLabels)
	assert.Equal(t, site.PageID(5), merged.Page(4).Parent, "what stood in it stands in the other")
	assert.Equal(t, []site.PageID{3}, merged.MergedInto(5))
	assert.Equal(t, site.PageID(5), merged.Page(3).LeadsTo)
	later, _, err := edit.Apply(merged, tag(7, edit.TopicsText(5), edit.TopicsText(3)), testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, []site.PageID{5}, later.TopicsOf(later.Page(7)), "who tags with what was merged tags with the other")

	back := merged
	for i := range settled {
		back, _, err = edit.Apply(back, settled[len(settled)-1-i].Inverse(), testkit.Now)
		require.NoError(t, err)
	}
	assert.Equal(t, []site.PageID{3, 5}, back.TopicsOf(back.Page(6)))
	assert.Equal(t, testkit.Dump(s), testkit.Dump(back))

	_, _, err = edit.ApplyAll(s, edit.Merge(s, 3, 4, 0), testkit.Now)
	require.Error(t, err, "into one that stands in it")
	_, _, err = edit.ApplyAll(s, edit.Merge(s, 3, 3, 0), testkit.Now)
	require.Error(t, err, "into itself")
}
