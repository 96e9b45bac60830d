package menus

import (
	"net/http"
	"strconv"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// selection renders the sheet of several items.
func (s *Area) selection(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	i, err := readMenuIntent(r, d)
	if err != nil {
		return err
	}
	v := desk.Selection{Desk: d, Words: tallyWords(d.Menu, i.entries())}
	v.Locked = d.State == "now" || !mayLink(d).Yes
	if d.Menu != nil {
		v.Where = "In “" + desk.Short(d.Menu.Name) + "”"
		fillItems(d, &v, i.entries())
	}
	s.Render(w, r, "items-selected", v)
	return nil
}

func fillItems(d *desk.Desk, v *desk.Selection, chosen []site.EntryID) {
	var entries []*site.Entry
	parents := map[desk.ItemID]bool{}
	for _, id := range chosen {
		if e := d.Menu.Entry(id); e != nil {
			entries = append(entries, e)
			parents[desk.ItemID{Entry: e.Parent, Page: e.Under}] = true
		}
	}
	if len(parents) == 1 {
		beside := d.Menu.BelowLine(entries[0].Parent, entries[0].Under)
		v.Siblings, v.Of, v.Position = true, len(beside), strconv.Itoa(firstOf(beside, chosen))
	}
	for _, f := range []desk.ForMany{
		{Field: edit.FieldOn, Label: "Switched", Options: desk.Options("yes", "on", "no", "off")},
		{Field: edit.FieldAudience, Label: "Who sees it", Options: d.Audiences("", "everyone")},
		{Field: edit.FieldNewTab, Label: "Opens", Options: desk.Options("no", "in the same tab", "yes", "in a new tab")},
	} {
		var values []string
		for _, e := range entries {
			values = append(values, edit.EntryValue(e, f.Field))
		}
		if f.Locked = v.Locked; len(values) > 0 {
			f.Common(values)
		}
		v.Choices = append(v.Choices, f)
	}
}

// firstOf is the position, from 1, of the first that was chosen.
func firstOf(beside, chosen []site.EntryID) int {
	for at, id := range beside {
		for _, c := range chosen {
			if c == id {
				return at + 1
			}
		}
	}
	return 1
}

// tallyWords says how many items were chosen, and how many travel along.
func tallyWords(m *site.Menu, chosen []site.EntryID) string {
	words := count.Number(len(chosen)) + " selected"
	if m == nil {
		return words
	}
	travel := 0
	for _, top := range topItems(m, chosen) {
		travel += len(m.Branch(top))
	}
	if below := travel - len(chosen); below > 0 {
		words += ", " + count.Number(below) + " more below travel along"
	}
	return words
}

// leadElsewhere has whatever leads where the chosen items lead, in every menu, lead to something else.
func (i *menuIntent) leadElsewhere(s *site.Site, m *site.Menu) ([]edit.Op, string, error) {
	var chosen []*site.Entry
	for _, id := range i.entries() {
		if e := m.Entry(id); e != nil {
			chosen = append(chosen, e)
		}
	}
	ops := edit.LeadElsewhere(s, chosen, i.form("new"))
	if len(ops) == 0 {
		return nil, "", &edit.Refusal{Sentence: "None of them leads elsewhere than there; headings lead nowhere."}
	}
	menus := map[site.MenuID]bool{}
	for _, op := range ops {
		menus[op.(edit.OpEditEntry).Menu] = true
	}
	return ops, "led " + count.Of(len(ops), "item", "items") + " of " + count.Of(len(menus), "menu", "menus") +
		" elsewhere", nil
}
