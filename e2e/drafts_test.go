package e2e

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/store"
)

// theirs publishes a change of a label, as somebody else would from another instance.
func (w *world) theirs(from, to string) {
	w.t.Helper()
	w.theirEdit(
		"/edit",
		url.Values{"do": {"field"}, "page": {w.find(from)}, "field": {"label"}, "old": {from}, "new": {to}},
	)
}

// theirEdit publishes an edit of somebody else.
func (w *world) theirEdit(path string, form url.Values) {
	w.t.Helper()
	status, said := w.signedIn("structure").post(path, form)
	require.Equal(w.t, http.StatusOK, status, said)
	account, err := w.store.AccountByLogin(context.Background(), "structure")
	require.NoError(w.t, err)
	id, err := w.store.MyChanges(context.Background(), account.ID)
	require.NoError(w.t, err)
	d, err := w.store.Draft(context.Background(), id)
	require.NoError(w.t, err)
	_, err = w.store.Publish(
		context.Background(),
		id,
		account,
		store.Reviewed{Revision: d.Base.Revision, Version: d.Version},
	)
	require.NoError(w.t, err)
	w.seen()
}

// rename gives the selected page another label, by keys.
func (b *browser) rename(label string) {
	b.t.Helper()
	b.press(kb.F2)
	b.press("a", input.ModifierCtrl)
	b.typed(label)
	b.press(kb.Enter)
}

func (w *world) find(label string) string {
	s := w.published()
	for id := s.Home(); s.Page(id) != nil; id++ {
		if s.Page(id).Label == label {
			return fmt.Sprint(id)
		}
	}
	w.t.Fatalf("no page %q", label)
	return ""
}

// Two people change one label: the second is shown both, nothing is published until it is decided, and the rest goes
// on.
func TestAConflictIsDecidedSideBySide(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Refunds")
	b.rename("Repayments")
	b.status("Renamed “Refunds”")
	b.theirs("Refunds", "Money back")
	b.goTo("Season tickets")
	b.press("l")
	b.status("Unlisted “Season tickets”")
	b.sees(".held", "1 of your edits waits for a decision.")
	b.press(kb.Enter, input.ModifierCtrl)
	b.sees(".conflict", "The label of “Money back” was changed by Idris Calder on ")
	b.sees(".sides", "Mine Repayments")
	b.sees(".sides", "Public now Money back")
	assert.True(t, eval[bool](b, `document.querySelector("[data-review] .dialog-foot .primary").disabled`))
	b.click(`[data-keep="mine"]`)
	b.until(`document.querySelector("[data-review]").open && !document.querySelector("[data-review] .conflict")`)
	b.until(`document.activeElement.matches("[data-review] .primary")`)
	b.press(kb.Enter)
	b.status("Published: 2 edits are public now.")
	_, page := b.public("/sailings/fares")
	assert.Contains(t, page, ">Repayments</a>")
	assert.NotContains(t, page, ">Season tickets</a>")
	assert.Empty(t, b.problems)
}

