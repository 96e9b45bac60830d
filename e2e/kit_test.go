// Package e2e drives the real program with a real browser: both sites on loopback, the demo in PostgreSQL, Chromium.
package e2e

import (
	"context"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"vineladder/internal/demo"
	"vineladder/internal/files"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
	"vineladder/internal/web/assets"
	"vineladder/internal/web/gate"
	"vineladder/internal/web/public"
	"vineladder/internal/web/workbench"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// A world is one running program with the demo in it.
type world struct {
	t           testing.TB
	store       *store.Store
	database    string
	site, bench string // origins
}

// newWorld starts both sites on a fresh demo.
func newWorld(t testing.TB) *world {
	return newEmptyWorld(t, func(w *world) {
		require.NoError(t, demo.Load(context.Background(), w.store, strings.TrimPrefix(w.site, "http://")))
	})
}

// newEmptyWorld starts both sites on a database that has tables alone and what fill puts into it.
func newEmptyWorld(t testing.TB, fill func(*world)) *world {
	w := &world{t: t, database: storetest.URL(t)}
	w.store = storetest.Open(t, w.database)
	siteListener, benchListener := listen(t, "127.0.0.1"), listen(t, "localhost")
	w.site = "http://" + siteListener.Addr().String()
	w.bench = fmt.Sprintf("http://localhost:%d", benchListener.Addr().(*net.TCPAddr).Port)
	fill(w)
	w.serve(w.store, siteListener, benchListener)
	return w
}

func (w *world) serve(st *store.Store, siteListener, benchListener net.Listener) {
	key, err := st.Secret(context.Background())
	require.NoError(w.t, err)
	built, err := assets.New()
	require.NoError(w.t, err)
	kept := files.Dir(w.t.TempDir())
	log := slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: slog.LevelError}))
	site, err := public.New(
		st,
		public.Settings{
			Origin:    w.site,
			Hosts:     []string{strings.TrimPrefix(w.site, "http://")},
			Workbench: w.bench,
			Files:     kept,
		},
		built,
		gate.NewSigner(key),
		log,
	)
	require.NoError(w.t, err)
	bench, err := workbench.New(
		st,
		workbench.Settings{Origin: w.bench, Hosts: []string{"localhost"}, Site: w.site, Files: kept},
		built,
		gate.NewSigner(key),
		log,
	)
	require.NoError(w.t, err)
	ctx, stop := context.WithCancel(context.Background())
	go st.Follow(ctx)
	go st.Schedule(ctx)
	servers := []*http.Server{{Handler: site.Handler()}, {Handler: bench.Handler()}}
	go servers[0].Serve(siteListener)
	go servers[1].Serve(benchListener)
	w.t.Cleanup(func() {
		stop()
		servers[0].Close()
		servers[1].Close()
		site.Close()
		bench.Close()
	})
}

func listen(t testing.TB, host string) net.Listener {
	l, err := net.Listen("tcp4", host+":0")
	require.NoError(t, err)
	return l
}

// A browser is one tab, with a profile of its own.
type browser struct {
	*world
	ctx      context.Context
	problems []string // what the page's console reported as an error
}

const patience = 20 * time.Second

func (w *world) browser(width, height int64) *browser {
	dir, err := os.MkdirTemp("", "vineladder-browser-")
	require.NoError(w.t, err)
	options := append(
		chromedp.DefaultExecAllocatorOptions[:],
		chromedp.NoSandbox,
		chromedp.DisableGPU,
		chromedp.UserDataDir(dir),
		chromedp.Flag("disable-quic", true),
		chromedp.Flag("disable-background-networking", true),
		chromedp.Flag(
			"disable-component-update",
			true,
		),
		chromedp.Flag("disable-sync", true),
		chromedp.WindowSize(int(width), int(height)),
	)
	allocator, stop := chromedp.NewExecAllocator(context.Background(), options...)
	ctx, cancel := chromedp.NewContext(allocator, chromedp.WithErrorf(func(string, ...any) {}))
	w.t.Cleanup(func() { cancel(); stop(); os.RemoveAll(dir) })
	b := &browser{world: w, ctx: ctx}
	chromedp.ListenTarget(ctx, func(event any) {
		switch e := event.(type) {
		case *runtime.EventExceptionThrown:
			b.problems = append(b.problems, e.ExceptionDetails.Error())
		}
	})
	b.do(network.Enable(), emulation.SetDeviceMetricsOverride(width, height, 1, false))
	return b
}

