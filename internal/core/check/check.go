// Package check finds what is wrong with a site, a check a file (rules 10). What it finds are values: the thing, a
// sentence, and where possible the edits of one step that mend it.
package check

import (
	"fmt"
	"slices"
	"time"

	"vineladder/internal/core/care"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/weblink"
)

// Weight is how much a problem matters.
type Weight string

const (
	Wrong  Weight = "wrong"  // visitors run into it
	Doubt  Weight = "doubt"  // it is seldom meant so
	Advice Weight = "advice" // it could be better
)

// Weights has all of them, the heaviest first.
func Weights() []Weight { return []Weight{Wrong, Doubt, Advice} }

// A Check is a rule that finds a problem. Exactly one of the functions by which it looks is set, and says how it is
// kept in step: what looks at a page, at its children, a menu or a block is asked again where an edit touches that;
// what looks at the whole site is asked in the background.
type Check struct {
	Key    string // in addresses, tables and what programs read; never changed
	Name   string // over what it found
	Why    string // what is bad about it, and where that is said
	Weight Weight

	Page     func(l *Look, p *site.Page, at Standing, tell Tell)
	Children func(l *Look, parent *site.Page, tell Tell)
	Menu     func(l *Look, m *site.Menu, tell Tell)
	Block    func(l *Look, b *site.Block, tell Tell)
	Site     func(l *Look, tell Tell)

	FixWords string // on the button; "": there is no fix of one step
	Fix      func(l *Look, p Problem) []edit.Op
}

// A Problem is what a check found. It is a plain value: two are equal if they say the same of the same thing.
type Problem struct {
	Check string
	On    site.Thing
	Page  site.PageID // in whose branch it counts; 0: it is no page's
	Value string      // with which “it is meant so” ends when it changes
	Says  string
}

// Tell takes what a check has found of a thing.
type Tell func(on site.Thing, page site.PageID, value, format string, words ...any)

// A Key names what was decided to be meant so.
type Key struct {
	Check string
	On    site.Thing
	Value string
}

// Key names a problem as long as it is the same one.
func (p Problem) Key() Key { return Key{p.Check, p.On, p.Value} }

// All has every check, in the order in which they are listed: the heaviest first. Nobody writes to it.
func All() []Check { return checks }

var checks = byWeight(
	itemLeadsNowhere(), itemOutOfReach(), headingAlone(), itemHidden(), webAddressOwn(), sameLabel(), sameTarget(),
	hintRepeats(), badgeContrast(), runTooLong(), menuNowhere(), menuEmpty(),
	pageNowhere(), audienceWider(), liveBelowOffline(), addressStale(), tooDeep(), pageBlank(), summaryMissing(),
	editorsLong(), detailMissing(), linkOutOfReach(), linkDead(), linkSaysNothing(), tableBare(),
	fileUnused(), pictureUndescribed(),
	topicEmpty(), topicsAlike(),
	placeNowhere(), regionLacking(), reviewOverdue(), ownerGone(), blocksOneName(), sameTitle(),
)

func byWeight(all ...Check) []Check {
	slices.SortStableFunc(all, func(a, b Check) int {
		return slices.Index(Weights(), a.Weight) - slices.Index(Weights(), b.Weight)
	})
	return all
}

// Of finds a check by its key; nil if there is none.
func Of(key string) *Check {
	for i := range checks {
		if checks[i].Key == key {
			return &checks[i]
		}
	}
	return nil
}

// WeightOf gives how much a problem matters; that of a check that could not be done is the heaviest.
func WeightOf(p Problem) Weight {
	if c := Of(p.Check); c != nil {
		return c.Weight
	}
	return Wrong
}

// A Look is what checks are given: a site at a moment.
type Look struct {
	Site   *site.Site
	At     time.Time
	Origin string // of the public site, as in “https://harbour.example”
	Besides

	menus *inMenus
}

// NewLook readies a site for being looked at. It is for one goroutine.
func NewLook(s *site.Site, at time.Time, origin string) *Look {
	return &Look{Site: s, At: at, Origin: origin, menus: menusOf(s)}
}

// Besides is what is known besides the site: who said what to be still right and who is gone, and which web addresses
// don't answer.
type Besides struct {
	Care  *care.Known
	Links *weblink.Known
}

// With has a look know more than the site.
func (l *Look) With(known Besides) *Look {
	l.Besides = known
	return l
}

// Failed is the key of a problem that stands for a check that could not be done.
const Failed = "check-failed"

// do asks checks one after the other. Where one can't be done that is told, and the others go on.
func do(asked []*Check, on site.Thing, ask func(*Check, Tell)) (found []Problem) {
	at := 0
	tell := func(on site.Thing, page site.PageID, value, format string, words ...any) {
		found = append(found, Problem{asked[at].Key, on, page, value, fmt.Sprintf(format, words...)})
	}
	for at < len(asked) {
		func() { // most pages have no problem: what a check costs is one call
			defer func() {
				if cause := recover(); cause != nil {
					found = append(found, Problem{
						Check: Failed, On: on, Value: asked[at].Key,
						Says: fmt.Sprintf("The check “%s” could not be done here: %v.", asked[at].Name, cause),
					})
					at++
				}
			}()
			for ; at < len(asked); at++ {
				ask(asked[at], tell)
			}
		}()
	}
	return found
}

// blockThing and entryThing name blocks and menu items.
func blockThing(id site.BlockID) site.Thing {
	return site.Thing{Family: site.FamilyBlock, ID: int64(id)}
}

func entryThing(id site.EntryID) site.Thing {
	return site.Thing{Family: site.FamilyEntry, ID: int64(id)}
}

func placeThing(id site.PlacementID) site.Thing {
	return site.Thing{Family: site.FamilyPlacement, ID: int64(id)}
}
