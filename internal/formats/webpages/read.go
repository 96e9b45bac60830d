// Package webpages brings a folder of HTML files in, as another program wrote them: a page for each, standing as the
// files stand in their folders, with links between them by identity and the other files that they show or link.
package webpages

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"runtime"
	"slices"
	"strings"
	"sync"

	"golang.org/x/net/html"
	"golang.org/x/net/html/charset"
	"golang.org/x/sync/errgroup"

	"vineladder/internal/core/address"
	"vineladder/internal/core/say"
)

// Bounds of what is read: files in the folder, and bytes of one page.
const (
	FilesLimit = 20_000
	PageLimit  = 5 << 20
)

// A Folder is what was read of a folder.
type Folder struct {
	Top   *Page
	Pages []*Page  // all, a page before those in it, in their order
	Files []string // that are no pages and that a page shows or links, by their path
	from  fs.FS
	byDir map[string]*Page
}

// A Page is one that the folder brings: an HTML file, or a folder without one of its own.
type Page struct {
	Path                     string // of the file in the folder; "" without one
	Dir                      string // whose pages stand in it; "" for none
	Label, Title, Summary    string
	Segment                  string
	Parent                   *Page
	Children                 []*Page
	Headings, Lists, Tables  int
	Pictures, Within, Beyond int      // shown; links to what the folder brings, and to elsewhere
	Dead                     []string // links and pictures to what it does not have
	Left                     []string // what is left out, in words

	body  *html.Node
	parts map[string]string // addresses of headings by the ids in the file
	links []link
}

// A Progress is told how far the work is.
type Progress func(done, of int)

// Read reads a folder. What is wrong with one file is said of its page; the error is about all.
func Read(ctx context.Context, from fs.FS, told Progress) (*Folder, error) {
	names, err := filesIn(from)
	if err != nil {
		return nil, err
	}
	f := &Folder{from: from, byDir: map[string]*Page{}}
	read := make([]*Page, len(names.pages))
	err = each(ctx, len(read), told, func(i int) (err error) {
		read[i], err = f.read(names.pages[i])
		return err
	})
	if err != nil {
		return nil, err
	}
	byPath := make(map[string]*Page, len(read))
	for i, name := range names.pages {
		byPath[name] = read[i]
	}
	f.stand(names.pages, byPath)
	shown := map[string]bool{}
	for _, p := range byPath {
		f.follow(p, byPath, names.others, shown)
	}
	f.line(f.Top)
	for name := range shown {
		f.Files = append(f.Files, name)
	}
	slices.Sort(f.Files)
	return f, nil
}

// each does the work of many things beside each other, as many at once as the machine can, until one fails or ctx ends.
func each(ctx context.Context, n int, told Progress, work func(i int) error) error {
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(runtime.GOMAXPROCS(0))
	var telling sync.Mutex
	done := 0
	for i := range n {
		group.Go(func() error {
			if err := ctx.Err(); err != nil {
				return err
			}
			if err := work(i); err != nil {
				return err
			}
			telling.Lock()
			defer telling.Unlock()
			done++
			told(done, n)
			return nil
		})
	}
	return group.Wait()
}

type names struct {
	pages  []string
	others map[string]bool
}

// filesIn lists the files of a folder: what is hidden is left out.
func filesIn(from fs.FS) (names, error) {
	all := names{others: map[string]bool{}}
	err := fs.WalkDir(from, ".", func(name string, entry fs.DirEntry, err error) error {
		switch {
		case err != nil:
			return fmt.Errorf("the folder can't be read: %w", err)
		case name != "." && strings.HasPrefix(path.Base(name), "."):
			if entry.IsDir() {
				return fs.SkipDir
			}
			return nil
		case entry.IsDir():
			return nil
		case !entry.Type().IsRegular():
			return nil // what leads out of the folder stays there
		case isPage(name):
			all.pages = append(all.pages, name)
		default:
			all.others[name] = true
		}
		if len(all.pages)+len(all.others) > FilesLimit {
			return fmt.Errorf("the folder has more than %d files", FilesLimit)
		}
		return nil
	})
	if err == nil && len(all.pages) == 0 {
		err = errors.New("the folder has no HTML file")
	}
	return all, err
}

func isPage(name string) bool {
	return slices.Contains([]string{".html", ".htm", ".xhtml"}, strings.ToLower(path.Ext(name)))
}

// isIndex says whether a file is the page of its folder.
func isIndex(name string) bool {
	stem := strings.ToLower(strings.TrimSuffix(path.Base(name), path.Ext(name)))
	return stem == "index" || stem == "default"
}

