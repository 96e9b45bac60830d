package address_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// publish applies operations and settles them, as a publication at a moment does.
func publish(t require.TestingT, s *site.Site, at time.Time, ops ...edit.Op) *site.Site {
	next, _, err := edit.ApplyAll(s, ops, at)
	require.NoError(t, err)
	return edit.Settle(s, next, at)
}

// Every old address ever served is one hop from its page, however often things moved (rules 3.4); what nobody ever
// served leads nowhere. The model writes down at each publication what is online at which path until the next one.
func TestEveryAddressEverServedIsOneHopFromItsPage(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		empty := testkit.Random(t, 1)
		s := edit.Settle(site.NewBuilder(testkit.Settings()).Site(), empty, testkit.Now)
		next, now := site.PageID(100), testkit.Now
		last := map[string]site.PageID{}
		record := func(until time.Time) {
			s.Walk(s.Home(), func(p *site.Page) bool {
				from, end, ok := reach.OnlineFrom(s, p.ID)
				window, meets := site.Interval{From: from, Until: end}.Meet(site.Interval{From: now, Until: until})
				if ok && meets && !window.From.After(until.Add(-time.Second)) {
					last[address.Of(s, p.ID)] = p.ID
				}
				return true
			})
		}
		for range rapid.IntRange(1, 15).Draw(t, "publications") {
			for range rapid.IntRange(1, 4).Draw(t, "ops") {
				if made, _, err := edit.Apply(s, testkit.RandomOp(t, s, &next), now); err == nil {
					s = edit.Settle(s, made, now)
				}
			}
			record(now.Add(time.Hour))
			now = now.Add(time.Hour)
		}
		for path, page := range last {
			found := address.Resolve(s, path, now)
			switch {
			case found.Page == 0:
				t.Fatalf("%s led to %d and leads nowhere", path, page)
			case !found.Old && !found.Gone: // a page that stands there today has won it
				if at := address.Of(s, found.Page); at != path && !found.Short {
					t.Fatalf("%s leads to %d, which is at %s", path, found.Page, at)
				}
			case found.Page != page:
				t.Fatalf("%s was last that of %d and leads to %d", path, page, found.Page)
			case found.Gone == s.InTree(page):
				t.Fatalf("%s: gone is %v, in the tree %v", path, found.Gone, s.InTree(page))
			}
		}
		for _, path := range []string{"/nowhere", "/fares/nowhere", "/fixed/nowhere"} {
			if found := address.Resolve(s, path, now); found.Page != 0 && last[path] == 0 {
				t.Fatalf("%s leads to %d and nothing was ever there", path, found.Page)
			}
		}
		s.Walk(s.Home(), func(p *site.Page) bool {
			for _, lead := range address.Leads(s, p.ID, now) {
				if found := address.Resolve(s, lead.Address, now); found.Page != p.ID {
					t.Fatalf("%s is listed for %d and leads to %d", lead.Address, p.ID, found.Page)
				}
			}
			return true
		})
		for path, page := range last { // and the list leaves none out
			if found := address.Resolve(s, path, now); found.Page == page && found.Old {
				listed := false
				for _, lead := range address.Leads(s, page, now) {
					listed = listed || lead.Address == path
				}
				if !listed {
					t.Fatalf("%s leads to %d and is not listed", path, page)
				}
			}
		}
	})
}

