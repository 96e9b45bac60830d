package e2e

import (
	"context"
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/site"
)

// row is a selector of a page's row.
func row(label string) string { return fmt.Sprintf(`.rung[data-label="%s"]`, label) }

func (b *browser) focused(label string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`document.activeElement.matches('.rung[data-label=%q]')`, label))
}

// Source: WAI-ARIA Authoring Practices, tree grid pattern, keys with the focus on rows first; from memory.
func TestTreeGridKeysOneByOne(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("keeper")
	b.focus(".rung[aria-selected=true]")
	steps := []struct{ key, lands string }{
		{kb.ArrowDown, "Sailings"},
		{kb.ArrowDown, "Harbours"},
		{kb.ArrowUp, "Sailings"},
		{kb.End, "Topics"},
		{kb.Home, "Home"},
		{kb.ArrowDown, "Sailings"},
		{kb.ArrowRight, "Sailings"},
		{kb.ArrowDown, "Timetables"},
		{kb.ArrowLeft, "Sailings"},
		{kb.ArrowLeft, "Sailings"},
		{kb.ArrowLeft, "Home"},
		{kb.PageDown, "Topics"},
		{kb.PageUp, "Home"},
	}
	for i, s := range steps {
		b.press(s.key)
		b.focused(s.lands)
		if i == 6 {
			b.until(`document.querySelector('.rung[data-label="Sailings"]').ariaExpanded === "true"`)
		}
		if i == 9 {
			b.until(`document.querySelector('.rung[data-label="Sailings"]').ariaExpanded === "false"`)
		}
	}
	b.press(kb.ArrowDown)
	b.press(kb.ArrowRight) // opens
	b.until(`document.querySelector('.rung[data-label="Timetables"]')`)
	b.focused("Sailings")
	b.press(kb.ArrowRight) // enters the cells
	b.until(`document.activeElement.matches('.rung[data-label="Sailings"] .cell-label')`)
	b.press(kb.ArrowRight)
	b.until(`document.activeElement.matches('.rung[data-label="Sailings"] .cell-who')`)
	b.press(kb.End)
	b.until(`document.activeElement.matches('.rung[data-label="Sailings"] .cell-change')`)
	b.press(kb.ArrowDown)
	b.until(`document.activeElement.matches('.rung[data-label="Timetables"] .cell-change')`)
	b.press(kb.Home)
	b.until(`document.activeElement.matches('.rung[data-label="Timetables"] .cell-label')`)
	b.press(kb.ArrowLeft)
	b.focused("Timetables")
	b.press(kb.Enter)
	b.until(`document.activeElement.matches('.sheet h1')`)
	b.press(kb.Escape)
	b.focused("Timetables")
	b.press(kb.F2)
	b.until(`document.activeElement.id === "f-label"`)
	facts := eval[string](
		b,
		`(r => [r.ariaLevel, r.ariaPosInSet, r.ariaSetSize, r.ariaRowIndex, document.querySelectorAll('.rung[tabindex="0"]').length,
		document.querySelector("[role=treegrid]").ariaRowCount].join(" "))(document.querySelector('.rung[data-label="Timetables"]'))`,
	)
	assert.Equal(t, "3 1 5 3 1 23", facts, "level, position, siblings, row, rows in the tab order, rows")
	assert.False(
		t,
		eval[bool](
			b,
			`document.querySelector('.rung[data-label="When sailings are cancelled"]').hasAttribute("aria-expanded")`,
		),
		"aria-expanded only with children",
	)
	assert.Empty(t, b.problems)
}

