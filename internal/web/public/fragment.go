package public

import (
	"bytes"
	"cmp"
	"fmt"
	"hash/fnv"
	"html/template"
	"slices"
	"strings"
	"sync"
	"sync/atomic"

	"vineladder/internal/core/count"
	"vineladder/internal/core/look"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/web/skin"
)

// Kept is what one generation keeps for one lens: the menus as it sees them, and what their blocks look like. Both
// depend on nothing else than the Site, the lens, and where the trail to the current page ends; so nothing in it is
// ever stale.
type Kept struct {
	views     sync.Map // site.MenuID -> *menu.View
	lines     sync.Map // linesKey -> []menu.Node
	fragments sync.Map // fragmentKey -> template.HTML
	branches  sync.Map // branchKey -> template.HTML
	pieces    sync.Map // pieceKey -> template.HTML
	missing   sync.Map // status -> *missing
	programs  sync.Map // programKey -> Response
	skin      sync.Once
	style     string // addresses of the theme's style sheet and that of the free pairs of colours
	pairs     string
	spent     *spent
}

// skins gives the addresses of the style sheets that come from data. Making them takes as long as a small page.
func (q Request) skins() (style, pairs string) {
	if q.Kept == nil {
		return skin.ThemePath(q.Site.Theme()), skin.PairsPath(q.Site)
	}
	q.Kept.skin.Do(func() { q.Kept.style, q.Kept.pairs = skin.ThemePath(q.Site.Theme()), skin.PairsPath(q.Site) })
	return q.Kept.style, q.Kept.pairs
}

// NewKept gives a place to keep what renderings for one Site, lens and moment have in common.
func NewKept() *Kept { return &Kept{spent: &spent{}} }

// spent is what a generation keeps already, in bytes, and of that what only one page can use.
type spent struct{ all, single atomic.Int64 }

// fragmentLimit bounds the bytes of lines and fragments that a generation keeps, for all lenses.
const fragmentLimit = 64 << 20

// What a kept line and the key of anything kept take, in bytes, about.
const (
	lineSize = 160
	keySize  = 256
)

// room takes what something needs from what may be kept; false: there is no more.
func (k *Kept) room(bytes int) bool { return k.spent.all.Add(int64(bytes+keySize)) <= fragmentLimit }

// roomFor does so for what a key names. What no other page can use takes a part of it at most, so that pages that are
// asked for once leave room for what many have in common.
func (k *Kept) roomFor(key linesKey, bytes int) bool {
	if key.current && k.spent.single.Add(int64(bytes+keySize)) > fragmentLimit/4 {
		return false
	}
	return k.room(bytes)
}

// A linesKey is what the lines of a menu block depend on.
type linesKey struct {
	block   site.BlockID
	entry   site.EntryID // the trail's end
	page    site.PageID  // that it leads to
	level   int
	current bool   // the end is the current page itself
	path    string // set where the menu has a way to sign in, which leads back
	narrow  string // set where the menu has a line for what the page lists as it is narrowed
}

// A fragmentKey is what the looks of a menu block depend on. One block may stand in several regions, and other blocks
// of a page can change the name of its landmark.
type fragmentKey struct {
	lines    linesKey
	look     string
	landmark string
}

// lines gives region the lines of menus: those that are kept, or made now.
type lines struct {
	q     Request
	views *region.Views // where nothing is kept
	keys  map[site.BlockID]linesKey
}

func (r *Renderer) menus(q Request) *lines {
	return &lines{q: q, views: region.NewViews(q.Site, q.Lens), keys: map[site.BlockID]linesKey{}}
}

// view looks at a menu for the request's lens.
func (l *lines) view(id site.MenuID) *menu.View {
	if l.q.Kept == nil {
		return l.views.View(id)
	}
	if view, known := l.q.Kept.views.Load(id); known {
		return view.(*menu.View)
	}
	view := l.views.View(id)
	if view != nil {
		l.q.Kept.views.Store(id, view)
	}
	return view
}

