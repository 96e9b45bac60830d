package public

import (
	"bytes"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/klauspost/compress/gzip"

	"vineladder/internal/core/listing"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/web/gate"
)

// A stored answer is a page or a menu for programs, for signed-out visitors, with all its headers ready.
type stored struct {
	kind      []string // the type of its content
	body      []byte
	packed    []byte // gzip; nil where it would not pay
	etag      []string
	packedTag []string // that of packed
	length    []string
	squeezed  []string // length of packed
	robots    []string // what search engines may do with it; nil: anything
	paged     bool     // with a query it may be another page of a list
}

// A generation holds what is true for one revision until the next moment at which something comes or goes by itself.
type generation struct {
	revision int64
	until    time.Time // zero: no such moment
	answers  sync.Map  // path, of a menu for programs with its query -> *stored
	size     atomic.Int64
	kept     sync.Map // a visitor's roles in one word -> *Kept
	held     sync.Map // the roles of an account in one word, without what they include -> *Kept
	shared   sync.Map // sharedKey -> *shared
	spent    spent    // on fragments
}

// keptFor gives what is kept for visitors like this one.
func (g *generation) keptFor(v reach.Visitor) *Kept {
	who := ""
	if v.SignedIn {
		roles := slices.Clone(v.Roles)
		slices.Sort(roles)
		who = "in|" + strings.Join(roles, "|")
	}
	if found, known := g.kept.Load(who); known {
		return found.(*Kept)
	}
	found, _ := g.kept.LoadOrStore(who, &Kept{spent: &g.spent})
	return found.(*Kept)
}

// keptOf gives what is kept for who holds roles, given without what they include.
func (g *generation) keptOf(on *site.Site, roles []string) *Kept {
	key := strings.Join(roles, "|")
	if found, known := g.held.Load(key); known {
		return found.(*Kept)
	}
	made := g.keptFor(reach.As(on, roles))
	g.held.Store(key, made)
	return made
}

// cacheLimit bounds the bytes of answers kept.
const cacheLimit = 256 << 20

// A cache keeps signed-out answers by path. Nothing in it is ever stale: it ends with the revision and at each time
// edge.
type cache struct {
	now atomic.Pointer[generation]
}

// at gives the generation for a published revision and moment.
func (c *cache) at(p *store.Published, now time.Time) *generation {
	g := c.now.Load()
	if g != nil && g.revision == p.Revision && (g.until.IsZero() || now.Before(g.until)) {
		return g
	}
	until := reach.NextEdge(p.Site, now)
	if midnight := listing.NextMidnight(p.Site, now); until.IsZero() || !midnight.IsZero() && midnight.Before(until) {
		until = midnight
	}
	made := &generation{revision: p.Revision, until: until}
	if c.now.CompareAndSwap(g, made) {
		return made
	}
	return c.now.Load()
}

func (g *generation) get(key string) *stored {
	if found, ok := g.answers.Load(key); ok {
		return found.(*stored)
	}
	return nil
}

// keyOf is what an answer is kept by. A page says the same whatever the query string is; what a menu for programs says
// hangs on it.
func keyOf(path, query string) string {
	if query != "" && strings.HasPrefix(path, programPath) {
		return path + "?" + query
	}
	return path
}

func (g *generation) put(key string, r Response, etag string) *stored {
	s := &stored{
		kind: []string{r.Type}, paged: r.Paged, body: r.Body,
		etag: []string{etag}, length: []string{strconv.Itoa(len(r.Body))},
	}
	if r.Robots != "" {
		s.robots = []string{r.Robots}
	}
	if len(r.Body) > 1024 {
		var out bytes.Buffer
		w, _ := gzip.NewWriterLevel(&out, gzip.BestSpeed)
		_, _ = w.Write(r.Body) // to memory
		_ = w.Close()
		s.packed = slices.Clip(out.Bytes())
		s.squeezed = []string{strconv.Itoa(len(s.packed))}
		s.packedTag = []string{strings.TrimSuffix(etag, `"`) + gate.PackedTag + `"`}
	}
	if g.size.Add(int64(len(s.body)+len(s.packed)+len(key)+256)) <= cacheLimit {
		g.answers.Store(key, s)
	}
	return s
}
