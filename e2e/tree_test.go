package e2e

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// marked waits for a number of selected pages.
func (b *browser) marked(n int) {
	b.t.Helper()
	b.until(fmt.Sprintf(`document.querySelector("[data-marked-words]").textContent.startsWith("%d selected")`, n))
}

// rows gives the labels of the rows in sight, in order.
func (b *browser) rows() []string {
	b.t.Helper()
	return eval[[]string](b, `[...document.querySelectorAll(".window .rung[data-id]")].map(r => r.dataset.label)`)
}

// Select by click, Shift, Ctrl and keys; then one operation in the draft for all, and one undo.
func TestManyPagesAtOnce(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("structure")
	b.goTo("Season tickets")
	b.press(" ")
	b.marked(1)
	b.press(kb.ArrowDown, input.ModifierShift)
	b.marked(2)
	assert.Equal(t, 2, eval[int](b, `document.querySelectorAll(".rung[aria-selected=true]").length`))
	b.sees(".sheet h1", "2 selected")
	b.sees(".sheet .answers", "Positions 2 to 3 of 4 in “Fares”")
	b.do(chromedp.SendKeys("#many-listed", "n", chromedp.ByQuery))
	b.status("Unlisted 2 pages.")
	b.sees("[data-edits]", "1")
	b.sees(".sheet h1", "2 selected")
	b.press(kb.Escape)
	b.focus(".rung.current")
	b.press(kb.Escape)
	b.until(`document.querySelector("[data-marked-bar]").hidden`)
	b.sees(".sheet h1", "Season tickets")
	b.press("z", input.ModifierCtrl)
	b.status("Undone: unlisted 2 pages")
	b.sees("[data-edits]", "0")

	// With the pointer: Ctrl adds one, Shift a run; then they are carried to another place by keys.
	b.click(row("Islanders' card") + " .label")
	b.selected("Islanders' card")
	b.clickWith(row("Refunds")+" .label", input.ModifierShift)
	b.marked(4)
	b.clickWith(row("Groups and schools")+" .label", input.ModifierCtrl)
	b.marked(3)
	b.focus(".rung.current")
	b.press("x", input.ModifierCtrl)
	b.sees("[data-carry-words]", "Carrying 3 pages.")
	b.goTo("Moorings and berths") // no department's: who may not set who sees can put pages there
	b.sees(`[data-drop-facts="before"]`, "3 pages; positions 3 to 5 of 20 in “Home”")
	b.sees(`[data-drop-facts="into"]`, "3 pages; positions 5 to 7 of 7 in “Moorings and berths”")
	b.sees(`[data-drop-facts="after"]`, "3 pages; positions 4 to 6 of 20 in “Home”")
	b.click(`[data-drop="into"]`)
	b.status("Moved 3 pages.")
	b.until(`document.querySelector("[data-carry-bar]").hidden`)
	b.sees(".dock p", "3 addresses change; 3 old ones keep working.")
	b.press("z", input.ModifierCtrl)
	b.sees("[data-edits]", "0")
	assert.Empty(t, b.problems)
}

func (b *browser) clickWith(selector string, modifier input.Modifier) {
	b.t.Helper()
	b.until(fmt.Sprintf(`document.querySelector(%q)`, selector))
	place := eval[[]float64](
		b,
		fmt.Sprintf(
			`(e => { e.scrollIntoView({ block: "nearest" }); const r = e.getBoundingClientRect(); return [r.left + 5, r.top + r.height / 2] })(document.querySelector(%q))`,
			selector,
		),
	)
	b.do(chromedp.MouseClickXY(place[0], place[1], chromedp.ButtonModifiers(modifier)))
}