// Lines gives what a menu block shows on a page.
func (l *lines) Lines(b *site.Block, page site.PageID) []menu.Node {
	id, window, isMenu := b.Menu()
	view := l.view(id)
	if !isMenu || view == nil {
		return nil
	}
	if l.q.Kept == nil {
		return l.lit(b, view.Window(window, page), page)
	}
	key := l.key(b, view, page)
	l.keys[b.ID] = key
	found, known := l.q.Kept.lines.Load(key)
	made, _ := found.([]menu.Node)
	if !known {
		made = view.Window(window, page)
		if l.q.Kept.roomFor(key, lineCount(made)*lineSize) {
			l.q.Kept.lines.Store(key, made)
		}
	}
	return l.lit(b, made, page)
}

// lit lights what leads to the list of the page as it is narrowed.
func (l *lines) lit(b *site.Block, nodes []menu.Node, page site.PageID) []menu.Node {
	narrow := l.q.narrowing.Query(1)
	if narrow == "" {
		return nodes
	}
	lit, other := menu.Lit(nodes, page, narrow)
	if key := l.keys[b.ID]; other {
		key.narrow = narrow
		l.keys[b.ID] = key
	}
	return lit
}

// lineCount gives the number of lines, with those below.
func lineCount(nodes []menu.Node) int {
	n := len(nodes)
	for i := range nodes {
		n += lineCount(nodes[i].Children)
	}
	return n
}

func (l *lines) key(b *site.Block, view *menu.View, page site.PageID) linesKey {
	key := linesKey{block: b.ID}
	id, window, _ := b.Menu()
	m := l.q.Site.Menu(id)
	trail, deepest := view.Trail(page), menu.Deepest(l.q.Site, m, window)
	for len(trail) > 0 && trail[len(trail)-1].Level > deepest {
		trail = trail[:len(trail)-1] // the block shows nothing so deep: pages below a line share its looks
	}
	if len(trail) > 0 {
		end := trail[len(trail)-1]
		key.entry, key.page, key.level, key.current = end.Entry, end.Page, end.Level, end.Page == page
	}
	if !l.q.Lens.SignedIn && signsIn(m) {
		key.path = withQuery(l.q.Path, l.q.Query)
	}
	return key
}

func signsIn(m *site.Menu) bool {
	for i := range m.Entries {
		if to, isAccount := m.Entries[i].Shows.(site.ItemAccount); isAccount && to.Does == site.AccountSignIn {
			return true
		}
	}
	return false
}

// looks are the templates for menus by the region that they stand in.
var looks = map[string]string{"header": "menu-bar", "tasks": "menu-cards", "footer": "menu-columns"}

// fragment gives a menu block as it looks: kept, or made now and kept.
func (r *Renderer) fragment(q Request, l *lines, st region.Standing) (template.HTML, error) {
	key := fragmentKey{l.keys[st.Block.ID], cmp.Or(looks[st.Placement.Region], "menu-tree"), st.Landmark}
	if q.Kept != nil {
		if found, known := q.Kept.fragments.Load(key); known {
			return found.(template.HTML), nil
		}
	}
	id, _, _ := st.Block.Menu()
	m := q.Site.Menu(id)
	var items []item
	var err error
	if q.Kept == nil || key.look == "menu-bar" { // the bar has looks of its own for its first lines, and few lines
		items = r.items(q, look.Lines(q.Site, m, st.Lines))
	} else if items, err = r.trailed(q, st.Block.ID, m, st.Lines); err != nil {
		return "", err
	}
	var out bytes.Buffer
	shown := nav{st.Landmark, look.Title(st.Block), st.Block.Heading, items, foldID(st.Landmark)}
	if err := r.templates.ExecuteTemplate(&out, key.look, shown); err != nil {
		return "", fmt.Errorf("render the menu “%s”: %w", m.Name, err)
	}
	made := template.HTML(strings.TrimSpace(out.String())) // made by html/template just now
	if q.Kept != nil && q.Kept.roomFor(key.lines, len(made)) {
		q.Kept.fragments.Store(key, made)
	}
	return made, nil
}

