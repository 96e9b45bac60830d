package tree

import (
	"cmp"
	"errors"
	"fmt"
	"net/http"
	"path/filepath"
	"slices"
	"strings"

	"vineladder/internal/blob"
	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/picture"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// fileGrove is the folders of the site and, after them, the pages that have files of their own.
var fileGrove = grove{area: "files", tops: holders, has: hasFiles, keeps: inFiles}

// inFiles says whether a page has a place in the area of files.
func inFiles(p *site.Page) bool { return p.IsFile() || p.IsFolder() }

// holders gives the folders that stand in no other, then the pages that have files, each in the tree's order.
func holders(s *site.Site) []site.PageID {
	var tops []site.PageID
	for _, id := range s.Files() {
		above := s.Page(id).Parent
		for p := s.Page(above); p != nil && p.IsFolder(); p = s.Page(p.Parent) {
			above = p.ID
		}
		if p := s.Page(id); p.IsFolder() && above == p.Parent && !s.Page(above).IsFolder() {
			above = id // a folder right below a page
		}
		if !slices.Contains(tops, above) {
			tops = append(tops, above)
		}
	}
	s.SortByTree(tops)
	slices.SortStableFunc(tops, func(a, b site.PageID) int { // folders come first
		return cmp.Compare(folderLast(s.Page(a)), folderLast(s.Page(b)))
	})
	return tops
}

func folderLast(p *site.Page) int {
	if p.IsFolder() {
		return 0
	}
	return 1
}

func hasFiles(s *site.Site, id site.PageID) bool {
	return s.InTree(id) && (inFiles(s.Page(id)) || slices.Contains(holders(s), id))
}

// fileWords says what a row of the area is: what a file holds, how many files there are in anything else.
func fileWords(s *site.Site, p *site.Page) string {
	if p.IsFile() {
		sort, _, _ := strings.Cut(kindOfFile(p.BytesOf()), ",")
		return sort + ", " + count.Bytes(p.BytesOf().Size)
	}
	n := 0
	for _, id := range s.Children(p.ID) {
		if kid := s.Page(id); kid.IsFile() {
			n++
		} else if kid.IsFolder() {
			s.Walk(id, func(below *site.Page) bool {
				if below.IsFile() {
					n++
				}
				return true
			})
		}
	}
	return count.Of(n, "file", "files")
}

// kindOfFile is the sort of a file in a word, by its media type.
func kindOfFile(b site.Bytes) string {
	words := map[string]string{
		"application/pdf": "PDF", "text/plain": "Text", "text/csv": "Table as CSV", "text/calendar": "Calendar",
		"application/zip": "Archive", "audio/mpeg": "Sound", "video/mp4": "Film", "application/epub+zip": "Book",
		"application/gpx+xml": "Track",
	}
	switch {
	case b.IsPicture():
		return fmt.Sprintf("Picture, %d × %d", b.Width, b.Height)
	case strings.Contains(b.Type, "word") || strings.HasSuffix(b.Type, "document.text"):
		return "Document"
	case strings.Contains(b.Type, "sheet"):
		return "Table"
	case strings.Contains(b.Type, "presentation"):
		return "Slides"
	}
	return cmp.Or(words[b.Type], b.Type)
}

// A fileSheet is what the sheet says of a file.
type fileSheet struct {
	Words string
	URL   string // of the draft's version, in the workbench
	Shown string // the picture, for the sheet
}

// fileOn gives what the sheet says of a file; nil for a page that is none.
func fileOn(d *desk.Desk, p *site.Page) *fileSheet {
	if !p.IsFile() {
		return nil
	}
	holds := p.BytesOf()
	v := &fileSheet{
		Words: kindOfFile(holds) + ", " + count.Bytes(holds.Size),
		URL: fmt.Sprintf("/files/bytes?page=%d&draft=%d&state=%s&v=%s",
			p.ID, d.Draft.ID, d.State, holds.Version()),
	}
	if holds.IsPicture() {
		v.Shown = v.URL + "&w=480"
		if holds.Width <= 480 {
			v.Shown = v.URL
		}
	}
	return v
}

// upload takes a file: a new one, in a folder or below a page, or another version of one that is there. It waits in the
// draft, as any edit.
func (s *Area) upload(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	if d.State == "now" {
		return &edit.Refusal{Sentence: "You are looking at what is public now. To edit, go to “After publishing”."}
	}
	may := []string{string(site.ActionArrange), string(site.ActionEdit)}
	if !slices.ContainsFunc(may, func(action string) bool { return d.MayAnywhere(action).Yes }) {
		return fmt.Errorf("%w: %s", desk.ErrForbidden, d.MayAnywhere(may[0]).Why)
	}
	brought, header, err := r.FormFile("file")
	if err != nil {
		return &edit.Refusal{Sentence: fmt.Sprintf("Choose a file of %s at most.", count.Bytes(blob.Limit))}
	}
	defer brought.Close()
	holds, err := s.Settings.Files.Bytes.Keep(r.Context(), header.Filename, brought)
	var refused *blob.Refusal
	if errors.As(err, &refused) {
		return &edit.Refusal{Sentence: "“" + header.Filename + "” was not kept. " + refused.Sentence}
	}
	if err != nil {
		return err
	}
	if id := desk.Number[site.PageID](r.FormValue("replace")); id != 0 {
		return s.replace(w, r, d, id, holds)
	}
	ids, err := s.Store.NewPageIDs(r.Context(), 2)
	if err != nil {
		return err
	}
	label := strings.TrimSuffix(
		filepath.Base(strings.ReplaceAll(header.Filename, `\`, "/")),
		filepath.Ext(header.Filename),
	)
	made, _, err := s.InDraft(r, d, func(on *site.Site) ([]edit.Op, string, error) {
		ops, place := placeOfFile(on, desk.Number[site.PageID](r.FormValue("parent")), ids[1])
		name := edit.FreeFileName(blob.Name(header.Filename, holds), s.Settings.Files.Dir.Has, on, d.Draft.Base.Site)
		file := edit.MakeFile(ids[0], place, cmp.Or(strings.TrimSpace(label), name), name, holds)
		return append(ops, file), "uploaded “" + desk.Short(label) + "”", nil
	})
	if err != nil {
		return err
	}
	file := made.Site.Page(ids[0])
	s.Say(w, http.StatusOK, desk.Reply{
		Said: "Uploaded “" + file.Label + "”: " + desk.Place(made.Site, file.ID) + ".",
		Page: int64(file.ID), Hits: []desk.Hit{d.FileHit(made.Site, file)},
	})
	return nil
}

// placeOfFile is where a file goes: below a page, into a folder, or where files of no page are.
func placeOfFile(s *site.Site, parent, folder site.PageID) ([]edit.Op, edit.Place) {
	switch p := s.Page(parent); {
	case p == nil || !s.InTree(parent) || p.Gathers() || p.Parent == 0:
		return edit.FilesPlace(s, folder)
	case p.IsFile():
		return nil, edit.Place{Parent: p.Parent}
	}
	return nil, edit.Place{Parent: parent}
}

// replace has a file hold other bytes. Its address stays, and so do all that lead to it.
func (s *Area) replace(w http.ResponseWriter, r *http.Request, d *desk.Desk, id site.PageID, holds site.Bytes) error {
	made, words, err := s.InDraft(r, d, func(on *site.Site) ([]edit.Op, string, error) {
		p := on.Page(id)
		switch {
		case p == nil || !on.InTree(id):
			return nil, "", &edit.Conflict{Page: id, Sentence: "The file is not there any more."}
		case p.BytesOf().IsPicture() != holds.IsPicture():
			return nil, "", &edit.Refusal{
				Sentence: "A picture is replaced by a picture, and any other file by one of its sort; upload this one anew.",
			}
		case !p.BytesOf().IsPicture() && p.BytesOf().Type != holds.Type:
			return nil, "", &edit.Refusal{
				Sentence: "“" + p.FileName() + "” can be replaced by a file of its type only.",
			}
		}
		change := edit.FieldChange{Field: edit.FieldBytes, Old: p.Bytes, New: holds.String()}
		return []edit.Op{edit.OpEdit{Page: id, Fields: []edit.FieldChange{change}}}, said("replaced", p), nil
	})
	if err != nil {
		return err
	}
	s.Say(w, http.StatusOK, desk.Reply{
		Said: strings.ToUpper(words[:1]) + words[1:] + ". Its address stays.", Page: int64(id),
		Hits: []desk.Hit{d.FileHit(made.Site, made.Site.Page(id))},
	})
	return nil
}

// withdraw removes the bytes of a file at once and for good, after a wrong upload: no edit, and nothing brings them
// back. Who may edit the file may do that, and it is recorded.
func (s *Area) withdraw(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	if err := d.MustRead(); err != nil {
		return err
	}
	p := d.Site.Page(d.Selected)
	if p == nil || !p.IsFile() {
		return &edit.Refusal{Sentence: "There is no such file."}
	}
	if answer := d.MayHere(string(site.ActionEdit)); !answer.Yes {
		return fmt.Errorf("%w: %s", desk.ErrForbidden, answer.Why)
	}
	if r.FormValue("sure") != "yes" {
		return &edit.Refusal{Sentence: "Say first that you are sure; this can't be undone."}
	}
	for _, on := range []*site.Site{d.Draft.Base.Site, d.Draft.Site} {
		for _, id := range on.Files() {
			if other := on.Page(id); id != p.ID && other.BytesOf().Hash == p.BytesOf().Hash {
				return &edit.Refusal{Sentence: "“" + other.Label + "” holds the same bytes; replace or bin that one first."}
			}
		}
	}
	if err := s.Settings.Files.Bytes.Remove(r.Context(), p.BytesOf()); err != nil {
		return err
	}
	if err := s.Store.Note(r.Context(), d.Who, "removed the bytes of the file “"+p.FileName()+"” for good"); err != nil {
		return err
	}
	s.Say(w, http.StatusOK, desk.Reply{
		Said: "The bytes are gone for good. Its address answers “gone” until the file is replaced.", Page: int64(p.ID),
	})
	return nil
}

// fileBytes sends a file of the draft, or of what is public, to who may read it.
func (s *Area) fileBytes(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	if err := d.MustRead(); err != nil {
		return err
	}
	p := d.Site.Page(d.Selected)
	if p == nil || !p.IsFile() {
		return &edit.Refusal{Sentence: "There is no such file."}
	}
	return desk.SendFile(w, r, s.Settings.Files.Bytes, p)
}

// makeFolder makes a folder in another one, or beside those that there are.
func (i *intent) makeFolder(s *site.Site) ([]edit.Op, string, error) {
	label := strings.TrimSpace(i.form("label"))
	parent := s.Home()
	for p := s.Page(i.page); p != nil; p = s.Page(p.Parent) {
		if !p.IsFile() && s.InTree(p.ID) {
			parent = p.ID
			break
		}
	}
	return []edit.Op{edit.MakeFolder(i.newID, edit.Place{Parent: parent}, label)},
		"made the folder “" + desk.Short(label) + "”", nil
}

// thumbnails gives the pictures right inside a folder or page, for the list as pictures.
func thumbnails(d *desk.Desk, id site.PageID) []thumbnail {
	var all []thumbnail
	s := d.Site
	at := s.Page(id)
	if at != nil && at.IsFile() {
		at = s.Page(at.Parent)
	}
	if at == nil {
		return nil
	}
	for _, kid := range s.Children(at.ID) {
		if p := s.Page(kid); p.BytesOf().IsPicture() && len(all) < thumbnailsShown {
			shown := fileOn(d, p)
			all = append(
				all,
				thumbnail{kid, p.Label, shown.Shown, picture.Of(p, "", "").Alt == "", kid == d.Selected},
			)
		}
	}
	return all
}

const thumbnailsShown = 60

// A thumbnail is a picture in the list as pictures.
type thumbnail struct {
	Page     site.PageID
	Label    string
	Src      string
	Wordless bool
	Selected bool
}
