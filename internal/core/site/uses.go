package site

import "slices"

// A Use is one thing that shows or leads to a page.
type Use struct {
	Page  PageID // whose text or details do; of Leads, the one in the bin
	Leads bool   // addresses of a page in the bin lead there
	Menu  MenuID // with an item that does
	Entry EntryID
	Block BlockID // that shows it, or a text that links it
}

// UsesOf gives what in the tree shows or leads to a page: texts and details of pages in the order of their numbers,
// items, blocks, and pages in the bin whose addresses lead there. A file is unused where there is none.
func (s *Site) UsesOf(id PageID) []Use {
	var all []Use
	for _, from := range s.Linking(id) {
		if s.InTree(from) {
			all = append(all, Use{Page: from})
		}
	}
	for i := range s.Menus() {
		m := &s.Menus()[i]
		for k := range m.Entries {
			if e := &m.Entries[k]; e.Target() == id {
				all = append(all, Use{Menu: m.ID, Entry: e.ID})
			}
		}
	}
	for i := range s.Blocks() {
		b := &s.Blocks()[i]
		shows, is := b.Shows.(BlockImage)
		words, isText := b.Shows.(BlockText)
		if is && shows.File == FileRef(id) || isText && slices.Contains(s.Links(words.Text), id) {
			all = append(all, Use{Block: b.ID})
		}
	}
	for _, binned := range s.Binned() {
		if s.Page(binned).LeadsTo == id {
			all = append(all, Use{Page: binned, Leads: true})
		}
	}
	return all
}
