package e2e

import (
	"context"
	"os"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// Before and after stand side by side: the real pages, the nearest to the home page first, with what differs marked;
// they scroll together, and are led along together.
func TestBeforeAndAfterSideBySide(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("structure")
	b.goTo("Fares")
	b.rename("Prices")
	b.press(kb.Enter, input.ModifierCtrl)
	b.until(`document.querySelector("[data-review]").open`)
	b.do(
		chromedp.Evaluate(
			`window.heard = []; addEventListener("message", event => heard.push([event.source === document.querySelector("[data-before]").contentWindow ? "before" : "after", event.data]))`,
			nil,
		),
	)
	b.click("[data-open-sides]")
	b.until(`document.querySelector("[data-sides]").open && document.activeElement.matches("[data-later]")`)
	b.sees("[data-sides-title]", "Home")
	b.sees("[data-sides-words]", "Page 1 of")
	b.sees("[data-sides-differ]", "Marked: 1 place before, 1 after.") // in the header menu
	b.shoot("sides")

	b.press(kb.ArrowRight)
	b.sees("[data-sides-words]", "Page 2 of")
	b.press(kb.ArrowLeft)
	b.sees("[data-sides-title]", "Home")
	b.sees("[data-sides-differ]", "Marked: 1 place")

	b.click(`[data-sides] [data-width="phone"]`)
	b.until(`document.querySelector("[data-after]").style.width === "390px"`)
	b.shoot("sides-phone")
	// A turn of the wheel is lost where a frame is laid out anew just then; whoever turns it turns it again.
	wheel := func(side string, by float64, heard string) {
		for range 20 {
			at := b.settled(
				`(r => [r.left + r.width / 2, r.top + r.height / 2])(document.querySelector("[data-` + side +
					`]").getBoundingClientRect())`,
			)
			b.do(
				input.DispatchMouseEvent(input.MouseWheel, at[0], at[1]).WithDeltaX(0).WithDeltaY(by),
				chromedp.Sleep(500*time.Millisecond),
			)
			if b.holds(heard) {
				return
			}
		}
		b.fail("the wheel over %s was never heard of", side)
	}
	b.do(chromedp.Evaluate(`heard.length = 0`, nil)) // marking scrolled what it marked into view
	wheel("before", 90000, `heard.some(([side, said]) => side === "before" && said.scrolled > 0.99)`)
	assert.False(
		t,
		eval[bool](b, `heard.some(([side, said]) => side === "after" && said.scrolled !== undefined)`),
		"what was asked for is not told again",
	)
	wheel("after", -40, `heard.some(([side, said]) => side === "after" && said.scrolled > 0.8 && said.scrolled < 1)`)

	b.do(
		chromedp.Evaluate(
			`(s => { s.value = "signed-in"; s.dispatchEvent(new Event("change", { bubbles: true })) })(document.querySelector("[data-sides] [name=as]"))`,
			nil,
		),
	)
	b.sees("[data-sides-words]", "Page 1 of")
	b.press(kb.Escape)
	b.until(`!document.querySelector("[data-sides]").open && document.querySelector("[data-review]").open`)
	assert.Empty(t, b.problems)
}

// shoot keeps a picture for whoever asks for one.
func (b *browser) shoot(name string) {
	dir := os.Getenv("VINELADDER_SHOTS")
	if dir == "" {
		return
	}
	b.do(chromedp.ActionFunc(func(ctx context.Context) error {
		var shot []byte
		if err := chromedp.CaptureScreenshot(&shot).Do(ctx); err != nil {
			return err
		}
		return os.WriteFile(dir+"/"+name+".png", shot, 0o644)
	}))
}

// One page stands beside itself as two visitors get it, from the preview, and what differs is marked.
func TestTwoVisitorsOfOnePage(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Freight")
	b.press("p")
	b.until(`document.querySelector("[data-preview]").open`)
	b.focus("[data-two-visitors]")
	b.press(kb.Enter)
	b.sees("[data-before-words]", "As a visitor who is not signed in")
	b.sees("[data-after-words]", "As somebody signed in without a role")
	b.choose(`[data-sides] [name="beside"]`, "staff")
	b.sees("[data-after-words]", "As somebody with the role “Staff”")
	b.sees("[data-sides-differ]", "at the left")
	b.axe("two visitors")
}