func TestOldAddresses(t *testing.T) {
	at := func(hours int) time.Time { return testkit.Now.Add(time.Duration(hours) * time.Hour) }
	outline := testkit.Outline(t, "Home\n  Sailings\n    Winter\n      Fares\n  Harbours\n  Hidden | status=offline")
	s := edit.Settle(site.NewBuilder(testkit.Settings()).Site(), outline, at(0))
	find := func(label string) site.PageID { return testkit.Find(t, s, label) }
	field := func(label string, f edit.Field, value string) edit.Op {
		return edit.OpEdit{
			Page:   find(label),
			Fields: []edit.FieldChange{{Field: f, Old: edit.Value(s.Page(find(label)), f), New: value}},
		}
	}
	leads := func(path string, hours int) string {
		found := address.Resolve(s, path, at(hours))
		switch {
		case found.Page == 0:
			return ""
		case found.Gone:
			return "gone"
		}
		return s.Page(found.Page).Label
	}
	winter, fares := find("Winter"), find("Fares")

	s = publish(t, s, at(1), edit.OpMove{Page: winter, To: edit.Place{Parent: find("Harbours")}})
	s = publish(t, s, at(2), field("Harbours", edit.FieldSegment, "ports"))
	s = publish(t, s, at(3), field("Fares", edit.FieldOwnAddress, "/prices"))
	for _, path := range []string{"/sailings/winter/fares", "/harbours/winter/fares", "/ports/winter/fares", "/prices"} {
		assert.Equal(t, "Fares", leads(path, 4), path)
	}
	assert.Empty(t, leads("/sailings/winter/nothing", 4))
	assert.Empty(t, leads("/hidden/x", 4), "what was never online has no old address")
	assert.Equal(
		t,
		[]string{"/prices", "/ports/winter/fares", "/harbours/winter/fares", "/sailings/winter/fares"},
		paths(address.Leads(s, fares, at(4))),
	)

	// A page that takes an old address wins it.
	s = publish(t, s, at(4), edit.OpMake{
		Page: 50, Place: edit.Place{Parent: find("Sailings")},
		Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: "Winter"}, {Field: edit.FieldStatus, New: "live"}},
	})
	assert.Equal(t, site.PageID(50), address.Resolve(s, "/sailings/winter", at(5)).Page)
	assert.Equal(t, "Fares", leads("/sailings/winter/fares", 5), "what lies below it and was not taken stays")

	// A binned page's addresses are gone, or lead where the editor said, to its end.
	s = publish(t, s, at(6), edit.OpBin{Page: winter})
	assert.Equal(t, "gone", leads("/ports/winter", 7))
	assert.Equal(t, "gone", leads("/prices", 7))
	s = publish(t, s, at(7), edit.OpEdit{Page: winter, Fields: []edit.FieldChange{{Field: edit.FieldLeadsTo, New: "5"}}})
	assert.Equal(t, "Harbours", leads("/ports/winter/fares", 8))
	s = publish(
		t,
		s,
		at(8),
		edit.OpBin{Page: 5},
		edit.OpEdit{Page: 5, Fields: []edit.FieldChange{{Field: edit.FieldLeadsTo, New: "2"}}},
	)
	assert.Equal(t, "Sailings", leads("/ports/winter/fares", 9), "followed to its end")
	_, _, err := edit.Apply(
		s,
		edit.OpEdit{Page: 5, Fields: []edit.FieldChange{{Field: edit.FieldLeadsTo, Old: "2", New: "3"}}},
		at(9),
	)
	assert.ErrorContains(t, err, "round in a circle")
	assert.Equal(t, at(6), reach.OfflineSince(s, fares, at(9)))
}

func paths(leads []address.Lead) []string {
	var all []string
	for _, lead := range leads {
		all = append(all, lead.Address)
	}
	return all
}

// A short address of a binned page answers as its others do: gone, or led on; unless another page has taken it (rules
// 3.5).
func TestShortAddressesOfBinnedPages(t *testing.T) {
	s := testkit.Outline(
		t,
		"Home\n  Fares | short_addresses=/go\n  Contact\n  Never | status=offline short_addresses=/early",
	)
	s = edit.Settle(site.NewBuilder(testkit.Settings()).Site(), s, testkit.Now.Add(-time.Hour))
	fares, contact, never := testkit.Find(t, s, "Fares"), testkit.Find(t, s, "Contact"), testkit.Find(t, s, "Never")
	binned, _, err := edit.ApplyAll(s, []edit.Op{edit.OpBin{Page: fares}, edit.OpBin{Page: never}}, testkit.Now)
	require.NoError(t, err)
	binned = edit.Settle(s, binned, testkit.Now)
	assert.Equal(t, address.Found{Page: fares, Gone: true}, address.Resolve(binned, "/go", testkit.Now))
	assert.Zero(t, address.Resolve(binned, "/early", testkit.Now), "nobody was ever led there")

	led, _, err := edit.Apply(
		binned,
		edit.OpEdit{Page: fares, Fields: []edit.FieldChange{{Field: edit.FieldLeadsTo, New: fmt.Sprint(contact)}}},
		testkit.Now,
	)
	require.NoError(t, err)
	assert.Equal(t, address.Found{Page: contact, Old: true, Via: fares}, address.Resolve(led, "/go", testkit.Now))

	taken, _, err := edit.Apply(
		led,
		edit.OpEdit{Page: contact, Fields: []edit.FieldChange{{Field: edit.FieldShortAddresses, New: "/go"}}},
		testkit.Now,
	)
	require.NoError(t, err)
	assert.Equal(t, address.Found{Page: contact, Short: true}, address.Resolve(taken, "/go", testkit.Now))
	assert.Equal(t, []string{"/fares"}, address.Ever(taken, fares))
}
