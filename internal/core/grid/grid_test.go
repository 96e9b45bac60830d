package grid_test

import (
	"maps"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/grid"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

var people = []grid.Option{{Value: "person:keeper", Words: "Runa Tveit"}}

// fitted gives pages types with details of every kind that a table has, dates, owners and values.
func fitted(t *rapid.T, s *site.Site) *site.Site {
	b := s.Builder()
	b.SetKinds([]site.Kind{
		{Key: "page", Name: "Page"}, {Key: "harbour", Name: "Harbour", DateName: "Surveyed"}, {Key: "note", Name: "Note"},
	})
	var details []site.Detail
	examples := map[site.DetailType]string{
		site.DetailLine: "60°12′ N", site.DetailText: "One\nTwo", site.DetailNumber: "4.5", site.DetailYes: "yes",
		site.DetailDate: "2026-03-04", site.DetailDates: "2026-03-04/2026-04-05", site.DetailMoment: "2026-03-04T09:30:00Z",
		site.DetailChoice: "Fuel", site.DetailChoices: "Fuel\nWater", site.DetailPage: "page:1",
		site.DetailWeb: "https://tides.example/", site.DetailMail: "a@tides.example", site.DetailPhone: "960 101",
		site.DetailFile: "chart.pdf",
	}
	for i, of := range slices.Sorted(maps.Keys(examples)) {
		details = append(details, site.Detail{
			Key: "harbour." + string(of), Label: "D " + string(of), Type: of, Rank: "a" + string(rune('A'+i)),
			Choices: "Fuel\nWater", Shows: site.DetailBoth,
		})
	}
	b.SetDetails(details)
	s = b.Site()
	s.Walk(s.Home(), func(p *site.Page) bool {
		if p.Gathers() {
			return true
		}
		op := edit.OpEdit{Page: p.ID, Fields: []edit.FieldChange{
			{Field: edit.FieldKind, Old: p.Kind, New: rapid.SampledFrom([]string{"page", "harbour"}).Draw(t, "kind")},
			{Field: edit.FieldOwner, New: rapid.SampledFrom([]string{"", "role:staff", "person:keeper", "person:gone"}).
				Draw(t, "owner")},
			{Field: edit.FieldReview, New: rapid.SampledFrom([]string{"", "12", "never"}).Draw(t, "review")},
			{Field: edit.FieldDate, New: rapid.SampledFrom([]string{"", "2026-03-04"}).Draw(t, "date")},
		}}
		if op.Fields[0].New == "harbour" {
			for _, d := range details {
				if rapid.Bool().Draw(t, d.Key) {
					change := edit.FieldChange{Field: edit.DetailField(d.Key), New: examples[d.Type]}
					op.Fields = append(op.Fields, change)
				}
			}
		}
		made, _, err := edit.Apply(s, op, testkit.Now)
		require.NoError(t, err)
		s = made
		return true
	})
	return s
}

func random(t *rapid.T) *site.Site {
	s := fitted(t, testkit.RandomTopics(t, testkit.Random(t, 8), 3))
	b := s.Builder()
	settings := s.Settings()
	settings.Dates = rapid.SampledFrom([]site.DateOrder{
		site.DatesDayMonth, site.DatesMonthDay, site.DatesYearMonth,
	}).Draw(t, "dates")
	b.SetSettings(settings)
	return b.Site()
}

func all(s *site.Site) (pages []*site.Page) {
	s.Walk(s.Home(), func(p *site.Page) bool { pages = append(pages, p); return true })
	return pages
}

// texts has what stands in every cell of a table.
func texts(s *site.Site) map[grid.Cell]string {
	table, made := grid.Of(s, testkit.Now, people), map[grid.Cell]string{}
	for _, p := range all(s) {
		for i := range table.Columns {
			c := &table.Columns[i]
			made[grid.Cell{Page: p.ID, Column: c.Key}] = table.Text(p, c)
		}
	}
	return made
}

// What a cell shows is what it reads: where any cell that can be typed into is filled with what another shows, the
// page has it afterwards, and nothing else in the table is another.
func TestWhatIsCopiedIntoCellsIsWhatTheyShowAfterwards(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := random(t)
		table := grid.Of(s, testkit.Now, people)
		pages := all(s)
		from := rapid.SampledFrom(pages).Draw(t, "from")
		to := rapid.SampledFrom(pages).Draw(t, "to")
		c := &table.Columns[rapid.IntRange(0, len(table.Columns)-1).Draw(t, "column")]
		cell := grid.Cell{Page: to.ID, Column: c.Key, Was: table.Text(to, c), Text: table.Text(from, c)}
		plan := table.Plan([]grid.Cell{cell})
		if len(plan.Faults) > 0 {
			return // most are closed to it; what is wrong is asked below
		}
		next, _, err := edit.ApplyAll(s, plan.Ops, testkit.Now)
		if err != nil {
			require.NotEmpty(t, grid.Refused(s, plan.Ops, testkit.Now), err)
			return
		}
		if c.Key == string(edit.FieldSegment) && cell.Text == "" {
			return // that leaves it to the label
		}
		was, is := texts(s), texts(next)
		require.Equal(t, cell.Text, is[grid.Cell{Page: to.ID, Column: c.Key}], c.Key)
		for at := range is {
			follows := at.Column == string(edit.FieldSegment) || at.Column == grid.Position ||
				at.Column == string(edit.FieldTopics) && c.Key == string(edit.FieldLabel)
			if !(at.Page == to.ID && at.Column == c.Key) && !follows {
				require.Equal(t, was[at], is[at], "%v after %v", at, cell)
			}
		}
	})
}

