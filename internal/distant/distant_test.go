package distant

import (
	"context"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/weblink"
)

// A neighbour is a server of our own, which notes what it was asked for.
type neighbour struct {
	*httptest.Server
	lock  sync.Mutex
	asked []string
	times []time.Time
	agent string
}

func (n *neighbour) saw() []string {
	n.lock.Lock()
	defer n.lock.Unlock()
	return n.asked
}

func newNeighbour(t *testing.T, robots string) *neighbour {
	n := &neighbour{}
	mux := http.NewServeMux()
	mux.HandleFunc("/robots.txt", func(w http.ResponseWriter, r *http.Request) {
		if robots == "" {
			http.NotFound(w, r)
			return
		}
		_, _ = w.Write([]byte(robots))
	})
	for path, status := range map[string]int{
		"/fine": 200, "/gone": 410, "/inside": 401, "/no": 403, "/broken": 500, "/law": 451,
	} {
		mux.HandleFunc(path, func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(status) })
	}
	mux.HandleFunc("/whole-only", func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodHead {
			w.WriteHeader(http.StatusMethodNotAllowed)
		}
	})
	mux.HandleFunc("/busy", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Retry-After", "7200")
		w.WriteHeader(http.StatusTooManyRequests)
	})
	mux.Handle("/moved", http.RedirectHandler("/fine", http.StatusMovedPermanently))
	mux.Handle("/round", http.RedirectHandler("/round", http.StatusFound))
	mux.HandleFunc("/cut", func(w http.ResponseWriter, _ *http.Request) {
		if c, _, err := http.NewResponseController(w).Hijack(); err == nil {
			_ = c.Close()
		}
	})
	n.Server = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		n.lock.Lock()
		n.asked, n.times = append(n.asked, r.Method+" "+r.URL.Path), append(n.times, time.Now())
		n.agent = r.UserAgent()
		n.lock.Unlock()
		mux.ServeHTTP(w, r)
	}))
	t.Cleanup(n.Close)
	return n
}

func looker() *Looker {
	return New(Options{Pause: time.Millisecond, About: "https://harbour.example", Near: true})
}

// What answers, or refuses to be asked, is not dead; what does not is, with what a person can act on. Sources: RFC
// 9110, 9.3.2 (HEAD) and 15.5; RFC 6585, 4; RFC 7725.
func TestAnswersAreUnderstood(t *testing.T) {
	n := newNeighbour(t, "")
	l := looker()
	for path, want := range map[string]string{
		"/fine": "", "/moved": "", "/inside": "", "/no": "", "/law": "", "/whole-only": "", "/busy": "",
		"/gone": "it answers 410 Gone", "/broken": "it answers 500 Internal Server Error",
		"/nowhere": "it answers 404 Not Found", "/round": "it leads on more than five times",
		"/cut": "no connection comes about",
	} {
		try := l.Look(context.Background(), n.URL+path)
		assert.Equal(t, want, try.Fault, path)
		if path == "/busy" {
			assert.Equal(t, 2*time.Hour, try.After)
		}
	}
	assert.Contains(t, n.saw(), "HEAD /whole-only")
	assert.Contains(t, n.saw(), "GET /whole-only", "who does not answer for the head is asked for the whole")
	assert.NotContains(t, n.saw(), "GET /fine", "what answers for the head is not asked for the whole")
	assert.Equal(t, "VineLadder/1.0 (+https://harbour.example)", n.agent)
	once := 0
	for _, asked := range n.saw() {
		if asked == "GET /robots.txt" {
			once++
		}
	}
	assert.Equal(t, 1, once, "what robots may is asked once a day")
	assert.Contains(t, l.Look(context.Background(), "http://no-such-host.invalid/").Fault, "no-such-host.invalid")
	assert.NotEmpty(t, l.Look(context.Background(), "http://[::").Fault)
}

// Source: RFC 9309, 2.2 and its example of groups; the delay is common practice, no source.
func TestRobotsAreHeard(t *testing.T) {
	n := newNeighbour(t, "User-agent: *\nDisallow: /\n\nUser-agent: vineladder\nDisallow: /gone\nAllow: /\n")
	l := looker()
	assert.Empty(t, l.Look(context.Background(), n.URL+"/gone").Fault, "nobody says of it that it is dead")
	assert.NotContains(t, strings.Join(n.saw(), " "), "/gone")
	assert.NotEmpty(t, l.Look(context.Background(), n.URL+"/broken").Fault)
	shut := newNeighbour(t, "User-agent: *\nDisallow: /\n")
	assert.Empty(t, l.Look(context.Background(), shut.URL+"/gone").Fault)
	assert.Equal(t, []string{"GET /robots.txt"}, shut.saw())
}

// A host is asked slowly, whoever asks at once: between two requests lies the pause.
func TestAHostIsAskedSlowly(t *testing.T) {
	n := newNeighbour(t, "")
	const pause = 60 * time.Millisecond
	l := New(Options{Pause: pause, Near: true})
	var all sync.WaitGroup
	for range 4 {
		all.Go(func() { l.Look(context.Background(), n.URL+"/fine") })
	}
	all.Wait()
	require.Len(t, n.times, 5)
	assert.GreaterOrEqual(t, n.times[4].Sub(n.times[0]), 4*pause-pause/2)
}

// Nobody reaches what stands beside the program by typing its address, or a name that leads there. Source: RFC 6890,
// the blocks that are not globally reachable.
func TestWhatIsNearIsNotAskedFor(t *testing.T) {
	n := newNeighbour(t, "")
	l := New(Options{Pause: time.Millisecond})
	assert.Equal(t, errNear.Error(), l.Look(context.Background(), n.URL+"/fine").Fault)
	assert.Empty(t, n.saw())
	for address, near := range map[string]bool{
		"127.0.0.1": true, "10.1.2.3": true, "172.16.0.1": true, "192.168.1.1": true, "169.254.169.254": true,
		"100.64.0.1": true, "0.0.0.0": true, "224.0.0.1": true, "::1": true, "fd00::1": true, "fe80::1": true,
		"::ffff:10.0.0.1": true, "93.184.215.14": false, "2606:2800:21f::1": false,
	} {
		err := farOnly("tcp", netip.AddrPortFrom(netip.MustParseAddr(address), 80).String(), nil)
		assert.Equal(t, near, err != nil, address)
	}
}

// An address is called dead only after it failed several times, days apart; who wants to be left alone is.
func TestWhenToLookAgain(t *testing.T) {
	assert.Equal(t, weblink.AgainAfter, weblink.Next(0, 0))
	assert.Equal(t, time.Hour, weblink.Next(1, 0))
	assert.Equal(t, 24*time.Hour, weblink.Next(2, 0))
	assert.Equal(t, 72*time.Hour, weblink.Next(weblink.DeadAfter, 0))
	assert.Equal(t, 2*time.Hour, weblink.Next(1, 2*time.Hour))
	assert.Equal(t, weblink.AgainAfter, weblink.Next(0, 10_000*time.Hour), "nobody is put off for ever")
}
