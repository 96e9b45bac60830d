package e2e

import (
	"testing"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/edit"
)

// edits waits for the number of edits in the draft, when nothing is on its way.
func (b *browser) edits(n string) {
	b.t.Helper()
	b.until(`document.body?.dataset.ready && !document.body.dataset.busy && document.querySelector("[data-edits]")?.textContent === "` + n + `"`)
}

// A date is typed freely and saved once, when its field is left; what can't be read stays in the field, and nobody goes
// on to publish without it.
func TestDatesAreTypedFreely(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Refunds")
	b.focus("#f-from")
	b.typed("1 march 2027 9:30")
	b.sees("#f-from-words", "Monday 1 March 2027, 09:30")
	b.edits("0")
	b.press(kb.Tab)
	b.edits("1")
	b.until(`document.querySelector("#f-from").value === "01.03.2027 09:30"`)
	b.focus("#f-until")
	b.typed("31.2.2028")
	b.sees("#f-until-words", "February 2028 has no day 31.")
	b.press(kb.Enter, input.ModifierCtrl)
	b.sees("[data-alert]", "has no day 31")
	b.until(`document.activeElement.id === "f-until" && !document.querySelector("[data-review]").open`)
	b.press(kb.Escape)
	b.until(`document.querySelector("#f-until").value === "" && document.querySelector("[data-alert]").hidden`)
	b.edits("1")
	b.press(kb.Enter, input.ModifierCtrl)
	b.until(`document.querySelector("[data-review]").open`)
	assert.Empty(t, b.problems)
}

// Escape gives back what stood; another area and closing the tab leave nothing behind that was typed.
func TestWhatIsTypedIsNotLost(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Refunds")
	b.focus("#f-title")
	b.typed("Never mind")
	b.press(kb.Escape)
	b.until(`document.querySelector("#f-title").value === ""`)
	b.edits("0")
	b.focus("#f-title")
	b.typed("Money back")
	b.click(`.areas a[href^="/menus"]`)
	b.until(`location.pathname === "/menus"`)
	b.edits("1")
	b.open(b.bench + "/tree")
	b.goTo("Refunds")
	b.focus("#f-title")
	b.typed(" again")
	b.open(b.bench + "/tree")
	assert.Equal(t, int64(1), b.asked.Load(), "the browser asks before what was typed goes")
}

// Rows are dragged from anywhere in them; letting go chooses nothing, a press without moving does.
func TestDraggingFromAnywhereInARow(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("structure")
	b.goTo("Sailings")
	b.grab("Harbours", ".cell-address", "Jobs", 0.1)
	b.sees("[data-landing-words]", "7 of 17 in “Home”, after “About the Board”, before “Jobs”")
	b.release()
	b.status("Moved “Harbours”: 7 of 17 in “Home”")
	b.selected("Harbours")
	assert.Empty(t, eval[string](b, `String(getSelection())`), "no text is selected by dragging")
	b.press("z", input.ModifierCtrl)
	b.edits("0")
	b.grab("Freight", ".label", "Freight", 0.5)
	b.release()
	b.selected("Freight")
	b.edits("0")
}

// Several move together, a step or to a position, and are one step back.
func TestASelectionMovesTogether(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("structure")
	b.goTo("Season tickets")
	b.press(" ")
	b.press(kb.ArrowDown, input.ModifierShift)
	b.marked(2)
	b.press(kb.ArrowUp, input.ModifierAlt)
	b.status("Moved 2 pages.")
	b.sees(".sheet .answers", "Positions 1 to 2 of 4 in “Fares”")
	b.press(kb.ArrowUp, input.ModifierAlt)
	b.sees("[data-alert]", "“Season tickets” is the first in “Fares” already.")
	b.until(`document.querySelector("[data-many-position] input")`)
	b.focus("[data-many-position] input")
	b.press("a", input.ModifierCtrl)
	b.typed("3")
	b.sees("[data-many-facts]", "2 pages; positions 3 to 4 of 4 in “Fares”")
	b.press(kb.Enter)
	b.sees(".sheet .answers", "Positions 3 to 4 of 4 in “Fares”")
	b.edits("2")
	b.click(`[data-do="undo"]`)
	b.click(`[data-do="undo"]`)
	b.edits("0")
	assert.Empty(t, b.problems)
}

// What was found for other words is not taken; pressing twice makes one; copies go to another menu.
func TestNothingStaleIsTaken(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("structure")
	b.menus("Quick tasks", "Book a place")
	b.press("n")
	b.until(`document.activeElement.matches(".making [role=combobox]")`)
	b.sees(".making [role=option]", "A heading without a link")
	b.typed("sign in")
	b.sees(".making [aria-selected=true] strong", "Sign in")
	b.typed(" zzz nothing")
	b.press(kb.Enter)
	b.sees(".making", "Nothing has that label or address.")
	b.edits("0")
	b.press("a", input.ModifierCtrl)
	b.typed("Contact")
	b.sees(".making [aria-selected=true] strong", "Contact")
	b.press(kb.Enter)
	b.until(`document.activeElement.name === "label"`)
	b.until(`(f => { f.requestSubmit(); f.requestSubmit(); return true })(document.querySelector(".making form"))`)
	b.edits("1")
	b.selected("Contact")
	b.press("c", input.ModifierCtrl)
	b.sees("[data-carry-words]", "Copying “Contact”.")
	b.tab("Footer")
	b.sees(`[data-drop-facts="before"]`, "in “Footer”")
	b.click(`[data-drop="before"]`)
	b.status("Copied “Contact”")
	b.edits("2")
	assert.Empty(t, b.problems)
}

