package menus

import (
	"sync"

	"vineladder/internal/core/menu"

	"vineladder/internal/core/site"
)

// depths keeps how deep menus go, for the Site that was asked about last: a run goes as deep as its branch of the tree.
type depths struct {
	sync.Mutex
	on   *site.Site
	deep map[site.MenuID]int
}

// deepest is where the bracket of levels ends at the latest.
const deepest = 12

// of gives the deepest level at which a line of a menu can stand, 12 at most.
func (k *depths) of(s *site.Site, m *site.Menu) int {
	k.Lock()
	defer k.Unlock()
	if k.on != s {
		k.on, k.deep = s, map[site.MenuID]int{}
	}
	if _, known := k.deep[m.ID]; !known {
		k.deep[m.ID] = depthOf(s, m)
	}
	return k.deep[m.ID]
}

func depthOf(s *site.Site, m *site.Menu) int {
	deep := 0
	for i := range m.Entries {
		e := &m.Entries[i]
		level := menu.Level(s, m, e.ID)
		if run, is := e.Shows.(site.ItemBranch); is {
			if run.Self == site.SelfAbove {
				level++
			}
			most := deepest - level
			if run.Depth > 0 {
				most = min(most, run.Depth-1)
			}
			level += below(s, run.Root, most)
		}
		deep = max(deep, level)
	}
	return min(deep, deepest)
}

// below gives how many levels of listed pages stand below the children of a page, up to a number.
func below(s *site.Site, parent site.PageID, most int) int {
	deep := 0
	for _, kid := range s.Children(parent) {
		if deep >= most {
			break
		}
		if s.Page(kid).Listed && len(s.Children(kid)) > 0 {
			deep = max(deep, 1+below(s, kid, most-1))
		}
	}
	return min(deep, max(most, 0))
}
