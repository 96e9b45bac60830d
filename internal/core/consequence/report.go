// Package consequence computes what a draft does to what people can see: the difference of two Sites, for every audience
// at once (rules 9.3). It costs what differs, not what exists.
package consequence

import (
	"time"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A Report is the difference between two Sites for some viewers.
type Report struct {
	Was, Is *site.Site
	Viewers
	Addresses []AddressChange
	Taken     []Takeover
	Pages     []PageChange
	Blocks    []BlockChange
	Refused   []site.PageID // pages whose answer to those without access changes
	Content   []site.PageID // pages that somebody reaches and whose words changed
	Later     []LaterChange // what comes and goes after the moment of the viewers, and did not or at another time
	Covers    []CoverChange
	Places    []PlaceChange
	Layouts   []LayoutChange
	Edited    int // pages that differ at all
}

// An AddressChange is a page that somebody reaches, before or after, at another address than before.
type AddressChange struct {
	Page    site.PageID
	Was, Is string      // "" where there was or is no page
	Old     Fate        // of the address that it had; "" if it had none
	To      site.PageID // where the old one leads, for Leads and Taken

	served bool // somebody reached the page at the old address
}

// Fate is what becomes of an address that a page leaves (rules 3.4 and 3.5).
type Fate string

const (
	Keeps Fate = "keeps" // it redirects to the page
	Taken Fate = "taken" // another page stands there now
	Leads Fate = "leads" // the page is in the bin, and its addresses lead to another one
	Gone  Fate = "gone"  // the page is in the bin, and its addresses answer “gone”
	Ends  Fate = "ends"  // nobody was ever served there
)

// A Takeover is an old address of one page at which another stands from now on.
type Takeover struct {
	Address  string
	From, By site.PageID
}

// A LaterChange is a page that comes or goes at a moment to come, and would not have, or the other way round.
type LaterChange struct {
	Page site.PageID
	At   time.Time
	What Later
}

// Later says what happens at a moment to come.
type Later string

const (
	Appears   Later = "appears"
	Vanishes  Later = "vanishes"
	CalledOff Later = "called off" // it would have appeared then
)

// A PageChange is a page that some lenses reach in only one of the two Sites.
type PageChange struct {
	Page         site.PageID
	Gained, Lost reach.Mask
}

// A BlockChange lists what changes in the lines that a menu block can show.
type BlockChange struct {
	Block *site.Block
	Lines []LineChange
}

// A CoverChange is a block that shows on other pages than before (rules 9.3).
type CoverChange struct {
	Block *site.Block
	Pages []PageChange
}

// A PlaceChange is a placement that is new, or stands in another region or at another position than before.
type PlaceChange struct {
	Block        *site.Block
	Region       string // its name
	Position, Of int    // among the placements of the region
}

// A LayoutChange counts pages that have another layout than before.
type LayoutChange struct {
	Layout string // its name
	Pages  []site.PageID
}

// A LineChange is one menu line, known by its entry and target. Moved means another line above it, or another place among
// the lines that stay; Renamed another label.
type LineChange struct {
	Entry                        site.EntryID
	Page                         site.PageID // 0: it leads to no page
	Label                        string      // the entry's own; empty: the page's
	Gained, Lost, Moved, Renamed reach.Mask
}
