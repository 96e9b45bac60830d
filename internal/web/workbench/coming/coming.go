package coming

import (
	"archive/zip"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"path/filepath"
	"slices"
	"time"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/formats/webpages"
	"vineladder/internal/intake"
	"vineladder/internal/web/workbench/desk"
)

// comingView is where something is chosen that is to be brought in.
type comingView struct {
	desk.Screen
	Below  *site.Page
	Where  string
	Locked string // why nothing can be brought in there; "" if it can
	Most   string
}

func (s *Area) screen(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	screen, err := s.Screen(r, d, "import")
	if err != nil {
		return err
	}
	view := comingView{
		Screen: screen, Below: d.Site.Page(d.Selected), Where: desk.Place(d.Site, d.Selected),
		Most: count.Bytes(desk.ImportLimit),
	}
	if may := d.MayHere(string(site.ActionArrange)); !may.Yes {
		view.Locked = may.Why
	} else if d.State == "now" {
		view.Locked = "You are looking at what is public now. To edit, go to “After publishing”."
	}
	name := "import"
	if r.Header.Get("X-Part") != "" {
		name = "import-parts"
	}
	s.Render(w, r, name, view)
	return nil
}

// A news is a line that says how far the work is, or how it ended.
type news struct {
	Doing string `json:"doing,omitempty"`
	Done  int    `json:"done,omitempty"`
	Of    int    `json:"of,omitempty"`

	Rows    []row    `json:"rows,omitempty"`
	Changes []string `json:"changes,omitempty"` // what visitors get otherwise, in words
	More    int      `json:"more,omitempty"`    // pages beyond those in rows
	Said    string   `json:"said,omitempty"`
	URL     string   `json:"url,omitempty"`
	Error   string   `json:"error,omitempty"`
}

// A row says what is brought of a file.
type row struct {
	File  string `json:"file"`
	Label string `json:"label"`
	Told  string `json:"told"`
	Left  string `json:"left,omitempty"` // what is not
}

// shownRows bounds the pages that the screen lists.
const shownRows = 1000

// told is how often the screen is told how far the work is.
const told = 200 * time.Millisecond

// bring looks at what is uploaded, or brings it into the draft, and says all the while how far it is. Who goes away, or
// says stop, ends it: then nothing is in the draft.
func (s *Area) bring(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	some := []string{string(site.ActionArrange), string(site.ActionEdit), string(site.ActionLink)}
	if !slices.ContainsFunc(some, func(action string) bool { return d.MayAnywhere(action).Yes }) {
		return fmt.Errorf("%w: %s", desk.ErrForbidden, d.MayAnywhere(some[0]).Why)
	}
	brought, header, err := r.FormFile("file")
	if err != nil {
		return &edit.Refusal{
			Sentence: fmt.Sprintf("Choose a file of %s at most.", count.Bytes(desk.ImportLimit)),
		}
	}
	defer brought.Close()
	brings, err := s.document(brought, header)
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "application/x-ndjson")
	tell := s.teller(w)
	end, err := brings(r, d, tell)
	if err != nil {
		end = news{Error: s.sentence(r.Context(), err)}
	}
	tell(end)
	return nil
}

// Bounds of an archive: all that is in it, unpacked, in bytes.
const unpackedLimit = 2 << 30

// checked refuses an archive that holds more than it seems, or names that lead out of it.
func checked(archive *zip.Reader) error {
	var size uint64
	for _, file := range archive.File {
		if size += file.UncompressedSize64; size > unpackedLimit {
			return &edit.Refusal{
				Sentence: fmt.Sprintf("The archive holds more than %s.", count.Bytes(unpackedLimit)),
			}
		}
		if !filepath.IsLocal(file.Name) {
			return &edit.Refusal{
				Sentence: fmt.Sprintf("The archive names “%s”, which is not inside of it.", file.Name),
			}
		}
	}
	return nil
}

// teller gives a function that writes news to the screen.
func (s *Area) teller(w http.ResponseWriter) func(news) {
	out := json.NewEncoder(w)
	control := http.NewResponseController(w)
	return func(what news) {
		_ = out.Encode(what) // the reader may have left
		_ = control.Flush()
	}
}

// folder brings a folder of web pages in.
func (s *Area) folder(r *http.Request, d *desk.Desk, archive *zip.Reader, tell func(news)) (news, error) {
	if may := d.MayHere(string(site.ActionArrange)); !may.Yes {
		return news{}, fmt.Errorf("%w: %s", desk.ErrForbidden, may.Why)
	}
	far := func(doing string) webpages.Progress {
		var last time.Time
		return func(done, of int) {
			if now := time.Now(); now.Sub(last) > told {
				last = now
				tell(news{Doing: doing, Done: done, Of: of})
			}
		}
	}
	folder, err := webpages.Read(r.Context(), archive, far("Reading"))
	if err != nil {
		return news{}, &edit.Refusal{Sentence: "Nothing was brought in: " + err.Error() + "."}
	}
	end := news{More: max(0, len(folder.Pages)-shownRows)}
	for _, p := range folder.Pages[:min(len(folder.Pages), shownRows)] {
		end.Rows = append(end.Rows, row{p.Name(), p.Label, p.Has(), p.Lacks()})
	}
	end.Said = fmt.Sprintf("%s, with %s that they show or link.", count.Pages(len(folder.Pages)),
		count.Of(len(folder.Files), "file", "files"))
	if r.FormValue("do") != "bring" {
		return end, nil
	}
	to := intake.Pages(r.Context(), s.Store, s.Settings.Files, s.Now(), s.host())
	to.Below, to.WereAt, to.Told = d.Selected, r.FormValue("were_at"), far("Bringing in")
	plan, err := folder.Brings(r.Context(), d.Draft.Site, to)
	if err != nil {
		return news{}, err
	}
	words := "brought in " + count.Pages(plan.Pages) + " from “" + desk.Short(folder.Top.Label) + "”"
	_, _, err = s.InDraft(r, d, func(*site.Site) ([]edit.Op, string, error) { return plan.Ops, words, nil })
	if err != nil {
		return news{}, err
	}
	end.Said = fmt.Sprintf("Brought in %s and %s.", count.Pages(plan.Pages), count.Of(plan.Files, "file", "files"))
	for _, remark := range plan.Remarks[:min(len(plan.Remarks), shownRows)] {
		end.Rows = append(end.Rows, row{Left: remark})
	}
	end.URL = d.Link("/tree", "page", fmt.Sprint(plan.Top))
	return end, nil
}

// host is that of the public site: links to it are the site's own.
func (s *Area) host() string {
	public, err := url.Parse(s.Settings.Site)
	if err != nil { // the desk was opened with it
		return ""
	}
	return public.Host
}

// sentence is what a person reads of an error that came while news were told.
func (s *Area) sentence(ctx context.Context, err error) string {
	var refusal *edit.Refusal
	var conflict *edit.Conflict
	switch {
	case errors.As(err, &refusal):
		return refusal.Sentence
	case errors.As(err, &conflict):
		return conflict.Sentence
	case errors.Is(err, desk.ErrForbidden):
		return err.Error()
	case errors.Is(err, io.ErrUnexpectedEOF), ctx.Err() != nil:
		return "The upload was cut off; nothing was brought in."
	}
	s.Log.Error("an import failed", "error", err)
	return "This could not be done, by a fault of the program or its database; nothing was brought in."
}