// Every way of moving ends at the same kind of edit, says where the page stands and is undone by one undo.
func TestMovingByEveryWay(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("structure")
	undo := func() {
		b.selected("Fares")
		b.press("z", input.ModifierCtrl)
		b.status("Undone: moved")
		b.sees("[data-edits]", "0")
	}
	b.goTo("Fares")
	b.press(kb.ArrowUp, input.ModifierAlt)
	b.status("Moved “Fares”: 2 of 5 in “Sailings”, after “Timetables”, before “Routes”.")
	b.selected("Fares")
	b.press(kb.ArrowDown, input.ModifierAlt)
	b.status("Moved “Fares”: 3 of 5")
	b.press("z", input.ModifierCtrl)
	b.status("Undone")
	b.press("z", input.ModifierCtrl)
	b.sees("[data-edits]", "0")
	b.press(kb.ArrowRight, input.ModifierAlt)
	b.status("Moved “Fares”: 6 of 6 in “Routes”")
	b.press(kb.ArrowLeft, input.ModifierAlt)
	b.status("Moved “Fares”: 3 of 5 in “Sailings”, after “Routes”")
	b.press("z", input.ModifierCtrl)
	b.status("Undone")
	b.press("z", input.ModifierCtrl)
	b.sees("[data-edits]", "0")

	b.do(chromedp.Evaluate(`(i => { i.focus(); i.select() })(document.querySelector('[name=position]'))`, nil))
	b.typed("1")
	b.sees("[data-landing]:not([hidden])", "1 of 5 in “Sailings”, before “Timetables”") // the gap is drawn
	b.press(kb.Enter)
	b.status("Moved “Fares”: 1 of 5 in “Sailings”, before “Timetables”.")
	b.until(`document.querySelector("[data-landing]").hidden`)
	undo()

	b.press("m")
	b.until(`document.activeElement.matches('[data-picker] [role=combobox]')`)
	b.typed("sailings/on-board") // an address without its slash
	b.sees("[data-picker] [aria-selected=true] strong", "On board")
	b.click(".ways button:nth-child(3)")
	b.sees("[data-picker] .muted", "4 of 5 in “Sailings”, after “On board”")
	b.click("[data-picker] .primary")
	b.status("Moved “Fares”: 4 of 5 in “Sailings”, after “On board”")
	undo()

	b.drag("Fares", "Timetables", 0.1)
	b.status("Moved “Fares”: 1 of 5 in “Sailings”, before “Timetables”.")
	undo()
	b.drag("Fares", "Timetables", 0.5)
	b.status("Moved “Fares”: 4 of 4 in “Timetables”")
	undo()

	// Into its own branch: refused with a reason before the drop and after, and nothing moves.
	b.press(kb.ArrowRight)
	b.until(`document.querySelector('.rung[data-label="Season tickets"]')`)
	b.drag("Fares", "Season tickets", 0.5)
	b.sees("[data-alert]", "“Fares” can't move into its own branch: “Season tickets” lies inside it.")
	assert.Equal(t, "0", eval[string](b, `document.querySelector("[data-edits]").textContent`))
	b.goTo("Timetables")
	b.press(kb.ArrowUp, input.ModifierAlt)
	b.sees("[data-alert]", "“Timetables” is the first in “Sailings” already.")
	assert.Empty(t, b.problems)
}

// Moving never opens: who may not set who sees a page moves it out of a closed branch, and it stays closed; the screen
// says so.
func TestAPageThatLeavesAClosedBranchStaysClosed(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("structure")
	b.goTo("Expenses")
	b.press(kb.ArrowLeft, input.ModifierAlt)
	b.status("It keeps “Staff”, which it had from “Staff handbook”.")
	b.sees(".answers", "Staff")
	b.publish()
	response, page := b.public("/expenses")
	assert.Equal(t, http.StatusSeeOther, response.StatusCode, "to sign-in")
	assert.NotContains(t, page, "receipt")
	assert.Empty(t, b.problems)
}

