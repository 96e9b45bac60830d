package e2e

import (
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// menus opens the menus area on one menu, with the focus on the row of an item.
func (b *browser) menus(menu, item string) {
	b.t.Helper()
	b.open(b.bench + "/menus")
	b.until(`document.body.dataset.ready`)
	b.tab(menu)
	if item != "" {
		b.click(row(item) + " .label")
		b.selected(item)
	}
}

// tab chooses a menu.
func (b *browser) tab(menu string) {
	b.t.Helper()
	b.until(
		fmt.Sprintf(
			`(a => { a?.click(); return a })([...document.querySelectorAll(".menu-tabs a")].find(a => a.textContent === %q))`,
			menu,
		),
	)
	b.sees(".menu-tabs [aria-current]", menu)
}

// What a menu shows, to whom and why, on the screen and in public.
func TestMenusAsVisitorsGetThem(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.menus("Main menu", "")
	b.sees(".menu-where", "through “Header menu”")
	b.sees(".menu-blocks [aria-current]", "Header menu 163 pages")
	b.until(
		`document.body.dataset.ready && (a => { a?.click(); return a })(document.querySelector(".menu-blocks a:nth-child(2)"))`,
	)
	b.sees(".menu-blocks [aria-current]", "Side menu 100 pages")
	b.click(`[data-do="as-seen"]`)
	b.look(w.site+"/sailings/timetables/winter", "This visitor sees this page") // a full address, pasted
	b.press(kb.Enter)
	b.sees(".as-seen", "/sailings/timetables/winter")
	b.sees("#gets-result .lit", "Timetables")
	b.sees("#gets-result .lit + small", "this page")
	b.click("#tab-why")
	b.sees("#gets-why", "Sailings not here: the block begins at level 2")
	b.press(kb.ArrowLeft)
	b.until(`document.activeElement.id === "tab-who"`)
	b.sees("#gets-who thead", "Signed out")

	b.tab("Account")
	b.sees(row("Sign out"), "No: it is for who is signed in")
	b.sees(".key", "Does not show")
	shape := `(k => { if (k && k.getAttribute("aria-pressed") === "%t") k.click(); return %s })(document.querySelector('.key [data-ask="stub"]'))`
	shown := `[...document.querySelectorAll(".rung[data-id]")].some(r => r.dataset.label === "Sign in")`
	b.until(fmt.Sprintf(shape, false, "!"+shown))
	b.until(fmt.Sprintf(shape, true, shown))
	b.tab("Summer season")
	b.sees(".menu-where", "Not shown anywhere.")

	_, home := w.public("/")
	assert.Contains(t, home, `aria-label="Quick tasks"`)
	assert.Contains(t, home, `title="Until 27 March, all routes"`)
	assert.Contains(t, home, `<span class="badge pair-sand">Cars fill early</span>`)
	_, jobs := w.public("/jobs")
	assert.NotContains(t, jobs, `aria-label="Quick tasks"`)
	assert.NotContains(t, jobs, "Sign out")
	assert.Empty(t, b.problems)
}

// Taking a page offline takes its items out of every menu, and what will change says so for each.
func TestAMenuItemGoesWithItsPage(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Book a place")
	b.sees(".answers", "in Quick tasks, level 1.")
	b.press("o")
	b.status("Took offline")
	b.click(`.bar [data-do="review"]`)
	b.sees("[data-review] .sentences", "“Quick tasks” loses 1 item on ")
	b.sees("[data-review] .sentences", "“Header menu” loses 1 item on ")
}

// With keys only: an item is made in the ladder, in sight of its neighbours, edited, moved, indented, and published.
func TestEditingAMenuWithKeysOnly(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("structure")
	b.menus("Quick tasks", "")
	b.focus(".rung[tabindex='0']")
	b.press(kb.ArrowDown)
	b.selected("Book a place")
	b.press("n")
	b.until(`document.activeElement.matches(".making [role=combobox]")`)
	b.sees(".making [data-where]", "After “Book a place”.")
	b.typed("weather tides") // words in any order
	b.sees(".making [aria-selected=true] strong", "Tides and weather")
	b.sees(
		".making [data-facts]",
		"Tides and weather: 3 of 5 in “Quick tasks”, after “Book a place”, before “Visitors' berths”",
	)
	b.press(kb.Enter)
	b.until(`document.activeElement.name === "label"`)
	b.press(kb.Enter)
	b.status("Put an item into “Quick tasks”: 3 of 5")
	b.selected("Tides and weather")
	b.sees(row("Tides and weather")+" .cell-change", "New")
	b.sees("#gets-result", "Tides and weather")

	b.press(kb.ArrowUp, input.ModifierAlt)
	b.status("Moved “Tides and weather”: 2 of 5")
	b.selected("Tides and weather")
	b.press(kb.ArrowRight, input.ModifierAlt)
	b.status("Moved “Tides and weather”: 1 of 1 below “Winter timetable”, level 2")
	b.selected("Tides and weather")
	b.press(kb.ArrowRight, input.ModifierAlt)
	b.sees("[data-alert]", "“Tides and weather” has nothing before it to go into.")
	b.press(kb.ArrowLeft, input.ModifierAlt)
	b.status("Moved “Tides and weather”: 2 of 5")
	b.selected("Tides and weather")
	b.press(kb.F2)
	b.until(`document.activeElement.id === "i-label"`)
	b.typed("Tides")
	b.press(kb.Enter)
	b.status("Changed the label of “Tides and weather”.")
	b.selected("Tides")
	b.press("z", input.ModifierCtrl)
	b.selected("Tides and weather")
	b.press("z", input.ModifierCtrl, input.ModifierShift)
	b.selected("Tides")
	_, home := w.public("/")
	assert.NotContains(t, home, "Tides</", "nothing is public before publishing")
	b.publish()
	_, home = w.public("/")
	assert.Contains(t, home, `>Tides<`)

	// Taken out, with the page left where it is; then copied and carried to another menu.
	b.focus(".rung[tabindex='0']")
	b.press(kb.Delete)
	b.status("Took “Tides” out of “Quick tasks”; its page stays.")
	b.sees(".ghost", "taken out")
	b.selected("Book a place")
	b.focus(`.tools [data-do="carry"]`)
	b.press(kb.Enter)
	b.sees("[data-carry-words]", "Carrying “Book a place”.")
	b.tab("Footer")
	b.until(
		`document.querySelector(".rung[data-id]")?.dataset.label && !document.querySelector("[data-carry-bar]").hidden`,
	)
	b.sees(`[data-drop-facts="before"]`, "in “Footer”")
	b.sees(`[data-drop-facts="after"]`, "in “Footer”")
	b.focus(`[data-drop="after"]`)
	b.press(kb.Enter)
	b.status("Moved “Book a place” to “Footer”")
	b.selected("Book a place")
	b.tab("Quick tasks")
	b.sees(".ghost", "moved to “Footer”")
	assert.Empty(t, b.problems)
}

// With the pointer: drag, the bracket, the sentence, targets of every sort, colours that are refused, a new menu in its
// region.
func TestEditingAMenuWithThePointer(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.menus("Quick tasks", "Report a problem")
	set := func(selector, value string) {
		t.Helper()
		b.until(fmt.Sprintf(`document.querySelector(%q)`, selector))
		b.do(
			chromedp.Evaluate(
				fmt.Sprintf(
					`(i => { i.value = %q; for (const kind of ["input", "change"]) i.dispatchEvent(new Event(kind, { bubbles: true })) })(document.querySelector(%q))`,
					value,
					selector,
				),
				nil,
			),
		)
	}
	b.drag("Report a problem", "Book a place", 0.1)
	b.status("Moved “Report a problem”: 2 of 4")
	b.sees(row("Report a problem")+" .cell-change", "Moved")
	b.drag("Winter timetable", "Report a problem", 0.5)
	b.status("Moved “Winter timetable”: 1 of 1 below “Report a problem”, level 2")
	b.sees(row("Winter timetable")+" .cell-change", "Moved")
	assert.Empty(
		t,
		eval[string](b, `document.querySelector('.rung[data-label="Book a place"] .cell-change').textContent`),
		"only what moved is marked",
	)
	b.drag("Report a problem", "Winter timetable", 0.5)
	b.sees("[data-alert]", "An item can't move into itself or below itself.")

	// The sentence and the bracket are two handles of one window.
	set("#w-levels", "1")
	b.status("Changed what “Quick tasks” shows: level 1.")
	b.until(`document.querySelector("[data-bracket-high]").value === "1"`)
	b.sees("#gets-result", "Visitors' berths")
	b.until(`!document.querySelector("#gets-result").textContent.includes("Winter timetable")`)
	set("[data-bracket-high]", "2")
	b.status("Changed what “Quick tasks” shows: levels 1 to 2.")
	b.until(`document.querySelector("#w-levels").value === "2"`)
	b.sees("#gets-result", "Winter timetable")

	// Targets: what has no form is refused where it is typed; a file is uploaded, and kept by its name.
	choose := func(words, hit string) {
		t.Helper()
		b.click(`[data-do="choose-target"]`)
		b.look(words, hit)
	}
	b.click(row("Book a place") + " .label")
	b.selected("Book a place")
	choose("gopher://islands", "A web address starts with https, http, mailto or tel, not with “gopher”.")
	b.press(kb.Escape)
	choose("tel:+443069990123", "Web address elsewhere")
	b.press(kb.Enter)
	b.status("Changed where it leads: “Book a place”.")
	b.sees(".answers", "tel:+443069990123")
	notice := filepath.Join(t.TempDir(), "Rates 2027.pdf")
	require.NoError(t, os.WriteFile(notice, []byte("%PDF-1.4 rates"), 0o600))
	b.click(`[data-do="choose-target"]`)
	b.until(`document.querySelector("[data-picker]").open`)
	b.do(chromedp.SetUploadFiles("[data-picker] [data-upload]", []string{notice}, chromedp.ByQuery))
	b.sees(".answers", "/files/rates-2027.pdf")
	answer, _ := w.public("/files/rates-2027.pdf")
	assert.Equal(t, http.StatusNotFound, answer.StatusCode, "it waits in the draft, as the item does")

	// A badge in colours that can't be read is refused; the contrast is WCAG's.
	set("#i-badge", "Closing soon")
	b.sees(row("Book a place")+" .badge", "Closing soon")
	set(`[data-colour="text"]`, "#888888")
	set(`[data-colour="back"]`, "#999999")
	b.sees("[data-ratio]", "has a contrast of 1.24 to 1; it takes 4.5 to 1 to be read.")
	b.click("[data-free]")
	b.sees("[data-alert]", "has a contrast of 1.24 to 1")
	set(`[data-colour="back"]`, "#111111")
	b.sees("[data-ratio]", "5.32 to 1")
	b.click("[data-free]")
	b.until(`document.querySelector(".rung.current .badge")?.classList.contains("pair-888888-111111")`)

	// A menu is made with the region it stands in, and taken away again.
	b.click(`[data-do="new-menu"]`)
	b.focus("#nm-name")
	b.typed("Operators' links")
	b.click(`[data-new-menu] .mini [data-region="right"]`)
	b.sees("[data-new-menu-facts]", "“Operators' links” would show on 0 pages")
	b.focus("[data-new-menu] .primary")
	b.press(kb.Enter)
	b.status("Made the menu “Operators' links”, in the region “Right side”.")
	b.sees(".menu-choose summary", "Operators' links of 9 menus")
	b.click(".menu-choose summary")
	b.sees(".menu-choose[open] a", "Summer season")
	b.click(`[data-menu-filter="grown"]`)
	b.until(`[...document.querySelectorAll(".menu-list li:not([hidden]) a")].map(a => a.textContent).join() === "Main menu,Footer,Islands"`)
	b.press(kb.Escape)
	b.until(`!document.querySelector(".menu-choose").open && document.activeElement.matches(".menu-choose summary")`)
	b.sees(".items", "There is no item in this menu yet.")
	b.click(`.rung.empty [data-do="make-after"]`)
	b.until(`document.activeElement.matches(".making [role=combobox]")`)
	b.typed("Fares")
	b.sees(".making [aria-selected=true] strong", "Fares")
	b.press(kb.Enter)
	b.click(".making .primary")
	b.selected("Fares")
	b.sees(".menu-where", "through “Operators' links”")
	b.click(`[data-do="menu-settings"]`)
	b.click(`[data-menu-do="take-menu"]`)
	b.sees("[data-alert]", "shows this menu and stands in 1 place; take it out there first.")
	assert.Empty(t, b.problems)
}

// A page is put into menus where it is made, and from its sheet; its sheet says where it shows, by which way, and where
// it does not.
func TestMenusFromThePage(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("structure")
	choose := func(selector, words string) {
		t.Helper()
		b.until(
			fmt.Sprintf(
				`(s => { const o = [...s?.options ?? []].find(o => o.text === %q); if (!o) return false; s.focus(); s.value = o.value; s.dispatchEvent(new Event("input", { bubbles: true })); return true })(document.querySelector(%q))`,
				words,
				selector,
			),
		)
	}
	b.goTo("Book a place")
	b.press("n")
	b.until(`document.activeElement.id === "making-label"`)
	b.typed("By telephone")
	choose(`.making [name="gap"]`, "after Book a place")
	b.sees(".making p", "item 3 of 5 in “Quick tasks”, after “Book a place”, before “Visitors' berths”")
	b.focus("#making-label")
	b.press(kb.Enter)
	b.selected("By telephone")
	b.sees(".in-menus", "In “Quick tasks”, not shown. No: its page is not online")
	b.press("o")
	b.status("Set live “By telephone”.")
	b.sees(".in-menus", "third in Quick tasks, level 1 own item")
	b.sees(".in-menus", "third in Header menu, level 2, in “Plan a crossing” follows the tree")
	b.publish()
	_, home := w.public("/")
	assert.Contains(t, home, "By telephone")

	choose("#f-gap", "below The Board")
	b.sees("[data-gap-facts]", "4 of 4 below “The Board”, level 2 of “Footer”")
	b.click("[data-put-in-menu] button")
	b.status("Put an item into “Footer”: 4 of 4 below “The Board”")
	b.sees(".in-menus", "in “The Board” own item")
	b.click(".in-menus [data-take-item]")
	b.status("its page stays.")
	b.until(`document.querySelectorAll(".in-menus [data-take-item]").length === 1`)
	b.goTo("Privacy")
	b.sees(".in-menus", "first in Footer menu, level 2, in “This site” own item")
	b.goTo("Rates until 2024")
	b.sees(".in-menus", "In no menu: “Rates until 2024” is not listed.")
	assert.Empty(t, b.problems)
}

// On a narrow screen the rows of both ladders stay one line high, with what there is room for.
func TestRowsOnANarrowScreen(t *testing.T) {
	b := newWorld(t).browser(820, 900)
	b.signIn("keeper")
	for _, area := range []string{"/tree", "/menus"} {
		b.open(b.bench + area)
		b.until(`document.querySelectorAll(".rung").length > 3`)
		assert.True(
			t,
			eval[bool](
				b,
				`[...document.querySelectorAll(".rung")].every(r => { const all = r.getBoundingClientRect(); return [...r.children].every(c => { const at = c.getBoundingClientRect(); return !at.height || at.top >= all.top - 1 && at.bottom <= all.bottom + 1 }) })`,
			),
			area,
		)
	}
}

// A menu grows from topics: with a least number of pages, in another order; a line is hidden, one has another label,
// an item is put below one by keys; the public site shows it, and a line that is gone keeps what was set of it.
func TestAMenuThatGrowsFromTopics(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.menus("Islands", "Skerrow Isles")
	b.sees(row("Skerrow"), "topic, pinned first")
	b.sees(row("Øyra landing")+" .level", "2")
	b.axe("an item that grows")
	b.choose("#i-least", "5")
	b.until(`!document.querySelector(".rung[data-label=Vesterhav]")`)
	b.choose("#i-by", "count")
	b.sees(".answers", "the topics in “Skerrow Isles” with at least 5 pages, 1 level, those with most pages first")
	b.click(row("Great Hallin") + " .label")
	b.selected("Great Hallin")
	b.sees(".answers", "Grown by “Skerrow Isles”: a topic of “Places” with")
	b.axe("a line that grows")
	b.choose("#i-line-label", "The big island")
	b.sees(row("The big island"), "topic, own label")
	b.focus(".rung[aria-selected=true]")
	b.press("i")
	b.until(`document.activeElement.matches(".making [role=combobox]")`)
	b.typed("Harbour rules")
	b.sees(".making [aria-selected=true] strong", "Harbour rules")
	b.press(kb.Enter)
	b.until(`document.activeElement.name === "label"`)
	b.sees(".making [data-facts]", "Harbour rules: 1 of 1 below “The big island”, level 2 of “Islands”")
	b.press(kb.Enter)
	b.selected("Harbour rules")
	b.sees("[data-part=dock]", "Islands")
	b.publishes()
	_, sailings := w.public("/sailings")
	line := `dir="auto">The big island <span class="count">(6)</span></a><ul><li>` +
		`<a href="/harbours/harbour-rules" dir="auto">Harbour rules</a>`
	assert.True(t, strings.Contains(sailings, line), "the line with its count, and the item below it")
	assert.False(t, strings.Contains(sailings, `>Vesterhav <span`), "a topic with too few pages")

	b.click(row("The big island") + " .label")
	b.click(`[data-line-set="hidden"]`)
	b.sees(row("The big island"), "No: it is hidden in this menu")
	b.sees(row("Harbour rules"), "No: the line that it stands below is not there")
	b.click(row("Skerrow Isles") + " .label")
	b.sees(".set-lines", "Great Hallin: called “The big island”, hidden")
	b.axe("single lines that are set")
	b.click(`.set-lines [data-line] button`)
	b.sees(row("Great Hallin"), "topic")
	b.sees(row("Harbour rules"), "Yes")
}

// Several items at once, by keys: until when they show, and where all that leads there leads, in whatever menu.
func TestSeveralItemsAtOnce(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.menus("Quick tasks", "Book a place")
	b.press(" ")
	b.press(kb.ArrowDown)
	b.press(" ")
	b.marked(2)
	b.until(`document.querySelector(".sheet h1")?.textContent.startsWith("2 selected")`)
	b.focus(`.sheet [data-do="window"]`)
	b.press(kb.Enter)
	b.sees("[data-window-words]", "For 2 items.")
	b.focus(`[data-window-form] [name="live_until"]`)
	b.typed("1 January 2027")
	b.press(kb.Enter)
	b.status("Set from when until when to show 2 items.")
	b.focus(`.sheet [data-do="lead"]`)
	b.press(kb.Enter)
	b.look("Contact", "Contact")
	b.press(kb.Enter)
	b.sees("[data-status]", "Led ")
	b.sees("[data-status]", "elsewhere.")
	b.until(`[...document.querySelectorAll(".rung")].filter(row => /Contact/.test(row.textContent)).length >= 2`)
}
