package desk

import (
	"fmt"
	"mime"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/blob"
	"vineladder/internal/core/ask"
	"vineladder/internal/core/site"
)

// FileHit is a file in a picker.
func (d *Desk) FileHit(s *site.Site, p *site.Page) Hit {
	return Hit{
		Key: fmt.Sprintf("page:%d", p.ID), ID: int64(p.ID), Label: p.Label, Address: p.OwnAddress,
		Where: "File, " + Place(s, p.ID), Reach: "This visitor " + VisitorGets(s, p.ID, d.Lens), File: true,
	}
}

// filesFor finds files by words of their labels and names; without words the last that there are.
func (d *Desk) filesFor(words string) []Hit {
	var hits []Hit
	fits := ask.Words(words, d.Filter.Reads)
	for _, id := range slices.Backward(d.Site.Files()) {
		p := d.Site.Page(id)
		if p.IsFile() && len(hits) < HitLimit && (fits(p) || HasAll(p.FileName(), words)) {
			hits = append(hits, d.FileHit(d.Site, p))
		}
	}
	return hits
}

// FileOf gives the reference of a file that a picker gave: a page's, or a name from before files were pages.
func FileOf(key string) string {
	if number, isPage := strings.CutPrefix(key, "page:"); isPage {
		return site.FileRef(Number[site.PageID](number))
	}
	return strings.TrimPrefix(key, "file:")
}

// SendFile sends the bytes of a file to somebody in the workbench.
func SendFile(w http.ResponseWriter, r *http.Request, from *blob.Store, p *site.Page) error {
	holds := p.BytesOf()
	width, _ := strconv.Atoi(r.FormValue("w"))
	if !slices.Contains(holds.Widths(), width) {
		width = 0
	}
	bytes, err := from.Reader(r.Context(), holds.Hash, width)
	if err != nil {
		return err
	}
	defer bytes.Close()
	h := w.Header()
	h.Set("Content-Type", holds.Type)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Content-Security-Policy", "default-src 'none'; sandbox")
	if !holds.IsPicture() {
		h.Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": p.FileName()}))
	}
	http.ServeContent(w, r, "", time.Time{}, bytes)
	return nil
}