// Who may set who sees a page can have its new place say it, and reads what that does before.
func TestAPageCanTakeWhoSeesItFromItsNewPlace(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Expenses")
	b.press("m")
	b.look("Contact", "Contact")
	b.sees("[data-picker-facts]", "in “Contact”")
	b.until(`!document.querySelector("[data-picker-facts]").textContent.includes("everyone")`)
	b.click("[data-takes]")
	b.sees("[data-picker-facts]", "everyone")
	b.click("[data-picker] [data-verb]")
	b.selected("Expenses")
	b.publish()
	_, page := b.public("/contact/expenses")
	assert.Contains(t, page, ">Expenses</h1>")
	b.goTo("Expenses")
	b.press("m")
	b.until(`document.querySelector("[data-picker]").open && !document.querySelector("[data-takes]").checked`)
	assert.Empty(t, b.problems)
}

// An answer that comes when one has gone to another page does not take one back.
func TestLateAnswersDoNotTakeOneBack(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("structure")
	b.do(chromedp.Evaluate(`(real => {
		window.late = 0
		window.fetch = async (path, how) => {
			const answer = await real(path, how)
			if (!["/undo", "/edit"].includes(String(path).split("?")[0])) return answer
			await new Promise(go => window.letGo = go)
			window.late++
			return answer
		}
	})(window.fetch)`, nil))
	for n, act := range []struct {
		key  string
		with input.Modifier
	}{{kb.ArrowUp, input.ModifierAlt}, {"z", input.ModifierCtrl}} {
		b.goTo("Fares")
		b.press(act.key, act.with)
		b.until(`window.letGo`)
		b.goTo("Contact")
		b.do(chromedp.Evaluate(`(go => { window.letGo = null; go() })(window.letGo)`, nil))
		b.until(fmt.Sprintf(`window.late === %d && !document.body.dataset.busy`, n+1))
		b.selected("Contact")
		b.focusedRow("Contact")
	}
	assert.Empty(t, b.problems)
}

// Answers come when they come: whoever has gone into a field meanwhile stays in it, and on its page.
func TestLateAnswersLeaveTheFieldAlone(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("structure")
	b.do(chromedp.Evaluate(`((real, slow = ["/undo", "/redo", "/edit"]) => {
		window.late = 0
		window.fetch = async (path, how) => {
			const answer = await real(path, how)
			if (!slow.includes(String(path).split("?")[0])) return answer
			await new Promise(go => setTimeout(go, 700))
			window.late++
			return answer
		}
	})(window.fetch)`, nil))
	late := 0
	for _, act := range []struct {
		key  string
		with input.Modifier
	}{{kb.ArrowUp, input.ModifierAlt}, {kb.ArrowDown, input.ModifierAlt}, {"z", input.ModifierCtrl}, {
		"y",
		input.ModifierCtrl,
	}} {
		for _, field := range []string{"[data-fields] [name=summary]", "[data-position] [name=position]"} {
			b.goTo("Fares")
			b.until(`!document.body.dataset.busy`)
			b.press(act.key, act.with)
			b.do(
				chromedp.Evaluate(
					fmt.Sprintf(`(i => { i.focus(); i.value = "2" })(document.querySelector(%q))`, field),
					nil,
				),
			)
			late++
			b.until(fmt.Sprintf(`window.late === %d && !document.body.dataset.busy`, late))
			held := fmt.Sprintf(
				`(i => [document.activeElement === i, i?.value, document.querySelector(".sheet h1").textContent].join("|"))(document.querySelector(%q))`,
				field,
			)
			assert.Equal(t, "true|2|Fares", eval[string](b, held), act.key)
			b.do(
				chromedp.Evaluate(
					fmt.Sprintf(`(i => { i.value = i.defaultValue; i.blur() })(document.querySelector(%q))`, field),
					nil,
				),
			)
		}
	}
	b.goTo("Fares")
	b.until(`!document.body.dataset.busy`)
	b.press(kb.ArrowUp, input.ModifierAlt)
	b.press("n")
	b.typed("Vouchers")
	late++
	b.until(fmt.Sprintf(`window.late === %d && !document.body.dataset.busy`, late))
	assert.Equal(
		t,
		"Vouchers",
		eval[string](b, `document.activeElement.matches("#making-label") ? document.activeElement.value : "gone"`),
		"a page that is being named",
	)
	assert.Empty(t, b.problems)
}

