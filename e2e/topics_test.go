package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Topics by keys: a page bears one, its topic gathers the page, and the menu that grows from the list lights up there;
// then a topic is made, moved and given to a page from its own side.
func TestTopicsByKeys(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Islanders' card")
	b.press("g")
	b.until(`document.activeElement.matches("[data-picker] [role=combobox]")`)
	b.typed("oyra") // found by a label that nobody is shown
	b.sees("[data-picker] [aria-selected=true] strong", "Øyra")
	b.sees("[data-picker] [aria-selected=true]", "Topic, in Places › Skerrow Isles")
	b.press(kb.Enter)
	b.status("Added “Øyra” to “Islanders' card”.")
	b.sees("[data-group=topics] li", "Øyra in Places › Skerrow Isles")
	b.sees("[data-part=dock]", "“Islands” counts the pages of 1 item anew on 86 pages for everyone: "+
		"“Øyra” 6 instead of 5.")
	b.publishes()
	_, card := w.public("/sailings/fares/islanders-card")
	assert.Contains(t, card, `<dd><a href="/topics/places/skerrow-isles/oyra" dir="auto">Øyra</a></dd>`)
	assert.Contains(t, card, `href="/topics/places/skerrow-isles/oyra" class="trail" aria-current="true"`)
	_, oyra := w.public("/topics/places/skerrow-isles/oyra")
	assert.Contains(t, oyra, `<a href="/sailings/fares/islanders-card" dir="auto">Islanders&#39; card</a>`)

	b.press("a")
	b.press("o")
	b.until(`location.pathname === "/topics" && document.body?.dataset.ready && document.activeElement.matches(".rung")`)
	b.selected("Places")
	b.sees(".rung[data-label=Places] .cell-count", "22 topics")
	b.press("i")
	b.until(`document.activeElement.id === "making-label"`)
	b.sees(".making label", "Label of the new topic")
	b.typed("Mainland")
	b.sees(".making p", "/topics/places/mainland · 2 of 2 in “Places”, after “Skerrow Isles”")
	b.press(kb.Enter)
	b.selected("Mainland")
	b.sees(".rung[data-label=Mainland] .cell-count", "0")
	b.press("g")
	b.until(`document.activeElement.matches("[data-picker] [role=combobox]")`)
	b.typed("getting to the pier")
	b.sees("[data-picker] [aria-selected=true] strong", "Getting to the pier")
	b.press(kb.Enter)
	b.status("Added “Mainland” to “Getting to the pier”.")
	b.selected("Mainland")
	b.sees(".rung[data-label=Mainland] .cell-count", "1")
	b.sees("[data-group=gathers] li", "Getting to the pier")
	b.press("n")
	b.until(`document.activeElement.id === "making-label"`)
	b.typed("Great Hallin pier") // two topics may have one label
	b.press(kb.Enter)
	b.selected("Great Hallin pier")
	b.press(kb.ArrowRight, input.ModifierAlt) // Alt: into the one before
	b.sees(".answers", "1 of 1 in “Mainland”")
	b.press("z", input.ModifierCtrl)
	b.sees(".answers", "3 of 3 in “Places”")
	b.goToTopic("Mainland")
	b.click(`[data-do="merge"]`)
	b.until(`document.activeElement.matches("[data-picker] [role=combobox]")`)
	b.typed("great hallin")
	b.sees("[data-picker] [aria-selected=true] strong", "Great Hallin")
	b.sees("[data-picker-facts]", "highlights other items on 1 page for everyone")
	b.press(kb.Enter)
	b.status("Merged “Mainland” into “Great Hallin”.")
	b.sees(".pane-sheet h1", "Great Hallin")
	b.until(`document.querySelector("#f-other").value === "Mainland"`)
	b.sees("[data-group=gathers] li", "Getting to the pier")
}

