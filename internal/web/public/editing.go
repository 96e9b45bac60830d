package public

import (
	"fmt"
	"net/url"

	"vineladder/internal/core/grant"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
)

// Editing is what somebody gets who may change what stands on the page: by each block a link to its settings in the
// workbench, on the workbench's own origin. A preview outlines the blocks and regions too.
type Editing struct {
	Workbench string // origin
	Draft     int64  // whose settings; 0: the person's own draft
	Outline   bool
	Top       bool // links leave the frame that the page is shown in
}

// editingFor gives who has business in the workbench, at an origin, the way there; nil to all others.
func editingFor(s *site.Site, roles []string, workbench string) *Editing {
	if !grant.Works(s, roles) {
		return nil
	}
	return &Editing{Workbench: workbench}
}

// An editLink leads to the settings of a block, and for a menu to its items.
type editLink struct {
	Name     string
	Settings string
	Items    string // "" for other blocks than menus
	Target   string
}

func (e *Editing) address(area string, page site.PageID, more url.Values) string {
	more.Set("page", fmt.Sprint(page))
	if e.Draft != 0 {
		more.Set("draft", fmt.Sprint(e.Draft))
	}
	return e.Workbench + area + "?" + more.Encode()
}

func (e *Editing) target() string {
	if e.Top {
		return "_top"
	}
	return ""
}

// page is the link to the sheet of the page itself; nil where nobody may edit.
func (e *Editing) page(page site.PageID) *editLink {
	if e == nil || page == 0 {
		return nil
	}
	return &editLink{Name: "this page", Settings: e.address("/tree", page, url.Values{}), Target: e.target()}
}

// block is the link of a block on a page; nil where nobody may edit.
func (e *Editing) block(st region.Standing, page site.PageID) *editLink {
	if e == nil {
		return nil
	}
	link := &editLink{
		Name:   st.Block.Name,
		Target: e.target(),
		Settings: e.address(
			"/layouts",
			page,
			url.Values{"mode": {"page"}, "chip": {fmt.Sprintf("p%d", st.Placement.ID)}},
		),
	}
	if m, _, isMenu := st.Block.Menu(); isMenu {
		link.Items = e.address("/menus", page, url.Values{"menu": {fmt.Sprint(m)}, "block": {fmt.Sprint(st.Block.ID)}})
	}
	return link
}