// What stands in a cell is no edit, however it is written: as the table has it, with blanks around it, in capitals.
func TestWhatStandsAlreadyIsNoEdit(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := random(t)
		table := grid.Of(s, testkit.Now, people)
		p := rapid.SampledFrom(all(s)).Draw(t, "page")
		c := &table.Columns[rapid.IntRange(0, len(table.Columns)-1).Draw(t, "column")]
		stands := table.Text(p, c)
		said := []string{stands, " " + stands + " "}
		if c.Options != nil && !strings.HasPrefix(stands, "person:") {
			said = append(said, strings.ToUpper(stands))
		}
		text := rapid.SampledFrom(said).Draw(t, "as")
		plan := table.Plan([]grid.Cell{{Page: p.ID, Column: c.Key, Was: stands, Text: text}})
		if table.Closed(p, c) == "" {
			require.Empty(t, plan.Faults, c.Key)
		}
		require.Empty(t, plan.Ops, "%s %q", c.Key, text)
	})
}

// Pages come to stand at the positions that are typed for them, the others keep their order, and no more move than
// must.
func TestPagesStandWhereTheTableSays(tb *testing.T) {
	rapid.Check(tb, func(t *rapid.T) {
		n := rapid.IntRange(2, 9).Draw(t, "children")
		s := testkit.Outline(tb, "Home\n"+strings.Repeat("  Page\n", n))
		table := grid.Of(s, testkit.Now, nil)
		kids := s.Children(1)
		at := rapid.Permutation(kids).Draw(t, "positions")
		typed := map[site.PageID]int{}
		var cells []grid.Cell
		for i := range rapid.IntRange(1, n).Draw(t, "typed") {
			index, _ := s.Index(at[i])
			to := rapid.IntRange(1, n).Draw(t, "to")
			if slices.Contains(slices.Collect(maps.Values(typed)), to) {
				continue
			}
			typed[at[i]] = to
			cells = append(cells, grid.Cell{
				Page: at[i], Column: grid.Position, Was: strconv.Itoa(index + 1), Text: strconv.Itoa(to),
			})
		}
		plan := table.Plan(cells)
		require.Empty(t, plan.Faults)
		next, _, err := edit.ApplyAll(s, plan.Ops, testkit.Now)
		require.NoError(t, err)
		var rest, left []site.PageID
		for i, id := range next.Children(1) {
			if to, is := typed[id]; is && cellDiffers(s, id, to) {
				require.Equal(t, to, i+1)
			}
		}
		moves := func(id site.PageID) bool { to, is := typed[id]; return is && cellDiffers(s, id, to) }
		for i := range kids {
			if !moves(kids[i]) {
				rest = append(rest, kids[i])
			}
			if now := next.Children(1)[i]; !moves(now) {
				left = append(left, now)
			}
		}
		require.Equal(t, rest, left)
		require.LessOrEqual(t, len(plan.Ops), n-1)
	})
}

// cellDiffers says whether a typed position is another one: what stands in the cell already says nothing.
func cellDiffers(s *site.Site, id site.PageID, to int) bool {
	at, _ := s.Index(id)
	return at+1 != to
}

const outline = `
Home
  Harbours
    North pier
    Stone quay
    Old basin | status=offline
  Sailings | sort=label
    Winter
    Fares
  Rates | pin=end
  Places | kind=topic-list
    North | kind=topic
    Isles | kind=topic
      North | kind=topic
  Ships | kind=topic-list
    Ferry | kind=topic`

func marina(t *testing.T) *site.Site {
	b := testkit.Outline(t, outline).Builder()
	settings := b.Peek().Settings()
	settings.Dates = site.DatesDayMonth
	b.SetSettings(settings)
	return b.Site()
}

