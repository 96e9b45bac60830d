// Package distant asks for web addresses of others, politely: as their robots.txt allows (RFC 9309), one request at a
// time and slowly for each host, for the head of an answer first and for the whole only where that is refused.
package distant

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/temoto/robotstxt"
	"golang.org/x/time/rate"

	"vineladder/internal/core/weblink"
)

// Agent is the name by which others know who asks, and by which their robots.txt speaks of it.
const Agent = "VineLadder"

const (
	patience   = 15 * time.Second // for one answer
	redirects  = 5
	robotsLast = 24 * time.Hour
	robotsSize = 500 << 10 // RFC 9309, 2.5: at least that much is read
	hostsKept  = 2000
)

// A Looker asks for addresses.
type Looker struct {
	client *http.Client
	pause  time.Duration // between two requests to a host
	name   string

	lock  sync.Mutex
	hosts map[string]*host
}

// host is what is known of one server.
type host struct {
	lock    sync.Mutex
	slowly  *rate.Limiter
	robots  *robotstxt.Group
	readAt  time.Time
	allowed bool // nothing was read, and all may be asked for
}

// Options of a Looker.
type Options struct {
	Pause time.Duration // between two requests to a host
	About string        // address at which others read who asks
	Near  bool          // hosts of the own network may be asked for; else none is, wherever a name leads
}

// New makes a Looker.
func New(o Options) *Looker {
	dialer := &net.Dialer{Timeout: patience}
	if !o.Near {
		dialer.Control = farOnly
	}
	return &Looker{
		pause: o.Pause, hosts: map[string]*host{},
		name: Agent + "/1.0 (+" + o.About + ")",
		client: &http.Client{
			Timeout:   patience,
			Transport: &http.Transport{DialContext: dialer.DialContext, DisableKeepAlives: true, Proxy: nil},
			CheckRedirect: func(_ *http.Request, via []*http.Request) error {
				if len(via) >= redirects {
					return errTooFar
				}
				return nil
			},
		},
	}
}

var (
	errTooFar = errors.New("it leads on more than five times")
	errNear   = errors.New("it leads into a network that is not public")
)

// farOnly refuses to connect to what is not on the public internet: an address that somebody typed must not reach what
// stands beside this program.
func farOnly(_, address string, _ syscall.RawConn) error {
	at, err := netip.ParseAddrPort(address)
	if err != nil {
		return err
	}
	ip := at.Addr().Unmap()
	if !ip.IsGlobalUnicast() || ip.IsPrivate() || shared.Contains(ip) {
		return errNear
	}
	return nil
}

// shared is the address space that carriers use inside (RFC 6598).
var shared = netip.MustParsePrefix("100.64.0.0/10")

// Look asks for an address. What its server does not want to be asked for counts as answered.
func (l *Looker) Look(ctx context.Context, address string) weblink.Try {
	at, err := url.Parse(address)
	if err != nil || at.Host == "" {
		return weblink.Try{Fault: "it can't be read as an address"}
	}
	h := l.host(at)
	h.lock.Lock() // one request at a time
	defer h.lock.Unlock()
	if !l.allows(ctx, h, at) {
		return weblink.Try{}
	}
	answer, err := l.ask(ctx, h, http.MethodHead, address)
	if err == nil && answer.StatusCode >= http.StatusBadRequest { // many servers answer only who wants the whole
		answer, err = l.ask(ctx, h, http.MethodGet, address)
	}
	if err != nil {
		return weblink.Try{Fault: said(err)}
	}
	return tried(answer)
}

// tried says what an answer means. Who is not let in, or is too quick, has been answered.
func tried(answer *http.Response) (try weblink.Try) {
	if seconds, err := strconv.Atoi(answer.Header.Get("Retry-After")); err == nil && seconds > 0 {
		try.After = time.Duration(seconds) * time.Second
	}
	switch status := answer.StatusCode; {
	case status < http.StatusBadRequest, status == http.StatusUnauthorized, status == http.StatusForbidden,
		status == http.StatusProxyAuthRequired, status == http.StatusTooManyRequests,
		status == http.StatusUnavailableForLegalReasons:
	default:
		try.Fault = "it answers " + strings.TrimSpace(strconv.Itoa(status)+" "+http.StatusText(status))
	}
	return try
}

func (l *Looker) host(at *url.URL) *host {
	key := at.Scheme + "://" + at.Host
	l.lock.Lock()
	defer l.lock.Unlock()
	h := l.hosts[key]
	if h == nil {
		if len(l.hosts) >= hostsKept {
			clear(l.hosts)
		}
		h = &host{slowly: rate.NewLimiter(rate.Every(l.pause), 1)}
		l.hosts[key] = h
	}
	return h
}

// allows says whether a server's robots.txt lets this address be asked for. Where there is none, everything may be;
// where it can't be read since the server is at fault, nothing may (RFC 9309, 2.3.1).
func (l *Looker) allows(ctx context.Context, h *host, at *url.URL) bool {
	if time.Since(h.readAt) > robotsLast {
		h.robots, h.allowed = l.robots(ctx, h, at)
		h.readAt = time.Now()
	}
	if h.robots == nil {
		return h.allowed
	}
	if h.robots.CrawlDelay > l.pause {
		h.slowly.SetLimit(rate.Every(min(h.robots.CrawlDelay, time.Minute)))
	}
	return h.robots.Test(at.EscapedPath())
}

func (l *Looker) robots(ctx context.Context, h *host, at *url.URL) (group *robotstxt.Group, allowed bool) {
	answer, body, err := l.read(ctx, h, http.MethodGet, at.Scheme+"://"+at.Host+"/robots.txt", robotsSize)
	if err != nil {
		return nil, true // whether the address itself answers is said when it is asked for
	}
	rules, err := robotstxt.FromStatusAndBytes(answer.StatusCode, body)
	if err != nil {
		return nil, true
	}
	return rules.FindGroup(Agent), true
}

// ask sends one request, when it is time, and throws away what comes with the answer.
func (l *Looker) ask(ctx context.Context, h *host, method, address string) (*http.Response, error) {
	answer, _, err := l.read(ctx, h, method, address, 0)
	return answer, err
}

func (l *Looker) read(
	ctx context.Context, h *host, method, address string, most int64,
) (*http.Response, []byte, error) {
	if err := h.slowly.Wait(ctx); err != nil {
		return nil, nil, err
	}
	request, err := http.NewRequestWithContext(ctx, method, address, nil)
	if err != nil {
		return nil, nil, err
	}
	request.Header.Set("User-Agent", l.name)
	request.Header.Set("Accept", "*/*")
	answer, err := l.client.Do(request)
	if err != nil {
		return nil, nil, err
	}
	defer func() { _ = answer.Body.Close() }()
	body, err := io.ReadAll(io.LimitReader(answer.Body, most))
	return answer, body, err
}

// said says why there was no answer, for who keeps the link.
func said(err error) string {
	var noName *net.DNSError
	var network net.Error
	switch {
	case errors.Is(err, errTooFar):
		return errTooFar.Error()
	case errors.Is(err, errNear):
		return errNear.Error()
	case errors.As(err, &noName) && noName.IsNotFound:
		return "there is no host “" + noName.Name + "”"
	case errors.As(err, &network) && network.Timeout():
		return fmt.Sprintf("nothing comes within %d seconds", patience/time.Second)
	case strings.Contains(err.Error(), "certificate"):
		return "its certificate is not valid"
	}
	return "no connection comes about"
}
