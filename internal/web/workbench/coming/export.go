package coming

import (
	"fmt"
	"net/http"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/formats/outline"
	"vineladder/internal/formats/sheet"
	"vineladder/internal/web/workbench/desk"
)

// formats are those in which the tree and the menus go out: the type of each, and what the file is called.
var formats = map[string]struct{ media, name string }{
	"csv":  {"text/csv; charset=utf-8", "pages.csv"},
	"xlsx": {"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "pages.xlsx"},
	"json": {"application/json", "menus.json"},
	"opml": {"text/x-opml; charset=utf-8", "menu.opml"},
}

// export writes the tree or menus as the draft has them. The sheet names pages and who sees them, so it asks for the
// right to set that where somebody may not read all.
func (s *Area) export(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	format := r.FormValue("format")
	kind, known := formats[format]
	m := d.Site.Menu(desk.Number[site.MenuID](r.FormValue("menu")))
	if !known || format == "opml" && m == nil {
		return &edit.Refusal{
			Sentence: "Choose what to take out: the tree as csv or xlsx, the menus as json, or one as opml.",
		}
	}
	if format == "csv" || format == "xlsx" {
		if may := d.May(string(site.ActionAdmit)); !may.Yes {
			return fmt.Errorf("%w: %s", desk.ErrForbidden, may.Why)
		}
	}
	w.Header().Set("Content-Type", kind.media)
	w.Header().Set("Content-Disposition", `attachment; filename="`+kind.name+`"`)
	switch format {
	case "csv":
		return sheet.Write(w, d.Site, s.Now())
	case "xlsx":
		return sheet.WriteWorkbook(w, d.Site, s.Now())
	case "opml":
		return outline.WriteOPML(w, outline.Of(d.Site, m, s.Settings.Site), s.Now())
	}
	var all []outline.Menu
	for i := range d.Site.Menus() {
		all = append(all, outline.Of(d.Site, &d.Site.Menus()[i], s.Settings.Site))
	}
	return outline.WriteJSON(w, all)
}
