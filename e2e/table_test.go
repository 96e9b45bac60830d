package e2e

import (
	"fmt"
	"strconv"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/grid"
)

// inCell waits until the focus is in the cell of a page and a column, which shows some words.
func (b *browser) inCell(page, column, words string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`(cell => cell.matches("td") &&
		cell.parentElement.cells[0].querySelector("a").textContent === %q &&
		cell.closest("table").tHead.rows[0].cells[cell.cellIndex].textContent === %q && cell.textContent === %q
		)(document.activeElement)`, page, column, words))
}

// pastes puts words on the clipboard as a spreadsheet does, and pastes them at the focus.
func (b *browser) pastes(words string) {
	b.t.Helper()
	b.actions++
	b.holds(fmt.Sprintf(`(data => { data.setData("text/plain", %q); document.activeElement.dispatchEvent(
		new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }))
	})(new DataTransfer())`, words))
}

// A branch as a table by keys alone: from the tree into the cells, typed, chosen, filled down, checked, taken in as one
// edit, and undone.
func TestPagesAreEditedAsATableByKeys(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Timetables")
	b.press("e")
	b.until(`location.pathname === "/table"`)
	b.inCell("Timetables", "Label", "Timetables")
	b.axe("table")

	b.press(kb.ArrowDown)
	b.inCell("Winter", "Label", "Winter")
	b.press(kb.Enter)
	b.until(`document.activeElement.matches("td input")`)
	b.typed("Winter times")
	b.press(kb.Enter)
	b.inCell("Summer", "Label", "Summer")
	b.sees("[data-typed-words]", "1 cell on 1 page.")
	b.sees("[data-typed-words]", "Winter times")

	// A letter begins to type; what can't be taken is said at the cell, and nothing is lost.
	for range 3 {
		b.press(kb.ArrowRight)
	}
	b.inCell("Summer", "Page type", "Timetable")
	b.press("p")
	b.until(`document.activeElement.matches("td select") && document.activeElement.value === "Page"`)
	b.press(kb.Escape)
	b.inCell("Summer", "Page type", "Timetable")
	b.press(kb.ArrowLeft, input.ModifierCtrl)
	b.press(kb.ArrowRight)
	b.inCell("Summer", "Label", "Summer")
	b.press(kb.Delete)
	b.sees("[data-typed-words]", "One cell is wrong")
	b.sees("[data-typed-faults]", "Summer, Label: A page needs a label")
	b.until(`document.activeElement.ariaInvalid === "true"`)
	b.axe("table with a fault")
	b.press("s", input.ModifierCtrl)
	b.sees("[data-alert]", "1 cell can't be taken as they are")
	b.press("z", input.ModifierCtrl)
	b.inCell("Summer", "Label", "Summer")
	b.sees("[data-typed-words]", "1 cell on 1 page.")

	// Filled down: the owner of the first is that of all below it.
	b.press(kb.End)
	b.inCell("Summer", "Who sees it", "as the page above")
	b.press(kb.ArrowLeft)
	b.inCell("Summer", "Looked after by", "as above")
	b.press("s")
	b.until(`document.activeElement.matches("td select") && document.activeElement.value === "Site keeper"`)
	b.press(kb.Tab)
	b.press(kb.ArrowLeft)
	b.inCell("Summer", "Looked after by", "Site keeper")
	b.press(kb.ArrowDown, input.ModifierAlt)
	b.inCell("Bank holidays", "Looked after by", "Site keeper")
	b.sees("[data-typed-words]", "3 cells on 3 pages.")
	b.press("s", input.ModifierCtrl)
	b.status("Changed 3 cells on 3 pages.")
	b.until(`!document.querySelector("td.typed") && document.querySelector("[data-edits]").textContent === "1"`)
	b.inCell("Bank holidays", "Looked after by", "Site keeper")
	b.press("z", input.ModifierCtrl)
	b.until(`document.querySelector("[data-edits]").textContent === "0"`)
	b.inCell("Bank holidays", "Looked after by", "as above")
}

// More pages than one table has are refused before anybody leaves the tree, with the bound that core has.
func TestASelectionBeyondOneTableIsRefused(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.open(b.bench + "/tree?words=e")
	b.sees("[data-part=hits]", "found")
	b.click(`[data-do="mark-all"]`)
	b.sees("[data-marked-words]", "146 selected")
	assert.Equal(t, strconv.Itoa(grid.RowLimit), eval[string](b, `document.body.dataset.tableRows`))
	b.until(`document.body.dataset.tableRows = 145`) // the demo has fewer pages than a table
	b.click(`[data-marked-bar] [data-do="as-table"]`)
	b.sees("[data-alert]", "A table has 145 pages at most, and 146 are selected.")
	assert.Equal(t, "/tree", eval[string](b, `location.pathname`))
}

// What is pasted from a spreadsheet lands beside the cell, its head left out; what does not fit changes nothing. What
// is typed waits while somebody looks elsewhere, and what somebody else changed meanwhile is not written over.
func TestATableIsPastedIntoWithThePointer(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Timetables")
	b.open(eval[string](b, `location.href.replace("/tree", "/table") + "&cols=label,summary,live_from"`))
	b.inCell("Timetables", "Label", "Timetables")
	b.click("tbody tr:nth-child(2) td:nth-child(2)")
	b.inCell("Winter", "Label", "Winter")
	b.pastes("a\tb\tc\td\n")
	b.sees("[data-alert]", "You pasted 4 columns, and from here on the table has 3. Nothing was changed")
	rows := ""
	for range 10_000 {
		rows += "x\ty\n"
	}
	b.pastes(rows)
	b.sees("[data-alert]", "10000 rows, and from here on the table has 3. Nothing was changed")
	b.until(`!document.querySelector("td.typed")`)
	b.pastes("Label\tSummary\tOnline from\r\nCold\t\"All, of\nit\"\t12/25/2026\r\nWarm\tSunny\t03/04/2027\r\n")
	b.sees("[data-typed-words]", "2 cells are wrong")
	b.sees("[data-typed-faults]", "“03/04/2027” can be 3 April 2027 or 4 March 2027")
	b.axe("table that was pasted into")
	b.click("[data-turn]")
	b.sees("[data-typed-words]", "6 cells on 2 pages.")
	summer := eval[string](b, `document.querySelector("tbody tr:nth-child(3) td:nth-child(4)").textContent`)
	assert.Equal(t, "04.03.2027", summer)

	b.open(w.bench + "/tree")
	b.goTo("Summer")
	b.until(`document.querySelector("[name=summary]").value.startsWith("From 28 March")`)
	b.click("[name=summary]")
	b.holds(`document.activeElement.select()`)
	b.typed("All summer")
	b.press(kb.Tab)
	b.status("Summer")
	b.goTo("Timetables")
	b.press("e")
	b.until(`location.pathname === "/table"`)
	b.sees("[data-typed-faults]", "Somebody changed this meanwhile: it is “All summer” now.")
	b.click("[data-forget]")
	b.status("What was typed is forgotten")
	b.sees("tbody", "All summer")
}
