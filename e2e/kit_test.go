// Package e2e drives the real program with a real browser: both sites on loopback, the demo in PostgreSQL, Chromium.
package e2e

import (
	"bytes"
	"context"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"vineladder/internal/clock"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/demo"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// A world is one running program with the demo in it.
type world struct {
	t           testing.TB
	store       *store.Store // of the test's own, on the program's database
	database    string
	site, bench string // origins
	files       string // directory of its files
	ops         string // where the program's health is
}

// newWorld starts the program on a fresh demo.
func newWorld(t testing.TB) *world {
	return newEmptyWorld(t, func(w *world) {
		require.NoError(t, demo.Load(context.Background(), w.store, strings.TrimPrefix(w.site, "http://")))
	})
}

// newEmptyWorld starts the program on a database that has tables alone and what fill puts into it.
func newEmptyWorld(t testing.TB, fill func(*world)) *world {
	return start(t, storetest.URL(t), fill)
}

// start starts the program, as “serve” does, on a database.
func start(t testing.TB, database string, fill func(*world)) *world {
	w := &world{t: t, database: database, store: storetest.Open(t, database), files: t.TempDir()}
	ports := freePorts(t)
	w.site, w.ops = "http://127.0.0.1:"+ports[0], "http://127.0.0.1:"+ports[2]
	w.bench = "http://localhost:" + ports[1]
	fill(w)
	w.serve(ports)
	ctx, stop := context.WithCancel(context.Background())
	go w.store.Follow(ctx)
	t.Cleanup(stop)
	return w
}

// program builds the program once, with a clock that tests can set.
var program = sync.OnceValues(func() (string, error) {
	dir, err := os.MkdirTemp("", "vineladder-e2e-")
	if err != nil {
		return "", err
	}
	binary := filepath.Join(dir, "vineladder")
	said, err := exec.Command("go", "build", "-tags", "testclock", "-o", binary, "../cmd/vineladder").CombinedOutput()
	if err != nil {
		return "", fmt.Errorf("%w: %s", err, said)
	}
	return binary, nil
})

func (w *world) serve(ports []string) {
	binary, err := program()
	require.NoError(w.t, err)
	cmd := exec.Command(binary, "serve")
	cmd.Env = append(
		os.Environ(),
		"VINELADDER_DATABASE_URL="+w.database,
		"VINELADDER_SITE_ADDR=127.0.0.1:"+ports[0],
		"VINELADDER_WORKBENCH_ADDR=localhost:"+ports[1],
		"VINELADDER_OPS_ADDR=127.0.0.1:"+ports[2],
		"VINELADDER_FILES_DIR="+w.files,
		// Its clock begins when it starts, so it is set ahead: what the test publishes lies behind it.
		"VINELADDER_TEST_NOW="+clock.Now().Add(20*time.Second).Format(time.RFC3339),
	)
	log := &bytes.Buffer{}
	cmd.Stderr, cmd.Stdout = log, log
	require.NoError(w.t, cmd.Start())
	w.t.Cleanup(func() {
		_ = cmd.Process.Signal(os.Interrupt)
		_ = cmd.Wait() // it ends by the signal
		for line := range strings.Lines(log.String()) {
			if strings.Contains(line, `"level":"ERROR"`) {
				w.t.Log(line)
			}
		}
	})
	require.Eventually(w.t, func() bool { return w.revision() >= 0 }, patience, 50*time.Millisecond, "the program starts")
}

// revision is that of what the program serves; -1 while it does not.
func (w *world) revision() int64 {
	answer, err := http.Get(w.ops + "/health")
	if err != nil {
		return -1
	}
	defer answer.Body.Close()
	revision := int64(-1)
	_, _ = fmt.Fscanf(answer.Body, "ok, revision %d", &revision) // what can't be read is no revision
	return revision
}

// seen waits until the program serves what the test has published.
func (w *world) seen() {
	require.NoError(w.t, w.store.CatchUp(context.Background()))
	want := w.store.Published().Revision
	require.Eventually(w.t, func() bool { return w.revision() >= want }, patience, 20*time.Millisecond, "revision %d",
		want)
}

// publish publishes operations as the test's own, and waits until the program serves them.
func (w *world) publish(said string, ops ...edit.Op) {
	w.t.Helper()
	_, err := w.store.PublishDirect(context.Background(), store.Account{Name: "test"}, said, ops)
	require.NoError(w.t, err)
	w.seen()
}

// published is what is public now.
func (w *world) published() *site.Site {
	require.NoError(w.t, w.store.CatchUp(context.Background()))
	return w.store.Published().Site
}

// freePorts gives three that nothing listens on.
func freePorts(t testing.TB) []string {
	ports := make([]string, 3)
	for i := range ports {
		l, err := net.Listen("tcp4", "127.0.0.1:0")
		require.NoError(t, err)
		defer l.Close()
		_, ports[i], err = net.SplitHostPort(l.Addr().String())
		require.NoError(t, err)
	}
	return ports
}

// A browser is one tab, with a profile of its own.
type browser struct {
	*world
	ctx      context.Context
	problems []string     // what the page's console reported as an error
	actions  int          // keys pressed, words typed, clicks
	held     []float64    // where the pointer is pressed
	asked    atomic.Int64 // how often the browser asked before it left
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
		case *page.EventJavascriptDialogOpening: // who leaves what is not saved is asked; tests leave all the same
			b.asked.Add(1)
			go func() { _ = chromedp.Run(ctx, page.HandleJavaScriptDialog(true)) }()
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

// awaited is true of a screen of the workbench that looks ready before it is.
const awaited = `"workbench" in (document.body?.dataset ?? {}) && !document.body.dataset.ready`

// holds says whether an expression is true. While the tab goes from one page to another nothing is, and what it asks
// of a page that has no body yet is not either, nor of a screen of the workbench whose scripts don't hear keys yet.
func (b *browser) holds(script string) (holds bool) {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, patience)
	defer cancel()
	err := chromedp.Run(
		ctx,
		chromedp.Evaluate(
			"(async () => { if ("+awaited+") return false; try { return Boolean(await ("+script+")) } catch (e) { "+
				"if (document.readyState === 'complete') throw e; return false } })()",
			&holds,
			func(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) },
		),
	)
	if err != nil && !leaving(err) {
		b.fail("%s: %v", script, err)
	}
	return holds
}

// follow runs a script that may lead to another page, after the call itself has been answered, and waits for its end:
// what is pressed next comes after it. Timers of one delay end in the order in which they were set.
func (b *browser) follow(script string) {
	b.t.Helper()
	b.do(chromedp.Evaluate("void setTimeout(() => {"+script+"})", nil))
	b.holds(`new Promise(go => setTimeout(go))`)
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
	b.until(fmt.Sprintf(`[...document.querySelectorAll(%q)].some(e => e.textContent.replace(/\s+/g, " ").includes(%q))`,
		selector, words))
}

func (b *browser) click(selector string) {
	b.t.Helper()
	b.actions++
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
	b.actions++
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
	b.actions++
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
