package webpages

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/url"
	"path"
	"strconv"
	"strings"
	"time"

	"golang.org/x/net/html"

	"vineladder/internal/core/address"
	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// A Destination is where a folder goes, and the means by which it is brought there.
type Destination struct {
	Below  site.PageID
	WereAt string // address at which the folder stood, as in "/handbook"; "" for no old addresses
	Now    time.Time

	IDs  func(n int) ([]site.PageID, error)
	Keep func(name string, from io.Reader) (site.Bytes, error) // a refusal leaves the file out
	// Clean gives a text in the shape in which texts are kept, Save the hashes of such texts.
	Clean func(on *site.Site, raw string) string
	Save  func(texts []string) ([]string, error)
	// Free gives a name that no file has.
	Free func(on *site.Site, wanted string, holds site.Bytes) string
	Told Progress
}

// A Plan is what bringing a folder in does.
type Plan struct {
	Ops     []edit.Op
	Top     site.PageID // the page of the folder
	Pages   int
	Files   int
	Remarks []string
}

// Brings gives the operations that bring a folder to a site, and what is to be said of it. A Folder is brought once.
func (f *Folder) Brings(ctx context.Context, on *site.Site, to Destination) (*Plan, error) {
	if p := on.Page(to.Below); p == nil || !on.InTree(to.Below) {
		return nil, &edit.Refusal{Sentence: "The page below which the folder is to stand is not there."}
	}
	ids, err := to.IDs(len(f.Pages) + len(f.Files) + 2)
	if err != nil {
		return nil, err
	}
	made := &Plan{Top: ids[0], Pages: len(f.Pages)}
	files, with, err := f.bringFiles(ctx, on, to, ids[len(f.Pages):], made)
	if err != nil {
		return nil, err
	}
	byPage := make(map[*Page]site.PageID, len(f.Pages))
	for i, p := range f.Pages {
		byPage[p] = ids[i]
	}
	texts := make([]string, len(f.Pages))
	err = each(ctx, len(texts), to.Told, func(i int) error {
		texts[i] = to.Clean(with, f.Pages[i].written(byPage, files))
		return nil
	})
	if err != nil {
		return nil, err
	}
	hashes, err := to.Save(texts)
	if err != nil {
		return nil, err
	}
	f.Top.Segment = freeBelow(on, to.Below, f.Top)
	pages := make([]edit.Op, len(f.Pages))
	for i, p := range f.Pages {
		pages[i] = p.op(ids[i], byPage, hashes[i], to)
	}
	made.Ops = append(made.Ops, pages...)
	if to.WereAt == "" {
		return made, nil
	}
	// An old address that something has, one of the new pages among it, is not taken from it.
	with, err = applied(on, made.Ops, to.Now)
	if err != nil {
		return nil, err
	}
	first := len(made.Ops) - len(pages)
	for i, p := range f.Pages {
		if old := p.oldAddresses(ids[i], to, with, made); len(old) > 0 {
			op := pages[i].(edit.OpMake)
			op.Fields = append(op.Fields, edit.FieldChange{
				Field: edit.FieldShortAddresses, New: strings.Join(old, "\n"),
			})
			made.Ops[first+i] = op
		}
	}
	return made, nil
}

// bringFiles keeps the files that pages show or link, in a folder among the files, and gives the Site that has them.
func (f *Folder) bringFiles(
	ctx context.Context, on *site.Site, to Destination, ids []site.PageID, made *Plan,
) (map[string]site.PageID, *site.Site, error) {
	files := map[string]site.PageID{}
	if len(f.Files) == 0 {
		return files, on, nil
	}
	above, place := edit.FilesPlace(on, ids[0])
	ops := append(above, edit.MakeFolder(ids[1], place, f.Top.Label))
	with, err := applied(on, ops, to.Now)
	if err != nil {
		return nil, nil, err
	}
	for i, name := range f.Files {
		if err := ctx.Err(); err != nil {
			return nil, nil, err
		}
		holds, err := f.keep(name, to)
		var refused *edit.Refusal
		if errors.As(err, &refused) {
			made.Remarks = append(made.Remarks, fmt.Sprintf("%s is left out: %s", name, refused.Sentence))
			continue
		}
		if err != nil {
			return nil, nil, err
		}
		id := ids[i+2]
		op := edit.MakeFile(
			id,
			edit.Place{Parent: ids[1]},
			path.Base(name),
			to.Free(with, path.Base(name), holds),
			holds,
		)
		if with, err = applied(with, []edit.Op{op}, to.Now); err != nil {
			return nil, nil, err
		}
		ops, files[name] = append(ops, op), id
		made.Files++
	}
	if made.Files > 0 {
		made.Ops = ops
		return files, with, nil
	}
	return files, on, nil
}

func (f *Folder) keep(name string, to Destination) (site.Bytes, error) {
	file, err := f.from.Open(name)
	if err != nil {
		return site.Bytes{}, fmt.Errorf("%s can't be read: %w", name, err)
	}
	defer file.Close()
	return to.Keep(path.Base(name), file)
}

