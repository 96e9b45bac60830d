package e2e

import (
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp/kb"
)

// Who may not publish asks for approval; who may sees it at sign-in, with what will change, says something of one edit
// and sends it back with a reason; asked anew, they publish it. What they can't do is edit it.
func TestApproval(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("freight")
	b.goTo("Freight rates")
	b.focus(`[data-fields] [name="label"]`)
	b.follow(`document.querySelector('[data-fields] [name="label"]').select()`)
	b.typed("What freight costs")
	b.press(kb.Tab)
	b.sees("[data-status]", "What freight costs")
	b.press(kb.Enter, input.ModifierCtrl)
	b.sees("dialog[open]", "Ask those who may publish it")
	b.axe("asking for approval")
	b.focus("#a-note")
	b.typed("The new words of the Board")
	b.focus(`[data-approval="ask"] button`)
	b.press(kb.Enter)
	b.sees("dialog[open]", "Ola Brekke asked for it on")

	chief := w.browser(1280, 800)
	chief.signIn("approver")
	chief.sees(".waits", "Ola Brekke asks for approval: “The new words of the Board”")
	chief.follow(`document.querySelector(".waits a").click()`)
	chief.sees("dialog[open]", "What freight costs")
	chief.sees("dialog[open]", "Ola Brekke asked for it on")
	chief.follow(`document.querySelector("dialog[open] .steps").open = true`)
	chief.focus("dialog[open] [data-remark]")
	chief.press(kb.Enter)
	chief.until(`document.activeElement.name === "words"`)
	chief.typed("Rates, not costs")
	chief.press(kb.Enter)
	chief.sees("dialog[open] .remark", "Rates, not costs")
	chief.focus("#a-back")
	chief.typed("See what I said of the label")
	chief.focus(`[data-approval="send-back"] button`)
	chief.press(kb.Enter)
	chief.sees("body", "Sent back, with what you wrote.")

	b.open(w.bench + "/tree")
	b.until(`document.body?.dataset.ready`)
	b.press(kb.Enter, input.ModifierCtrl)
	b.sees("dialog[open]", "Signe Holm sent it back: See what I said of the label")
	b.sees("dialog[open]", "Rates, not costs")
	b.focus("#a-note")
	b.typed("All the same")
	b.focus(`[data-approval="ask"] button`)
	b.press(kb.Enter)
	b.sees("dialog[open]", "All the same")

	chief.open(w.bench + "/drafts")
	chief.until(`document.body?.dataset.ready || document.readyState === "complete"`)
	chief.sees(".asked", "Ola Brekke")
	chief.axe("approvals")
	chief.follow(`document.querySelector(".asked a").click()`)
	chief.sees("dialog[open]", "What freight costs")
	chief.press(kb.Enter)
	chief.sees("[data-status]", "It is public now")
}
