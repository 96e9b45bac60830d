package site

// A Reader looks up the pages of a Site one after the other, for a walk over many of them: quick where their ids are
// near each other. It is for one goroutine.
type Reader struct {
	site     *Site
	pages    cursor[*Page]
	families cursor[*family]
}

// NewReader starts reading a Site.
func NewReader(s *Site) *Reader { return &Reader{site: s} }

// Page finds a page as Site.Page does.
func (r *Reader) Page(id PageID) *Page { return r.pages.get(r.site.pages, int64(id)) }

// Children gives a page's children as Site.Children does.
func (r *Reader) Children(id PageID) []PageID {
	if f := r.families.get(r.site.families, int64(id)); f != nil {
		return f.kids
	}
	return nil
}
