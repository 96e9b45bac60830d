package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// What a menu shows, to whom and why, on the screen and in public.
func TestMenusAsVisitorsGetThem(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.open(b.bench + "/menus?menu=1&on=sailings/timetables/winter")
	b.sees(".where", "Header menu: on ")
	b.sees(".result .lit", "Timetables")
	b.sees(".entries", "the listed pages in “Home”, all levels")
	b.sees(".result .lit + small", "current: true")
	b.open(b.bench + "/menus?menu=3")
	b.sees(".entries", "Not: it depends on who is signed in")
	b.open(b.bench + "/menus?menu=3&as=staff&on=/jobs")
	b.sees(".result", "Sign out")
	b.sees(".result .lit", "Jobs")
	b.open(b.bench + "/menus?menu=2&on=/nowhere")
	b.sees("[role=alert]", "There is no page at /nowhere")
	b.sees(".where", "Quick tasks: on 1 page.")

	_, home := w.public("/")
	assert.Contains(t, home, `aria-label="Quick tasks"`)
	assert.Contains(t, home, `title="Until 27 March, all routes"`)
	assert.Contains(t, home, `<span class="badge badge-sand">Cars fill early</span>`)
	_, jobs := w.public("/jobs")
	assert.NotContains(t, jobs, `aria-label="Quick tasks"`)
	assert.Contains(t, jobs, `<span class="heading trail" dir="auto">The Board</span>`)
	assert.NotContains(t, jobs, "Sign out")
	assert.Empty(t, b.problems)
}

// Taking a page offline takes its items out of every menu, and what will change says so for each.
func TestAMenuItemGoesWithItsPage(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Book a place")
	b.sees(".answers", "Quick tasks, level 1.")
	b.press("o")
	b.status("Took offline")
	b.click(`.bar [data-do="review"]`)
	b.sees("[data-review] .sentences", "Quick tasks loses 1 item for everyone")
	b.sees("[data-review] .sentences", "Side menu loses 1 item for everyone")
}

// Items are made, edited, moved and taken out in the draft; one publication makes them public.
func TestEditingAMenu(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("structure")
	b.open(b.bench + "/menus?menu=2")
	set := func(selector, value string) {
		t.Helper()
		b.do(chromedp.Evaluate(fmt.Sprintf(`(i => { i.value = %q; i.dispatchEvent(new Event("change", { bubbles: true })) })(document.querySelector(%q))`, value, selector), nil))
	}
	put := func(sort, leads, label string) {
		t.Helper()
		set(`[data-menu-do="put"] [name="sort"]`, sort)
		set(`[data-menu-do="put"] [name="leads"]`, leads)
		set(`[data-menu-do="put"] [name="label"]`, label)
		b.click(`[data-menu-do="put"] button`)
	}
	put("page", "harbours/tides-and-weather", "") // an address without its slash
	b.sees("[data-status]", "Put an item into “Quick tasks”.")
	b.sees(".item h2", "Tides and weather")
	b.sees(".draftband", "1 edit in My changes")
	set("#i-badge", "Gale warning")
	b.sees("[data-status]", "Changed the item “Tides and weather”.")
	b.sees(".entries", "badge “Gale warning”")
	b.click(`[data-menu-do="nudge"] [value="up"] + button`)
	b.sees("[data-status]", "Moved the item “Tides and weather”.")
	put("web", "no address", "Elsewhere")
	b.sees("[data-alert]", "“no address” is not a web address; write it as https://host/path.")
	put("page", "pier", "")
	b.sees("[data-alert]", "Several pages could be meant by “pier”")
	b.click(`[data-step="/undo"]`)
	b.sees("[data-status]", "Undone: moved the item “Tides and weather”")
	_, home := w.public("/")
	assert.NotContains(t, home, "Gale warning", "nothing is public before publishing")
	b.open(b.bench + "/tree")
	b.until(`document.body.dataset.ready`)
	b.focus(".rung.current")
	b.press(kb.Enter, input.ModifierCtrl)
	b.sees("[data-review] .sentences", "Quick tasks gains 1 item for everyone: “Tides and weather”")
	b.until(`document.activeElement.matches("[data-review] .primary")`)
	b.press(kb.Enter)
	b.status("Published")
	_, home = w.public("/")
	assert.Contains(t, home, `Gale warning</span>`)

	// A menu is made, filled, and taken away again; one that is shown is not.
	b.open(b.bench + "/menus")
	assert.True(t, eval[bool](b, `document.querySelector('[data-menu-do="take-menu"] button').disabled`))
	b.focus("#m-new")
	b.typed("Operators")
	b.press(kb.Enter)
	b.sees("[data-status]", "Made the menu “Operators”.")
	b.sees(".where", "Not shown anywhere.")
	put("heading", "", "Duty")
	b.sees(".item h2", "Duty")
	b.sees(".entries", "Not: nothing below it shows")
	set(`[data-menu-do="put"] [name="way"]`, "into")
	put("page", "Duty rota", "")
	b.sees(".item h2", "Duty rota")
	b.sees(".entries", "Not: this visitor does not reach the page")
	b.click(`[data-menu-do="take-menu"] button`)
	b.sees("[data-status]", "Took the menu “Operators” away.")
	assert.Empty(t, b.problems)
}
