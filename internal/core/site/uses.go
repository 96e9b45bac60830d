package site

import "slices"

// Uses says whether anything in the tree shows or leads to a page: texts, details, menu items, blocks, or a page in the
// bin whose addresses lead there. It is what a file without any use is without.
func (s *Site) Uses(id PageID) bool {
	inTree := func(from PageID) bool { return s.InTree(from) }
	if slices.ContainsFunc(s.Linking(id), inTree) {
		return true
	}
	for i := range s.Menus() {
		if slices.ContainsFunc(s.Menus()[i].Entries, func(e Entry) bool { return e.Target() == id }) {
			return true
		}
	}
	for i := range s.Blocks() {
		switch shows := s.Blocks()[i].Shows.(type) {
		case BlockImage:
			if shows.File == FileRef(id) {
				return true
			}
		case BlockText:
			if slices.Contains(s.Links(shows.Text), id) {
				return true
			}
		}
	}
	return slices.ContainsFunc(s.Binned(), func(binned PageID) bool { return s.Page(binned).LeadsTo == id })
}
