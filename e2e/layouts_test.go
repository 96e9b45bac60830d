package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

func chip(label string) string { return fmt.Sprintf(`.chip[data-label="%s"]`, label) }

// chosen waits for a chip to be the selected one, with the focus on it.
func (b *browser) chosen(label string) {
	b.t.Helper()
	b.until(
		fmt.Sprintf(
			`document.activeElement.matches('.chip[data-label="%s"][aria-pressed=true]') && document.querySelector(".sheet h1")?.textContent === %q`,
			label,
			label,
		),
	)
}

// dragChip takes a block by its grip to the upper or lower half of another, or into a region.
func (b *browser) dragChip(from, to string, part float64) {
	b.t.Helper()
	at := func(selector string, y float64) (float64, float64) {
		place := eval[[]float64](
			b,
			fmt.Sprintf(
				`(r => [r.left + 14, r.top + r.height * %g])(document.querySelector(%q).getBoundingClientRect())`,
				y,
				selector,
			),
		)
		return place[0], place[1]
	}
	x, y := at(from+" [data-grip]", 0.5)
	b.do(input.DispatchMouseEvent(input.MousePressed, x, y).WithButton(input.Left).WithClickCount(1))
	tx, ty := at(to, part)
	b.do(input.DispatchMouseEvent(input.MouseMoved, x, y+8).WithButton(input.Left).WithButtons(1),
		input.DispatchMouseEvent(input.MouseMoved, tx+20, ty).WithButton(input.Left).WithButtons(1))
	b.until(
		`!document.querySelector("[data-landing]").hidden && / of /.test(document.querySelector("[data-landing]").textContent)`,
	)
	b.do(input.DispatchMouseEvent(input.MouseReleased, tx+20, ty).WithButton(input.Left).WithClickCount(1))
}

// The map with keys only: go to a block, move it in its region and to another one, switch it off, put it back; then
// publish.
func TestTheLayoutMapWithKeysOnly(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("structure")
	b.open(b.bench + "/layouts?layout=standard")
	b.until(`document.body.dataset.ready`)
	b.focus(".chip[tabindex='0']")
	b.press(kb.ArrowRight)
	b.chosen("Breadcrumb")
	b.press(kb.ArrowRight)
	b.chosen("Side menu")
	b.press(kb.ArrowRight, input.ModifierAlt)
	b.status("Moved “Side menu”: Right side, 5 of 5.")
	b.chosen("Side menu")
	b.sees(".dock p", "“Side menu” appears on")
	b.sees(".dock p", "in the region “Right side”")
	b.press(kb.ArrowUp, input.ModifierAlt)
	b.status("Moved “Side menu”: Right side, 4 of 5.")
	b.chosen("Side menu")
	b.press(kb.ArrowDown, input.ModifierAlt)
	b.status("Right side, 5 of 5.")
	b.press(kb.ArrowDown, input.ModifierAlt)
	b.sees("[data-alert]", "It is the last in “Right side” already.")
	b.chosen("Side menu")
	// Source: WCAG 2.2, 2.1.2: the keys that lead in lead out again.
	for range 30 {
		if b.press(kb.Tab); !eval[bool](b, `Boolean(document.activeElement.closest(".map-scroll"))`) {
			break
		}
	}
	b.until(`!document.activeElement.closest(".map-scroll")`)
	b.focus(chip("Side menu"))
	b.press("o")
	b.status("Switched off “Side menu”.")
	b.sees(chip("Side menu"), "switched off")
	b.chosen("Side menu")
	b.press("o")
	b.status("Switched on “Side menu”.")
	b.until(`!document.querySelector('.chip[data-label="Side menu"]').matches(".off")`)
	b.focus(chip("Side menu"))
	b.press(kb.Delete)
	b.status("Took “Side menu” out of the region “Right side”; the block is kept.")
	b.sees(".tray", "Side menu")
	b.sees(".dock p", "“Side menu” disappears from")
	b.press("z", input.ModifierCtrl)
	b.status("Undone: took “Side menu” out of the region")
	b.until(`![...document.querySelectorAll(".tray .chip")].some(c => c.dataset.label === "Side menu")`)
	b.publish()
	_, page := w.public("/sailings/fares")
	assert.Regexp(t, `(?s)class="region region-right".*class="treenav"`, page)
	assert.Empty(t, b.problems)
}

