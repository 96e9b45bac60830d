package menus

import (
	"fmt"
	"slices"
	"sync"
	"time"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
)

// itemLadders keeps the ladders of menus that were laid out last, so that who scrolls through one has it laid out once.
// A Site never changes, so nothing kept is stale before something comes or goes by itself.
type itemLadders struct {
	sync.Mutex
	kept  map[itemsKey]keptItems
	order []itemsKey // the oldest first
}

// An itemsKey is what a ladder of items depends on.
type itemsKey struct {
	on, base     *site.Site
	menu         site.MenuID
	block        site.BlockID
	page         site.PageID
	item, state  string
	question     string
	lens, folded string
}

type keptItems struct {
	ladder itemLadder
	from   time.Time
	until  time.Time // zero: no such moment
}

// itemLaddersLimit is the number of ladders kept, of all people together.
const itemLaddersLimit = 32

// of gives the whole ladder of a desk's menu.
func (k *itemLadders) of(d *desk.Desk, closed, opened map[site.PageID]bool) itemLadder {
	key := itemsKey{
		on: d.Site, base: d.Draft.Base.Site, page: d.Selected, item: d.Item.String(), state: d.State,
		question: question(d),
		lens:     d.As + "|" + d.At, folded: fmt.Sprint(folds(closed), folds(opened)),
	}
	if d.Menu != nil {
		key.menu = d.Menu.ID
	}
	if d.Block != nil {
		key.block = d.Block.ID
	}
	k.Lock()
	found, known := k.kept[key]
	k.Unlock()
	at := d.Lens.At
	if known && !at.Before(found.from) && (found.until.IsZero() || at.Before(found.until)) {
		return found.ladder
	}
	made := keptItems{layItems(d, closed, opened), at, reach.NextEdge(d.Site, at)}
	k.keep(key, made)
	return made.ladder
}

func (k *itemLadders) keep(key itemsKey, made keptItems) {
	k.Lock()
	defer k.Unlock()
	if k.kept == nil {
		k.kept = map[itemsKey]keptItems{}
	}
	if _, again := k.kept[key]; !again {
		if k.order = append(k.order, key); len(k.order) > itemLaddersLimit {
			delete(k.kept, k.order[0])
			k.order = slices.Clone(k.order[1:])
		}
	}
	k.kept[key] = made
}

// folds names what is folded or unfolded, in one order.
func folds(of map[site.PageID]bool) []site.PageID {
	var ids []site.PageID
	for id, is := range of {
		if is {
			ids = append(ids, id)
		}
	}
	slices.Sort(ids)
	return ids
}

// OpenItems gives a window of a menu's ladder, for measuring: one that is laid out once for all its windows, or anew
// for each.
func OpenItems(s *site.Site, m *site.Menu, at time.Time, anew bool) func(from, count int) int {
	base := &store.Published{Site: s}
	d := &desk.Desk{
		Draft:    &store.Draft{Base: base, Site: s},
		Site:     s,
		Menu:     m,
		State:    "after",
		Lens:     reach.Lens{At: at},
		Selected: s.Home(),
	}
	if anew {
		return func(from, count int) int { return items(d, nil, nil, from, count).Total }
	}
	ladders := &itemLadders{}
	return func(from, count int) int { return ladders.of(d, nil, nil).window(from, count).Total }
}
