package consequence

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"vineladder/internal/core/address"
	"vineladder/internal/core/count"
	"vineladder/internal/core/site"
)

// fates says of each address that a page leaves what becomes of it. Where nothing else stands at an old address, nothing can
// stand below it either, so a branch costs one look and not one for each page.
func (c *comparison) fates() {
	vacant := ""
	for i := range c.Addresses {
		change := &c.Addresses[i]
		switch {
		case change.Was == "":
		case vacant != "" && change.served && change.Is != "" && strings.HasPrefix(change.Was, vacant):
			change.Old = Keeps
		default:
			change.Old, change.To = c.fate(change)
			if vacant = ""; change.Old == Keeps && change.served && address.Unclaimed(c.Is, change.Was) {
				vacant = change.Was + "/"
			}
		}
	}
}

func (c *comparison) fate(change *AddressChange) (Fate, site.PageID) {
	found := address.Resolve(c.Is, change.Was, c.moment(change.Page))
	switch {
	case found.Page == 0:
		return Ends, 0
	case found.Gone && found.Page == change.Page:
		return Gone, 0
	case found.Page == change.Page:
		return Keeps, 0
	case found.Old && !c.Is.InTree(change.Page):
		return Leads, found.Page
	case found.Gone || found.Old:
		return Ends, 0
	}
	return Taken, found.Page
}

// moment is when the comparison looks: the viewers' moment, or the later one at which the page was settled.
func (c *comparison) moment(id site.PageID) time.Time {
	at := c.Panel.Lenses()[0].At
	if p := c.Is.Page(id); p != nil && p.Since.After(at) {
		return p.Since
	}
	return at
}

// An arrival is a page at an address that it did not have, whether anybody reaches it or not.
type arrival struct {
	page    site.PageID
	address string
}

// takeovers finds the old addresses of other pages at which pages stand from now on.
func (c *comparison) takeovers() {
	untouched := ""
	for _, a := range c.arrivals {
		if untouched != "" && strings.HasPrefix(a.address, untouched) {
			continue
		}
		if address.Untouched(c.Was, a.address) {
			untouched = a.address + "/"
			continue
		}
		untouched = ""
		found := address.Resolve(c.Was, a.address, c.moment(a.page))
		if (found.Old || found.Gone) && found.Page != a.page {
			c.Taken = append(c.Taken, Takeover{a.address, found.Page, a.page})
		}
	}
}

// later reports what a page's online time holds for moments to come that differs.
func (c *comparison) later(id site.PageID, was, is standing) {
	if was.ever == is.ever && was.online == is.online {
		return
	}
	at := c.Panel.Lenses()[0].At
	from := func(st standing) time.Time {
		if st.ever && st.online.From.After(at) {
			return st.online.From
		}
		return time.Time{}
	}
	until := func(st standing) time.Time {
		if st.ever && st.online.Until.After(at) {
			return st.online.Until
		}
		return time.Time{}
	}
	before, after := from(was), from(is)
	switch {
	case before.Equal(after):
	case !after.IsZero():
		c.Later = append(c.Later, LaterChange{id, after, Appears})
	case is.state.Online == 0:
		c.Later = append(c.Later, LaterChange{id, before, CalledOff})
	}
	if before, after := until(was), until(is); !after.IsZero() && !before.Equal(after) {
		c.Later = append(c.Later, LaterChange{id, after, Vanishes})
	}
}

// sayAddresses says how many addresses change and what becomes of the old ones.
func (r *Report) sayAddresses() []Sentence {
	var changed []string
	fates := map[Fate][]string{}
	n := 0
	for _, change := range r.Addresses {
		item := change.Was
		switch change.Old {
		case Keeps:
			item += " → " + change.Is
		case Taken, Leads:
			item += " leads to " + r.label(change.To)
		}
		if change.Was != "" && change.Is != "" {
			n++
			changed = keepItem(changed, change.Was+" → "+change.Is)
		}
		if change.Was != "" && change.served {
			fates[change.Old] = append(fates[change.Old], item)
		}
	}
	var said []Sentence
	if n > 0 {
		text := count.Of(n, "address changes", "addresses change")
		if kept := len(fates[Keeps]); kept > 0 {
			text += fmt.Sprintf("; %s", count.Of(kept, "old one keeps working", "old ones keep working"))
		}
		said = append(said, Sentence{"address", text + ".", changed})
	}
	for _, fate := range []struct {
		fate      Fate
		one, many string
	}{
		{Taken, "old address leads to another page that takes it", "old addresses lead to other pages that take them"},
		{Leads, "address of a binned page leads to the page that was chosen", "addresses of binned pages lead to the page that was chosen"},
		{Gone, "address answers “gone”", "addresses answer “gone”"},
		{Ends, "old address ends", "old addresses end"},
	} {
		if items := fates[fate.fate]; len(items) > 0 {
			said = append(said, Sentence{"address", count.Of(len(items), fate.one, fate.many) + ".", items[:min(len(items), ItemLimit)]})
		}
	}
	if len(r.Taken) > 0 {
		var items []string
		for _, taken := range r.Taken {
			items = keepItem(items, fmt.Sprintf("%s led to %s and is that of %s", taken.Address, r.label(taken.From), r.label(taken.By)))
		}
		said = append(said, Sentence{"address", count.Of(len(r.Taken), "old address of another page is taken over", "old addresses of other pages are taken over") + ".", items})
	}
	return said
}

// sayLater says what comes and goes at moments to come, one sentence for each moment.
func (r *Report) sayLater() []Sentence {
	type key struct {
		at   int64
		what Later
	}
	groups := map[key][]site.PageID{}
	var order []key
	for _, change := range r.Later {
		k := key{change.At.UnixNano(), change.What}
		if groups[k] == nil {
			order = append(order, k)
		}
		groups[k] = append(groups[k], change.Page)
	}
	slices.SortStableFunc(order, func(a, b key) int { return cmp.Compare(a.at, b.at) })
	var said []Sentence
	for _, k := range order {
		pages, when := groups[k], time.Unix(0, k.at).In(r.Is.Settings().Zone).Format("2 January 2006 at 15:04")
		text := ""
		switch k.what {
		case Appears:
			text = count.Of(len(pages), "page appears", "pages appear") + " on " + when
		case Vanishes:
			text = count.Of(len(pages), "page goes offline", "pages go offline") + " on " + when
		case CalledOff:
			text = count.Of(len(pages), "page does not appear", "pages do not appear") + " on " + when + " any more"
		}
		said = append(said, Sentence{"later", text + ".", r.labels(pages)})
	}
	return said
}

// keepItem adds to a list that is bounded by ItemLimit.
func keepItem(items []string, item string) []string {
	if len(items) < ItemLimit {
		items = append(items, item)
	}
	return items
}
