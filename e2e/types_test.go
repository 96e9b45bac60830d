package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// choose takes one of the choices of a field, as the arrow keys do.
func (b *browser) choose(selector, value string) {
	b.t.Helper()
	b.focus(selector)
	b.follow(fmt.Sprintf(`(() => { const field = document.querySelector(%q)
		field.value = %q
		field.dispatchEvent(new Event("change", { bubbles: true })) })()`, selector, value))
}

// A page type is made by keys, with a detail that its pages need; a page of it is made, can't go live without it, waits
// while the rest is published, and shows it once it is filled in.
func TestAPageTypeByKeys(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.press("a")
	b.press("y")
	b.until(`location.pathname === "/types" && document.body?.dataset.ready`)
	b.axe("page types")
	b.focus("#t-new")
	b.typed("Vessel")
	b.press(kb.Enter)
	b.until(`document.querySelector("#sheet-title")?.textContent === "Vessel" && document.body?.dataset.ready`)
	b.focus("#t-detail")
	b.typed("Length")
	b.choose(".new-detail select", "number")
	b.focus(".new-detail button")
	b.press(kb.Enter)
	b.sees(".details", "Length Number on no page yet")
	b.focus("#t-detail")
	b.typed("Home port")
	b.focus(".new-detail button")
	b.press(kb.Enter)
	b.sees(".details > li:last-child", "Home port")
	b.focus(`[data-detail="vessel.length"] summary`)
	b.press(kb.Enter)
	b.focus(`[id="vessel.length-unit"]`)
	b.typed("m")
	b.press(kb.Tab)
	b.sees(".details > li:first-child summary", "Length Number, m")
	b.until(`document.querySelector('[data-detail="vessel.length"] details').open`)
	b.choose(`[id="vessel.length-required"]`, "yes")
	b.sees(".details > li:first-child summary", "needed")
	b.focus(`[data-types-do="later"][data-detail="vessel.length"]`)
	b.press(kb.Enter)
	b.sees(".details > li:first-child", "Home port")
	b.press("z", input.ModifierCtrl)
	b.sees(".details > li:first-child", "Length")

	b.press("a")
	b.press("t")
	b.until(`location.pathname === "/tree" && document.body?.dataset.ready`)
	b.goTo("On board")
	b.choose("#f-kind", "vessel")
	b.sees("[data-group=details]", "Needed before the page can go live.")
	b.goTo("Lost property")
	b.focus("#f-summary")
	b.typed(" And more.")
	b.press(kb.Tab)
	b.sees("[data-status]", "Changed the summary")
	b.press(kb.Enter, input.ModifierCtrl)
	b.sees("[data-review] .conflicts", "“On board” would be live without “Length”.")
	b.axe("the review of a page that lacks something")
	b.click(`[data-without]`)
	b.until(`document.querySelector("[data-review]").open && !document.querySelector("[data-review] .conflicts")`)
	b.until(`document.activeElement.matches("[data-review] .primary")`)
	b.press(kb.Enter)
	b.sees("[data-status]", "Published")
	_, lost := w.public("/sailings/on-board/lost-property")
	assert.Contains(t, lost, "And more.")
}

// A detail is filled in on the sheet, is refused in words where it can't be meant, is told for everyone, and stands on
// the page in public; what a page points at shows to who reaches it.
func TestDetailsOfAPage(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Great Hallin pier")
	b.axe("a sheet with details")
	b.focus("#f-harbour-depth")
	b.press("a", input.ModifierCtrl)
	b.typed("deep")
	b.press(kb.Tab)
	b.sees("[data-alert]", "“deep” is no number for “Depth at chart datum”")
	b.until(`document.querySelector("#f-harbour-depth").value === "deep"`)
	b.focus("#f-harbour-depth")
	b.press("a", input.ModifierCtrl)
	b.typed("6,5 m")
	b.press(kb.Tab)
	b.status("Changed the depth of “Great Hallin pier”.")
	b.until(`document.querySelector("#f-harbour-depth").value === "6.5"`)
	b.click(`[data-field-set="harbour.services"][data-new*="Fuel"][aria-pressed=true]:last-of-type`)
	b.until(`document.querySelector('[data-field-set="harbour.services"]:last-of-type').ariaPressed === "false"`)
	b.sees("[data-part=dock]", "“Harbours at a glance” tells something else of the pages that it lists on 1 page")
	b.publishes()
	_, pier := w.public("/harbours/great-hallin/great-hallin-pier")
	assert.Contains(t, pier, `<dt dir="auto">Depth at chart datum</dt>`)
	assert.Contains(t, pier, `<dd dir="auto">6.5 m</dd>`)
	assert.NotContains(t, pier, `<dd dir="auto">Power</dd>`)

	b.goTo("Deckhand, Great Hallin")
	b.click(`[data-pick-page="vacancy.at"]`)
	b.until(`document.activeElement.matches("[data-picker] [role=combobox]")`)
	b.typed("north pier")
	b.sees("[data-picker] [aria-selected=true] strong", "North pier")
	b.press(kb.Enter)
	b.sees("[data-group=details] .with a", "North pier")
	b.publishes()
	_, job := w.public("/jobs/deckhand-great-hallin")
	assert.Contains(t, job, `<a href="/harbours/great-hallin/north-pier">North pier</a>`)
	assert.Contains(t, job, `<a href="mailto:crew@skerrow-isles.example">`)
}

// From a type to a menu in one go: a page that lists its pages is made where it should stand, and put into a menu, by
// one form that begins at the type.
func TestPagesOfATypeAreShownInAMenuInOneGo(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.open(b.bench + "/types?kind=vacancy")
	b.until(`document.body.dataset.ready`)
	b.click(`a[href*="make-lists=vacancy"]`)
	b.until(`location.pathname === "/tree" && document.activeElement?.id === "making-label"`)
	b.sees(".making p", "/vacancy")
	b.press("a", input.ModifierCtrl)
	b.typed("Work with us")
	b.sees(".making p", "/work-with-us")
	b.follow(`{ const gap = document.querySelector(".making [name=gap]")
		gap.value = [...gap.options].at(-1).value
		gap.dispatchEvent(new Event("input", { bubbles: true })) }`)
	b.sees(".making p", "item")
	b.axe("making a page that lists those of a type")
	b.focus("#making-label")
	b.press(kb.Enter)
	b.selected("Work with us")
	b.sees("[data-group=listing]", "Pages of the type “Vacancy”")
	b.publish()
	b.open(b.site + "/work-with-us")
	b.sees("article table", "Deckhand, Great Hallin")
}