// Every area is two strokes away, menus and blocks are found by their names, panes one after another.
func TestStrokes(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("structure")
	b.focus(".rung[aria-selected=true]")
	b.press("?")
	b.sees("[data-help] dt", "Alt ↑ ↓")
	assert.Contains(t, eval[string](b, `document.querySelector("[data-keys]").textContent`), "into the bin")
	b.press(kb.Escape)
	b.until(`!document.querySelector("[data-help]").open`)
	b.press("a")
	b.press("m")
	b.until(`location.pathname === "/menus" && document.body?.dataset.ready`)
	assert.NotContains(t, eval[string](b, `document.querySelector("[data-keys]").textContent`), "into the bin")
	b.press("/")
	b.look("footer", "Menu")
	b.press(kb.Enter)
	b.sees(".menu-tabs [aria-current]", "Footer")
	b.until(`document.body?.dataset.ready && document.activeElement.matches(".rung")`)
	b.press("/")
	b.look("opening hours block", "Block")
	b.press(kb.Enter)
	b.until(`location.pathname === "/layouts" && document.body?.dataset.ready`)
	b.sees(".sheet h1", "Opening hours")
	b.press("a")
	b.press("t")
	b.until(`location.pathname === "/tree" && document.body?.dataset.ready && document.activeElement.matches(".rung")`)
	b.press(kb.F6)
	b.until(`document.activeElement.closest(".dock")`)
	b.press(kb.F6)
	b.until(`document.activeElement.closest(".pane-sheet")`)
	b.press(kb.F6, input.ModifierShift)
	b.press(kb.F6, input.ModifierShift)
	b.until(`document.activeElement.closest(".ladder-scroll")`)
	assert.Empty(t, b.problems)
}

// At twice the size, eight rows are in sight in tree and menus, and one pane at a time; the way back is a button and a
// key.
func TestEightRowsAtTwiceTheSize(t *testing.T) {
	b := newWorld(t).browser(640, 400)
	b.signIn("structure")
	rows := `(s => [...s.querySelectorAll(".rung")].filter(r => { const a = r.getBoundingClientRect(), b = s.getBoundingClientRect();` +
		` return a.top >= b.top - 1 && a.bottom <= b.bottom + 1 }).length)(document.querySelector("[data-ladder]"))`
	assert.GreaterOrEqual(t, eval[int](b, rows), 8)
	b.press(kb.Enter)
	b.until(`document.querySelector(".pane-sheet").offsetParent && !document.querySelector(".pane-ladder").offsetParent`)
	b.click(`.sheet [data-do="to-ladder"]`)
	b.until(`document.activeElement.matches(".rung") && !document.querySelector(".pane-sheet").offsetParent`)
	b.menus("Main menu", "")
	assert.GreaterOrEqual(t, eval[int](b, rows), 8)
	b.click(".menu-row .unfold")
	b.until(`document.querySelector(".window-sentence").offsetParent`)
	assert.Empty(t, b.problems)
}

// An item whose page is in the bin leads to the page's sheet there, with the way back out of it.
func TestTheSheetOfAPageInTheBin(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("structure")
	b.goTo("Book a place")
	b.press(kb.Delete)
	b.status("Put in the bin")
	b.menus("Quick tasks", "Book a place")
	b.sees(".answers", "its page is in the bin")
	b.click(`.answers a[href^="/tree"]`)
	b.sees(".sheet h1", "Book a place")
	b.sees(".sheet", "In the bin")
	b.click(`.sheet [data-restore]`)
	b.status("Restored “Book a place”")
	b.selected("Book a place")
	assert.Empty(t, b.problems)
}

// On phones the main menu folds behind one button, which needs no script.
func TestThePublicMenuFoldsOnPhones(t *testing.T) {
	w := newWorld(t)
	b := w.browser(390, 800)
	b.do(emulation.SetScriptExecutionDisabled(true))
	b.open(w.site + "/sailings/fares")
	shown := `document.querySelector(".mainnav .folded a").offsetParent !== null`
	assert.False(t, eval[bool](b, shown))
	x := eval[[]float64](
		b,
		`(r => [r.left + 5, r.top + 5])(document.querySelector(".mainnav > .fold").getBoundingClientRect())`,
	)
	b.do(input.DispatchMouseEvent(input.MousePressed, x[0], x[1]).WithButton(input.Left).WithClickCount(1),
		input.DispatchMouseEvent(input.MouseReleased, x[0], x[1]).WithButton(input.Left).WithClickCount(1))
	b.until(`document.querySelector(".mainnav .folded").matches(":popover-open")`)
	assert.Empty(t, b.problems)
}

// The history is cut down to what was about one menu, by one person.
func TestTheHistoryIsCutDown(t *testing.T) {
	w := newWorld(t)
	footer := w.published().MenuByKey("footer").ID
	w.publish("called the footer otherwise", edit.OpEditMenu{Menu: footer, Fields: []edit.FieldChange{
		{Field: edit.FieldName, Old: "Footer", New: "Foot of the page"},
	}})
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.open(b.bench + "/drafts?about=foot+of+the+page")
	b.sees(".board-history", "About the menu “Foot of the page”.")
	b.sees(".history", "called the footer otherwise")
	b.open(b.bench + "/drafts?about=no+such+thing")
	b.sees(".board-history [role=alert]", "No page, menu or block is called “no such thing”.")
	b.open(b.bench + "/drafts?said=otherwise&day=31.2.2026")
	b.sees(".board-history [role=alert]", "February 2026 has no day 31.")
	assert.Empty(t, b.problems)
}
