package e2e

import (
	"io"
	"net/http"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func fetch(t testing.TB, client *http.Client, url string) (*http.Response, string) {
	t.Helper()
	response, err := client.Get(url)
	require.NoError(t, err)
	defer response.Body.Close()
	body, err := io.ReadAll(response.Body)
	require.NoError(t, err)
	return response, string(body)
}

// The main job with keys only: make a page at a chosen place, see what that will do, publish it, find it in the menu.
func TestMakeAPageAndPublishItWithKeysOnly(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Season tickets")
	b.press("n")
	b.until(`document.activeElement.id === "making-label"`)
	b.typed("Gift vouchers")
	b.sees(
		".making p",
		"/sailings/fares/gift-vouchers · 3 of 5 in “Fares”, after “Season tickets”, before “Groups and schools”",
	)
	b.sees(".making p", "once live: third in Side menu, level 3, in “Fares”")
	b.press(kb.Tab)
	b.press(" ")
	b.sees(".making p", "· third in Side menu, level 3, in “Fares”")
	for range 5 { // its type, what it lists, what it is about and the menus are passed by
		b.press(kb.Tab)
	}
	b.press(kb.Enter)
	b.selected("Gift vouchers")
	b.status("Made “Gift vouchers”: 3 of 5 in “Fares”")
	b.sees(".dock p", "1 page appears for everyone")
	_, before := b.public("/sailings/fares")
	assert.NotContains(t, before, "Gift vouchers", "nothing is public before publishing")
	b.publish()
	_, after := b.public("/sailings/fares")
	assert.Contains(t, after, `<a href="/sailings/fares/gift-vouchers" dir="auto">Gift vouchers</a>`)
	response, page := b.public("/sailings/fares/gift-vouchers")
	assert.Equal(t, http.StatusOK, response.StatusCode)
	assert.Contains(t, page, ">Gift vouchers</h1>")
	assert.Empty(t, b.problems)
}

// "Change one thing and have it public" takes a change, one key, one look, one key.
func TestTheShortestPath(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.signIn("structure")
	b.goTo("Contact")
	b.press("l")
	b.status("Unlisted “Contact”")
	b.press(kb.Enter, input.ModifierCtrl)
	b.sees("[data-review] .sentences", "“Header menu” loses 5 items on ")
	b.until(`document.activeElement.matches("[data-review] .primary")`)
	b.press(kb.Enter)
	b.status("Published: unlisted “Contact”. It is public now.")
	_, home := b.public("/")
	assert.NotContains(t, home, ">Contact</a>")
	response, _ := b.public("/contact")
	assert.Equal(t, http.StatusOK, response.StatusCode, "unlisted is not offline")
	b.click(`[data-status] button`)
	b.status("The opposite edits are in your draft")
	b.publish()
	_, home = b.public("/")
	assert.Contains(t, home, ">Contact</a>")
}