// drag takes a row by its rung and drops it on a part of another row.
func (b *browser) drag(from, to string, part float64) {
	b.t.Helper()
	b.grab(from, "[data-grip]", to, part)
	b.until(`!document.querySelector("[data-landing]").hidden`)
	b.until(`/ of |can't/.test(document.querySelector("[data-landing]").textContent)`)
	b.release()
}

// grab presses on a part of a row and moves to a height of another row.
func (b *browser) grab(from, inside, to string, part float64) {
	b.t.Helper()
	at := func(label, inside string, y float64) (float64, float64) {
		place := eval[[]float64](
			b,
			fmt.Sprintf(
				`(r => [r.left + 8, r.top + r.height * %g])(document.querySelector('%s %s').getBoundingClientRect())`,
				y,
				row(label),
				inside,
			),
		)
		return place[0], place[1]
	}
	x, y := at(from, inside, 0.5)
	b.do(input.DispatchMouseEvent(input.MousePressed, x, y).WithButton(input.Left).WithClickCount(1))
	b.held = []float64{x, y}
	if from == to {
		return
	}
	_, top := at(to, ".cell-label", part)
	b.do(input.DispatchMouseEvent(input.MouseMoved, x, y+8).WithButton(input.Left).WithButtons(1),
		input.DispatchMouseEvent(input.MouseMoved, x+60, top).WithButton(input.Left).WithButtons(1))
	b.held = []float64{x + 60, top}
}

// release lets go of what was grabbed.
func (b *browser) release() {
	b.t.Helper()
	b.do(input.DispatchMouseEvent(input.MouseReleased, b.held[0], b.held[1]).WithButton(input.Left).WithClickCount(1))
}

func TestOfflineTakesTheBranchAlongAndSaysWhy(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Fares")
	b.press("o")
	b.status("Took offline “Fares”")
	b.sees(".dock p", "Nobody reaches 5 pages any more: they answer with “not found”.")
	b.goTo("Refunds")
	b.sees(".answers", "Not online: “Fares” is not.")
	b.sees(row("Refunds"), "Not online: “Fares” is not")
	b.click(".answers [data-go]")
	b.selected("Fares")
	b.publish()
	response, _ := b.public("/sailings/fares/refunds")
	assert.Equal(t, http.StatusNotFound, response.StatusCode)

	b.focus(".rung[aria-selected=true]")
	b.press(kb.Delete)
	b.status("Put in the bin “Fares”")
	b.selected("On board")
	b.sees(".ghost", "in the bin after publishing")
	b.press("z", input.ModifierCtrl)
	b.selected("Fares")
	b.press(kb.Delete)
	b.selected("On board")
	b.open(b.bench + "/drafts")
	b.sees(".list", "Fares and 4 below, was in “Sailings”")
	b.click("[data-restore]")
	b.sees(".sheet h1", "Fares")
	b.sees(".answers", "3 of 5 in “Sailings”, after “Routes”, before “On board”")
	assert.Empty(t, b.problems)
}

func TestWritingText(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("structure")
	b.goTo("Refunds")
	b.until(`document.querySelector(".editor .prose[contenteditable=true]")`)
	b.focus(".editor .prose")
	b.press("a", input.ModifierCtrl)
	b.typed("All money back, ")
	b.click(`.editor-tools button:nth-child(3)`)
	b.typed("always")
	b.press(kb.Enter, input.ModifierCtrl)
	b.sees("[data-review] .sentences", "The words of 1 page change for everyone.")
	b.until(`document.activeElement.matches("[data-review] .primary")`)
	b.press(kb.Enter)
	b.status("Published: wrote the text of “Refunds”")
	_, page := b.public("/sailings/fares/refunds")
	assert.Contains(t, page, "All money back, <strong>always</strong>")
	assert.Empty(t, b.problems)
}

