package e2e

import (
	"bytes"
	"context"
	"image"
	"image/png"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/blob"
	"vineladder/internal/demo"
)

// newWorldWithFiles starts the program on a fresh demo with its files.
func newWorldWithFiles(t testing.TB) *world {
	return newEmptyWorld(t, func(w *world) {
		host := strings.TrimPrefix(w.site, "http://")
		require.NoError(t, demo.Load(context.Background(), w.store, host))
		kept, err := blob.Open(context.Background(), blob.InDir(w.files))
		require.NoError(t, err)
		require.NoError(t, demo.Papers(context.Background(), w.store, kept, host))
	})
}

func drawing(t testing.TB, name string, width int) string {
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, image.NewGray(image.Rect(0, 0, width, 300))))
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, out.Bytes(), 0o600))
	return path
}

// Files are uploaded together, one that is none is refused by name, and all wait in the draft; a replaced one keeps its
// address.
func TestFilesAreUploadedReplacedAndPublished(t *testing.T) {
	w := newWorldWithFiles(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.open(w.bench + "/files")
	b.until(`document.querySelector('.rung[data-label="Files"]')`)
	b.axe("files")
	b.click(`.rung[data-label="Files"] [data-toggle]`)
	b.click(`.rung[data-label="Reports and forms"] .label`)
	b.sees(".sheet h1", "Reports and forms")
	b.until(
		`document.querySelector("[data-uploading]").dataset.parent === document.querySelector(".rung[aria-selected=true]").dataset.id`,
	)

	noPaper := filepath.Join(t.TempDir(), "Tariff.pdf")
	require.NoError(t, os.WriteFile(noPaper, []byte("<p>no paper"), 0o600))
	b.do(
		chromedp.SetUploadFiles(
			"[data-uploading] input",
			[]string{drawing(t, "New berth.png", 1000), noPaper},
			chromedp.ByQuery,
		),
	)
	b.sees("[data-queue]", "is not what its name says")
	b.selected("New berth")
	b.sees(".sheet", "Picture, 1000 × 300")
	b.sees(".sheet", "/files/new-berth.png")
	b.sees(".sheet", "Nowhere yet.")
	answer, _ := w.public("/files/new-berth.png")
	assert.Equal(t, http.StatusNotFound, answer.StatusCode, "it waits in the draft")
	b.publish()
	answer, first := w.public("/files/new-berth.png")
	assert.Equal(t, "image/png", answer.Header.Get("Content-Type"))

	b.do(chromedp.SetUploadFiles("[data-replace]", []string{drawing(t, "other name.png", 700)}, chromedp.ByQuery))
	b.sees(".sheet", "Picture, 700 × 300")
	b.press(kb.Enter, input.ModifierCtrl)
	b.sees("[data-review]", "700 by 300 pixels")
	b.press(kb.Escape)
	b.publish()
	_, second := w.public("/files/new-berth.png")
	assert.NotEqual(t, first, second)
	b.click(`[data-keep-open="withdraw"] summary`)
	b.click("[data-withdraw]")
	b.sees("[data-status]", "gone for good")
	answer, _ = w.public("/files/new-berth.png")
	assert.Equal(t, http.StatusGone, answer.StatusCode)

	b.focus("[data-new-folder] input")
	b.typed("Drawings")
	b.press(kb.Enter)
	b.selected("Drawings")
	b.press("z", input.ModifierCtrl)
	b.until(`!document.querySelector('.rung[data-label="Drawings"]')`)
}

// A text is written with room: a table, a notice, a picture with its description, a link to a heading of another page;
// the real page stands beside it, and what is pasted from a word processor keeps what it means.
func TestWritingWithRoom(t *testing.T) {
	w := newWorldWithFiles(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Swinging moorings")
	b.press(kb.F4)
	b.until(`location.pathname === "/write" && document.querySelector(".prose p") && document.body.dataset.ready`)
	b.axe("writing")
	tool := func(name string) {
		b.do(
			chromedp.Evaluate(
				`[...document.querySelectorAll(".editor-tools button")].find(e => e.textContent === "`+name+`").click()`,
				nil,
			),
		)
	}
	// In which the editor puts its own selection there, or hears of the browser's.
	const settles = 150 * time.Millisecond
	end := func() {
		b.do(
			chromedp.Evaluate(`document.querySelector(".prose").focus()`, nil), chromedp.Sleep(settles),
			chromedp.Evaluate(`getSelection().selectAllChildren(document.querySelector(".prose").lastElementChild);
				getSelection().collapseToEnd()`, nil), chromedp.Sleep(settles),
		)
	}
	end()
	b.press(kb.Enter)
	tool("Heading")
	b.typed("What it costs")
	b.press(kb.Enter)
	tool("Table")
	b.until(`document.querySelector(".prose table th")`)
	b.typed("Length")
	b.press(kb.Tab)
	b.typed("Price")
	tool("Row below")
	b.until(`document.querySelectorAll(".prose tr").length === 4`)
	b.do(
		chromedp.SetValue(`.editor-more input`, "Prices by length", chromedp.ByQuery),
		chromedp.Evaluate(
			`document.querySelector(".editor-more input").dispatchEvent(new Event("change", {bubbles: true}))`,
			nil,
		),
	)

	end()
	paste := `<h1 style="color:red">Rules</h1><p class="MsoListParagraph" style="mso-list:l0 level1 lfo1">` +
		`<span style="mso-list:Ignore">·</span>No fires</p><p style="mso-list:l0 level1 lfo1"><span style="mso-list:Ignore">·</span>` +
		`No dogs</p><p><img src="https://elsewhere.example/x.png" alt="a flag"></p>`
	b.do(chromedp.Evaluate(`(() => { const data = new DataTransfer(); data.setData("text/html", `+"`"+paste+"`"+`);
		document.querySelector(".prose").dispatchEvent(new ClipboardEvent("paste", {clipboardData: data, bubbles: true, cancelable: true})) })()`, nil))
	b.sees("[data-status]", "Left out of what you pasted: 1 picture")
	b.until(`document.querySelectorAll(".prose ul li").length >= 2`)

	end()
	tool("Picture…")
	b.look("old pier", "Old pier")
	b.press(kb.Enter)
	b.until(`document.activeElement.matches("figure input[type=text]")`)
	b.typed("The pier of 1902")
	end()
	b.press(kb.Enter)
	tool("Link")
	b.look("/harbours/harbour-rules", "Harbour rules")
	b.press(kb.Enter)
	b.until(
		`document.querySelector(".prose a[href^='page:']:last-of-type")?.textContent === "Harbour rules" || [...document.querySelectorAll(".prose a")].some(e => e.textContent === "Harbour rules")`,
	)
	b.sees(".dock", "words of 1 page change")
	b.until(`document.querySelector("[data-real]").src.includes("/proof/")`)
	b.press(kb.F4)
	b.until(
		`location.pathname === "/tree" && document.body.dataset.ready && document.querySelector(".rung[aria-selected=true]")?.dataset.label === "Swinging moorings"`,
	)
	b.publish()
	_, body := w.public("/moorings-and-berths/swinging-moorings")
	_, body, _ = strings.Cut(body, "</h1>")
	body, _, _ = strings.Cut(body, "</article>")
	for _, part := range []string{
		`<h2 id="what-it-costs">What it costs</h2>`, `<caption>Prices by length</caption>`, `<th scope="col"`, "Length", "Price",
		`<h2 id="rules">Rules</h2>`, "<li>No fires</li><li>No dogs</li>", `alt="The pier of 1902"`,
		`/files/old-pier.png?v=`, `<a href="/harbours/harbour-rules">Harbour rules</a>`,
	} {
		assert.Contains(t, body, part)
	}
	assert.NotContains(t, body, "elsewhere.example")

	// The sheet knows the links both ways, and binning a picture says what it takes.
	b.sees(".links", "“Harbour rules”")
	b.open(w.bench + "/files")
	b.press("/")
	b.look("old pier", "Old pier")
	b.press(kb.Enter)
	b.selected("Old pier")
	b.sees(".sheet", "On “Swinging moorings”")
	b.press(kb.Delete)
	b.sees("[data-status]", "bin")
	b.press(kb.Enter, input.ModifierCtrl)
	b.sees("[data-review]", "shows the picture “Old pier”: its description stands in its place")
}