// A branchKey is what the looks of a line of the tree, with all below it, depend on where the trail does not pass.
type branchKey struct {
	block site.BlockID
	entry site.EntryID
	page  site.PageID
	level int
}

// trailed gives the items of a menu. Lines of the tree beside the trail look the same on every page: they are made
// once, with all below them.
func (r *Renderer) trailed(q Request, block site.BlockID, m *site.Menu, nodes []menu.Node) ([]item, error) {
	var made []item
	var beside strings.Builder
	flush := func() {
		if beside.Len() > 0 {
			made = append(made, item{Done: template.HTML(beside.String())}) // made by html/template, line by line
			beside.Reset()
		}
	}
	for i := range nodes {
		n := &nodes[i]
		if !n.Trail && !n.Own && n.Page != 0 {
			done, err := r.branch(q, branchKey{block, n.Entry, n.Page, n.Level}, m, nodes[i:i+1])
			if err != nil {
				return nil, err
			}
			beside.WriteString(string(done))
			continue
		}
		flush()
		below, err := r.trailed(q, block, m, n.Children)
		if err != nil {
			return nil, err
		}
		value := look.Of(q.Site, m, n.Line)
		value.Walk(n.Trail, n.Current)
		made = append(made, r.itemOver(q, &value, below))
	}
	flush()
	return made, nil
}

// branch gives one line with all below it, kept or made now and kept.
func (r *Renderer) branch(q Request, key branchKey, m *site.Menu, node []menu.Node) (template.HTML, error) {
	if found, known := q.Kept.branches.Load(key); known {
		return found.(template.HTML), nil
	}
	var out bytes.Buffer
	if err := r.templates.ExecuteTemplate(&out, "branch", r.items(q, look.Lines(q.Site, m, node))[0]); err != nil {
		return "", fmt.Errorf("render a branch of the menu “%s”: %w", m.Name, err)
	}
	made := template.HTML(out.String()) // made by html/template just now
	if q.Kept.room(len(made)) {
		q.Kept.branches.Store(key, made)
	}
	return made, nil
}

// A nav is a menu with the name of its landmark. Its title stands inside it, as all on a page stands in some landmark.
type nav struct {
	Landmark string
	Title    string // "" if it is not shown
	Level    int    // of the title
	Items    []item
	Fold     string // the id of what folds where the screen is narrow
}

// foldID names what folds of a menu and what a search field is made of; landmarks have different names on a page.
func foldID(landmark string) string {
	sum := fnv.New32a()
	_, _ = sum.Write([]byte(landmark)) // to memory
	return fmt.Sprintf("menu-%x", sum.Sum32())
}

// An item is a line as the theme shows it. A heading has no Href; SignOut is a button, since it changes something.
type item struct {
	Label   string
	Href    string
	Hint    string // where it leads, as the link's title text
	Icon    string // address of its drawing
	Badge   badge
	NewTab  bool
	SignOut bool
	Trail   bool
	Current string
	Count   string // of pages; "" where it is not shown
	// a link with nothing but words and nothing below it; most are, and an escaper's call for each of their parts
	// takes longer than all else
	Plain    template.HTML
	Folds    bool // a heading, which opens and closes what is below it
	Children []item
	Done     template.HTML // lines that are made already, with all below them; nothing else counts then
}

// anchor writes a link as the template does. An address that is neither the site's own nor of a known scheme is left
// to the template, which lets no script through.
func anchor(i *item) template.HTML {
	if !slices.ContainsFunc(
		[]string{"/", "https://", "http://", "mailto:", "tel:"},
		func(begin string) bool { return strings.HasPrefix(i.Href, begin) },
	) {
		return ""
	}
	var out strings.Builder
	out.Grow(len(i.Href) + len(i.Label) + len(i.Hint) + 48)
	attribute := func(name, value string) {
		out.WriteString(name)
		out.WriteString(`="`)
		out.WriteString(template.HTMLEscapeString(value))
		out.WriteByte('"')
	}
	attribute("<a href", i.Href)
	if i.Trail {
		attribute(" class", "trail")
		if i.Current != "" {
			attribute(" aria-current", i.Current)
		}
	}
	if i.Hint != "" {
		attribute(" title", i.Hint)
	}
	out.WriteString(` dir="auto">`)
	out.WriteString(template.HTMLEscapeString(i.Label))
	if i.Count != "" {
		out.WriteString(` <span class="count">(` + i.Count + `)</span>`)
	}
	out.WriteString("</a>")
	return template.HTML(out.String())
}

