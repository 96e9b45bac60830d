// Package consequence computes what a draft does to what people can see: the difference of two Sites, for every audience
// at once (rules 9.3). It costs what differs, not what exists.
package consequence

import (
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A Report is the difference between two Sites for some viewers.
type Report struct {
	Was, Is *site.Site
	Viewers
	Addresses []AddressChange
	Pages     []PageChange
	Blocks    []BlockChange
	Refused   []site.PageID // pages whose answer to those without access changes
	Content   []site.PageID // pages that somebody reaches and whose words changed
	Edited    int           // pages that differ at all
}

// An AddressChange is a page that somebody reaches, before or after, at another address than before.
type AddressChange struct {
	Page    site.PageID
	Was, Is string // "" where there was or is no page
}

// A PageChange is a page that some lenses reach in only one of the two Sites.
type PageChange struct {
	Page         site.PageID
	Gained, Lost reach.Mask
}

// A BlockChange lists what changes in the lines that a menu block can show.
type BlockChange struct {
	Block site.MenuBlock
	Lines []LineChange
}

// A LineChange is one menu line, known by its entry and target. Moved means another line above it, or another place among
// the lines that stay; Renamed another label.
type LineChange struct {
	Entry                        site.EntryID
	Page                         site.PageID
	Gained, Lost, Moved, Renamed reach.Mask
}

// Nothing says that nobody can tell the difference.
func (r *Report) Nothing() bool {
	return len(r.Addresses) == 0 && len(r.Pages) == 0 && len(r.Blocks) == 0 && len(r.Refused) == 0 && len(r.Content) == 0
}
