package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"vineladder/internal/demo"
)

// TestPictures makes the pictures of docs/screenshots, where VINELADDER_PICTURES names a folder for them.
func TestPictures(t *testing.T) {
	folder := os.Getenv("VINELADDER_PICTURES")
	if folder == "" {
		t.Skip("VINELADDER_PICTURES is not set; “make pictures” does")
	}
	w := newWorldWithFiles(t)
	require.NoError(t, demo.Grow(t.Context(), w.store))
	w.seen()
	b := w.browser(1280, 800)
	shoot := func(name string) {
		var png []byte
		b.do(chromedp.CaptureScreenshot(&png))
		require.NoError(t, os.WriteFile(filepath.Join(folder, name+".png"), png, 0o644))
	}
	b.open(b.site + "/sailings/timetables/winter")
	shoot("public-page")
	b.open(b.site + "/about-the-board/documents")
	b.follow(`[...document.querySelectorAll(".filters a")].find(a => a.textContent === "Skerrow").click()`)
	b.sees(".filters [aria-current]", "Skerrow")
	shoot("public-list")
	b.signIn("keeper")
	b.open(b.bench + "/tree")
	b.goTo("Øyra")
	b.press(kb.F4)
	b.until(
		`location.pathname === "/write" && document.querySelector(".prose figure") && document.body.dataset.ready`,
	)
	b.do(chromedp.Sleep(1_500_000_000))
	shoot("writing")
	b.open(b.bench + "/files")
	b.click(`.rung[data-label="Files"] [data-toggle]`)
	b.click(`.rung[data-label="Charts and sketches"] [data-toggle]`)
	b.click(`.rung[data-label="Chart of Øyra"] .label`)
	b.sees(".sheet", "On “Øyra”")
	b.do(chromedp.Sleep(800_000_000))
	shoot("files")
	b.open(b.bench + "/types?kind=harbour")
	b.until(`document.body.dataset.ready`)
	shoot("types")
	b.open(b.bench + "/access?mode=matrix")
	b.until(`document.body.dataset.ready`)
	shoot("access")
	b.open(b.bench + "/topics")
	b.until(`document.body.dataset.ready && document.activeElement.matches(".rung")`)
	for _, below := range []string{"Skerrow Isles", "Skerrow"} { // Places, and the islands in it
		b.press(kb.ArrowRight)
		b.until(fmt.Sprintf(`[...document.querySelectorAll(".rung")].some(r => r.dataset.label === %q)`, below))
		b.press(kb.ArrowDown)
	}
	for range 3 {
		b.press(kb.ArrowDown)
	}
	b.sees(".pane-sheet h1", "Øyra")
	b.sees("[data-group=gathers] li", "Øyra")
	shoot("topics")
	b.open(b.bench + "/tree")
	b.goTo("Fares")
	b.press("l")
	b.status("Unlisted")
	b.goTo("Vesterhav")
	b.press("m")
	b.until(`document.activeElement.matches('[data-picker] [role=combobox]')`)
	b.typed("great hallin")
	b.until(`document.querySelector("[data-picker-facts]").textContent.includes("Great Hallin")`)
	b.press("\r")
	b.selected("Vesterhav")
	b.goTo("Season tickets")
	b.press("n")
	b.until(`document.activeElement.id === "making-label"`)
	b.typed("Gift vouchers")
	b.sees(".making p", "gift-vouchers")
	b.click("[data-cancel]")
	b.goTo("Groups and schools")
	shoot("tree")
	b.click(`[data-do="review"].primary`)
	b.sees("[data-review] h2", "What will change")
	shoot("what-will-change")
	b.click("[data-open-sides]")
	b.sees("[data-sides-differ]", "Marked:")
	shoot("before-and-after")
	b.click(`[data-sides] [data-close]`)
	b.click(`[data-review] [data-close]`)
	b.click(`.tools [data-do="preview"]`)
	b.until(`document.querySelector("[data-frame]").src.includes("/proof/")`)
	b.do(chromedp.Sleep(800_000_000))
	shoot("preview")
	b.click(`[data-preview] [data-close]`)

	b.goTo("Notices")
	b.focus(".rung.current")
	b.press("f")
	b.until(`document.activeElement.name === "words"`)
	b.typed("tides in")
	b.sees("[data-part=hits]", "144 found")
	b.click(`[data-do="mark-all"]`)
	b.sees("[data-marked-words]", "144 selected")
	b.click(`[data-do="unmark"]`)
	b.do(
		chromedp.Evaluate(
			`(i => { i.value = "notices of"; i.dispatchEvent(new Event("input", { bubbles: true })) })(document.querySelector("[data-filter] [name=words]"))`,
			nil,
		),
	)
	b.sees("[data-part=hits]", "7 found")
	b.click(`[data-do="mark-all"]`)
	b.sees("[data-marked-words]", "7 selected")
	b.click(`[data-marked-bar] [data-do="carry"]`)
	b.click(`[data-do="unfilter"]`)
	b.goTo("Plan a crossing")
	b.sees(`[data-drop-facts="after"]`, "in “Home”")
	b.click(`[data-do="put-down"]`)

	b.open(b.bench + "/drafts")
	shoot("drafts")
	b.follow(
		`location = [...document.querySelectorAll(".cards a")].find(a => a.textContent === "Winter changeover").href.replace("/drafts", "/tree")`,
	)
	b.sees(".draftband", "Winter changeover")
	b.until(`document.body.dataset.ready`)
	b.goTo("Winter 2026")
	b.sees(".key", "Online and listed")
	b.open(b.bench + "/menus?page=4")
	b.until(
		`document.body.dataset.ready && (a => { a?.click(); return a })(document.querySelector(".menu-blocks a:nth-child(2)"))`,
	)
	b.sees(".menu-blocks [aria-current]", "Side menu")
	b.sees("#gets-result .lit", "Timetables")
	b.sees(".key", "Shows, ")
	shoot("menus")
	b.open(b.bench + "/layouts?layout=standard")
	b.until(`document.body.dataset.ready`)
	b.click(chip("Harbour radio") + " .chip-name")
	b.chosen("Harbour radio")
	b.sees(chip("Harbour radio"), "pages")
	shoot("layouts")
	b.open(b.bench + "/layouts?mode=page&page=33")
	b.sees(".chip-why", "Not here")
	b.sees(chip("Side menu"), "pages")
	b.open(b.bench + "/settings")
	b.sees("[data-closed-facts]", "The site closes")
	shoot("settings")
	b.open(b.bench + "/picture")
	shoot("site-picture")
	b.open(b.bench + "/problems")
	b.until(`document.body?.dataset.ready && !document.querySelector("[data-counting]")`)
	shoot("problems")
	b.open(b.bench + "/start")
	b.until(`document.body?.dataset.ready`)
	shoot("start")
	b.open(b.bench + "/tree")
	b.goTo("Timetables")
	b.press("e")
	b.until(`location.pathname === "/table" && document.body?.dataset.ready`)
	b.press(kb.ArrowDown)
	b.press(kb.Enter)
	b.until(`document.activeElement.matches("td input")`)
	b.typed("Winter times")
	b.press(kb.Enter)
	b.sees("[data-typed-words]", "Winter times")
	shoot("table")
}
