package e2e

import (
	"testing"

	"github.com/chromedp/chromedp/kb"
)

// By keys: from the history to the site as it was, which can't be edited; the page from then comes back as an edit of
// the draft; two moments are compared as a draft is.
func TestThePastIsLookedAtAndBroughtBack(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Fares")
	b.rename("Prices")
	b.publish()
	b.goTo("Contact")
	b.press(kb.Delete)
	b.status("Put in the bin “Contact”")
	b.publish()

	b.open(w.bench + "/drafts")
	b.sees(".history", "Prices")
	b.follow(
		`[...document.querySelectorAll(".history a")].filter(a => a.textContent.includes("as it was then"))[2].click()`,
	)
	b.until(`location.pathname === "/tree" && document.body?.dataset.ready`)
	b.sees(".then-band", "As it was on 24 November 2026")
	b.until(`[...document.querySelectorAll(".rung .label")].some(l => l.textContent.includes("Contact"))`)
	b.axe("the site as it was")
	b.goTo("Contact")
	b.until(`document.querySelector("#f-label").disabled`)
	b.press(kb.F2)
	b.focus("[data-bring]")
	b.press(kb.Enter)
	b.until(`location.search.includes("state=after") && document.body?.dataset.ready`)
	b.until(`!document.querySelector(".then-band")`)
	b.sees("#sheet-title", "Contact")
	b.until(`document.querySelector("[data-edits]").textContent === "1"`)

	b.open(w.bench + "/drafts")
	b.follow(
		`[...document.querySelectorAll(".history a")].filter(a => a.textContent.includes("changed since"))[2].click()`,
	)
	b.until(`location.pathname === "/compare"`)
	b.sees("h1", "What changed from 24 November 2026")
	b.sees(".sentences", "Prices")
	b.sees(".sentences", "Contact")
	b.axe("two moments")
}