// A badge is a short text beside a label. Class names its pair of colours.
type badge struct {
	Text, Class string
	Before      bool
}

func (r *Renderer) items(q Request, lines []look.Line) []item {
	made := make([]item, len(lines))
	for i := range lines {
		made[i] = r.item(q, &lines[i])
	}
	return made
}

func (r *Renderer) item(q Request, l *look.Line) item { return r.itemOver(q, l, r.items(q, l.Lines)) }

func (r *Renderer) itemOver(q Request, l *look.Line, below []item) item {
	made := item{
		Label: l.Label, Href: l.Href, Hint: l.Hint, NewTab: l.NewTab, Trail: l.Trail, Current: l.Current,
		Badge: badge{
			Text:   l.Badge.Text,
			Before: l.Badge.Before,
			Class:  skin.Pair(l.Badge.Pair),
		}, Children: below,
	}
	if l.Page {
		made.Href = q.Base + l.Href
	}
	if l.Counted {
		made.Count = count.Number(l.Count)
	}
	if l.Icon != "" {
		made.Icon = r.asset("icons.svg") + "#" + l.Icon
	}
	switch l.Does {
	case site.AccountSignIn:
		made.Href = signInPath(q)
	case site.AccountSignOut:
		made.SignOut = true
	case site.AccountRegister:
		made.Href = q.Base + "/register"
	case site.AccountDetails:
		made.Href = q.Base + "/my-details"
	}
	made.Folds = len(made.Children) > 0 && made.Href == "" && !made.SignOut
	if len(made.Children) == 0 && !made.SignOut && !made.NewTab && made.Icon == "" && made.Badge.Text == "" {
		made.Plain = anchor(&made)
	}
	return made
}

// A pieceKey is what the looks of a piece depend on that is the same on many pages: texts, images, the search, and the
// name of the site.
type pieceKey struct {
	block    site.BlockID
	landmark string
	home     bool
}

// keyOf names a piece that can be kept; false for one that depends on its page, or has a link to its settings.
func (q Request) keyOf(st region.Standing, home bool) (pieceKey, bool) {
	if q.Kept == nil || q.Edit != nil {
		return pieceKey{}, false
	}
	k := pieceKey{block: st.Block.ID, landmark: st.Landmark}
	switch st.Block.Shows.(type) {
	case site.BlockText, site.BlockImage, site.BlockSearch:
		return k, true
	case site.BlockName:
		k.home = home
		return k, true
	}
	return k, false
}

// finished finds a kept piece.
func (q Request) finished(st region.Standing, home bool) (template.HTML, bool) {
	if k, can := q.keyOf(st, home); can {
		if found, known := q.Kept.pieces.Load(k); known {
			return found.(template.HTML), true
		}
	}
	return "", false
}

// finish makes a piece whole and keeps it, if it can be kept.
func (r *Renderer) finish(q Request, st region.Standing, p *piece) error {
	k, can := q.keyOf(st, p.View.Home)
	if !can || p.Done != "" {
		return nil
	}
	var out bytes.Buffer
	if err := r.templates.ExecuteTemplate(&out, "piece", p); err != nil {
		return fmt.Errorf("render the block “%s”: %w", st.Block.Name, err)
	}
	p.Done = template.HTML(out.String()) // made by html/template just now
	if q.Kept.room(len(p.Done)) {
		q.Kept.pieces.Store(k, p.Done)
	}
	return nil
}
