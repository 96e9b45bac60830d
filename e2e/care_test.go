package e2e

import (
	"testing"

	"github.com/chromedp/chromedp/kb"
)

// By keys: what waits is on the first screen, from there to a page that is overdue; who looks after it is chosen, it
// is said to be still right, and is due no more.
func TestAPageIsCaredForByKeys(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("freight")
	b.open(w.bench + "/")
	b.until(`location.pathname === "/start" && document.body?.dataset.ready`)
	b.sees("main", "Good day, Ola Brekke")
	b.sees("main", "Freight rates overdue since")
	b.axe("the first screen")
	b.focus(`.start-pane li:has(.fault) a`)
	b.press(kb.Enter)
	b.until(`location.pathname === "/tree" && document.body?.dataset.ready`)
	b.sees(`[data-group="care"]`, "Ola Brekke looks after it, as set on “Freight”. Its review was due on")
	b.sees(".wrong", "The review of “Freight rates” was due on")
	b.focus("[data-still-right]")
	b.press(kb.Enter)
	b.status("You said that “Freight rates” is still right.")
	b.sees(`[data-group="care"]`, "Its review is due on")
	b.sees(`[data-group="care"]`, "24 November 2026, Ola Brekke")
	b.focus("#f-owner")
	b.until(`[...document.querySelector("#f-owner").options].some(o => o.value === "person:structure")`)
	b.choose("#f-owner", "role:harbour-masters")
	b.sees(`[data-group="care"]`, "Harbour masters looks after it.")
	b.axe("a page with its care")

	b.focus(`[data-keep="yes"]`)
	b.press(kb.Enter)
	b.status("“Freight rates” is at hand on the first screen.")
	b.open(w.bench + "/start")
	b.until(`document.body?.dataset.ready`)
	b.sees("main", "No page that you look after is overdue.")
	b.until(`document.querySelector('[data-keep="no"]').closest("li").textContent.includes("Freight rates")`)
}

// With the pointer: several pages at once from the list of reviews, and a reason for a publication, which is found
// again.
func TestReviewsTogetherAndAReason(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.open(w.bench + "/reviews")
	b.until(`document.body?.dataset.ready`)
	b.sees(".problems-list", "Harbour rules")
	b.axe("reviews")
	b.click(`.problems-lines li:has(a[href*="page="]) [name="id"]`)
	b.click("[data-reviews-form] .primary")
	b.status("You said that 1 page is still right.")

	b.open(w.bench + "/tree")
	b.until(`document.body?.dataset.ready`)
	b.goTo("Fares")
	b.rename("Prices")
	b.click(`[data-do="review"]`)
	b.until(`document.querySelector("#r-why")`)
	b.click("#r-why")
	b.typed("Visitors asked for prices")
	b.press(kb.Enter)
	b.status("Published")
	b.open(w.bench + "/drafts?said=asked+for+prices")
	b.sees(".history", "Why: Visitors asked for prices")
}

// Each number opens its pages; clicks come when they are counted.
func TestNumbersOpenTheirPages(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.open(w.bench + "/numbers")
	b.until(`document.body?.dataset.ready`)
	b.sees("main", "How many clicks from the home page")
	b.sees("main", "Half of the pages need")
	b.sees(".numbers-line", "Over the publications")
	b.until(`document.querySelectorAll(".numbers-line polyline").length === 2 &&
		!document.querySelector("[data-counting]")`)
	b.holds(`document.querySelector(".numbers-line details").open = true`)
	b.axe("the site in numbers")
	b.focus(`a[href*="number=overdue"]`)
	b.press(kb.Enter)
	b.until(`location.search.includes("number=overdue") && document.body?.dataset.ready`)
	b.sees(".numbers-pages", "Review overdue: 2 pages")
	b.sees(".numbers-pages", "Harbour rules")
}