func applied(on *site.Site, ops []edit.Op, now time.Time) (*site.Site, error) {
	next, _, err := edit.ApplyAll(on, ops, now)
	return next, err
}

// written gives the text of a page with its links by identity. What leads to a file that was left out leaves its words.
func (p *Page) written(pages map[*Page]site.PageID, files map[string]site.PageID) string {
	for _, l := range p.links {
		id, part := pages[l.page], ""
		if l.page == nil {
			id = files[l.file]
		} else if part = l.page.parts[l.part]; part != "" {
			part = "#" + part
		}
		switch {
		case id == 0:
			unlink(l.node)
		case l.page == p && part != "":
			set(l.node, "href", part)
		case l.node.Data == "img":
			set(l.node, "src", "page:"+strconv.FormatInt(int64(id), 10))
		default:
			set(l.node, "href", "page:"+strconv.FormatInt(int64(id), 10)+part)
		}
	}
	var out strings.Builder
	for c := p.body.FirstChild; c != nil; c = c.NextSibling {
		if err := html.Render(&out, c); err != nil { // a builder gives none
			return ""
		}
	}
	return out.String()
}

// freeBelow gives the segment that the top of a folder has beside what stands there already.
func freeBelow(on *site.Site, below site.PageID, top *Page) string {
	taken := map[string]bool{}
	for _, kid := range on.Children(below) {
		taken[on.Page(kid).Segment] = true
	}
	return freeSegment(top.Label, taken)
}

// op makes a page, live, last in the one above it.
func (p *Page) op(id site.PageID, ids map[*Page]site.PageID, text string, to Destination) edit.OpMake {
	place := edit.Place{Parent: to.Below}
	if p.Parent != nil {
		place.Parent = ids[p.Parent]
	}
	op := edit.OpMake{Page: id, Place: place}
	add := func(field edit.Field, value string) {
		if value != "" {
			op.Fields = append(op.Fields, edit.FieldChange{Field: field, New: value})
		}
	}
	add(edit.FieldLabel, p.Label)
	add(edit.FieldTitle, p.Title)
	add(edit.FieldSummary, p.Summary)
	add(edit.FieldSegment, p.Segment)
	add(edit.FieldText, text)
	add(edit.FieldStatus, string(site.StatusLive))
	return op
}

// oldAddresses are those at which a page stood where it comes from: they lead to it from now on. with is the Site that
// has the page.
func (p *Page) oldAddresses(id site.PageID, to Destination, with *site.Site, made *Plan) []string {
	var old []string
	for _, at := range []string{p.Path, p.Dir} {
		if at == "" {
			continue
		}
		escaped := (&url.URL{Path: path.Clean("/" + at)}).EscapedPath()
		normal, err := address.Normal(address.Slashed(to.WereAt) + "/" + escaped)
		if err == nil {
			err = address.CheckFixed(normal)
		}
		found := address.Resolve(with, normal, to.Now)
		switch {
		case at == "." && normal == "/": // nobody's but the home page's
		case err != nil:
			made.Remarks = append(made.Remarks, fmt.Sprintf("%s: it can't be reached as before: %v.", at, err))
		case found.Page == id: // at its own
		case found.Page != 0:
			made.Remarks = append(made.Remarks, fmt.Sprintf("%s: “%s” has the address %s already.", at,
				with.Page(found.Page).Label, normal))
		default:
			old = append(old, normal)
		}
	}
	return old
}

// Told says what is brought of a page, and what is not: a line.
func (p *Page) Told() string {
	line := p.Name() + " → “" + p.Label + "”"
	if has := p.Has(); has != "" {
		line += ": " + has
	}
	if lacks := p.Lacks(); lacks != "" {
		line += "; " + lacks
	}
	return line
}

// Has says what a page has.
func (p *Page) Has() string {
	var words []string
	for _, part := range []struct {
		n         int
		one, many string
	}{
		{p.Headings, "heading", "headings"},
		{p.Lists, "list", "lists"},
		{p.Tables, "table", "tables"},
		{p.Pictures, "picture", "pictures"},
		{p.Within, "link within", "links within"},
		{p.Beyond, "link elsewhere", "links elsewhere"},
	} {
		if part.n > 0 {
			words = append(words, count.Of(part.n, part.one, part.many))
		}
	}
	return strings.Join(words, ", ")
}

// Lacks says what of the file is not brought.
func (p *Page) Lacks() string {
	var words []string
	if len(p.Left) > 0 {
		words = append(words, "left out: "+strings.Join(p.Left, ", "))
	}
	if len(p.Dead) > 0 {
		dead := "leads nowhere: " + strings.Join(p.Dead[:min(len(p.Dead), deadTold)], ", ")
		if more := len(p.Dead) - deadTold; more > 0 {
			dead += " and " + count.Number(more) + " more"
		}
		words = append(words, dead)
	}
	return strings.Join(words, "; ")
}

// deadTold bounds the links of a page that lead nowhere and are told.
const deadTold = 3

// Name is the file of a page, or its folder where it has none.
func (p *Page) Name() string {
	if p.Path == "" {
		return p.Dir + "/"
	}
	return p.Path
}
