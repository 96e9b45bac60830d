package site

import (
	"strings"
	"time"
)

// PageID names a page for ever, in drafts, tables and history alike (rules 9.1). IDs start at 1 and come from one
// sequence, so they are dense enough to index by.
type PageID int64

// A Page is one node of the site tree (rules 1). Pages are shared between Sites and never changed; to edit one, copy
// it, change the copy and Put it.
type Page struct {
	// What walks over all pages ask for stands together, so that a page costs them few lines of memory.
	ID             PageID
	Parent         PageID // 0 for the home page only
	Listed         bool
	Conceal        bool // answer "not found" to people without access, for the branch
	KeptOut        bool // of search engines, for the branch (rules 4.6)
	SecondPerson   bool // nobody publishes alone here, or below, what they made (rules 8.2)
	Binned         bool // the top of a binned branch; Parent and Rank keep its old place
	Purged         bool // the bin was emptied of it; only its addresses are left
	SegmentFollows bool // the segment follows the label (rules 3.2)
	Status         Status
	Audience       Audience
	Kind           string
	Segment        string
	OwnAddress     string
	Layout         string    // key of its own layout; empty: as rules 6.1 decide
	BranchLayout   string    // key of the layout for it and all below it
	LiveFrom       time.Time // zero: no bound
	LiveUntil      time.Time // zero: no bound; the moment itself is outside

	Key  string // stable outside name, unique, never changed
	Rank string // place among the siblings under the rule "manual" (rules 2.7)
	Pin  Pin
	Sort SortRule // how the page's own children stand

	Label          string // the short name: menus, breadcrumbs, the tree
	Title          string // the long name; empty: the label
	Summary        string
	Text           string // hash of the sanitised page text; empty: none
	Date           string // of its kind, as "2026-11-24"; empty: none
	ShortAddresses []string

	Bytes   string   // of a file: what it holds, as Bytes writes it (rules 12.3)
	Listing string   // what it lists below its text, as the listing package writes a question; "": nothing (rules 7.6)
	Values  Values   // of the details of its type
	Topics  []PageID // that it bears, ascending; those in the bin stay and count nowhere (rules 7)
	// Of a topic: what else it is called, what it is found by and not shown, and what it is for.
	OtherLabels  []string
	HiddenLabels []string
	ScopeNote    string
	MergedInto   PageID // once it is in the bin it counts as that topic; 0: as none

	Owner  Owner       // who looks after the page and its branch (rules 13); "": as above
	Review ReviewEvery // after how long somebody looks whether it is still right, for its branch; "": as above
	Note   string      // for colleagues

	FirstOnline time.Time // when the page first was, or will first be, online; zero: never
	Since       time.Time // when it last changed place, status or window in public; zero: not published yet
	Spells      []Spell   // that are over, the oldest first
	Revision    int64     // the revision that last changed the page; 0: not published yet
	Changed     time.Time // when that was
	Worded      time.Time // when its own words last changed in public: label, title, summary, text, details
	BinnedAt    time.Time // when it was put in the bin in public
	LeadsTo     PageID    // of a binned page: where its addresses lead; 0: they answer “gone”
}

// Heading is the long name: the title, or the label until a title is set.
func (p *Page) Heading() string {
	if p.Title != "" {
		return p.Title
	}
	return p.Label
}

// IRI names a page for ever, whatever its address is: by what it was imported as, else by its key below the site's own
// origin.
func (p *Page) IRI(origin string) string {
	if strings.Contains(p.Key, "://") || strings.HasPrefix(p.Key, "urn:") {
		return p.Key
	}
	return origin + "/#" + p.Key
}

// WasOnline says whether the page has been online at or before t, so that its segment stays (rules 3.2).
func (p *Page) WasOnline(t time.Time) bool {
	return !p.FirstOnline.IsZero() && !p.FirstOnline.After(t)
}

// Follows says whether the segment follows the label at t: nobody typed one, and the page has not been online yet.
func (p *Page) Follows(t time.Time) bool { return p.SegmentFollows && !p.WasOnline(t) }

// Status is set by hand: live or offline. Whether a page is online also depends on its window and its ancestors.
type Status string

const (
	StatusOffline Status = "offline"
	StatusLive    Status = "live"
)

// Pin holds a page at an end of its siblings under every sort rule but manual (rules 2.3).
type Pin string

const (
	PinNone  Pin = ""
	PinStart Pin = "start"
	PinEnd   Pin = "end"
)

// SortRule orders the children of a page (rules 2.2).
type SortRule string

const (
	SortManual   SortRule = "manual"
	SortLabel    SortRule = "label"
	SortNewest   SortRule = "newest"
	SortDate     SortRule = "date"      // the earliest first
	SortDateDown SortRule = "date-down" // the latest first
)

// Audience is who may see a page: inherited (empty), "everyone", "signed-in", "editors", or roles joined by "|", any
// of which suffices (rules 4.2). Role keys are sorted, so equal audiences are equal strings.
type Audience string

const (
	AudienceInherited Audience = ""
	AudienceEveryone  Audience = "everyone"
	AudienceSignedIn  Audience = "signed-in"
	// AudienceEditors is for those who may edit the page: each page that inherits it asks for its own (rules 4.2).
	AudienceEditors Audience = "editors"
)

// Roles gives the role keys of the audience; none for the three audiences that are not made of roles.
func (a Audience) Roles() []string {
	switch a {
	case AudienceInherited, AudienceEveryone, AudienceSignedIn, AudienceEditors:
		return nil
	}
	return strings.Split(string(a), "|")
}