// Filter by words and by questions, with what stands above kept in sight; select what was found; give it a window; copy
// a branch.
func TestQuestionsSelectionsAndCopies(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("keeper")
	b.focus(".rung[aria-selected=true]")
	b.press("f")
	b.until(`document.activeElement.name === "words"`)
	b.typed("pier great")
	b.sees("[data-part=hits]", "3 found")
	assert.Equal(t, []string{
		"Home", "Harbours", "Great Hallin", "Great Hallin pier", "North pier",
		"Topics", "Places", "Skerrow Isles", "Great Hallin", "Great Hallin pier",
	}, b.rows())
	b.press(kb.Escape)
	b.until(`document.querySelectorAll(".rung").length > 10`)

	// The key counts each shape, and cuts the ladder down to it.
	b.sees(".key [data-ask=half]", "Not listed, 56")
	b.click(".key [data-ask=half]")
	b.sees("[data-part=hits]", "56 found")
	assert.Contains(t, b.rows(), "Privacy")
	b.click(`[data-do="mark-all"]`)
	b.marked(56)
	b.click(`.sheet [data-do="window"]`)
	b.until(`document.querySelector("[data-window]").open`)
	b.do(
		chromedp.Evaluate(
			`(i => { i.value = "2031-01-01T00:00"; i.dispatchEvent(new Event("input", { bubbles: true })) })(document.querySelector("#w-from"))`,
			nil,
		),
	)
	b.sees(
		"[data-window-facts]",
		"“Page not found” is the site's “not found” page, which everyone must be able to reach",
	)
	b.click(`[data-window] [data-close]`)
	b.click(`[data-do="unmark"]`)
	b.goTo("About the Board")
	b.click(`.filter [name="within"]`)
	b.sees("[data-part=hits]", "2 found")
	b.click(`[data-do="mark-all"]`)
	b.marked(2)
	b.click(`.sheet [data-do="window"]`)
	b.until(`document.querySelector("[data-window]").open`)
	b.do(
		chromedp.Evaluate(
			`(i => { i.value = "2031-01-01T00:00"; i.dispatchEvent(new Event("input", { bubbles: true })) })(document.querySelector("#w-from"))`,
			nil,
		),
	)
	b.sees(
		"[data-window-facts]",
		"Nobody reaches 2 pages any more until 1 January 2031 at 00:00: they answer with “not found”.",
	)
	b.click(`[data-window] .primary`)
	b.status("Set when to be online for 2 pages.")
	b.press("z", input.ModifierCtrl)
	b.status("Undone")
	b.click(`[data-do="unmark"]`)
	b.click(`[data-do="unfilter"]`)

	b.goTo("Fares")
	b.press("c", input.ModifierCtrl)
	b.sees("[data-carry-words]", "Copying “Fares”.")
	b.goTo("Freight")
	b.press("v", input.ModifierCtrl)
	b.status("Copied 5 pages")
	b.selected("Fares")
	b.sees(".answers", "5 of 18 in “Home”, after “Freight”")
	b.sees(".answers", "Not online")
	assert.Empty(t, b.problems)
}

// A sort rule is shown before it is used; under it a drop at an end pins, and one between is refused with the reason.
func TestSortRulesAndPins(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("structure")
	b.goTo("Sailings")
	choose := func(rule string) {
		t.Helper()
		b.do(
			chromedp.Evaluate(
				fmt.Sprintf(
					`(s => { s.value = %q; s.dispatchEvent(new Event("input", { bubbles: true })) })(document.querySelector("#f-sort"))`,
					rule,
				),
				nil,
			),
		)
	}
	choose("label")
	b.sees("[data-sort-facts]", "2 of 5 pages inside change their place; first come “Fares”, “On board”, “Routes”")
	b.sees("[data-edits]", "0")
	b.click("[data-sort] button")
	b.status("Put the pages in “Sailings” in order: from A to Z.")
	b.sees(row("Sailings"), "from A to Z")
	b.focus(".rung.current")
	b.press(kb.ArrowRight)
	b.until(`document.querySelector('.rung[data-label="Routes"]')`)
	b.drag("Timetables", "Routes", 0.1)
	b.sees(
		"[data-alert]",
		"stand from A to Z, so none can be put between two of them. Choose “by hand” as their order first",
	)
	b.drag("Timetables", "Fares", 0.1)
	b.status("Moved “Timetables”: 1 of 5 in “Sailings”, before “Fares”.")
	b.sees(row("Timetables"), "pinned first")
	b.click(`[data-field-set="pin"]`)
	b.status("Unpinned “Timetables”")
	b.sees(".answers", "4 of 5 in “Sailings”, after “Routes”")
	b.goTo("Sailings")
	choose("manual")
	b.sees("[data-sort-facts]", "No page inside changes its place.")
	b.click("[data-sort] button")
	b.status("by hand")
	b.publish()
	_, page := b.public("/sailings")
	assert.Less(t, strings.Index(page, ">Fares</a>"), strings.Index(page, ">Routes</a>"))
	assert.Empty(t, b.problems)
}