// A page is made with what it is about, and a topic says which others are called nearly so.
func TestAPageIsMadeWithItsTopics(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Jobs")
	b.press("i")
	b.until(`document.activeElement.id === "making-label"`)
	b.typed("Deckhand, Øyra")
	b.click(".making [data-choose]")
	b.look("oyra", "Topic, in Places")
	b.press(kb.Enter)
	b.sees(".making [data-topics]", "about Øyra")
	b.axe("making a page with its topics")
	b.until(`document.activeElement.matches(".making [data-choose]")`)
	b.focus("#making-label")
	b.press(kb.Enter)
	b.selected("Deckhand, Øyra")
	b.sees("[data-group=topics] li", "Øyra in Places › Skerrow Isles")
	b.press("a")
	b.press("o")
	b.until(`location.pathname === "/topics" && document.body?.dataset.ready && document.activeElement.matches(".rung")`)
	b.press("i")
	b.until(`document.activeElement.id === "making-label"`)
	b.typed("Great Halin")
	b.press(kb.Enter)
	b.selected("Great Halin")
	b.sees("[data-group=labels]", "Called nearly so: Great Hallin")
}

// goToTopic selects a topic by its row.
func (b *browser) goToTopic(label string) {
	b.t.Helper()
	b.click(`.rung[data-label="` + label + `"] .label`)
	b.selected(label)
}

// Topics by the pointer: the first list of a site, topics for several pages at once, and one taken off again.
func TestTopicsByThePointer(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.open(b.bench + "/topics")
	b.until(`document.body.dataset.ready && document.activeElement.matches(".rung")`)
	b.click(`[data-new-list] input`)
	b.typed("Weather")
	b.click(`[data-new-list] button`)
	b.status("Made the topic list “Weather”: 6 of 6 in “Topics”, after “Audience of notice”.")
	b.selected("Weather")
	b.click(`[data-do="make-into"]`)
	b.typed("Storm")
	b.click(`.making button.primary`)
	b.selected("Storm")
	b.click(`[data-do="tag"]`)
	b.until(`document.activeElement.matches("[data-picker] [role=combobox]")`)
	b.typed("when sailings are cancelled")
	b.sees("[data-picker] [aria-selected=true] strong", "When sailings are cancelled")
	b.click(`[data-picker] [data-verb]`)
	b.sees("[data-group=gathers] li", "When sailings are cancelled")
	b.click(`[data-untag]`)
	b.status("Took “Storm” off “When sailings are cancelled”.")
	b.sees("[data-group=gathers]", "No page that this visitor reaches.")

	b.open(b.bench + "/tree")
	b.goTo("Refunds")
	b.press(" ")
	b.press(kb.ArrowUp)
	b.press(" ")
	b.click(`[data-marked-bar] [data-do="tag"]`)
	b.until(`document.activeElement.matches("[data-picker] [role=combobox]")`)
	b.typed("storm")
	b.sees("[data-picker] [aria-selected=true] strong", "Storm")
	b.click(`[data-picker] [data-verb]`)
	b.status("Added “Storm” to 2 pages.")
	b.sees(".pane-sheet h1", "2 selected")
	b.click(`[data-marked-bar] [data-do="unmark"]`)
	b.sees("[data-group=topics] li", "Storm in Weather")
	b.click(`[data-group=topics] [data-field-set="topics"]`)
	b.sees("[data-group=topics]", "It bears none.")
}

// A topic list goes out as SKOS and another comes in: first it is said what that changes, then it is in the draft.
func TestTopicsGoOutAndComeIn(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.open(b.bench + "/topics")
	b.until(`document.body.dataset.ready && document.activeElement.matches(".rung")`)
	b.sees("[data-group=out] a", "Turtle")
	out := eval[string](b, `fetch(document.querySelector("[data-group=out] a[href*=turtle]").href).then(r => r.text())`)
	assert.Contains(t, out, `skos:prefLabel "Øyra"@en`)
	document := filepath.Join(t.TempDir(), "weather.ttl")
	write := func(more string) {
		const head = "@prefix skos: <http://www.w3.org/2004/02/skos/core#> .\n" +
			"<urn:w> a skos:ConceptScheme ; skos:prefLabel \"Weather\" .\n"
		require.NoError(t, os.WriteFile(document, []byte(head+more), 0o600))
	}
	write("<urn:f> skos:inScheme <urn:w> ; skos:prefLabel \"Fog\" ; skos:altLabel \"Fog\" .")
	b.click("[data-topics-in] summary")
	b.do(chromedp.SetUploadFiles("[data-topics-in] input", []string{document}))
	b.sees("[data-topics-facts]", "line 3: urn:f has “Fog” as two sorts of label (SKOS S13)")
	write("<urn:f> skos:inScheme <urn:w> ; skos:prefLabel \"Fog\" ; skos:altLabel \"Mist\" .")
	b.do(chromedp.SetUploadFiles("[data-topics-in] input", []string{document}))
	b.sees("[data-topics-facts]", "1 list and 1 topic new, 0 changed")
	b.click("[data-topics-in] button")
	b.status("Brought topics in: 1 list and 1 topic new, 0 changed.")
	b.sees(".rung[data-label=Weather] .cell-count", "1 topic")
	b.sees("[data-part=dock]", "2 pages appear for everyone.")
}

