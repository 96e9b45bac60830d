package e2e

import (
	"context"
	"io"
	"net/http"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A first day: an empty database, the link, the form with its faults, signing in, and a public site.
func TestSettingASiteUpInTheBrowser(t *testing.T) {
	w := newEmptyWorld(t, func(*world) {})
	answer, err := http.Get(w.site + "/")
	require.NoError(t, err)
	said, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, http.StatusServiceUnavailable, answer.StatusCode)
	assert.Contains(t, string(said), "being set up")
	for _, path := range []string{"/", "/tree", "/menus", "/sign-in", "/drafts", "/settings"} {
		status, page := fetch(t, http.DefaultClient, w.bench+path)
		assert.Equal(t, http.StatusServiceUnavailable, status.StatusCode, path)
		assert.Contains(t, page, "not set up yet", path)
	}
	status, _ := fetch(t, http.DefaultClient, w.bench+"/set-up/guessed")
	assert.Equal(t, http.StatusNotFound, status.StatusCode)

	token, err := w.store.NewSetupLink(context.Background())
	require.NoError(t, err)
	b := w.browser(1280, 800)
	b.open(b.bench + "/set-up/" + token)
	b.axe("set up")
	fill := func(zone, password, again string) {
		b.do(
			chromedp.SetValue("#name", "Nine Islands"),
			chromedp.SetValue("#language", "nb"),
			chromedp.SetValue("#zone", zone),
			chromedp.SetValue(
				"#keeper",
				"Ana Berg",
			),
			chromedp.SetValue("#login", "ana"),
			chromedp.SetValue("#password", password),
			chromedp.SetValue("#again", again),
		)
		b.follow(`document.querySelector("form").requestSubmit()`)
	}
	fill("Mars/Olympus", "qwerty123456", "qwerty123456")
	b.sees(".fault", "“Mars/Olympus” is not a time zone")
	b.sees(".fault", "Many people use this password")
	assert.Equal(
		t,
		"Nine Islands nb ana",
		eval[string](b, `["name", "language", "login"].map(id => document.getElementById(id).value).join(" ")`),
		"what was typed is kept",
	)
	b.shoot("set-up")
	fill("Europe/Oslo", "a fine long password", "another long password")
	b.sees(".fault", "The two passwords are not the same.")
	fill("Europe/Oslo", "a fine long password", "a fine long password")
	b.until(`location.pathname === "/sign-in"`)
	b.do(chromedp.SendKeys("#login", "ana"), chromedp.SendKeys("#password", "a fine long password\n"))
	b.until(`document.querySelector(".rung[aria-selected=true]") && document.body.dataset.ready`)
	b.sees(".rung .label", "Home")
	b.sees(".beginning", "“New inside” on Home makes the first page")
	b.axe("first day")
	b.shoot("first-day")
	for _, area := range []string{"menus", "layouts", "picture", "drafts", "settings"} {
		b.open(b.bench + "/" + area)
		b.until(`document.querySelector(".areas [aria-current=page]")`)
		b.shoot("first-" + area)
	}
	_, home := w.public("/")
	assert.Contains(t, home, `<html lang="nb">`)
	assert.Contains(t, home, "Nine Islands")
	status, _ = fetch(t, http.DefaultClient, w.bench+"/set-up/"+token)
	assert.Equal(t, http.StatusNotFound, status.StatusCode, "the link is used up")
	accounts, err := w.store.AccountLines(context.Background())
	require.NoError(t, err)
	require.Len(t, accounts, 1)
	assert.Equal(t, []string{"site-keeper"}, accounts[0].Roles)
	assert.Empty(t, b.problems)
}