// With the pointer: drag between regions and within one, conditions picked in the tree and said as a sentence, a block
// from the tray, a new one, and what stands on one page with the reason for what does not.
func TestTheLayoutMapWithThePointer(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.open(b.bench + "/layouts?layout=standard")
	b.until(`document.body.dataset.ready`)
	b.sees(chip("Harbour radio"), "pages")
	b.dragChip(chip("Office closed over Christmas"), chip("Harbour radio"), 0.2)
	b.status("Moved “Office closed over Christmas”: Right side, 2 of 4.")
	b.dragChip(chip("Pages inside"), chip("Side menu"), 0.9)
	b.status("Moved “Pages inside”: Left side, 2 of 3.")

	b.click(chip("Harbour radio") + " .chip-name")
	b.chosen("Harbour radio")
	b.sees(".sentence-words", "On Harbours and all below it, but not on North pier.")
	b.click(`[data-spot="except"]`)
	b.look("Great Hallin", "Great Hallin")
	b.sees("[data-picker-facts]", "would show on")
	b.press(kb.Enter)
	b.sees(".sentence-words", "but not on North pier or on Great Hallin and all below it.")
	b.click(`[data-pattern="where"]`)
	b.focus("#pt-pattern")
	b.typed("notices")
	b.sees("[data-pattern-dialog] [data-place-facts]", "A pattern of addresses begins with “/”")
	b.do(chromedp.Evaluate(`document.querySelector("#pt-pattern").value = ""`, nil))
	b.typed("/notices/**")
	b.press(kb.Enter)
	b.sees(".sentence-words", "On Harbours and all below it and on addresses like /notices/**")
	b.click(`[data-drop="where"][data-item="pattern:/notices/**"]`)
	b.until(`!document.querySelector(".sentence-words").textContent.includes("/notices/**")`)
	b.click(`[data-kind="not_kinds"][value="notice"]`)
	b.sees(".sentence-words", "not of the type notice")
	b.click("[data-cover]")
	b.sees(".cover", "Skerrow harbour")

	// From the tray into a region, with the region chosen from pictures of the layouts.
	b.click(chip("Storm warning") + " .chip-name")
	b.chosen("Storm warning")
	b.click(`.sheet [data-do="place-chip"]`)
	b.click(`[data-place-dialog] .mini [data-region="top"]`)
	b.sees("[data-place-facts]", "Top, 2 of 2")
	b.click("[data-place-dialog] .primary")
	b.status("Put “Storm warning”: Top, 2 of 2.")
	b.chosen("Storm warning")
	b.click(`[data-do="new-block"]`)
	b.focus(`[data-new-block] [name="name"]`)
	b.typed("Lost and found")
	b.click(`[data-new-block] .mini [data-region="left"]`)
	b.click("[data-new-block] .primary")
	b.status("Made the block “Lost and found”: Left side, 4 of 4.")
	b.sees(".sheet h1", "Lost and found")
	b.focus("#f-text [contenteditable]")
	b.typed("Ask at the pier.")
	b.focus("#b-name")
	b.status("Wrote the text of “Lost and found”.")

	b.click(`[data-mode="page"]`)
	b.click(`[data-do="map-page"]`)
	b.look("North pier", "North pier")
	b.press(kb.Enter)
	b.sees(".map-page", "layout Standard, the one of the site")
	b.sees(chip("Harbour radio")+" .chip-why", "Not here: the page is left out")
	b.sees(chip("Operators' menu")+" .chip-why", "Not here: it is only for Operators")
	b.publish()
	_, page := w.public("/harbours/great-hallin/north-pier")
	assert.Contains(t, page, "Ask at the pier.")
	_, page = w.public("/harbours/skerrow")
	assert.Contains(t, page, "Storm", "the block from the tray")
	assert.Empty(t, b.problems)
}

