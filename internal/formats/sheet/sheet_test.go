package sheet_test

import (
	"bytes"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/formats/sheet"
)

func ids(n int) ([]site.PageID, error) {
	made := make([]site.PageID, n)
	for i := range made {
		made[i] = site.PageID(1000 + i)
	}
	return made, nil
}

func read(t require.TestingT, s *site.Site, text string) *site.Site {
	ops, err := sheet.Read(strings.NewReader(text), s, testkit.Now, ids)
	require.NoError(t, err)
	next, _, err := edit.ApplyAll(s, ops, testkit.Now)
	require.NoError(t, err)
	return next
}

func export(t require.TestingT, s *site.Site) string {
	var out bytes.Buffer
	require.NoError(t, sheet.Write(&out, s, testkit.Now))
	return out.String()
}

func TestImportOfAnExportChangesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 25)
		next := site.PageID(500)
		for range 5 {
			if made, _, err := edit.Apply(s, testkit.RandomOp(t, s, &next), testkit.Now); err == nil {
				s = made
			}
		}
		ops, err := sheet.Read(strings.NewReader(export(t, s)), s, testkit.Now, ids)
		require.NoError(t, err)
		require.Empty(t, ops)
	})
}

func TestASheetOfOneSiteMakesAnother(t *testing.T) {
	s := testkit.Outline(
		t,
		"Home\n  Sailings | audience=staff\n    Winter | live_from=2026-12-01T00:00:00Z status=offline\n  “Quoted”, with "+
			"comma\n  Fares | listed=no segment=prices own_address=/f",
	)
	b := site.NewBuilder(testkit.Settings())
	b.SetRoles(testkit.Roles())
	text := export(t, s)
	assert.Contains(t, text, "\r\n", "RFC 4180: lines end in CRLF")
	assert.Equal(t, text, export(t, read(t, b.Site(), text)))
	assert.Equal(
		t,
		text,
		export(t, read(t, b.Site(), "\ufeff"+strings.ReplaceAll(text, "\r\n", "\n"))),
		"LF and a BOM are taken",
	)
}

func TestASegmentThatStaysIsWrittenAndChangesNothing(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Fares")
	assert.Contains(t, export(t, s), "p2,p1,1,Fares,,,,live")
	online := edit.Settle(testkit.Outline(t, "Home"), s, testkit.Now)
	assert.Contains(t, export(t, online), "p2,p1,1,Fares,,fares,,live", "it has been online, so it stays")
	ops, err := sheet.Read(strings.NewReader(export(t, online)), online, testkit.Now, ids)
	require.NoError(t, err)
	assert.Empty(t, ops)
}

func TestASheetArrangesWhatIsThere(t *testing.T) {
	s := testkit.Outline(t, "Home\n  A\n    A1\n  B\n  C")
	s = read(t, s, "key,parent_key,position,label\np5,p1,1,C\np3,p5,,A one\nnew,p1,2,New\n")
	var labels []string
	for _, id := range s.Children(1) {
		labels = append(labels, s.Page(id).Label)
	}
	assert.Equal(t, []string{"C", "New", "A", "B"}, labels)
	assert.Equal(t, "A one", s.Page(s.Children(5)[0]).Label)
	// The sheet may turn a branch round.
	s = testkit.Outline(t, "Home\n  A\n    B\n      C")
	s = read(t, s, "key,parent_key\np4,p1\np2,p3\np3,p4\n")
	assert.Equal(t, []site.PageID{4}, s.Children(1))
	assert.Equal(t, []site.PageID{2}, s.Children(3))
}

