package e2e

import (
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp/kb"
)

// Words of a branch are replaced by keys: each hit is seen first, one is left out, one undo brings all back.
func TestWordsAreReplacedByKeys(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Harbours")
	b.press("r")
	b.until(`location.pathname === "/wording" && document.body?.dataset.ready`)
	b.focus("#w-find")
	b.typed("HARBOUR")
	b.press(kb.Tab)
	b.typed("Haven")
	b.press(kb.Enter)
	b.sees("[data-wording-replace]", "HarbourHaven")
	b.axe("find and replace")
	b.focus(`[name="hit"]`)
	b.press(" ")
	b.press(kb.Enter)
	b.sees("[data-status]", "Replaced “HARBOUR” by “Haven” on ")
	b.until(`[...document.querySelectorAll(".wording-hit")].length === 1`)
	b.focus("#sheet-title")
	b.press("z", input.ModifierCtrl)
	b.until(`[...document.querySelectorAll(".wording-hit")].length > 3`)
}

// What the list of keys calls the same everywhere is on the list of every screen that has one.
func TestEveryScreenHasTheKeysThatAreEverywhere(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	for _, at := range []string{
		"tree", "topics", "files", "types", "menus", "layouts", "access", "settings", "write", "wording",
		"versions", "import", "problems", "reviews", "start", "numbers", "compare", "table",
	} {
		b.open(w.bench + "/" + at)
		b.until(`document.body?.dataset.ready`)
		b.until(`["undo", "redo", "review and publish", "this list"].every(words =>
			[...document.querySelectorAll("[data-keys] dd")].some(dd => dd.textContent === words))`)
	}
}
