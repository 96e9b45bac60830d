package e2e

import (
	"testing"

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