func TestABadSheetIsRefusedWholeWithLineAndColumn(t *testing.T) {
	s := testkit.Outline(t, "Home\n  A\n    A1\n  B | segment=typed")
	b := s.Builder()
	page := *s.Page(2)
	page.Sort = site.SortLabel
	b.Put(&page)
	s = b.Site()
	for text, want := range map[string]string{
		"":                                     "line 1, column 1: the file is empty",
		"key,parent_key,colour\n":              "line 1, column 16 (colour): there is no column “colour”",
		"key,key\n":                            "line 1, column 5 (key): the column “key” stands twice",
		"key,label\n":                          "line 1, column 1: the column “parent_key” is missing",
		"key,parent_key,label\nx,nowhere,X\n":  "line 2, column 3 (parent_key): there is no page “nowhere”",
		"key,parent_key,label\nx,y,X\ny,x,Y\n": "line 2, column 3 (parent_key): “x” would lie inside itself",
		"key,parent_key\np2,p3\n":              "line 2, column 4 (parent_key): “p2” would lie inside itself",
		"key,parent_key,label,segment\nx,p1,X,same\ny,p1,Y,same\n": "line 3, column 8 (segment): “x” and “y” would both " +
			"be “same”",
		"key,parent_key,label,segment\nx,p1,X,typed\n": "line 2, column 8 (segment): “p4” and “x” would both " +
			"be “typed”",
		"key,parent_key,label,live_from\nx,p1,X,1 March\n": "line 2, column 8 (live_from): “1 March” is not a date",
		"key,parent_key,label,audience\nx,p1,X,pirates\n":  "line 2, column 8 (audience): There is no role “pirates”",
		"key,parent_key,label,status\nx,p1,X,up\n": "line 2, column 8 (status): “up” is not one of live, " +
			"offline",
		"key,parent_key,label,position\nx,p1,X,0\n": "line 2, column 8 (position): “0” is not a position",
		"key,parent_key,label,position\nx,p2,X,1\n": "line 2, column 8 (position): the pages in “p2” stand " +
			"by a rule",
		"key,parent_key,label,topics\nx,p1,X,places\n": "line 2, column 8 (topics): there is no topic “places”",
		"key,parent_key,label,topics\nx,p1,X,p1\n":     "line 2, column 8 (topics): “p1” is no topic",
		"key,parent_key,label\nx,p1,\xff\n":            "line 2, column 6 (label): the text is not UTF-8",
		"key,parent_key,label\nx,p1\n":                 "line 2, column 3: the line has 2 cells",
		"key,parent_key,label\nx,p1,\"cut":             "a quote is not closed",
		"key,parent_key,label\nx,p1,\n":                "line 2, column 6 (label): a page needs a label",
		"key,parent_key\nx,p1\n": "line 2, column 1 (key): “x” is a new page and needs " +
			"a label",
		"key,parent_key,label\nx,p1,X\nx,p1,Y\n": "line 3, column 1 (key): the key “x” stands in line 2 " +
			"already",
		"key,parent_key,label\nx,,X\n": "line 2, column 3 (parent_key): only the home page " +
			"has no parent",
		"key,parent_key\np1,p2\n": "line 2, column 4 (parent_key): the home page stays",
	} {
		ops, err := sheet.Read(strings.NewReader(text), s, testkit.Now, ids)
		assert.ErrorContains(t, err, want, text)
		assert.Empty(t, ops)
	}
}

// Source: RFC 4180 §2, rules 5 to 7 and their examples, with our columns in place of theirs; from memory.
func TestQuotingOfRFC4180(t *testing.T) {
	s := testkit.Outline(t, "Home")
	s = read(t, s, "key,parent_key,label,summary\r\na,p1,\"aaa\",\"b \"\"bb\"\", c\"\r\nb,p1,zzz,\"b\r\nbb\"")
	assert.Equal(t, `b "bb", c`, s.Page(1000).Summary)
	assert.Equal(t, "b bb", s.Page(1001).Summary, "a summary is one line")
	assert.Contains(t, export(t, s), `"b ""bb"", c"`)
}

func TestDatesMeanTheWholeDayInTheSitesZone(t *testing.T) {
	s := testkit.Outline(t, "Home")
	s = read(t, s, "key,parent_key,label,live_from,live_until\nx,p1,X,2026-12-01,2026-12-02\n")
	assert.Equal(
		t,
		"2026-12-01 00:00 2026-12-03 00:00",
		fmt.Sprint(
			s.Page(1000).LiveFrom.Format("2006-01-02 15:04"),
			" ",
			s.Page(1000).LiveUntil.Format("2006-01-02 15:04"),
		),
	)
}

func FuzzReadNeverPanics(f *testing.F) {
	f.Add("key,parent_key,position,label\np2,p1,1,x\nq,p2,,\"y\"\n")
	f.Fuzz(func(t *testing.T, text string) {
		s := testkit.Outline(t, "Home\n  A\n  B")
		ops, err := sheet.Read(strings.NewReader(text), s, testkit.Now, ids)
		if err == nil {
			_, _, _ = edit.ApplyAll(s, ops, testkit.Now)
		}
	})
}