// said gives what is wrong with cells, told as page, column and text.
func said(t *testing.T, s *site.Site, cells ...[3]string) (*grid.Plan, []string) {
	table := grid.Of(s, testkit.Now, people)
	var typed []grid.Cell
	for _, c := range cells {
		p, column := s.Page(testkit.Find(t, s, c[0])), table.Column(c[1])
		require.NotNil(t, column, c[1])
		typed = append(typed, grid.Cell{Page: p.ID, Column: c[1], Was: table.Text(p, column), Text: c[2]})
	}
	plan := table.Plan(typed)
	faults := plan.Faults
	if len(faults) == 0 {
		faults = grid.Refused(s, plan.Ops, testkit.Now)
	}
	var sentences []string
	for _, f := range faults {
		sentences = append(sentences, s.Page(f.Page).Label+": "+f.Sentence)
	}
	return plan, sentences
}

// What can't be meant is refused at its cell, in words that say what can be typed; nothing of it is done.
func TestWhatCannotBeMeantIsRefusedAtItsCell(t *testing.T) {
	s := marina(t)
	for _, c := range []struct {
		cells [][3]string
		want  string
	}{
		{[][3]string{{"Stone quay", "label", ""}}, "Stone quay: A page needs a label"},
		{[][3]string{{"Stone quay", "summary", strings.Repeat("x", 1001)}}, "can have 1000 characters at most"},
		{[][3]string{{"Stone quay", "segment", "Stone Quay"}}, "try “stone-quay”"},
		{[][3]string{{"Stone quay", "segment", "north-pier"}}, "Stone quay: “North pier” already has the address"},
		{[][3]string{{"Stone quay", "status", "perhaps"}}, "“perhaps” is no choice here: “live”, “offline”."},
		{[][3]string{{"Stone quay", "audience", "Staff; everyone"}}, "Only roles can stand side by side"},
		{[][3]string{{"Stone quay", "audience", "Crew of the moon"}}, "is no choice here"},
		{[][3]string{{"Stone quay", "topics", "Ferry; Whale"}}, "There is no topic “Whale”"},
		{[][3]string{{"Stone quay", "topics", "North"}}, "Several topics are called “North”"},
		{[][3]string{{"Stone quay", "owner", "Nobody Known"}}, "is no choice here"},
		{[][3]string{{"Stone quay", "position", "4"}}, "“4” is no position for it: there are 1 to 3."},
		{[][3]string{{"Rates", "position", "1"}}, "It is pinned at an end of the order."},
		{[][3]string{{"Winter", "position", "1"}}, "The pages in “Sailings” stand by a rule."},
		{
			[][3]string{{"Stone quay", "position", "1"}, {"Old basin", "position", "1"}},
			"Old basin: “Stone quay” is to stand there as well.",
		},
		{[][3]string{{"Home", "status", "offline"}}, "The home page is always live"},
		{[][3]string{{"Stone quay", "date", "24.11.2026"}}, "has no date"},
		{[][3]string{{"North", "kind", "page"}}, "What it is stays as it was made."},
		{
			[][3]string{{"Stone quay", "live_from", "2.1.2027"}, {"Stone quay", "live_until", "1.1.2027"}},
			"It would end before it begins.",
		},
		{[][3]string{{"Stone quay", "live_from", "31.2.2027"}}, "February 2027 has no day 31"},
	} {
		_, sentences := said(t, s, c.cells...)
		require.Len(t, sentences, 1, c.want)
		assert.Contains(t, sentences[0], c.want)
	}
}

// Every cell that is wrong is told, not only the first: two addresses that clash, and what only the rules forbid.
func TestAllThatIsWrongIsTold(t *testing.T) {
	s := marina(t)
	_, sentences := said(t, s,
		[3]string{"Stone quay", "segment", "north-pier"}, [3]string{"Fares", "segment", "winter"},
		[3]string{"Old basin", "label", "Basin"})
	assert.Len(t, sentences, 2, "the third is all right")
	_, sentences = said(t, s,
		[3]string{"Stone quay", "status", "x"}, [3]string{"Stone quay", "listed", "y"}, [3]string{"Fares", "label", ""})
	assert.Len(t, sentences, 3)
	// Two pages can exchange their addresses, since a step is looked at when all is done.
	plan, sentences := said(t, s,
		[3]string{"Stone quay", "segment", "north-pier"}, [3]string{"North pier", "segment", "stone-quay"})
	assert.Empty(t, sentences)
	assert.Equal(t, 2, plan.Cells)
}

// Labels that clash are no fault: visitors can tell the pages apart by where they stand. It is said.
func TestLabelsThatClashAreRemarked(t *testing.T) {
	s := marina(t)
	plan, sentences := said(t, s,
		[3]string{"Stone quay", "label", "north  PIER"}, [3]string{"Fares", "label", "Stone quay"})
	assert.Empty(t, sentences)
	require.Len(t, plan.Remarks, 1)
	assert.Equal(t, "Another page in “Harbours” would have this label as well.", plan.Remarks[0].Sentence)
	plan, _ = said(t, s, [3]string{"Stone quay", "label", "North pier"}, [3]string{"North pier", "label", "Stone quay"})
	assert.Empty(t, plan.Remarks, "they exchange them")
}

