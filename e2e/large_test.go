package e2e

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/clock"
	"vineladder/internal/core/site"
	"vineladder/internal/formats/sheet"
)

// A long run of siblings: only a window of rows is ever in the browser, and keys, scrolling and moves reach all of it.
func TestALongRunIsNeverLoadedWhole(t *testing.T) {
	w := newWorld(t)
	var text strings.Builder
	text.WriteString("key,parent_key,label,status\narchive,p1,Archive,live\n")
	for i := range 3000 {
		fmt.Fprintf(&text, "a%d,archive,Paper %04d,live\n", i, i)
	}
	ops, err := sheet.Read(
		strings.NewReader(text.String()),
		w.published(),
		clock.Now(),
		func(n int) ([]site.PageID, error) {
			return w.store.NewPageIDs(context.Background(), n)
		},
	)
	require.NoError(t, err)
	w.publish("imported", ops...)

	b := w.browser(1280, 800)
	b.signIn("structure")
	few := func() {
		t.Helper()
		assert.LessOrEqual(t, eval[int](b, `document.querySelectorAll(".rung").length`), 100)
	}
	b.goTo("Archive")
	b.press(kb.ArrowRight)
	b.until(`document.querySelector("[role=treegrid]").ariaRowCount === "3019"`)
	few()
	b.press(kb.End)
	b.focused("Paper 2999")
	few()
	assert.Equal(
		t,
		"3000 3000 3019",
		eval[string](b, `(r => [r.ariaPosInSet, r.ariaSetSize, r.ariaRowIndex].join(" "))(document.activeElement)`),
	)
	b.eventually(
		`document.querySelector("[data-ladder]").scrollTop =
			1500 * document.querySelector(".rung").getBoundingClientRect().height`,
		`document.querySelector('.rung[data-label="Paper 1500"]')`,
	)
	few()
	b.focused("Paper 2999") // the row that had the focus stays in the document
	b.goTo("Paper 2000")
	b.press("m")
	b.until(`document.activeElement.matches('[data-picker] [role=combobox]')`)
	b.typed("Paper 0003")
	b.sees("[data-picker] [aria-selected=true] strong", "Paper 0003")
	b.click(".ways button:nth-child(3)")
	b.sees("[data-picker] .muted", "5 of 3,000 in “Archive”, after “Paper 0003”")
	b.click("[data-picker] .primary")
	b.selected("Paper 2000")
	b.status("Moved “Paper 2000”: 5 of 3,000")
	few()
	assert.Empty(t, b.problems)

	// A connection that is gone is said, and the ladder goes on when it is back.
	dropped := func(offline bool) { b.do(network.EmulateNetworkConditions(offline, 0, -1, -1)) }
	b.until(`!document.body.dataset.busy`)
	dropped(true)
	b.eventually(
		`document.querySelector("[data-ladder]").scrollTop =
			500 * document.querySelector(".rung").getBoundingClientRect().height`,
		`document.querySelector("[data-alert-words]").textContent.startsWith("The server does not answer")`,
	)
	assert.False(t, eval[bool](b, `!!document.querySelector('.rung[data-label="Paper 0500"]')`))
	dropped(false)
	b.until(`document.querySelector('.rung[data-label="Paper 0500"]')`)
	b.until(`document.querySelector("[data-alert]").hidden`)
}

// eventually runs a script once and waits for what follows from it.
func (b *browser) eventually(script, then string) {
	b.t.Helper()
	eval[any](b, script)
	b.until(then)
}
