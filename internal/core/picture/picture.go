// Package picture says how a picture among the files stands on a page: its address with the version that is meant, and
// the widths that browsers can choose from.
package picture

import (
	"fmt"
	"strings"

	"vineladder/internal/core/site"
)

// A Picture is one as an img element has it.
type Picture struct {
	Src           string // address, with the version
	Set           string // the same in several widths, as srcset has it; "" where there is only one
	Width, Height int    // in pixels; 0: not known
	Alt           string // its words; "": it only decorates
}

// Of gives the picture that a file is, below a base: "" or that of a preview. Words that are "" are the file's own.
func Of(p *site.Page, base, words string) Picture {
	holds := p.BytesOf()
	src := fmt.Sprintf("%s%s?v=%s", base, p.OwnAddress, holds.Version())
	made := Picture{Src: src, Width: holds.Width, Height: holds.Height, Alt: words}
	if made.Alt == "" {
		made.Alt = p.Summary
	}
	var set []string
	for _, width := range holds.Widths() {
		set = append(set, fmt.Sprintf("%s&w=%d %dw", src, width, width))
	}
	if len(set) > 0 {
		made.Set = strings.Join(append(set, fmt.Sprintf("%s %dw", src, holds.Width)), ", ")
	}
	return made
}

// Below gives the picture at addresses below a base, as a preview has it.
func (p Picture) Below(base string) *Picture {
	p.Src = base + p.Src
	if p.Set != "" {
		sets := strings.Split(p.Set, ", ")
		for i := range sets {
			sets[i] = base + sets[i]
		}
		p.Set = strings.Join(sets, ", ")
	}
	return &p
}

// At gives the picture that something shows by reference: a file of the tree or, from before files were pages, by name.
// ok is false for one that is not there any more.
func At(s *site.Site, ref, base, words string) (made Picture, file site.PageID, ok bool) {
	id, isPage := site.ReadFileRef(ref)
	if !isPage {
		return Picture{Src: site.FilesPath + ref, Alt: words}, 0, ref != ""
	}
	p := s.Page(id)
	if p == nil || !p.IsFile() || !s.InTree(id) {
		return Picture{}, id, false
	}
	return Of(p, base, words), id, true
}