// Two tabs edit one page: the second is told what stands there, keeps what was typed, and can insist.
func TestTwoTabsEditingOnePage(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Refunds")
	other := w.signedIn("keeper")
	page := eval[string](b, `document.querySelector(".sheet").dataset.sheet`)
	status, said := other.post(
		"/edit",
		url.Values{"do": {"field"}, "page": {page}, "field": {"label"}, "old": {"Refunds"}, "new": {"Money back"}},
	)
	require.Equal(t, http.StatusOK, status, said)
	b.press(kb.F2)
	b.press("a", input.ModifierCtrl)
	b.typed("Repayments")
	b.press(kb.Tab)
	b.sees("[data-alert]", "The label of “Money back” was changed by you on ")
	b.sees("[data-alert]", ". Yours: “Repayments”. Now there: “Money back”.")
	assert.Equal(
		t,
		"Repayments",
		eval[string](b, `document.querySelector("#f-label").value`),
		"nothing that was typed is lost",
	)
	b.focus("#f-label")
	b.press(kb.Tab)
	b.status("Renamed “Money back”")
	b.sees(".sheet h1", "Repayments")
	assert.Empty(t, b.problems)
}

// Going from field to field with Tab saves each and loses neither the focus nor what is typed next.
func TestTabbingThroughTheSheet(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Refunds")
	b.until(`document.querySelector(".editor .prose")`)
	b.focus("#f-title")
	b.typed("Refunds and returns")
	b.press(kb.Tab)
	b.press("a", input.ModifierCtrl)
	b.typed("How we pay back")
	b.status("Changed the title of “Refunds”")
	b.until(`document.activeElement.id === "f-summary" && document.activeElement.value === "How we pay back"`)
	b.press(kb.Tab)
	b.status("Changed the summary of “Refunds”")
	b.until(`document.activeElement.id === "f-kind"`)
	b.press(kb.Tab)
	b.until(`document.activeElement.closest("[data-group=topics]")`)
	b.press(kb.Tab)
	b.until(`document.activeElement.matches("[data-group=topics] [data-do=tag]")`)
	b.press(kb.Tab)
	b.until(`document.activeElement.closest("[data-group=listing]")`)
	b.press(kb.Tab)
	b.until(`document.activeElement.matches("[data-field-set=listing]")`)
	b.press(kb.Tab)
	b.until(`document.activeElement.closest("[data-group=place]")`)
	b.press(kb.Tab)
	b.until(`document.activeElement.id === "f-segment"`)
	b.press("a", input.ModifierCtrl)
	b.typed("Öl & Gas")
	b.press(kb.Tab)
	b.sees("[data-alert]", "can hold small letters a to z, digits and hyphens, at most 80 of them; try “ol-and-gas”")
	b.until(
		`document.querySelector("#f-segment").value === "Öl & Gas" && document.querySelector("#f-segment").ariaInvalid === "true"`,
	)
	b.sees("[data-edits]", "2")
	b.open(b.bench + "/tree?state=now")
	b.sees(".band", "This is what is public now")
	b.focus(".rung[aria-selected=true]")
	b.press(kb.ArrowDown)
	b.press(kb.Delete)
	b.sees("[data-alert]", "You are looking at what is public now")
}

func TestALostSessionLosesNothing(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Refunds")
	b.do(network.ClearBrowserCookies())
	b.press(kb.F2)
	b.press("a", input.ModifierCtrl)
	b.typed("Repayments")
	b.press(kb.Tab)
	b.sees("[data-alert]", "You are signed out. What you typed is still here")
	assert.Equal(t, "Repayments", eval[string](b, `document.querySelector("#f-label").value`))
}

// A visitor is a client with cookies and without a browser.
type visitor struct {
	*world
	client *http.Client
}

func (w *world) signedIn(login string) *visitor {
	v := w.visitor()
	status, _ := v.post("/sign-in", url.Values{"login": {login}, "password": {password(login)}, "to": {"/tree"}})
	require.Equal(w.t, http.StatusOK, status)
	return v
}