// Old addresses over real HTTP (RFC 9110 §15.4.9 and §15.5.11): one hop from today's, however often the page moved;
// gone, or led elsewhere, when it is in the bin.
func TestOldAddressesOverHTTP(t *testing.T) {
	w := newWorld(t)
	publish := func(ops ...edit.Op) { w.publish("moved", ops...) }
	find := func(label string) site.PageID {
		var found site.PageID
		s := w.published()
		s.Walk(s.Home(), func(p *site.Page) bool {
			if p.Label == label {
				found = p.ID
			}
			return found == 0
		})
		return found
	}
	fares := find("Fares")
	publish(edit.OpMove{Page: fares, To: edit.Place{Parent: find("Freight")}})
	publish(edit.OpMove{Page: find("Freight"), To: edit.Place{Parent: find("Jobs")}})
	for _, old := range []string{"/sailings/fares", "/freight/fares", "/Sailings//fares/"} {
		response, _ := w.public(old + "?q=1")
		assert.Equal(t, http.StatusPermanentRedirect, response.StatusCode, old)
		assert.Equal(t, "/jobs/freight/fares?q=1", response.Header.Get("Location"))
		assert.Equal(t, "no-cache", response.Header.Get("Cache-Control"))
	}
	publish(edit.OpBin{Page: fares, Seen: 1 << 40})
	response, page := w.public("/sailings/fares/refunds")
	assert.Equal(t, http.StatusGone, response.StatusCode)
	assert.Equal(t, "no-cache", response.Header.Get("Cache-Control"))
	assert.Contains(t, page, "<h1")
	publish(
		edit.OpEdit{
			Page:   fares,
			Fields: []edit.FieldChange{{Field: edit.FieldLeadsTo, New: fmt.Sprint(find("Sailings"))}},
		},
	)
	response, _ = w.public("/freight/fares")
	assert.Equal(t, "/sailings", response.Header.Get("Location"))
	response, _ = w.public("/sailings/never-there")
	assert.Equal(t, http.StatusNotFound, response.StatusCode)
	publish(
		edit.OpMove{
			Page: find("Duty rota"),
			To:   edit.Place{Parent: find("Operators' room"), After: find("Berth plan")},
		},
		edit.OpEdit{
			Page: find("Operators' room"),
			Fields: []edit.FieldChange{
				{
					Field: edit.FieldSegment,
					Old:   edit.Value(w.published().Page(find("Operators' room")), edit.FieldSegment),
					New:   "ops",
				},
			},
		},
	)
	response, _ = w.public("/operators-room/duty-rota")
	assert.Equal(t, http.StatusNotFound, response.StatusCode, "what is concealed is not revealed by a redirect")
}

// Named drafts: made, shared, planned, handed over, thrown away and brought back, on the screen.
func TestDraftsOnTheScreen(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.click("[data-drafts-menu] summary")
	b.focus("#new-draft")
	b.typed("Spring")
	b.press(kb.Enter)
	b.sees(".draftband", "You are in the draft “Spring”.")
	b.until(`document.body.dataset.ready`)
	b.goTo("Contact")
	b.press("l")
	b.status("Unlisted “Contact”")
	b.click(".draftlist + *, .draftname summary")
	b.follow(`location = document.querySelector('.draftlist a[href^="/drafts"]').href`)
	b.sees("main h2", "Spring")
	b.click(`[data-share]`)
	b.sees("[data-status]", "The draft is shared.")
	b.do(chromedp.Evaluate(`document.querySelector("#d-plan").value = "2031-05-01T08:00"`, nil))
	b.click(`[data-draft-do="plan"] button`)
	b.sees(".draftband", "It will be published on 1 May 2031, 08:00.")

	// The other one sees it, and editing takes the moment away.
	other := w.browser(1280, 800)
	other.signIn("structure")
	other.click("[data-drafts-menu] summary")
	other.follow(`[...document.querySelectorAll(".draftlist a")].find(a => a.textContent === "Spring").click()`)
	other.sees(
		".draftband",
		"which is Runa Tveit's, shared with one other person. It will be published on 1 May 2031, 08:00",
	)
	other.until(`document.body.dataset.ready`)
	other.goTo("Jobs")
	other.press("l")
	other.status("Unlisted “Jobs”")
	other.until(`!document.querySelector(".draftband").textContent.includes("2031")`)
	b.open(b.bench + eval[string](b, "location.pathname + location.search"))
	b.sees(".list", "unlisted “Jobs”")
	b.sees(".list", "Idris Calder")

	b.click("[data-throw]")
	b.sees("[data-status]", "thrown away")
	b.until(`(d => d && (d.open = true))(document.querySelector("[data-fetch]")?.closest("details"))`)
	b.click("[data-fetch]")
	b.sees("[data-status]", "The draft is back.")
	b.sees("main h2", "Spring")
	assert.Empty(t, b.problems)
}

// Two people at the same time: each sees the other's publication arrive.
func TestAPublicationArrivesOnTheOtherScreen(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Contact")
	time.Sleep(2 * time.Second) // so that the news is not taken for our own doing
	w.theirs("Jobs", "Work with us")
	b.status("Somebody has published.")
	b.sees(".rung .label", "Work with us")
	b.selected("Contact")
}