// Settings are edits of the draft, with what they do said before; a page's layout is set on its sheet and for many at
// once.
func TestSettingsAndLayoutsOfPages(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.open(b.bench + "/settings")
	b.until(`document.body.dataset.ready`)
	b.sees("[data-closed-facts]", "The site closes: at each of its")
	b.sees("[data-closed-facts]", "visitors get “Closed for the moment” with the status 503.")
	b.click(`[data-special="not_found_page"]`)
	b.look("Board papers", "Board papers")
	b.press(kb.Enter)
	b.sees("[data-alert]", "“Board papers” can't be the “not found” page: not everyone reaches it.")
	b.click(`[data-special="not_found_page"]`)
	b.look("Contact", "Contact")
	b.press(kb.Enter)
	b.sees(".dock p", "“Contact” shows where there is no page.")
	b.focus("main h1")
	b.publish()
	_, missing := w.public("/nowhere")
	assert.Contains(t, missing, ">Contact</h1>")

	// What arrives while somebody types takes nothing away.
	b.do(chromedp.Evaluate(`((real) => { window.fetch = async (path, how) => {
		const answer = await real(path, how)
		await new Promise(go => setTimeout(go, String(path).startsWith("/settings") ? 400 : 0))
		return answer
	} })(window.fetch)`, nil))
	b.do(
		chromedp.Evaluate(
			`(s => { s.value = "year-month"; s.dispatchEvent(new Event("change", { bubbles: true })) })(document.querySelector("#s-dates"))`,
			nil,
		),
	)
	b.focus("#s-name")
	b.do(chromedp.Evaluate(`document.querySelector("#s-name").select()`, nil))
	b.typed("Skerrow Harbours")
	b.until(`document.querySelector("#s-dates").dataset.old === "year-month" && !document.body.dataset.busy`)
	assert.Equal(
		t,
		"s-name Skerrow Harbours",
		eval[string](b, `document.activeElement.id + " " + document.querySelector("#s-name").value`),
	)
	b.press(kb.Tab)
	b.sees(".dock p", "The site is called “Skerrow Harbours” instead of “Skerrow Isles Harbour Board”")
	b.focus("#s-zone")
	b.do(chromedp.Evaluate(`document.querySelector("#s-zone").select()`, nil))
	b.typed("Atlantis")
	b.press(kb.Tab)
	b.sees("[data-alert]", "“Atlantis” is not a time zone; they have names like Europe/London.")
	b.until(`document.querySelector("#s-zone").value === "Europe/London"`)
	b.focus("main h1")
	b.publish()
	_, named := w.public("/contact")
	assert.Contains(t, named, "<title>Contact – Skerrow Harbours</title>")

	b.open(b.bench + "/tree")
	b.until(`document.body.dataset.ready`)
	b.goTo("Fares")
	b.sees(`label[for="f-layout"]`, "now Standard, the one of the site.")
	b.do(
		chromedp.Evaluate(
			`(s => { s.value = "wide"; s.dispatchEvent(new Event("change", { bubbles: true })) })(document.querySelector("#f-branch-layout"))`,
			nil,
		),
	)
	b.status("of “Fares”")
	b.click(`.bar [data-do="review"]`)
	b.sees("[data-review] .sentences", "have the layout “Wide” from now on.")
	b.click("[data-review] [data-close]")
	b.goTo("Refunds")
	b.sees(`label[for="f-layout"]`, "now Wide, set for all below “Fares”.")
	b.press(" ")
	b.marked(1)
	b.until(`document.querySelector("[data-set-value=layout]")`)
	b.do(
		chromedp.Evaluate(
			`(s => { s.value = "form"; s.dispatchEvent(new Event("change", { bubbles: true })) })(document.querySelector("[data-set-value=layout]"))`,
			nil,
		),
	)
	b.sees("[data-edits]", "2")
	b.press(kb.Escape)
	b.sees(`label[for="f-layout"]`, "now Form, set on the page itself.")
	b.publish()
	_, fares := w.public("/sailings/fares")
	assert.Contains(t, fares, `class="page layout-wide"`)
	_, refunds := w.public("/sailings/fares/refunds")
	assert.Contains(t, refunds, `class="page layout-form"`)
	assert.Empty(t, b.problems)
}

