package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/clock"
)

// A role is made by keys, includes another, is let edit below one page, and that is told before it is published: who
// may what, and what they come to see. Why somebody may is a chain that can be followed.
func TestARoleByKeys(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.press("a")
	b.press("a")
	b.until(`location.pathname === "/access" && document.body?.dataset.ready`)
	b.axe("branches")
	b.follow(`[...document.querySelectorAll(".access-parts a")].find(a => a.textContent === "Roles").click()`)
	b.until(`location.pathname === "/access/roles" && document.body?.dataset.ready`)
	b.axe("roles")
	b.focus("#r-new")
	b.typed("Pier crew")
	b.press(kb.Enter)
	b.until(`document.querySelector("#sheet-title")?.textContent === "Pier crew" && document.body?.dataset.ready`)
	b.focus(`[data-role-include="operators"]`)
	b.press(" ")
	b.sees("[data-status]", "Had the role “Pier crew” include “Operators”.")
	b.until(`document.activeElement.dataset.roleInclude === "operators" && document.activeElement.checked`)
	b.focus(`.permit [value="edit"]`)
	b.press(" ")
	b.choose("#r-on", "page")
	b.focus(".permit button")
	b.press(kb.Enter)
	b.look("operators' room", "Operators' room")
	b.press(kb.Enter)
	b.sees(".permissions", "On “Operators' room” and all below it")
	b.until(`document.querySelector(".role-chart")?.textContent.includes("Pier crew")`)

	// Staff come to include it: what they see then is told, and how much.
	b.follow(`[...document.querySelectorAll(".types-list a")].find(a => a.textContent.startsWith("Staff")).click()`)
	b.until(`document.querySelector("#sheet-title")?.textContent === "Staff" && document.body?.dataset.ready`)
	b.focus(`[data-role-include="pier-crew"]`)
	b.press(" ")
	b.sees(".dock", "come to see")
	b.press(kb.Enter, input.ModifierCtrl)
	b.sees("dialog[open]", "People who hold Staff come to see 5 pages that they did not, by what their roles are then.")
	b.sees("dialog[open]", "Who holds “Staff” may edit pages on “Operators' room” and all below it (5 pages).")
	b.press(kb.Escape)

	// Only what the draft changes stands in the matrix then.
	b.open(w.bench + "/access?mode=matrix&only=differences")
	b.until(`document.body?.dataset.ready`)
	b.sees(".access-table", "Operators' room")
	assert.False(t, b.holds(`document.querySelector(".access-table").textContent.includes("Board papers")`))
	b.axe("the matrix of branches")

	b.publish()
	b.open(w.bench + "/access/why?may=edit&who=account:5")
	b.until(`document.body?.dataset.ready`)
	b.axe("why")
}

// Somebody of a department edits on their branch and nowhere else, by what the screen offers and by what the server
// takes; they publish nothing.
func TestADepartmentWorksOnItsBranch(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("freight")
	b.goTo("Freight rates")
	b.until(`!document.querySelector('[name="label"]').disabled`)
	b.goTo("Harbours")
	b.until(`document.querySelector('[name="label"]').disabled`)
	b.goTo("Freight rates")
	b.focus(`[data-fields] [name="label"]`)
	b.follow(`document.querySelector('[data-fields] [name="label"]').select()`)
	b.typed("What freight costs")
	b.press(kb.Tab)
	b.sees("[data-status]", "What freight costs")
	b.press(kb.Enter, input.ModifierCtrl)
	b.sees("dialog[open]", "To publish you need a role that has this permission")
}

// An invitation lies in the outbox, its link is shown once, opens the account once, and lets its owner in.
func TestAnInvitation(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.open(w.bench + "/access/people")
	b.until(`document.body?.dataset.ready`)
	b.axe("people")
	b.focus("#i-name")
	b.typed("Elin Sund")
	b.focus("#i-login")
	b.typed("elin")
	b.focus("#i-email")
	b.typed("elin@skerrow.example")
	b.focus(`.invite [value="sailings-editors"]`)
	b.press(" ")
	b.focus(".invite button")
	b.press(kb.Enter)
	b.sees("[data-status]", "Invited. The letter is in the outbox below")
	b.sees(".types-list", "Elin Sund invited")
	b.focus(`[data-people-form] [name="letter"] + button`)
	b.press(kb.Enter)
	b.sees("[data-status]", "/sign-in/link?link=")
	link := eval[string](b, `document.querySelector("[data-status]").textContent.match(/https?:\S+/)[0]`)
	b.until(`![...document.querySelectorAll("[data-people-form] [name=letter]")].length`)

	guest := w.browser(1280, 800)
	guest.open(link)
	guest.sees("main", "Choose a password")
	guest.axe("an invitation")
	guest.focus("#password")
	guest.typed("a fine long password")
	guest.press(kb.Enter)
	guest.until(`location.pathname === "/my-details"`)
	guest.sees("main", "you are here as Sailings editors")
	again := w.browser(1280, 800)
	again.open(link)
	again.sees("main", "This link is good no more")
}

// A second factor is set up with a device, and asked for at the door of the workbench; the password alone opens
// nothing.
func TestASecondFactor(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.open(w.site + "/sign-in?to=/my-details/sign-in")
	b.do(chromedp.SendKeys("#login", "keeper"), chromedp.SendKeys("#password", password("keeper")),
		chromedp.Submit("#login"))
	b.until(`location.pathname === "/my-details/sign-in"`)
	b.focus("main form button")
	b.press(kb.Enter)
	b.sees("main", "The code that it shows")
	b.until(`document.querySelector("main img").naturalWidth > 100`)
	secret := strings.ReplaceAll(eval[string](b, `document.querySelector("main code").textContent`), " ", "")
	code, err := totp.GenerateCode(secret, clock.Now())
	require.NoError(t, err)
	b.focus("#code")
	b.typed(code)
	b.press(kb.Enter)
	b.sees("main", "Each lets you in once")
	recovery := eval[string](b, `document.querySelector("main li code").textContent`)

	bench := w.browser(1280, 800)
	bench.open(w.bench + "/tree")
	bench.do(chromedp.SendKeys("#login", "keeper"), chromedp.SendKeys("#password", password("keeper")),
		chromedp.Submit("#login"))
	bench.sees("main", "The code of your device")
	bench.axe("a code at sign-in")
	bench.open(w.bench + "/tree")
	bench.until(`document.querySelector("#password")`)
	bench.do(chromedp.SendKeys("#login", "keeper"), chromedp.SendKeys("#password", password("keeper")),
		chromedp.Submit("#login"))
	bench.sees("main", "The code of your device")
	bench.do(chromedp.SendKeys("#code", "123456\n"))
	bench.sees("main", "The code is not right")
	bench.do(chromedp.SendKeys("#code", recovery+"\n"))
	bench.until(`document.querySelector(".rung[aria-selected=true]")`)

	reader := w.browser(1280, 800) // who sees no links to edit above the pages
	reader.open(w.site + "/sign-in?to=/my-details/sign-in")
	reader.do(chromedp.SendKeys("#login", "staff"), chromedp.SendKeys("#password", password("staff")),
		chromedp.Submit("#login"))
	reader.until(`location.pathname === "/my-details/sign-in"`)
	reader.axe("how I sign in")
	reader.focus("main form button")
	reader.press(kb.Enter)
	reader.sees("main", "The code that it shows")
	reader.axe("a device")
}
