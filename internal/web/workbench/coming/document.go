package coming

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"path"
	"slices"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/formats/outline"
	"vineladder/internal/formats/redirects"
	"vineladder/internal/intake"
	"vineladder/internal/web/workbench/desk"
)

// A bringing looks at what was uploaded, or brings it into the draft.
type bringing func(*http.Request, *desk.Desk, func(news)) (news, error)

// document finds what was uploaded: an archive of web pages, a structure sheet, a table of old addresses, or menus.
func (s *Area) document(brought multipart.File, header *multipart.FileHeader) (bringing, error) {
	begin := make([]byte, 4096)
	n, _ := io.ReadFull(brought, begin)
	begin = begin[:n]
	if _, err := brought.Seek(0, io.SeekStart); err != nil {
		return nil, fmt.Errorf("read an upload: %w", err)
	}
	switch ending := strings.ToLower(path.Ext(header.Filename)); {
	case bytes.HasPrefix(begin, []byte("PK\x03\x04")):
		archive, err := zip.NewReader(brought, header.Size)
		if err != nil {
			break
		}
		if isWorkbook(archive) {
			return s.table(brought, s.sheet), nil
		}
		return func(r *http.Request, d *desk.Desk, tell func(news)) (news, error) {
			return s.folder(r, d, archive, tell)
		}, checked(archive)
	case ending == ".csv" && isAddresses(begin):
		return s.table(brought, s.addresses), nil
	case ending == ".csv":
		return s.table(brought, s.sheet), nil
	case ending == ".opml" || ending == ".json" || ending == ".xml":
		return s.table(brought, s.menus), nil
	}
	return nil, &edit.Refusal{
		Sentence: "“" + header.Filename + "” is none of what can be brought in: a ZIP archive of " +
			"HTML files, a structure sheet or old addresses as CSV or XLSX, menus as OPML or JSON.",
	}
}

func isWorkbook(archive *zip.Reader) bool {
	return slices.ContainsFunc(archive.File, func(f *zip.File) bool { return f.Name == "xl/workbook.xml" })
}

// isAddresses says whether the first line of a table names what old addresses have.
func isAddresses(begin []byte) bool {
	first, _, _ := strings.Cut(strings.TrimPrefix(string(begin), "\ufeff"), "\n")
	names := strings.Split(strings.TrimSpace(first), ",")
	return slices.Contains(names, "from") && slices.Contains(names, "to")
}

// A reading gives the operations that bring a draft to what a document says.
type reading func(*http.Request, *site.Site, io.Reader) ([]edit.Op, error)

func (s *Area) sheet(r *http.Request, on *site.Site, from io.Reader) ([]edit.Op, error) {
	return intake.Sheet(r.Context(), s.Store, on, from, s.Now(), s.host())
}

func (s *Area) addresses(_ *http.Request, on *site.Site, from io.Reader) ([]edit.Op, error) {
	return redirects.Read(from, on, s.Settings.Site, s.Now())
}

func (s *Area) menus(r *http.Request, on *site.Site, from io.Reader) ([]edit.Op, error) {
	document, err := io.ReadAll(from)
	if err != nil {
		return nil, err
	}
	menus, err := outline.Read(document)
	if err != nil {
		return nil, err
	}
	return intake.Menus(r.Context(), s.Store, on, menus, s.Settings.Site, s.Now())
}

// table brings a document in that says what is to be, thing by thing.
func (s *Area) table(brought io.Reader, read reading) bringing {
	return func(r *http.Request, d *desk.Desk, tell func(news)) (news, error) {
		tell(news{Doing: "Reading", Of: 1})
		ops, err := read(r, d.Draft.Site, brought)
		if err != nil {
			const none = "Nothing was brought in. "
			return news{}, &edit.Refusal{Sentence: none + strings.ReplaceAll(err.Error(), "\n", "; ") + "."}
		}
		if len(ops) == 0 {
			return news{Said: "It says what is there already; nothing changes."}, nil
		}
		end := news{More: max(0, len(ops)-shownRows)}
		made := map[site.PageID]string{}
		for _, op := range ops[:min(len(ops), shownRows)] {
			end.Rows = append(end.Rows, rowOf(d.Draft.Site, op, made))
		}
		said := count.Of(len(ops), "edit", "edits")
		operations := func(*site.Site) ([]edit.Op, string, error) { return ops, "brought in " + said, nil }
		if r.FormValue("do") != "bring" {
			tell(news{Doing: "Comparing", Of: 1})
			_, end.Changes, err = s.Tried(r, d, operations)
			end.Said = "It makes " + said + "."
			return end, err
		}
		_, _, err = s.InDraft(r, d, operations)
		return news{Said: "Brought in: " + said + ".", URL: d.Link("/tree", "page", fmt.Sprint(d.Selected))}, err
	}
}

// rowOf says what an operation does, and to what. labels has those of pages that others before it make.
func rowOf(on *site.Site, op edit.Op, labels map[site.PageID]string) row {
	about := op.About(on)
	made := row{File: about.What, Label: about.Name}
	if label := labels[op.Subject()]; label != "" {
		made = row{Label: label}
	}
	switch o := op.(type) {
	case edit.OpMake:
		made.Told = "new"
		for _, c := range o.Fields {
			if c.Field == edit.FieldLabel {
				made.Label, labels[o.Page] = c.New, c.New
			}
		}
	case edit.OpMove:
		made.Told = "moves"
	case edit.OpEdit:
		var fields []string
		for _, c := range o.Fields {
			fields = append(fields, c.Field.Words())
		}
		made.Told = "changes: " + strings.Join(fields, ", ")
	case edit.OpMakeMenu:
		made.Label, made.Told = o.Name, "new menu"
	default:
		made.Told = "changes"
	}
	return made
}