// What somebody else changed while it was typed is not written over.
func TestWhatSomebodyChangedMeanwhileIsTold(t *testing.T) {
	s := marina(t)
	quay := testkit.Find(t, s, "Stone quay")
	plan := grid.Of(s, testkit.Now, nil).Plan([]grid.Cell{
		{Page: quay, Column: "label", Was: "Stony quay", Text: "Long quay"},
		{Page: 99, Column: "label", Was: "Gone", Text: "Back"},
	})
	require.Len(t, plan.Faults, 2)
	assert.Equal(t, "Somebody changed this meanwhile: it is “Stone quay” now.", plan.Faults[0].Sentence)
	assert.Equal(t, "This page is not there any more.", plan.Faults[1].Sentence)
	assert.Empty(t, plan.Ops)
}

// A page's type and what hangs on it are typed side by side.
func TestTheTypeComesBeforeItsDetails(t *testing.T) {
	s := marina(t)
	b := s.Builder()
	b.SetKinds([]site.Kind{{Key: "page", Name: "Page"}, {Key: "harbour", Name: "Harbour", DateName: "Surveyed"}})
	b.SetDetails([]site.Detail{{Key: "harbour.depth", Label: "Depth", Type: site.DetailNumber}})
	s = b.Site()
	plan, sentences := said(t, s,
		[3]string{"Stone quay", "harbour.depth", "4,5"}, [3]string{"Stone quay", "kind", "harbour"},
		[3]string{"Stone quay", "date", "4 March 2026"})
	require.Empty(t, sentences)
	next, _, err := edit.ApplyAll(s, plan.Ops, testkit.Now)
	require.NoError(t, err)
	quay := next.Page(testkit.Find(t, s, "Stone quay"))
	assert.Equal(t, "4.5", quay.Values.Get("harbour.depth"))
	assert.Equal(t, "2026-03-04", quay.Date)
	_, sentences = said(t, s, [3]string{"Stone quay", "harbour.depth", "4,5"})
	assert.Equal(t, []string{"Stone quay: Only pages of the type “Harbour” have it."}, sentences)
}

// Days of another order are never read as other days: one that only the other order can mean makes those beside it
// doubtful. Common practice, no source.
func TestDaysOfAnotherOrderAreDoubted(t *testing.T) {
	s := marina(t)
	_, sentences := said(t, s,
		[3]string{"North pier", "live_from", "03/04/2027"}, [3]string{"Stone quay", "live_from", "03/25/2027"},
		[3]string{"Old basin", "live_from", "2027-04-03"}, [3]string{"Rates", "live_from", "05/05/2027"})
	assert.Equal(t, []string{
		"North pier: “03/04/2027” can be 3 April 2027 or 4 March 2027: other days in this column have day and month the " +
			"other way round.",
		"Stone quay: “03/25/2027” has day and month the other way round; this site writes 25.03.2027.",
	}, sentences)
	plan, sentences := said(t, s, [3]string{"North pier", "live_from", "03/04/2027"})
	assert.Empty(t, sentences, "alone it is meant as the site writes days")
	assert.Equal(t, 1, plan.Cells)
	turned := grid.Of(s, testkit.Now, nil).Turned([]grid.Cell{
		{Column: "live_from", Text: "03/04/2027"},
		{Column: "live_from", Text: "03/25/2027 14:30"},
		{Column: "live_from", Text: "soon"},
		{Column: "label", Text: "03/04/2027"},
	})
	var written []string
	for _, c := range turned {
		written = append(written, c.Text)
	}
	assert.Equal(t, []string{"04.03.2027", "25.03.2027 14:30", "soon", "03/04/2027"}, written)
}

// Topics are named as people name them, with their list where two have one name.
func TestTopicsAreNamed(t *testing.T) {
	s := marina(t)
	plan, sentences := said(t, s, [3]string{"Stone quay", "topics", "ferry;Places › Isles"})
	require.Empty(t, sentences)
	next, _, err := edit.ApplyAll(s, plan.Ops, testkit.Now)
	require.NoError(t, err)
	quay := next.Page(testkit.Find(t, s, "Stone quay"))
	table := grid.Of(next, testkit.Now, nil)
	assert.Equal(t, "Isles; Ferry", table.Text(quay, table.Column("topics")))
	assert.Equal(t, []string{"Places › North", "Isles", "Places › Isles › North", "Ferry"}, table.TopicNames())
}