// do runs actions, and fails the test where one does not come true in time.
func (b *browser) do(actions ...chromedp.Action) {
	b.t.Helper()
	for i, action := range actions {
		// The first run starts the browser, which must outlive this call.
		if chromedp.FromContext(b.ctx).Target == nil {
			require.NoError(b.t, chromedp.Run(b.ctx), "start the browser")
		}
		ctx, cancel := context.WithTimeout(b.ctx, patience)
		err := chromedp.Run(ctx, action)
		cancel()
		if err != nil {
			b.fail("step %d of this call: %v", i+1, err)
		}
	}
}

func (b *browser) fail(format string, args ...any) {
	b.t.Helper()
	var shot []byte
	if chromedp.Run(b.ctx, chromedp.CaptureScreenshot(&shot)) == nil {
		path := filepath.Join(os.TempDir(), "vineladder-"+strings.ReplaceAll(b.t.Name(), "/", "-")+".png")
		_ = os.WriteFile(path, shot, 0o644)
		format += " (picture: " + path + ")"
	}
	b.t.Fatalf(format, args...)
}

// open goes to an address, and waits for the workbench's scripts where it is one of its screens.
func (b *browser) open(url string) {
	b.t.Helper()
	b.do(chromedp.Navigate(url))
	b.until(
		`document.readyState === "complete" && (!document.querySelector("[data-ladder]") || document.body.dataset.ready)`,
	)
}

// signIn opens the workbench as somebody of the demo.
func (b *browser) signIn(login string) {
	b.t.Helper()
	b.open(b.bench + "/tree")
	b.do(chromedp.SendKeys("#login", login), chromedp.SendKeys("#password", password(login)), chromedp.Submit("#login"))
	b.until(`document.querySelector(".rung[aria-selected=true]")`)
	b.until(`document.body.dataset.ready`)
}

func password(login string) string {
	for _, a := range demo.Accounts {
		if a.Login == login {
			return a.Password
		}
	}
	return ""
}

// eval gives the value of an expression in the page; one that the tab leaves meanwhile is asked again on the next.
func eval[T any](b *browser, script string) (value T) {
	b.t.Helper()
	for range 20 {
		ctx, cancel := context.WithTimeout(b.ctx, patience)
		err := chromedp.Run(
			ctx,
			chromedp.Evaluate(
				script,
				&value,
				func(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) },
			),
		)
		cancel()
		if err == nil {
			return value
		}
		if !leaving(err) {
			b.fail("%s: %v", script, err)
		}
		time.Sleep(50 * time.Millisecond)
	}
	b.fail("the page never stayed: %s", script)
	return value
}

// leaving says whether a script failed since the tab was going from one page to another.
func leaving(err error) bool {
	return strings.Contains(err.Error(), "navigated") || strings.Contains(err.Error(), "context with specified id") ||
		strings.Contains(err.Error(), "context was destroyed")
}

// holds says whether an expression is true. While the tab goes from one page to another nothing is.
func (b *browser) holds(script string) (holds bool) {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, patience)
	defer cancel()
	err := chromedp.Run(
		ctx,
		chromedp.Evaluate(
			"Boolean("+script+")",
			&holds,
			func(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) },
		),
	)
	if err != nil && !leaving(err) {
		b.fail("%s: %v", script, err)
	}
	return holds
}

// follow runs a script that leads to another page, after the call itself has been answered.
func (b *browser) follow(script string) {
	b.t.Helper()
	b.do(chromedp.Evaluate("void setTimeout(() => {"+script+"})", nil))
}

// until waits for an expression to be true.
func (b *browser) until(script string) {
	b.t.Helper()
	deadline := time.Now().Add(patience)
	for !b.holds(script) {
		if time.Now().After(deadline) {
			b.fail("never true: %s", script)
		}
		time.Sleep(30 * time.Millisecond)
	}
}

