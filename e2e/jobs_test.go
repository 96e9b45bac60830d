package e2e

import (
	"strconv"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// A job is what people come for, from the first screen after sign-in to what is public. It says how many actions it
// takes: a key pressed, words typed in one go, a click. The most that it may take is what it took when it was written.
func (b *browser) job(t *testing.T, name string, most int, do func()) {
	t.Helper()
	t.Run(name, func(t *testing.T) {
		was := b.t
		b.t = t
		defer func() { b.t = was }()
		b.open(b.bench + "/tree")
		b.until(`document.body.dataset.ready && document.activeElement.matches(".rung")`)
		b.actions = 0
		do()
		t.Logf("%s: %d actions", name, b.actions)
		assert.LessOrEqual(t, b.actions, most)
	})
}

// finds goes to a page, menu, item or block by its name.
func (b *browser) finds(words, hit string) {
	b.t.Helper()
	b.press("/")
	b.until(`document.activeElement.matches("[data-picker] [role=combobox]")`)
	b.typed(words)
	b.sees("[data-picker] [aria-selected=true] strong", hit)
	b.press(kb.Enter)
}

func (b *browser) publishes() {
	b.t.Helper()
	b.edited()
	b.publish()
	b.until(`!document.querySelector("dialog[open]") && !document.body.dataset.busy`)
}

// edited waits until an edit is in the draft.
func (b *browser) edited() {
	b.t.Helper()
	b.until(`document.body?.dataset.ready && !document.body.dataset.busy && document.querySelector("[data-edits]")?.textContent !== "0"`)
}

// tabTo goes on with Tab until something has the focus.
func (b *browser) tabTo(selector string) {
	b.t.Helper()
	for range 40 {
		b.until(`!document.body.dataset.busy`)
		if b.holds("document.activeElement.matches(" + strconv.Quote(selector) + ")") {
			return
		}
		b.press(kb.Tab)
	}
	b.fail("Tab does not lead to %s", selector)
}

func TestTheJobsByKeys(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.job(t, "a page made second in a branch", 11, func() {
		b.finds("islanders card", "Islanders' card")
		b.selected("Islanders' card")
		b.press("n")
		b.until(`document.activeElement.id === "making-label"`)
		b.typed("Gift vouchers")
		b.press(kb.Tab)
		b.press(" ")
		b.press(kb.Enter)
		b.selected("Gift vouchers")
		b.sees(".answers", "2 of 5 in “Fares”")
		b.publishes()
		b.press("v")
	})
	_, fares := w.public("/sailings/fares/gift-vouchers")
	assert.Contains(t, fares, ">Gift vouchers</h1>")

	b.job(t, "a page put into a menu under a parent, first", 9, func() {
		b.finds("members board item", "Members of the Board")
		b.until(`location.pathname === "/menus" && document.body?.dataset.ready && document.activeElement.matches(".rung")`)
		b.selected("Members of the Board")
		b.press("b")
		b.until(`document.activeElement.matches(".making [role=combobox]")`)
		b.typed("tides and weather")
		b.sees(".making [aria-selected=true] strong", "Tides and weather")
		b.press(kb.Enter)
		b.until(`document.activeElement.name === "label"`)
		b.press(kb.Enter)
		b.selected("Tides and weather")
		b.sees(".answers", "1 of 4 below “The Board”")
		b.publishes()
	})
	b.job(t, "a new menu with three items in the footer", 22, func() {
		b.press("a")
		b.press("m")
		b.until(`location.pathname === "/menus" && document.body?.dataset.ready && document.activeElement.matches(".rung")`)
		b.press("w")
		b.until(`document.activeElement.id === "nm-name"`)
		b.typed("Help")
		b.press(kb.Tab)
		b.until(`document.activeElement.name === "region"`)
		b.press("F")
		b.until(`document.querySelector("[data-new-menu] [name=region]").value === "footer"`)
		b.press(kb.Tab, input.ModifierShift)
		b.press(kb.Enter)
		b.sees(".menu-choose summary", "Help")
		b.until(`!document.querySelector("dialog[open]") && !document.body.dataset.busy`)
		for _, page := range []string{"Contact", "Complaints", "Refunds"} {
			b.press("n")
			b.until(`document.activeElement.matches(".making [role=combobox]")`)
			b.typed(page)
			b.sees(".making [aria-selected=true] strong", page)
			b.press(kb.Enter)
			b.until(`document.activeElement.name === "label"`)
			b.press(kb.Enter)
			b.selected(page)
		}
		b.publishes()
	})
	_, home := w.public("/")
	assert.Contains(t, home, `href="/contact/complaints"`)

	b.job(t, "five siblings renumbered", 14, func() {
		b.finds("harbours", "Harbours")
		b.selected("Harbours")
		b.press(" ")
		for range 4 {
			b.press(kb.ArrowDown, input.ModifierShift)
		}
		b.until(`document.querySelector("[data-many-position] input")`)
		b.press(kb.Enter)
		b.until(`document.activeElement.matches(".sheet h1")`)
		b.press(kb.Tab)
		b.until(`document.activeElement.name === "position"`)
		b.typed("4")
		b.sees("[data-many-facts]", "positions 4 to 8 of 17 in “Home”")
		b.press(kb.Enter)
		b.sees(".sheet .answers", "Positions 4 to 8")
		b.publishes()
	})
	b.job(t, "a branch moved and taken back", 11, func() {
		b.finds("on board", "On board")
		b.selected("On board")
		b.press("m")
		b.until(`document.activeElement.matches("[data-picker] [role=combobox]")`)
		b.typed("contact")
		b.sees("[data-picker-facts]", "in “Contact”")
		b.press(kb.Enter)
		b.selected("On board")
		b.publishes()
		b.press("t")
		b.status("The opposite edits are in your draft")
		b.publishes()
	})
	b.job(t, "a block on one branch, not on one page, for staff, until a date", 46, func() {
		b.finds("opening hours block", "Opening hours")
		b.until(`location.pathname === "/layouts" && document.body?.dataset.ready`)
		b.sees(".sheet h1", "Opening hours")
		b.until(`document.activeElement.matches(".chip")`)
		b.press(kb.Enter)
		b.until(`document.activeElement.matches(".sheet h1")`)
		b.tabTo(`[data-spot="where"]`)
		b.press(kb.Enter)
		b.typed("harbours")
		b.sees("[data-picker] [aria-selected=true] strong", "Harbours")
		b.press(kb.Enter)
		b.sees(".sentence-words", "On Harbours and all below it")
		b.tabTo(`[data-spot="except"]`)
		b.press(kb.Enter)
		b.typed("north pier")
		b.sees("[data-picker] [aria-selected=true] strong", "North pier")
		b.press(kb.Tab)
		b.until(`document.activeElement.matches('[data-picker] [data-way="before"]')`)
		b.press(kb.Enter)
		b.tabTo(`[data-picker] [data-verb]`)
		b.press(kb.Enter)
		b.sees(".sentence-words", "but not on North pier")
		b.tabTo("#p-audience")
		b.press("S")
		b.until(`!document.body.dataset.busy && document.querySelector("#p-audience").selectedOptions[0].text.startsWith("S")`)
		b.tabTo("#p-until")
		b.typed("31.1.2027")
		b.press(kb.Enter)
		b.sees("#p-until-words", "the end of Sunday 31 January")
		b.publishes()
	})
	response, _ := w.public("/sailings/on-board")
	assert.Equal(t, 200, response.StatusCode)
	assert.Empty(t, b.problems)
}

// The same with the pointer, where words have to be typed they count as one. A drag counts as one.
func TestTheJobsByPointer(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	publishes := func() {
		b.edited()
		b.click(`.bar [data-do="review"]`)
		b.click(`[data-review] .primary`)
		b.status("Published")
		b.until(`!document.querySelector("dialog[open]") && !document.body.dataset.busy`)
	}
	finds := func(words, hit string) {
		b.click(`[data-do="find"]`)
		b.until(`document.activeElement.matches("[data-picker] [role=combobox]")`)
		b.typed(words)
		b.sees("[data-picker] [aria-selected=true] strong", hit)
		b.click(`[data-picker] [data-verb]`)
	}
	b.job(t, "a page made second in a branch", 10, func() {
		finds("islanders card", "Islanders' card")
		b.selected("Islanders' card")
		b.click(`.tools [data-do="make-after"]`)
		b.until(`document.activeElement.id === "making-label"`)
		b.typed("Gift vouchers")
		b.click(`.making [name="live"]`)
		b.click(".making .primary")
		b.selected("Gift vouchers")
		publishes()
		b.until(`document.querySelector("[data-status] a")`)
		b.actions++ // “See it in public”, in a tab of its own
	})
	b.job(t, "a page put into a menu under a parent, first", 9, func() {
		finds("members board item", "Members of the Board")
		b.until(`location.pathname === "/menus" && document.body?.dataset.ready && document.activeElement.matches(".rung")`)
		b.click(`.tools [data-do="make-before"]`)
		b.until(`document.activeElement.matches(".making [role=combobox]")`)
		b.typed("tides and weather")
		b.sees(".making [aria-selected=true] strong", "Tides and weather")
		b.sees(".making [data-facts]", "Tides and weather: ")
		b.click(".making [aria-selected=true]")
		b.until(`document.activeElement.name === "label"`)
		b.click(".making .primary")
		b.selected("Tides and weather")
		publishes()
	})
	b.job(t, "a new menu with three items in the footer", 19, func() {
		b.click(`.areas a[href^="/menus"]`)
		b.until(`location.pathname === "/menus" && document.body?.dataset.ready && document.activeElement.matches(".rung")`)
		b.click(`[data-do="new-menu"]`)
		b.until(`document.activeElement.id === "nm-name"`)
		b.typed("Help")
		b.click(`[data-new-menu] .mini [data-region="footer"]`)
		b.click("[data-new-menu] .primary")
		b.sees(".menu-choose summary", "Help")
		for i, page := range []string{"Contact", "Complaints", "Refunds"} {
			b.until(`!document.querySelector("dialog[open]") && !document.body.dataset.busy`)
			if i == 0 {
				b.click(`.rung.empty [data-do="make-after"]`)
			} else {
				b.click(`.tools [data-do="make-after"]`)
			}
			b.until(`document.activeElement.matches(".making [role=combobox]")`)
			b.typed(page)
			b.sees(".making [aria-selected=true] strong", page)
			b.sees(".making [data-facts]", page+": ")
			b.click(".making [aria-selected=true]")
			b.until(`document.activeElement.name === "label"`)
			b.click(".making .primary")
			b.selected(page)
		}
		publishes()
	})
	b.job(t, "five siblings renumbered", 7, func() {
		b.click(row("Harbours") + " .label")
		b.selected("Harbours")
		b.clickWith(row("Plan a crossing")+" .label", input.ModifierShift)
		b.actions++
		b.until(`document.querySelector("[data-many-position] input")`)
		b.click("[data-many-position] input")
		b.do(chromedp.Evaluate(`document.querySelector("[data-many-position] input").select()`, nil))
		b.typed("4")
		b.sees("[data-many-facts]", "positions 4 to 8 of 17 in “Home”")
		b.click("[data-many-position] button")
		b.sees(".sheet .answers", "Positions 4 to 8")
		publishes()
	})
	b.job(t, "a branch moved and taken back", 7, func() {
		b.click(`[data-do="unmark"], .rung[aria-selected=true]`)
		b.until(`!document.body.dataset.busy`)
		b.drag("Jobs", "About the Board", 0.1)
		b.actions++
		publishes()
		b.click(`[data-status] button`)
		b.status("The opposite edits are in your draft")
		publishes()
	})
	b.job(t, "a block on one branch, not on one page, for staff, until a date", 17, func() {
		finds("opening hours block", "Opening hours")
		b.until(`location.pathname === "/layouts" && document.body?.dataset.ready`)
		b.sees(".sheet h1", "Opening hours")
		b.click(`[data-spot="where"]`)
		b.typed("harbours")
		b.sees("[data-picker] [aria-selected=true] strong", "Harbours")
		b.click(`[data-picker] [data-verb]`)
		b.sees(".sentence-words", "On Harbours and all below it")
		b.click(`[data-spot="except"]`)
		b.typed("north pier")
		b.sees("[data-picker] [aria-selected=true] strong", "North pier")
		b.click(`[data-picker] [data-way="before"]`)
		b.click(`[data-picker] [data-verb]`)
		b.sees(".sentence-words", "but not on North pier")
		b.focus("#p-audience") // its list is the browser's own: a click to open it, one to choose
		b.actions++
		b.press("S")
		b.until(`!document.body.dataset.busy && document.querySelector("#p-audience").selectedOptions[0].text.startsWith("S")`)
		b.click("#p-until")
		b.typed("31.1.2027")
		b.click(".sheet h1") // which leaves the field
		b.sees("#p-until-words", "the end of Sunday 31 January")
		publishes()
	})
	assert.Empty(t, b.problems)
}