// What spreadsheets save instead of CSV is recognised and said, and so are values that no page can have.
func TestWhatSpreadsheetsSaveInsteadIsSaid(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Fares")
	for says, file := range map[string]string{
		"saved as UTF-16":                      "\xff\xfek\x00e\x00y\x00",
		"parted by semicolons":                 "key;parent_key;label\nx;p1;X\n",
		"parted by tabs":                       "key\tparent_key\tlabel\n",
		"no workbook":                          "PK\x03\x04rest",
		"line 2, column 1: a quote that opens": "key,parent_key,label\nx,p1,\"X\ny,p1,Y\nz,p1,Z\n",
		"a key can have 100 characters":        "key,parent_key,label\n" + strings.Repeat("k", 101) + ",p1,X\n",
		"would end before it begins": "key,parent_key,label,live_from,live_until\n" +
			"x,p1,X,2027-03-01,2027-02-01\n",
		"line 2, column 6 (label): A label can't hold":   "key,parent_key,label\nx,p1,Fares\u202egpj\n",
		"(segment): The last part of an address can":     "key,parent_key,label,segment\nx,p1,X,Öl & Gas\n",
		"(own_address): A fixed address can't be that":   "key,parent_key,label,own_address\nx,p1,X,/Fares x\n",
		"(short_addresses): A short address can't":       "key,parent_key,label,short_addresses\nx,p1,X,/Ok /Not ok\n",
		"(layout): The theme has no layout":              "key,parent_key,label,layout\nx,p1,X,round\n",
		"(label): A label can have 200 characters":       "key,parent_key,label\nx,p1," + strings.Repeat("l", 201) + "\n",
		"(date): “soon” is not a date; write it as 2026": "key,parent_key,label,date\nx,p1,X,soon\n",
	} {
		_, err := sheet.Read(
			strings.NewReader(file),
			s,
			testkit.Now,
			func(n int) ([]site.PageID, error) { return make([]site.PageID, n), nil },
		)
		assert.ErrorContains(t, err, says)
	}
}

// The home page may leave empty what it can't change.
func TestTheLineThatGoesTooDeepIsNamed(t *testing.T) {
	text := "key,parent_key,label\np1,,Home\n"
	for i := 2; i <= edit.LevelsLimit+4; i++ {
		text += fmt.Sprintf("p%d,p%d,Page\n", i, i-1)
	}
	_, err := sheet.Read(strings.NewReader(text), testkit.Outline(t, "Home"), testkit.Now, ids)
	require.ErrorContains(
		t,
		err,
		"line 63, column 5 (parent_key): “p62” would stand 61 levels deep; a tree has at most 60 levels",
	)
	assert.NotContains(t, err.Error(), "\n", "what lies below it is not told again")
}

func TestAnEmptyStatusOfTheHomePageIsNoEdit(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Fares")
	ops, err := sheet.Read(strings.NewReader("key,parent_key,label,status,listed\np1,,Home,,\n"), s, testkit.Now, nil0)
	require.NoError(t, err)
	assert.Empty(t, ops)
}

func nil0(n int) ([]site.PageID, error) { return make([]site.PageID, n), nil }

// Whatever is exported can be imported, and is the same again.
func TestEveryExportImportsIntoAnEmptySiteAndExportsTheSame(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 20)
		next := site.PageID(500)
		for range 8 {
			if made, _, err := edit.Apply(s, testkit.RandomOp(t, s, &next), testkit.Now); err == nil {
				s = made
			}
		}
		newest := false // what was online first is settled with a publication, and such an order hangs on it
		s.Walk(s.Home(), func(p *site.Page) bool {
			newest = newest || p.Sort == site.SortNewest
			return true
		})
		published := func(s *site.Site) *site.Site { return edit.Settle(testkit.Empty(), s, testkit.Now) }
		if rapid.Bool().Draw(t, "published") || newest {
			s = published(s)
		}
		text := export(t, s)
		again := read(t, testkit.Empty(), text)
		if newest {
			again = published(again)
		}
		require.Equal(t, text, export(t, again))
	})
}

// A sheet is one change: it is refused where its pages would have one address in the end, and never by the order of its
// rows.
func TestASheetIsRefusedExactlyForWhatItMakesInTheEnd(t *testing.T) {
	taken, refused := 0, 0
	rapid.Check(t, func(t *rapid.T) {
		s := edit.Settle(testkit.Empty(), testkit.Random(t, 9), testkit.Now)
		names := []string{"a", "b", "c", "d"}
		type spot struct{ parent, segment string }
		spots, lines := map[spot]bool{}, []string(nil)
		clash := false
		s.Walk(s.Home(), func(p *site.Page) bool {
			at := spot{segment: p.Segment}
			if above := s.Page(p.Parent); above != nil {
				at.parent = above.Key
				at.segment = rapid.SampledFrom(names).Draw(t, "segment")
			}
			clash = clash || spots[at]
			spots[at] = true
			lines = append(lines, strings.Join([]string{p.Key, at.parent, at.segment}, ","))
			return true
		})
		lines = rapid.Permutation(lines).Draw(t, "rows")
		ops, err := sheet.Read(
			strings.NewReader("key,parent_key,segment\n"+strings.Join(lines, "\n")+"\n"),
			s,
			testkit.Now,
			ids,
		)
		if clash {
			refused++
			require.Error(t, err)
			return
		}
		taken++
		require.NoError(t, err)
		_, _, err = edit.ApplyAll(s, ops, testkit.Now)
		require.NoError(t, err)
	})
	assert.Positive(t, taken)
	assert.Positive(t, refused)
}