// What others do leaves to the browser what is its own: the focus on a row that they move, a list that is open, a
// choice that is not sent yet, and where one has scrolled to.
func TestWhatTheBrowserOwnsIsLeftToIt(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Contact")
	b.focusedRow("Contact")
	w.theirEdit("/edit", url.Values{"do": {"nudge"}, "page": {w.find("Contact")}, "way": {"up"}})
	b.status("Somebody has published.")
	b.focusedRow("Contact")
	b.selected("Contact")

	b.click("[data-drafts-menu] summary")
	b.until(`document.querySelector("[data-drafts-menu]").open`)
	w.theirs("Jobs", "Work with us")
	b.sees(".rung .label", "Work with us")
	assert.True(t, eval[bool](b, `document.querySelector("[data-drafts-menu]").open`), "the list stays open")

	choose := `(s => { s.focus(); s.selectedIndex = 2; s.dispatchEvent(new Event("input", { bubbles: true }));
		return s.value })(document.querySelector("#f-gap"))`
	chosen := eval[string](b, choose)
	b.until(`!document.querySelector("[data-put-in-menu] button").hidden`)
	w.theirs("Work with us", "Jobs")
	b.until(`[...document.querySelectorAll(".rung .label")].some(e => e.textContent.trim() === "Jobs")`)
	assert.Equal(t, chosen, eval[string](b, `document.querySelector("#f-gap").value`))
	assert.False(t, eval[bool](b, `document.querySelector("[data-put-in-menu] button").hidden`))
	assert.Empty(t, b.problems)
}

// focusedRow waits until the row of a page has the focus.
func (b *browser) focusedRow(label string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`document.activeElement.closest(".rung")?.dataset.label === %q`, label))
}

// The bin leads its addresses elsewhere, keeps what it has for some time, and is emptied after a second question.
func TestTheBin(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Livestock")
	b.press(kb.Delete)
	b.status("Put in the bin “Livestock”")
	b.publish()
	b.open(b.bench + "/drafts")
	b.sees(".list", "Livestock")
	b.sees(".list", "kept until")
	assert.True(t, eval[bool](b, `document.querySelector("[data-empty-bin]").disabled`))
	assert.Equal(
		t,
		"/freight/booking-freight",
		eval[string](b, `document.querySelector("[name=address]").value`),
		"the nearest page above that is online is offered",
	)
	b.click("[data-leads-form] button")
	b.sees(".leads-to", "Its addresses lead to “Booking freight”")
	status, said := w.signedIn("keeper").post("/bin/empty", url.Values{"pages": {"1"}})
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, said, "sure")
	status, _ = w.signedIn("structure").post("/bin/empty", url.Values{"pages": {"1"}, "sure": {"yes"}})
	assert.Equal(t, http.StatusForbidden, status, "emptying needs the right to keep the site")

	days := []edit.FieldChange{{Field: edit.FieldBinDays, Old: "30", New: "0"}}
	w.publish("the bin keeps nothing", edit.OpEditSettings{Fields: days})
	b.open(b.bench + "/drafts")
	b.click("[data-empty-bin]")
	b.sees("[data-sure-words]", "1 page goes for good.")
	b.click("[data-sure-form] .danger")
	b.sees("main", "The bin is empty.")
	b.sees("main", "emptied the bin of 1 page for good: “Livestock”")
}

// The site picture: boxes by keys, the same as a table, a box leads to the ladder.
func TestTheSitePicture(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("keeper")
	b.open(b.bench + "/picture?shade=audience")
	b.sees(".legend", "2. Who is signed in")
	b.focus(".box")
	b.press(kb.ArrowDown)
	b.sees("[data-picked]", "Sailings /sailings · 22 in all")
	b.press(kb.ArrowRight)
	b.sees("[data-picked]", "Harbours")
	b.press("+")
	b.until(`document.querySelector(".picture svg").style.width === "150%"`)
	b.press(kb.Enter)
	b.sees(".sheet h1", "Harbours")
	for _, shade := range []string{"shape", "status", "listed", "clicks", "age", "draft"} {
		b.open(b.bench + "/picture?as-table=yes&shade=" + shade)
		b.until(`document.querySelectorAll("tbody tr").length > 20`)
	}
	assert.Empty(t, b.problems)
}

// The strip of time leads to the next moments at which pages come and go.
func TestTheStripOfTime(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("keeper")
	b.sees(".strip", "“Early boat for the lamb sales” appears")
	b.follow(`[...document.querySelectorAll(".strip a")].find(a => a.textContent.includes("lamb")).click()`)
	b.sees(".band", "on 1 March 2027 at 00:00")
	b.until(`document.body.dataset.ready`)
	b.goTo("Early boat for the lamb sales")
	b.sees(".answers", "Online and listed")
}
