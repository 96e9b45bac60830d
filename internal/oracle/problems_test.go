package oracle

import (
	"os"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/care"
	"vineladder/internal/core/check"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/laws"
)

const origin = "https://harbour.example"

// known is what is known of care in the worlds.
var known = &care.Known{Gone: map[string]bool{"keeper": true}}

func worldsFor(t *testing.T, most int) (seed, worlds uint64) {
	t.Helper()
	if n, err := strconv.Atoi(os.Getenv("VINELADDER_PROBLEMS")); err == nil {
		most = n
	}
	return laws.Seed() % 1_000_000_000, uint64(most)
}

// What is kept in step with edits is what looking at everything would find.
func TestProblemsKeepInStep(t *testing.T) {
	seed, worlds := worldsFor(t, 60)
	found := map[string]int{}
	for n := range worlds {
		w := newWorld(seed*1_000_000 + n)
		was := w.site
		before := check.Find(check.NewLook(was, now, origin).With(check.Besides{Care: known}))
		for range 12 {
			w.site = was
			titles := ""
			for range 1 + w.IntN(4) {
				op := w.draw(pick(w, sorts()...))
				if op == nil {
					continue
				}
				next, _, err := edit.Apply(w.site, op, now)
				if err != nil {
					continue
				}
				w.site = next
				written, _ := edit.Encode(op)
				titles += string(written) + "\n"
			}
			look := check.NewLook(w.site, now, origin).With(check.Besides{Care: known})
			whole := check.Find(look)
			step := before.After(look)
			require.Equal(t, whole.All(), step.All(), "world %d\n%s", seed*1_000_000+n, titles)
			for _, p := range whole.All() {
				require.Contains(t, look.About(p.On), p, "looked at alone")
				require.Contains(t, step.About(p.On), p)
			}
			for _, p := range whole.WithFar().All() {
				found[p.Check]++
			}
		}
	}
	for _, c := range check.All() {
		t.Logf("%s: %d", c.Key, found[c.Key])
	}
	assert.Zero(t, found[check.Failed])
}

// A fix mends what it is for, and makes nothing worse of that sort on the same thing.
func TestFixesMend(t *testing.T) {
	seed, worlds := worldsFor(t, 60)
	mended, refused := map[string]int{}, map[string]int{}
	for n := range worlds {
		w := newWorld(seed*1_000_000 + n)
		look := check.NewLook(w.site, now, origin)
		for _, p := range check.Find(look).WithFar().All() {
			words, ops := look.Mend(p)
			if len(ops) == 0 {
				continue
			}
			require.NotEmpty(t, words)
			after, err := applied(w.site, ops)
			if err != nil {
				refused[p.Check]++
				continue
			}
			mended[p.Check]++
			for _, left := range check.Find(check.NewLook(after, now, origin)).WithFar().All() {
				require.NotEqual(t, p.Key(), left.Key(), "%s\n%s", p.Says, words)
			}
		}
	}
	t.Log(mended, refused)
	assert.NotEmpty(t, mended)
}

func applied(s *site.Site, ops []edit.Op) (*site.Site, error) {
	for _, op := range ops {
		next, _, err := edit.Apply(s, op, now)
		if err != nil {
			return nil, err
		}
		s = next
	}
	return s, nil
}