// The same for what is no page: an item that two people point elsewhere, and one that is taken out while it is changed.
func TestAConflictAboutAMenuItem(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("keeper")
	b.menus("Quick tasks", "Book a place")
	menu, item := eval[string](
		b,
		`new URLSearchParams(location.search).get("menu")`,
	), eval[string](
		b,
		`document.querySelector(".rung.current, .rung[aria-selected=true]").dataset.id`,
	)
	b.click(`[data-do="choose-target"]`)
	b.look("Contact", "Contact")
	b.press(kb.Enter)
	b.selected("Contact")
	b.click(row("Report a problem") + " .label")
	b.selected("Report a problem")
	gone := eval[string](b, `document.querySelector(".rung.current, .rung[aria-selected=true]").dataset.id`)
	b.click(`.sheet [data-do="bin"], .pane-sheet [data-do="bin"]`)
	b.status("Took “Report a problem” out")
	b.theirEdit(
		"/menus/edit",
		url.Values{
			"do":    {"field"},
			"menu":  {menu},
			"item":  {item},
			"field": {"shows"},
			"old":   {"page:" + b.find("Book a place")},
			"new":   {"page:" + b.find("Refunds")},
		},
	)
	b.theirEdit(
		"/menus/edit",
		url.Values{
			"do":    {"field"},
			"menu":  {menu},
			"item":  {gone},
			"field": {"label"},
			"old":   {""},
			"new":   {"Tell us"},
		},
	)
	b.press(kb.Enter, input.ModifierCtrl)
	b.sees(".conflict", "Menu item “Refunds”: The target of the item")
	b.sees(".sides", "Mine /contact")
	b.sees(".sides", "Public now /sailings/fares/refunds")
	b.sees(".conflict", "Menu item “Tell us”: Somebody else changed the item “Tell us”, or what is below it.")
	b.sees(".sides", "Mine taken out")
	b.click(`[data-held="0"][data-keep="mine"]`)
	b.until(`document.querySelectorAll("[data-review] .conflict").length === 1`)
	b.click(`[data-keep="theirs"]`)
	b.until(`document.querySelector("[data-review]").open && !document.querySelector("[data-review] .conflict")`)
	b.until(`document.activeElement.matches("[data-review] .primary")`)
	b.press(kb.Enter)
	b.status("It is public now.")
	_, page := b.public("/")
	assert.Contains(t, page, `<a href="/contact" dir="auto">Contact</a>`)
	assert.Contains(t, page, "Tell us")
	assert.Empty(t, b.problems)
}

// The edits of one page are published by themselves while the others wait; put back, they are as if nothing had been.
func TestPublishOnlyThisPage(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Contact")
	b.press("l")
	b.status("Unlisted “Contact”")
	b.until(`!document.querySelector(".only")`) // nothing else would be left
	b.goTo("Refunds")
	b.rename("Repayments")
	b.status("Renamed “Refunds”")
	b.click(`[data-do="only"]`)
	b.sees("[data-review] .steps", "1 edit in Only “Repayments”")
	b.press(kb.Escape)
	b.sees(".draftband", "Only “Repayments”: taken from your other edits, to be published alone.")
	b.click(`[data-do="join"]`)
	b.status("The edits are back among the others.")
	b.sees(".draftname", "2 edits in My changes")
	b.goTo("Repayments")
	b.click(`[data-do="only"]`)
	b.until(`document.activeElement.matches("[data-review] .primary")`)
	b.press(kb.Enter)
	b.status("It is public now.")
	b.sees(".draftname", "1 edit in My changes")
	b.until(`!document.querySelector(".draftband")`)
	_, fares := b.public("/sailings/fares")
	assert.Contains(t, fares, ">Repayments</a>")
	assert.Contains(t, fares, `href="/contact"`, "the other edit is not public")
	assert.Empty(t, b.problems)
}

// What was reviewed is what is published: a publication in between sends the person back to look again.
func TestAPublicationInBetweenAsksForAnotherLook(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Contact")
	b.press("l")
	b.status("Unlisted")
	b.press(kb.Enter, input.ModifierCtrl)
	b.until(`document.activeElement.matches("[data-review] .primary")`)
	b.theirs("Refunds", "Money back")
	b.press(kb.Enter)
	b.sees("[data-alert]", "Something has changed since you looked; nothing is published yet.")
	_, home := b.public("/")
	assert.Contains(t, home, ">Contact</a>")
	b.publish()
	_, home = b.public("/")
	assert.NotContains(t, home, ">Contact</a>")
}