// Cells that a spreadsheet would run are guarded (CSV injection, OWASP, from memory), and come back as they were.
func TestNoCellIsAFormula(t *testing.T) {
	s := testkit.Outline(t, "Home")
	for i, label := range []string{"=1+2", "+44 20", "-5", "@home", "'tis", "'=x", "''x", "'", "a=b"} {
		var err error
		s, _, err = edit.Apply(
			s,
			edit.OpMake{
				Page:  site.PageID(50 + i),
				Place: edit.Place{Parent: 1},
				Fields: []edit.FieldChange{
					{Field: edit.FieldLabel, New: label},
					{Field: edit.FieldSummary, New: label},
				},
			},
			testkit.Now,
		)
		require.NoError(t, err)
	}
	text := export(t, s)
	for _, line := range strings.Split(text, "\r\n") {
		for _, cell := range strings.Split(line, ",") {
			assert.False(t, cell != "" && strings.ContainsRune("=+-@", rune(cell[0])), cell)
		}
	}
	again := read(t, testkit.Empty(), text)
	var labels []string
	for _, id := range again.Children(again.Home()) {
		labels = append(labels, again.Page(id).Label+again.Page(id).Summary)
	}
	assert.Equal(
		t,
		[]string{"=1+2=1+2", "+44 20+44 20", "-5-5", "@home@home", "'tis'tis", "'=x'=x", "''x''x", "''", "a=ba=b"},
		labels,
	)
}

// An empty audience of a page that moves leaves who sees it as before; “inherit” has its new place say it.
func TestAudiencesOfPagesThatMove(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Handbook | audience=staff\n    Expenses\n  News")
	key := func(label string) string { return s.Page(testkit.Find(t, s, label)).Key }
	for cell, want := range map[string]site.Audience{
		"": "staff", "inherit": "", "signed-in": "signed-in",
		"everyone": "everyone",
	} {
		text := fmt.Sprintf("key,parent_key,label,audience\n%s,%s,Expenses,%s\n", key("Expenses"), key("News"), cell)
		ops, err := sheet.Read(strings.NewReader(text), s, testkit.Now, ids)
		require.NoError(t, err, cell)
		next, _, err := edit.ApplyAll(s, ops, testkit.Now)
		require.NoError(t, err, cell)
		p := next.Page(testkit.Find(t, s, "Expenses"))
		assert.Equal(t, testkit.Find(t, s, "News"), p.Parent)
		assert.Equal(t, want, p.Audience, "%q", cell)
	}
}

// What a page lists names others by their keys, so that a sheet of one site asks for the same on another, where the
// pages have other numbers; what can't be asked for is refused with its line.
func TestListingsGoFromSiteToSite(t *testing.T) {
	const pages = "  Places | kind=topic-list\n    Øyra | kind=topic\n  Notices\n    Ice | topics=page:3"
	from := testkit.Outline(t, "Home\n"+pages)
	from, _, err := edit.Apply(from, edit.OpEdit{Page: 4, Fields: []edit.FieldChange{
		{Field: edit.FieldListing, New: ";topic:3;branch:4;newest;5;table;date=today..;topic:2"},
	}}, testkit.Now)
	require.NoError(t, err)
	text := export(t, from)
	assert.Contains(t, text, ";topic:p3;branch:p4;newest;5;table;date=today..;topic:p2")
	to := read(t, testkit.Outline(t, "Home"), text)
	notices := to.Page(testkit.Find(t, to, "Notices"))
	want := fmt.Sprintf(
		";topic:%d;branch:%d;newest;5;table;date=today..;topic:%d",
		testkit.Find(t, to, "Øyra"), notices.ID, testkit.Find(t, to, "Places"),
	)
	assert.Equal(t, want, notices.Listing)
	assert.Equal(t, text, export(t, to))
	for cell, says := range map[string]string{
		";topic:gone;;label;5": "there is no page “gone”", ";;;label;99": "from 1 to 50 pages", "anything": "is no listing",
	} {
		_, err := sheet.Read(strings.NewReader("key,parent_key,label,listing\nx,p1,X,"+cell+"\n"), from, testkit.Now, ids)
		require.Error(t, err, cell)
		assert.Contains(t, err.Error(), "line 2")
		assert.Contains(t, err.Error(), says)
	}
}
