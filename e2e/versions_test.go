package e2e

import (
	"fmt"
	"net/url"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/site"
)

// Two people change the text of one page. The second is shown both texts paragraph by paragraph, keeps what each of
// them changed, and publishes; then the version before comes back whole.
func TestTwoWriters(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	id := site.PageID(0)
	w.published().Walk(w.published().Home(), func(p *site.Page) bool {
		if p.Label == "Refunds" {
			id = p.ID
		}
		return true
	})
	writes := func(html string) {
		b.theirEdit("/edit", url.Values{
			"do": {"field"}, "page": {fmt.Sprint(id)}, "field": {"text"}, "old": {w.published().Page(id).Text}, "new": {html},
		})
	}
	writes("<p>One day before.</p><p>By card.</p><p>Ask at the quay.</p>")

	b.signIn("keeper")
	b.goTo("Refunds")
	b.press(kb.F4)
	b.until(`location.pathname === "/write" && document.querySelector(".prose")?.isContentEditable`)
	b.focus(".prose")
	b.press(kb.Home, input.ModifierCtrl)
	b.typed("At least ")
	b.press(kb.F4)
	b.until(`location.pathname === "/tree" && document.body?.dataset.ready`)
	writes("<p>One day before.</p><p>By card or in cash.</p><p>Ask at the quay.</p>")
	b.sees(".held", "1 of your edits waits for a decision.")

	b.press(kb.Enter, input.ModifierCtrl)
	b.focus(".conflict a")
	b.press(kb.Enter)
	b.until(`location.pathname === "/versions" && document.body?.dataset.ready`)
	b.axe("two versions")
	b.until(`[...document.querySelectorAll(".versions-take :checked")].map(e => e.value).join() === "was,is"`)
	b.focus("[data-versions] .primary")
	b.press(kb.Enter)
	b.until(`location.pathname === "/tree" && document.body?.dataset.ready && !document.querySelector(".held")`)
	b.publish()
	_, page := b.public("/sailings/fares/refunds")
	assert.Contains(t, page, "<p>At least One day before.</p>")
	assert.Contains(t, page, "<p>By card or in cash.</p>")

	b.open(w.bench + "/versions?page=" + fmt.Sprint(id))
	b.until(`document.body?.dataset.ready && document.querySelectorAll(".versions-list li").length === 4`)
	b.focus(`[name="take"][value="was"]`)
	b.press(kb.Enter)
	b.until(`document.querySelectorAll(".versions-list li").length === 5 && document.body?.dataset.ready`)
	b.publish()
	_, page = b.public("/sailings/fares/refunds")
	assert.Contains(t, page, "<p>One day before.</p>")
}

// Who else has the page open is in sight, from the moment on at which they open it, until they have left it.
func TestWhoElseHasThePageOpen(t *testing.T) {
	w := newWorld(t)
	one, two := w.browser(1280, 800), w.browser(1280, 800)
	one.signIn("keeper")
	one.goTo("Refunds")
	two.signIn("structure")
	two.goTo("Refunds")
	two.sees(".others", "Also open with Runa Tveit.")
	one.sees(".others", "Also open with Idris Calder.")
	two.goTo("Contact")
	one.until(`!document.querySelector(".others")`)
	two.goTo("Refunds")
	two.press(kb.F4)
	two.until(`location.pathname === "/write" && document.body?.dataset.ready`)
	two.sees(".others", "Also open with Runa Tveit.")
	one.sees(".others", "Also open with Idris Calder.")
	two.open("about:blank")
	one.until(`!document.querySelector(".others")`)
}