func (w *world) visitor() *visitor {
	jar, err := cookiejar.New(nil)
	require.NoError(w.t, err)
	return &visitor{w, &http.Client{Jar: jar}}
}

func (v *visitor) post(path string, form url.Values) (int, string) {
	v.t.Helper()
	request, err := http.NewRequestWithContext(
		context.Background(),
		http.MethodPost,
		v.bench+path,
		strings.NewReader(form.Encode()),
	)
	require.NoError(v.t, err)
	request.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	return v.send(request)
}

func (v *visitor) send(request *http.Request) (int, string) {
	v.t.Helper()
	response, err := v.client.Do(request)
	require.NoError(v.t, err)
	defer response.Body.Close()
	var body strings.Builder
	_, err = fmt.Fprint(&body, readAll(v.t, response))
	require.NoError(v.t, err)
	return response.StatusCode, body.String()
}

// What a person may not do is refused by the server, whatever the screen showed; and nobody else's page may ask.
func TestTheServerRefuses(t *testing.T) {
	w := newWorld(t)
	structure := w.signedIn("structure")
	status, said := structure.post(
		"/edit",
		url.Values{"do": {"field"}, "page": {"2"}, "field": {"audience"}, "old": {""}, "new": {"staff"}},
	)
	assert.Equal(t, http.StatusForbidden, status)
	assert.Contains(t, said, "To set who sees in “Sailings” you need a role that has this permission")
	status, said = structure.post(
		"/edit",
		url.Values{
			"do":    {"field"},
			"page":  {"2"},
			"field": {"label"},
			"old":   {"Sailings"},
			"new":   {strings.Repeat("x", 10_000)},
		},
	)
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, said, "200 characters at most")
	status, _ = structure.post("/edit", url.Values{"draft": {"9999"}, "do": {"bin"}, "page": {"2"}})
	assert.Equal(t, http.StatusConflict, status, "somebody else's draft is not there")
	refunds := w.find("Refunds")
	number, err := strconv.ParseInt(refunds, 10, 64)
	require.NoError(t, err)
	status, said = structure.post("/edit", url.Values{
		"do": {"field"}, "page": {refunds}, "field": {"text"},
		"old": {
			w.published().Page(site.PageID(number)).Text,
		}, "new": {`<p onclick="x()">Kept<script>alert(1)</script></p>`},
	})
	require.Equal(t, http.StatusOK, status, said)
	response, err := structure.client.Get(w.bench + "/text?page=" + refunds)
	require.NoError(t, err)
	defer response.Body.Close()
	assert.Equal(t, "<p>Kept</p>", readAll(t, response), "sanitised on the server")

	status, said = w.visitor().post("/edit", url.Values{"do": {"bin"}, "page": {"2"}})
	assert.Equal(t, http.StatusUnauthorized, status)
	assert.Contains(t, said, "You are signed out")
	request, err := http.NewRequest(http.MethodPost, w.bench+"/undo", nil)
	require.NoError(t, err)
	request.Header.Set("Sec-Fetch-Site", "cross-site")
	status, _ = structure.send(request)
	assert.Equal(t, http.StatusForbidden, status, "cross-origin protection")
	request, err = http.NewRequest(http.MethodGet, w.bench+"/tree", nil)
	require.NoError(t, err)
	request.Host = strings.TrimPrefix(w.site, "http://")
	status, _ = structure.send(request)
	assert.Equal(t, http.StatusMisdirectedRequest, status, "the workbench does not answer to the public host")
	staff := w.visitor()
	status, said = staff.post(
		"/sign-in",
		url.Values{"login": {"staff"}, "password": {password("staff")}, "to": {"/tree"}},
	)
	assert.Equal(t, http.StatusForbidden, status)
	assert.Contains(t, said, "has no permission that the workbench is for")
}