// read reads one file.
func (f *Folder) read(name string) (*Page, error) {
	file, err := f.from.Open(name)
	if err != nil {
		return nil, fmt.Errorf("%s can't be read: %w", name, err)
	}
	defer file.Close()
	p := &Page{Path: name, parts: map[string]string{}}
	if info, err := file.Stat(); err != nil || info.Size() > PageLimit {
		p.Label, p.body = stemOf(name), emptyBody()
		p.Left = []string{fmt.Sprintf("its text: it has more than %d MiB", PageLimit>>20)}
		return p, err
	}
	decoded, err := charset.NewReader(file, "text/html")
	if err != nil {
		return nil, fmt.Errorf("%s can't be read: %w", name, err)
	}
	root, err := html.Parse(decoded)
	if err != nil {
		p.Label, p.body = stemOf(name), emptyBody()
		p.Left = []string{"its text: " + err.Error()}
		return p, nil
	}
	p.take(root)
	return p, nil
}

func stemOf(name string) string { return strings.TrimSuffix(path.Base(name), path.Ext(name)) }

// stand puts the pages into folders: the page of a folder is its index, and where it has none it is named after it. The
// order is that in which the folder's page links them, and for the rest that of their names.
func (f *Folder) stand(pages []string, byPath map[string]*Page) {
	for _, name := range pages {
		if dir := path.Dir(name); isIndex(name) && f.byDir[dir] == nil {
			f.byDir[dir] = byPath[name]
			byPath[name].Dir = dir
		}
	}
	holds := map[string]bool{}
	for _, name := range pages {
		for dir := path.Dir(name); !holds[dir]; dir = path.Dir(dir) {
			holds[dir] = true
		}
	}
	for _, name := range pages { // a file beside a folder of its name is that folder's page
		if dir := strings.TrimSuffix(name, path.Ext(name)); f.byDir[dir] == nil && holds[dir] {
			f.byDir[dir] = byPath[name]
			byPath[name].Dir = dir
		}
	}
	var dirPage func(dir string) *Page
	dirPage = func(dir string) *Page {
		p := f.byDir[dir]
		if p == nil {
			p = &Page{
				Dir:   dir,
				Label: say.Capital(strings.NewReplacer("-", " ", "_", " ").Replace(path.Base(dir))),
				body:  emptyBody(),
				parts: map[string]string{},
			}
			if dir == "." {
				p.Label = "Imported pages"
			}
			f.byDir[dir] = p
		}
		if p.Parent == nil && dir != "." {
			p.Parent = dirPage(path.Dir(dir))
			p.Parent.Children = append(p.Parent.Children, p)
		}
		return p
	}
	f.Top = dirPage(".")
	for _, name := range pages {
		above := dirPage(path.Dir(name))
		if p := byPath[name]; p != above && p.Parent == nil && p != f.Top {
			p.Parent = above
			above.Children = append(above.Children, p)
		}
	}
}

// line puts what stands in a page in order, gives each its segment, and lists it with all below it.
func (f *Folder) line(p *Page) {
	f.Pages = append(f.Pages, p)
	rank := map[*Page]int{}
	for i, l := range p.links {
		if _, known := rank[l.page]; !known {
			rank[l.page] = i
		}
	}
	at := func(kid *Page) int {
		if n, linked := rank[kid]; linked {
			return n
		}
		return len(p.links)
	}
	slices.SortStableFunc(p.Children, func(a, b *Page) int {
		if d := at(a) - at(b); d != 0 {
			return d
		}
		return strings.Compare(a.Path+a.Dir, b.Path+b.Dir)
	})
	taken := map[string]bool{}
	for _, kid := range p.Children {
		name := stemOf(kid.Path)
		if kid.Dir != "" {
			name = path.Base(kid.Dir)
		}
		kid.Segment = freeSegment(name, taken)
		f.line(kid)
	}
}

// freeSegment makes a segment of a name that none beside it has, cut where a number has to fit behind it.
func freeSegment(name string, taken map[string]bool) string {
	wanted := address.Segment(strings.ReplaceAll(name, "_", "-"))
	free := wanted
	for n := 2; taken[free]; n++ {
		number := fmt.Sprintf("-%d", n)
		cut := wanted[:min(len(wanted), address.SegmentLimit-len(number))] // it is ASCII
		free = strings.TrimRight(cut, "-") + number
	}
	taken[free] = true
	return free
}