// From a block on the real page one step leads to its settings, and from a menu to its items; in the preview, and on
// the public site for who may edit, and for nobody else.
func TestFromTheRealPageToTheBlock(t *testing.T) {
	w := newWorld(t)
	_, page := w.public("/harbours/skerrow")
	assert.NotContains(t, page, "edit-link")
	b := w.browser(1280, 800)
	b.signIn("structure")
	b.goTo("Skerrow")
	b.press("p")
	b.until(`document.querySelector("[data-frame]").src.includes("/proof/")`)
	b.click("[data-outline]")
	preview := eval[string](
		b,
		`new Promise(done => { const f = document.querySelector("[data-frame]"); const was = f.src; const look = () => f.src !== was ? done(f.src) : setTimeout(look, 30); setTimeout(() => done(f.src), 1500) })`,
	)
	b.open(preview)
	b.sees(".outlined .edit-link", "Edit Side menu")
	assert.Equal(t, "Left side", eval[string](b, `document.querySelector(".region-left").dataset.name`))
	b.follow(`[...document.querySelectorAll(".edit-link a")].find(a => a.textContent === "Edit Side menu").click()`)
	b.sees(".sheet h1", "Side menu")
	b.sees(".map-page", "Skerrow")
	b.open(preview)
	b.follow(`document.querySelector('.edit-link a[aria-label="Items of Side menu"]').click()`)
	b.sees(".menu-blocks [aria-current]", "Side menu")

	b.open(b.site + "/sign-in")
	b.do(chromedp.SendKeys("#login", "structure"), chromedp.SendKeys("#password", password("structure")+"\n"))
	b.sees(".account", "Signed in as")
	b.open(b.site + "/harbours/skerrow")
	b.follow(`[...document.querySelectorAll(".edit-link a")].find(a => a.textContent === "Edit this page").click()`)
	b.sees(".sheet h1", "Skerrow")
	assert.Empty(t, b.problems)
}

// A storm warning takes two presses: what it says, and on every page it stands, first, until it goes by itself.
func TestANoticeOnEveryPage(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.open(w.bench + "/layouts")
	b.until(`document.body?.dataset.ready`)
	b.focus(`[data-do="notice"]`)
	b.press(kb.Enter)
	b.until(`document.activeElement.matches("#no-words")`)
	b.typed("Storm <tonight>.")
	b.focus("#no-until")
	b.typed("28.11.2026 06:00")
	b.sees("[data-notice-dialog] [data-place-facts]", "for everyone until 28 November 2026 at 06:00")
	b.axe("a notice")
	b.press(kb.Enter)
	b.sees("[data-status]", "Put the notice “Storm <tonight>.” on every page")
	b.publish()
	for _, path := range []string{"/", "/sailings/fares", "/contact"} {
		_, page := b.public(path)
		assert.Contains(t, page, "<aside><p>Storm &lt;tonight&gt;.</p></aside>", path)
	}
	b.open(b.site + "/contact")
	b.axe("a page with a notice")
}

