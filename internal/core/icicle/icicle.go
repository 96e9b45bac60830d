// Package icicle lays the tree out as a picture: a row for each level, and for each page a box whose width is the
// number of pages in its branch, under the box of its parent. Runs of pages that are too narrow to draw merge into one
// box, so the picture costs what can be seen, not what exists.
package icicle

import "vineladder/internal/core/site"

// A Box is a page, or a run of siblings too narrow to draw.
type Box struct {
	Page  site.PageID // the first page of a merged run
	Pages int         // pages in the box: the branch, or all branches of the run
	More  int         // siblings merged in this box; 0: the box is one page
	At    int         // index of the first one among its siblings, for a merged run
	Level int         // from 0, the top of the picture
	X, W  float64     // in units of the picture's width
}

// Layout gives the boxes of a branch for a picture of a width, in the order of the tree. Boxes narrower than least are
// merged; levels beyond depth are left out.
func Layout(s *site.Site, top site.PageID, width, least float64, depth int) []Box {
	total := 1 + s.Below(top)
	l := layout{site: s, least: least, depth: depth}
	l.boxes = append(l.boxes, Box{Page: top, Pages: total, W: width})
	l.kids(top, 1, 0, width)
	return l.boxes
}

type layout struct {
	site  *site.Site
	least float64
	depth int
	boxes []Box
}

// kids lays the children of a page out below it. The page's own share of the width is spread over them, so that they
// fill it.
func (l *layout) kids(parent site.PageID, level int, x, width float64) {
	below := l.site.Below(parent)
	if level > l.depth || below == 0 {
		return
	}
	unit := width / float64(below)
	merged := Box{Level: level}
	flush := func() {
		if merged.More > 0 {
			l.boxes = append(l.boxes, merged)
		}
		merged = Box{Level: level}
	}
	for at, kid := range l.site.Children(parent) {
		pages := 1 + l.site.Below(kid)
		w := float64(pages) * unit
		if w < l.least {
			if merged.More == 0 {
				merged.Page, merged.At, merged.X = kid, at, x
			}
			merged.More, merged.Pages, merged.W = merged.More+1, merged.Pages+pages, merged.W+w
			x += w
			continue
		}
		flush()
		l.boxes = append(l.boxes, Box{Page: kid, Pages: pages, Level: level, X: x, W: w})
		l.kids(kid, level+1, x, w)
		x += w
	}
	flush()
}
