package site

import "slices"

// linkers are the pages that point at one page, by a link in their text or by bearing it as a topic, ascending.
type linkers struct {
	owner *edit
	pages []PageID
}

// Linking gives the pages whose text links to a page, binned ones included. The slice belongs to the Site. A text
// counts whose links were known when its page was put.
func (s *Site) Linking(id PageID) []PageID {
	if l := s.linking.get(int64(id)); l != nil {
		return l.pages
	}
	return nil
}

// listLinks keeps the links both ways.
func (b *Builder) listLinks(was, is *Page) {
	var old, made string
	if was != nil {
		old = was.Text
	}
	if is != nil {
		made = is.Text
	}
	if old == made {
		return
	}
	b.point(&b.site.linking, b.site.Links(old), was, b.site.Links(made), is)
}

// point keeps which pages point at others; one that was and is have the same number.
func (b *Builder) point(all *trie[*linkers], from []PageID, was *Page, to []PageID, is *Page) {
	for _, id := range from {
		l := b.linkersOf(all, id)
		if at, found := slices.BinarySearch(l.pages, was.ID); found {
			l.pages = slices.Delete(l.pages, at, at+1)
		}
	}
	for _, id := range to {
		l := b.linkersOf(all, id)
		if at, found := slices.BinarySearch(l.pages, is.ID); !found {
			l.pages = slices.Insert(l.pages, at, is.ID)
		}
	}
}

// linkersOf gives the pages that point at one, for writing.
func (b *Builder) linkersOf(all *trie[*linkers], to PageID) *linkers {
	l := all.get(int64(to))
	switch {
	case l == nil:
		l = &linkers{owner: b.edit}
	case l.owner == b.edit:
		return l
	default:
		l = &linkers{b.edit, slices.Clone(l.pages)}
	}
	all.set(b.edit, int64(to), l)
	return l
}
