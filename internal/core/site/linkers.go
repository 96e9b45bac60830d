package site

import (
	"slices"
	"strconv"
	"strings"
)

// linkers are the pages that point at one page, by a link in their text or by bearing it as a topic, ascending.
type linkers struct {
	owner *edit
	pages []PageID
}

// Linking gives the pages whose text or details link to a page, binned ones included. The slice belongs to the Site. A
// text counts whose links were known when its page was put.
func (s *Site) Linking(id PageID) []PageID {
	if l := s.linking.get(int64(id)); l != nil {
		return l.pages
	}
	return nil
}

// listLinks keeps the links both ways.
func (b *Builder) listLinks(was, is *Page) {
	var old, made []PageID
	switch {
	case was != nil && is != nil && was.Text == is.Text && was.Values == is.Values:
		return
	case was != nil:
		old = b.site.LinksOf(was)
	}
	if is != nil {
		made = b.site.LinksOf(is)
	}
	b.point(&b.site.linking, old, was, made, is)
}

// LinksOf gives the pages to which a page links by its text or its details, whoever looks and whether they are shown.
func (s *Site) LinksOf(p *Page) []PageID {
	links := s.Links(p.Text)
	for _, value := range p.Values.All() {
		if number, is := strings.CutPrefix(value, "page:"); is {
			if id, err := strconv.ParseInt(number, 10, 64); err == nil {
				links = append(slices.Clip(links), PageID(id))
			}
		}
		if file, _, _ := strings.Cut(value, "\n"); strings.HasPrefix(file, fileRef) {
			if id, is := ReadFileRef(file); is {
				links = append(slices.Clip(links), id)
			}
		}
		links = append(slices.Clip(links), s.Links(value)...) // of a rich text, which is named by its hash
	}
	return links
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