// Conditions get a name, are given to other places, and are changed for all of them at once; by keys.
func TestConditionsUnderAName(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("structure")
	b.open(b.bench + "/layouts?layout=front")
	b.focus(chip("Latest notices"))
	b.press(" ")
	b.until(`document.querySelector(".sheet h1").textContent === "1 place of 1 block selected"`)
	b.press(kb.Escape)
	b.until(`document.querySelector(".sheet h1").textContent === "Front"`)
	b.press(kb.ArrowUp)
	b.chosen("Pages inside")
	b.press(kb.ArrowDown)
	b.chosen("Latest notices")
	b.focus(`[data-set-form] [name="name"]`)
	b.typed("The front page")
	b.press(kb.Enter)
	b.status("Named the conditions of “Latest notices”: “The front page”.")
	b.sees(".conditions", "Edit “The front page”")
	b.axe("a place with a condition set")

	// Several blocks: the set is one of what they can have together.
	b.focus(chip("Latest notices"))
	b.press(" ")
	b.press(kb.ArrowDown)
	b.press(" ")
	b.until(`document.querySelector(".sheet h1").textContent === "2 places of 2 blocks selected"`)
	b.axe("several blocks")
	set := eval[string](b, `[...document.querySelector("#many-set").options].find(o => /front page/.test(o.text)).value`)
	b.focus("#many-set")
	b.follow(fmt.Sprintf(`(s => { s.value = %q; s.dispatchEvent(new Event("change", { bubbles: true })) })(
		document.querySelector("#many-set"))`, set))
	b.status("Changed the condition set of 2 places of 2 blocks.")
	b.until(`document.querySelector("#many-set").selectedOptions[0].text === "as in “The front page”"`)

	b.focus(`[data-do="unmark"]`)
	b.press(kb.Enter)
	b.until(`!("many" in document.body.dataset)`)
	b.click(`[data-chip="s"]`)
	b.sees(".sheet", "2 places of 2 blocks.")
	b.axe("condition sets")
	b.click(fmt.Sprintf(`.sheet [data-chip="s%s"]`, set))
	b.sees(".sheet", "On Home. That is on 1 page for this visitor.")
	b.click(`[data-pattern="where"]`)
	b.typed("/sailings")
	b.sees("[data-pattern-dialog] [data-place-facts]", "“Latest notices” appears on 1 page")
	b.press(kb.Enter)
	b.status("Changed the condition set “The front page”, for 2 places.")
	b.sees(".sheet", "That is on 2 pages for this visitor.")
	b.sees("[data-part=dock]", "page")
}

// Several blocks at once with the pointer: their dates, and another one in place of one wherever that stands.
func TestSeveralBlocksAtOnce(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.open(b.bench + "/layouts?layout=front")
	b.clickWith(chip("Footer menu")+" .chip-name", input.ModifierCtrl)
	b.clickWith(chip("Account menu")+" .chip-name", input.ModifierCtrl)
	b.until(`document.querySelector(".sheet h1").textContent === "2 places of 2 blocks selected"`)
	b.click(`.sheet [data-do="window"]`)
	b.sees("[data-window-words]", "For 2 blocks.")
	b.focus(`[data-window-form] [name="live_until"]`)
	b.typed("1.1.2027")
	b.press(kb.Enter)
	b.status("Set from when until when to show 2 places of 2 blocks.")
	b.click(`[data-do="unmark"]`)
	b.until(`!("many" in document.body.dataset)`)
	b.click(chip("Opening hours") + " .chip-name")
	b.chosen("Opening hours")
	b.click(`.sheet [data-do="replace"]`)
	b.look("Storm", "Storm warning")
	b.sees("[data-picker-facts]", "“Opening hours”")
	b.press(kb.Enter)
	b.status("Put “Storm warning” in place of")
	b.until(`!!document.querySelector('.map .chip[data-label="Storm warning"]') &&
		!document.querySelector('.map .chip[data-label="Opening hours"]')`)
	b.sees(".tray", "Opening hours")
}