func TestThePreviewIsThePublicPageOfTheDraft(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Refunds")
	b.rename("Repayments")
	b.status("Renamed")
	b.selected("Repayments")
	b.press("p")
	b.until(`document.querySelector("[data-frame]").src.includes("/proof/")`)
	source := eval[string](b, `document.querySelector("[data-frame]").src`)
	response, page := b.public(strings.TrimPrefix(source, b.site))
	assert.Equal(t, http.StatusOK, response.StatusCode)
	assert.Contains(t, page, ">Repayments</h1>")
	assert.Contains(
		t,
		response.Header.Get("Content-Security-Policy"),
		"frame-ancestors "+b.bench,
		"only the workbench may frame it",
	)
	assert.Equal(t, "private, no-store", response.Header.Get("Cache-Control"))
	assert.Empty(t, response.Cookies())
	base := source[len(b.site):strings.Index(source, "/sailings")]
	assert.Contains(t, page, `href="`+base+`/sailings/fares"`, "links stay in the preview")
	_, now := b.public("/sailings/fares/refunds")
	assert.Contains(t, now, ">Refunds</h1>", "public is untouched")
	response, _ = b.public(base + "x/sailings")
	assert.Equal(t, http.StatusGone, response.StatusCode, "a forged token shows nothing")
	response, _ = b.public(base + "/staff-handbook")
	assert.Equal(t, base+"/sign-in?to=%2Fstaff-handbook", response.Header.Get("Location"), "what this visitor gets")
}

func TestAnyPublicationIsTakenBackFromTheHistory(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.theirs("Refunds", "Money back")
	b.theirs("Fares", "Prices")
	b.signIn("keeper")
	b.open(b.bench + "/drafts")
	b.sees(".history", "renamed “Refunds”")
	b.sees(".history", "Idris Calder")
	b.click(".history > li:nth-child(2) [data-take-back]") // not the newest one
	b.sees(".sheet h1", "Refunds")
	b.until(`document.body.dataset.ready`)
	b.sees("[data-edits]", "1")
	b.focus(".rung[aria-selected=true]")
	b.publish()
	_, page := b.public("/sailings/fares")
	assert.Contains(t, page, ">Refunds</a>")
	assert.Contains(t, page, ">Prices</h1>", "what came after stays")
	// What can't be taken back is said, and nothing is changed.
	b.open(b.bench + "/drafts")
	b.click(".history > li:last-child [data-take-back]")
	b.sees("[data-alert]", "can't")
}

// The draft survives a restart of the program: another instance on the same database shows it.
func TestADraftIsThereAfterARestart(t *testing.T) {
	w := newWorld(t)
	keeper := w.signedIn("keeper")
	status, said := keeper.post("/edit", url.Values{"do": {"nudge"}, "page": {w.find("Fares")}, "way": {"up"}})
	require.Equal(t, http.StatusOK, status, said)
	again := start(t, w.database, func(*world) {})
	b := again.browser(1280, 800)
	b.signIn("keeper")
	b.sees("[data-edits]", "1")
	b.goTo("Fares")
	b.sees(row("Fares"), "Moved")
	account, err := again.store.AccountByLogin(context.Background(), "keeper")
	require.NoError(t, err)
	id, err := again.store.MyChanges(context.Background(), account.ID)
	require.NoError(t, err)
	d, err := again.store.Draft(context.Background(), id)
	require.NoError(t, err)
	_, isMove := d.Steps[0].Ops[0].(edit.OpMove)
	assert.True(t, isMove)
}

// What is not public is said when one leaves, and on the first screen when one is back.
func TestWhatWaitsIsSaid(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Contact")
	b.press("l")
	b.status("Unlisted “Contact”")
	b.follow(`document.querySelector(".areas-foot button").click()`)
	b.sees("[role=status]", "You are signed out. 1 edit of yours is not public; it waits for you in your drafts.")
	b.signIn("keeper")
	b.sees(".waits", "1 edit in “My changes” not public yet")
	b.open(b.bench + "/tree")
	b.until(`document.body.dataset.ready && !document.querySelector(".waits")`)
	assert.Empty(t, b.problems)
}