// A listing gets another look, and asks for a value; the sheet says so in a sentence, and visitors get it.
func TestAListingByKeys(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.open(b.site + "/harbours")
	b.sees(".piece-listing table thead", "Depth at chart datum")
	b.axe("a listing that is a table")
	b.open(b.bench + "/layouts?layout=standard")
	b.until(`document.body.dataset.ready`)
	b.follow(`[...document.querySelectorAll(".chip")].find(c => c.textContent.includes("Harbours at a glance")).click()`)
	b.sees("[data-part=sheet]", "What it lists")
	b.choose("#l-looks", "cards")
	b.sees("[data-part=sheet]", "as cards")
	b.choose("#l-ask", "harbour.slipway")
	b.sees("[data-part=sheet]", "with “Slipway”: Yes")
	b.choose("#l-ask", "harbour.depth")
	b.sees("[data-part=sheet]", "“Depth at chart datum” from 0 m and “Slipway”: Yes")
	b.focus(`.wanted [name="from"]`)
	b.press("a", input.ModifierCtrl)
	b.typed("deep")
	b.press(kb.Tab)
	b.sees("[role=alert], .field-fault, [data-status]", "number")
	b.focus(`.wanted [name="from"]`)
	b.press("a", input.ModifierCtrl)
	b.typed("5")
	b.press(kb.Tab)
	b.sees("[data-part=sheet]", "from 5 m")
	b.axe("the sheet of a listing")
	b.publish()
	b.open(b.site + "/harbours")
	b.sees(".piece-listing .cards", "Great Hallin pier")
	b.until(`document.querySelectorAll(".piece-listing .cards > li").length === 3`)
	b.axe("a listing that is cards")
}

// A page comes to list others below its text, asked for on its own sheet, and visitors get them.
func TestAPageListsOthersByKeys(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Jobs")
	b.follow(`document.querySelector("[data-group=listing]").open = true`)
	b.focus(`[data-group=listing] [data-field-set=listing]`)
	b.press(kb.Enter)
	b.sees("[data-group=listing]", "Pages, from A to Z, 20 at a time.")
	b.choose("#l-kinds", "vacancy")
	b.sees("[data-group=listing]", "Pages of the type “Vacancy”")
	b.choose("#l-looks", "table")
	b.sees("[data-group=listing]", "as a table")
	b.follow(`{ const by = [...document.querySelectorAll("#l-narrow option")].find(o => o.textContent === "Places")
		by.selected = true
		by.parentNode.dispatchEvent(new Event("change", { bubbles: true })) }`)
	b.sees("[data-group=listing]", "visitors narrow it by Places")
	b.goTo("Deckhand, Great Hallin")
	b.sees("[data-group=menus]", "On “Jobs”")
	b.goTo("Light on the west mole out")
	b.sees("[data-group=menus]", "On “Notices”")
	b.goTo("Christmas sailings")
	b.sees("[data-group=menus]", "Not on “Notices”: it lacks a value that is asked for")
	b.goTo("Jobs")
	b.axe("the sheet of a page that lists others")
	b.publish()
	b.open(b.site + "/jobs")
	b.sees("article table", "Deckhand, Great Hallin")
	b.axe("a page that lists others")
	b.until(`document.querySelectorAll("article tbody tr").length > 1`)
	b.follow(`[...document.querySelectorAll(".filters a")].find(a => a.textContent === "Great Hallin").click()`)
	b.sees(".filters [aria-current]", "Great Hallin")
	b.until(`document.querySelectorAll("article tbody tr").length === 1`)
	b.axe("a list that is narrowed")
}