// sees waits for words in an element.
func (b *browser) sees(selector, words string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`[...document.querySelectorAll(%q)].some(e => e.textContent.includes(%q))`, selector, words))
}

func (b *browser) click(selector string) {
	b.t.Helper()
	b.until(
		fmt.Sprintf(
			`!document.body.dataset.busy && document.querySelector(%q) && !document.querySelector(%q).disabled`,
			selector,
			selector,
		),
	)
	place := b.settled(
		fmt.Sprintf(
			`(e => { e.scrollIntoView({ block: "nearest" }); const r = e.getBoundingClientRect(); return [r.left + r.width / 2, r.top + r.height / 2] })(document.querySelector(%q))`,
			selector,
		),
	)
	b.do(chromedp.MouseClickXY(place[0], place[1]))
}

// settled gives the place that a script measures, once it has stayed the same for a moment: answers that come late move
// what is below.
func (b *browser) settled(script string) []float64 {
	b.t.Helper()
	was, deadline := eval[[]float64](b, script), time.Now().Add(patience)
	for {
		time.Sleep(60 * time.Millisecond)
		is := eval[[]float64](b, script)
		if slices.Equal(was, is) || time.Now().After(deadline) {
			return is
		}
		was = is
	}
}

// press sends a key to what has the focus, as a keyboard does: text comes only if the page lets the key through.
func (b *browser) press(key string, modifiers ...input.Modifier) {
	b.t.Helper()
	var held input.Modifier
	for _, m := range modifiers {
		held |= m
	}
	for _, event := range kb.Encode([]rune(key)[0]) {
		if event.Type == input.KeyChar {
			continue
		}
		if event.Type == input.KeyDown {
			if event.Type = input.KeyRawDown; held == 0 && len(key) == 1 && (key[0] >= ' ' || key == kb.Enter) {
				event.Type, event.Text = input.KeyDown, key
			}
		}
		event.Modifiers |= held
		b.do(event)
	}
}

func (b *browser) typed(words string) {
	b.t.Helper()
	b.do(chromedp.ActionFunc(func(ctx context.Context) error { return input.InsertText(words).Do(ctx) }))
}

// focus gives the focus to an element, found and focused in one go, since the screen may replace it at any moment.
func (b *browser) focus(selector string) {
	b.t.Helper()
	b.until(
		fmt.Sprintf(
			`(e => { e?.focus(); return e && document.activeElement === e })(document.querySelector(%q))`,
			selector,
		),
	)
}

// look types words into the picker that is open and waits for the hit that it marks.
func (b *browser) look(words, hit string) {
	b.t.Helper()
	b.until(`document.activeElement.matches("[data-picker] [role=combobox]")`)
	b.typed(words)
	b.sees("[data-picker] [aria-selected=true]", hit)
}

// goTo selects a page with the finder, by keys.
func (b *browser) goTo(label string) {
	b.t.Helper()
	b.focus(".rung[aria-selected=true]")
	b.press("/")
	b.look(label, label)
	b.sees("[data-picker] [aria-selected=true] strong", label)
	b.press(kb.Enter)
	b.selected(label)
}

// selected waits for a page to be the selected one, in the ladder and on the sheet, with the focus on its row.
func (b *browser) selected(label string) {
	b.t.Helper()
	b.until(
		fmt.Sprintf(
			`document.querySelector(".rung[aria-selected=true]")?.dataset.label === %q && document.querySelector(".sheet h1")?.textContent === %q`,
			label,
			label,
		),
	)
	b.until(`document.activeElement.closest(".rung[aria-selected=true]")`)
}

// publish reviews and publishes by keys.
func (b *browser) publish() {
	b.t.Helper()
	b.press(kb.Enter, input.ModifierCtrl)
	b.until(`document.querySelector("[data-review]").open && document.activeElement.matches("[data-review] .primary")`)
	b.press(kb.Enter)
	b.sees("[data-status]", "Published")
}

// status waits for what the status line says.
func (b *browser) status(words string) { b.t.Helper(); b.sees("[data-status]", words) }

// public fetches a page of the public site as somebody who is not signed in.
func (w *world) public(path string) (*http.Response, string) {
	w.t.Helper()
	client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	return fetch(w.t, client, w.site+path)
}
