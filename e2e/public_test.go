package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/clock"
	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
	"vineladder/internal/store"
)

func readAll(t testing.TB, response *http.Response) string {
	t.Helper()
	body, err := io.ReadAll(response.Body)
	require.NoError(t, err)
	return string(body)
}

// Source: RFC 9110 §15.4.9 (308) and §15.5.5 (404), over real HTTP; which address gets which is rules 3 and 4.
func TestAddresses(t *testing.T) {
	w := newWorld(t)
	for path, want := range map[string]struct {
		status   int
		location string
	}{
		"/":                           {200, ""},
		"/sailings":                   {200, ""},
		"/Sailings//Fares/":           {308, "/sailings/fares"},
		"/sailings/./x/../fares":      {308, "/sailings/fares"},
		"/%73ailings?a=1&b=%2F":       {308, "/sailings?a=1&b=%2F"},
		"//sailings":                  {308, "/sailings"},
		"/nowhere":                    {404, ""},
		"/sailings%2Ffares":           {404, ""},
		"/sailings/timetables/summer": {404, ""}, // offline
		"/notices/sailing-notices/early-boat-for-the-lamb-sales": {404, ""}, // before its window
		"/operators-room":          {404, ""}, // concealed
		"/staff-handbook/holidays": {303, "/sign-in?to=%2Fstaff-handbook%2Fholidays"},
	} {
		response, body := w.public(path)
		assert.Equal(t, want.status, response.StatusCode, path)
		assert.Equal(t, want.location, response.Header.Get("Location"), path)
		if want.status != 200 && want.status != 303 {
			assert.Equal(t, "no-cache", response.Header.Get("Cache-Control"), path)
		}
		if want.status == 404 {
			assert.Contains(t, body, ">Page not found</h1>")
		}
		assert.Contains(t, response.Header.Get("Content-Security-Policy"), "default-src 'none'")
	}
	response, _ := w.public("/sailings")
	request, err := http.NewRequest(http.MethodGet, w.site+"/sailings", nil)
	require.NoError(t, err)
	request.Header.Set("If-None-Match", response.Header.Get("Etag"))
	again, err := http.DefaultClient.Do(request)
	require.NoError(t, err)
	again.Body.Close()
	assert.Equal(t, http.StatusNotModified, again.StatusCode)
}

func TestAPageForStaffLeadsToSignInAndBack(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.open(b.site + "/staff-handbook/holidays")
	b.do(
		chromedp.SendKeys("#login", "staff"),
		chromedp.SendKeys("#password", "wrong password"),
		chromedp.Submit("#login"),
	)
	b.sees("[role=alert]", "The name or the password is not right")
	b.do(chromedp.SendKeys("#password", password("staff")), chromedp.Submit("#login"))
	b.sees("h1", "Holidays")
	b.sees(".mainnav", "Staff handbook")
	b.open(b.site + "/board-papers")
	b.sees("h1", "No access")
	b.do(chromedp.Submit(".account button"))
	b.sees(".account", "Sign in")
	b.until(`!document.querySelector(".mainnav").textContent.includes("Staff handbook")`)
	for _, to := range []string{"//evil.example/", "https://evil.example/", `/\evil.example`} {
		client := &http.Client{
			CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
		}
		response, err := client.PostForm(
			b.site+"/sign-in",
			url.Values{"login": {"staff"}, "password": {password("staff")}, "to": {to}},
		)
		require.NoError(t, err)
		response.Body.Close()
		assert.Equal(t, "/", response.Header.Get("Location"), "a return path stays on the own site")
	}
}

// Source: WAI-ARIA Authoring Practices, disclosure navigation; from memory.
func TestHeaderDropDownsByKeysPointerAndWithoutScript(t *testing.T) {
	b := newWorld(t).browser(1280, 800)
	b.open(b.site + "/sailings/fares")
	open := `(document.querySelector(".mainnav details[open] summary")?.ariaLabel ?? "")`
	b.focus(`.mainnav summary[aria-label="More in Harbours"]`)
	b.press(kb.Enter)
	b.until(open + ` === "More in Harbours"`)
	b.press(kb.Tab)
	b.until(`document.activeElement.textContent === "Skerrow"`)
	b.press(kb.Escape)
	b.until(open + ` === "" && document.activeElement.ariaLabel === "More in Harbours"`)
	b.click(`.mainnav summary[aria-label="More in Freight"]`)
	b.until(open + ` === "More in Freight"`)
	b.click(`.mainnav summary[aria-label="More in Jobs"]`)
	b.until(open + ` === "More in Jobs"`)
	assert.Equal(
		t,
		"Sailings",
		eval[string](
			b,
			`document.querySelector(".mainnav .folded > ul > li > a[aria-current=true]") ? "" : document.querySelector(".mainnav .trail").textContent`,
		),
	)
	assert.Equal(t, "Fares", eval[string](b, `document.querySelector(".treenav [aria-current=page]").textContent`))
	assert.Equal(
		t,
		"Fares",
		eval[string](b, `document.querySelector(".mainnav details [aria-current=page]").textContent`),
	)
	_, page := b.public("/sailings")
	assert.Contains(t, page, `<details><summary aria-label="More in Sailings">`, "a native disclosure needs no script")
	assert.Empty(t, b.problems)
}

// reachable lists the addresses that a signed-out visitor reaches in the demo.
func (w *world) reachable() []string {
	s := w.published()
	var paths []string
	s.Walk(s.Home(), func(p *site.Page) bool {
		if reach.Ask(s, p.ID, reach.Lens{At: s.Page(1).FirstOnline}) == reach.Sees {
			paths = append(paths, address.Of(s, p.ID))
		}
		return true
	})
	return paths
}

// validator is the Nu checker, which holds a validator for RELAX NG too.
func validator(t *testing.T) string {
	jar, err := filepath.Abs("../node_modules/vnu-jar/build/dist/vnu.jar")
	require.NoError(t, err)
	if _, err := os.Stat(jar); err != nil {
		t.Skip("node_modules is not there; “make test” brings it")
	}
	return jar
}

// Source: the HTML standard, by the Nu checker (npm vnu-jar): no error on any demo page.
func TestPublicPagesAreValidHTML(t *testing.T) {
	jar := validator(t)
	w := newWorldWithFiles(t)
	w.everyConstruct()
	folder := t.TempDir()
	paths := append(w.reachable(), "/nowhere", "/sign-in", "/search?q=harbour", "/search?q=harbuor", "/search?q=seals")
	require.Greater(t, len(paths), 90)
	for _, path := range paths {
		answer, body := w.public(path)
		if !strings.HasPrefix(answer.Header.Get("Content-Type"), "text/html") {
			continue // a file
		}
		name := strings.NewReplacer("/", "_", "?", "_").Replace(strings.Trim(path, "/") + ".html")
		require.NoError(t, os.WriteFile(filepath.Join(folder, name), []byte(body), 0o644))
	}
	said, err := exec.Command(
		"java",
		"-Xss2m",
		"-jar",
		jar,
		"--errors-only",
		"--skip-non-html",
		folder,
	).CombinedOutput()
	assert.NoError(t, err, string(said))
}

// everyConstruct puts a text with all that a text can hold on the page “Refunds”.
func (w *world) everyConstruct() {
	on := w.published()
	picture, refunds := site.PageID(0), site.PageID(0)
	on.Walk(on.Home(), func(p *site.Page) bool {
		if p.BytesOf().IsPicture() {
			picture = p.ID
		}
		if p.Label == "Refunds" {
			refunds = p.ID
		}
		return true
	})
	require.NotZero(w.t, picture)
	image := fmt.Sprintf(`<img src="page:%d" alt="The quay">`, picture)
	raw := `<h2>Part</h2><p>Words, <strong>strong</strong>, <em>meant</em>, <s>gone</s>, <code>code</code>.<br>Next line,
		<a href="/contact">a link</a>, <a href="#deeper">to a part</a>.</p><h3 id="deeper">Deeper</h3><h4>Deepest</h4>
		<ul><li>One<ul><li>Below</li></ul></li><li><p>Two</p><p>and more</p></li></ul><ol><li>First</li></ol>
		<dl><dt>Term</dt><dd>What it is</dd></dl><blockquote><p>Said</p></blockquote><aside><p>Mind the gap</p></aside>
		<pre>as it is</pre><hr><figure>` + image + `<figcaption>At low water</figcaption></figure><p>` + image + `</p>
		<figure><img src="page:` + fmt.Sprint(picture) + `" alt=""></figure>
		<table><caption>Depths</caption><tr><th>Pier</th><th>Depth</th></tr><tr><th>North</th><td>4</td></tr></table>
		<table><tr><th>Months</th><td colspan="2">all</td></tr><tr><th rowspan="2">Days</th><td>1</td><td>2</td></tr>
		<tr><td>3</td><td>4</td></tr></table><a href="/contact"><p>A block</p><ul><li>in a link</li></ul></a>`
	hashes, err := w.store.SaveTexts(context.Background(), text.NewCleaner().Clean(on, raw, clock.Now()))
	require.NoError(w.t, err)
	_, err = w.store.PublishDirect(context.Background(), store.Account{Name: "test"}, "all of it", []edit.Op{
		edit.OpEdit{Page: refunds, Fields: []edit.FieldChange{
			{Field: edit.FieldText, Old: on.Page(refunds).Text, New: hashes[0]},
		}},
	})
	require.NoError(w.t, err)
	w.seen()
}

// Source: RFC 4287, appendix B (testdata/atom.rnc, from memory), by the RELAX NG validator in npm vnu-jar: feeds of
// the demo are valid, and one without what a feed must have is not.
func TestFeedsAreValidAtom(t *testing.T) {
	jar := validator(t)
	w := newWorld(t)
	folder := t.TempDir()
	validate := func(files ...string) (string, error) {
		args := []string{"-cp", jar, "nu.validator.vendor.thaiopensource.relaxng.util.Driver", "-c", "testdata/atom.rnc"}
		said, err := exec.Command("java", append(args, files...)...).CombinedOutput()
		return string(said), err
	}
	var files []string
	_, list := w.public("/notices")
	require.Contains(t, list, `type="application/atom+xml"`)
	for i, path := range []string{"/notices", "/topics/places/skerrow-isles", "/topics/places/skerrow-isles/oyra"} {
		response, feed := w.public(path + "?feed=atom")
		require.Equal(t, http.StatusOK, response.StatusCode, path)
		require.Contains(t, feed, "<entry>", path)
		files = append(files, filepath.Join(folder, fmt.Sprintf("%d.xml", i)))
		require.NoError(t, os.WriteFile(files[i], []byte(feed), 0o644))
		nameless := regexp.MustCompile(`<id>[^<]*</id>`).ReplaceAllString(feed, "")
		require.NoError(t, os.WriteFile(files[i]+".nameless", []byte(nameless), 0o644))
	}
	said, err := validate(files...)
	assert.NoError(t, err, said)
	said, err = validate(files[0] + ".nameless")
	assert.Error(t, err, "a feed has an id")
	assert.Contains(t, said, "missing required child element")
}

// Source: JSON-LD 1.1 by its reference library (npm jsonld), and schema.org's BreadcrumbList and ListItem.
func TestBreadcrumbIsLinkedData(t *testing.T) {
	if _, err := os.Stat("../node_modules/jsonld"); err != nil {
		t.Skip("node_modules is not there; “make test” brings it")
	}
	w := newWorld(t)
	_, page := w.public("/sailings/fares/refunds")
	found := regexp.MustCompile(`<script type="application/ld\+json">(.*?)</script>`).FindStringSubmatch(page)
	require.NotNil(t, found)
	// The context is given by hand, since schema.org can't be reached: every word is one of the vocabulary's.
	script := `const jsonld = require("jsonld")
		const documentLoader = async url => ({ contextUrl: null, documentUrl: url, document: { "@context": { "@vocab": "https://schema.org/", item: { "@type": "@id" } } } })
		jsonld.expand(JSON.parse(process.argv[1]), { documentLoader }).then(out => console.log(JSON.stringify(out)))`
	cmd := exec.Command("node", "-e", script, found[1])
	cmd.Dir = ".."
	out, err := cmd.Output()
	require.NoError(t, err)
	var expanded []map[string]any
	require.NoError(t, json.Unmarshal(out, &expanded))
	assert.Equal(t, []any{"https://schema.org/BreadcrumbList"}, expanded[0]["@type"])
	items := expanded[0]["https://schema.org/itemListElement"].([]any)
	require.Len(t, items, 4)
	last := items[3].(map[string]any)
	assert.Equal(t, []any{map[string]any{"@value": "Refunds"}}, last["https://schema.org/name"])
	assert.Equal(t, []any{map[string]any{"@id": w.site + "/sailings/fares/refunds"}}, last["https://schema.org/item"])
}

// axe looks for violations on the page that is open.
func (b *browser) axe(view string) {
	b.t.Helper()
	source, err := os.ReadFile("../node_modules/axe-core/axe.min.js")
	if err != nil {
		b.t.Skip("node_modules is not there; “make test” brings it")
	}
	b.do(chromedp.Evaluate(string(source), nil))
	found := eval[[]string](
		b,
		`axe.run(document, { runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"], iframes: false })
		.then(r => r.violations.flatMap(v => v.nodes.map(n => v.id + ": " + n.target + " " + n.failureSummary)))`,
	)
	assert.Empty(b.t, found, view)
}

// Source: WCAG 2.2 AA by axe-core: no violation in any main view.
func TestAxe(t *testing.T) {
	w := newWorldWithFiles(t)
	w.everyConstruct()
	b := w.browser(1280, 800)
	check := b.axe
	b.open(b.site + "/sailings/fares/refunds")
	b.sees("main", "At low water")
	check("public page with all that a text can hold")
	b.open(b.site + "/search?q=harbour")
	check("what was found")
	b.open(b.site + "/search?q=harbuor")
	check("what was not found")
	b.open(b.site + "/sailings/fares/refunds")
	b.click(`.mainnav summary[aria-label="More in Freight"]`)
	check("public page with a drop-down open")
	b.open(b.site + "/nowhere")
	check("not found")
	b.open(b.site + "/sign-in")
	check("public sign-in")
	b.open(b.bench + "/sign-in")
	check("sign-in")
	b.signIn("keeper")
	b.goTo("Fares")
	b.press("o")
	b.status("Took offline")
	b.until(`document.querySelector(".editor .prose")`)
	check("tree")
	b.press("n")
	b.typed("Vouchers")
	b.sees(".making p", "vouchers")
	check("making a page")
	b.click("[data-cancel]")
	b.press("m")
	b.until(`document.activeElement.matches('[data-picker] [role=combobox]')`)
	b.typed("harbour")
	b.until(`document.querySelectorAll("[data-picker] [role=listbox] [role=option]").length > 1`)
	check("move to")
	b.press(kb.Escape)
	b.click(`.bar [data-do="review"]`)
	b.sees("[data-review] h2", "What will change")
	check("what will change")
	b.click("[data-review] [data-close]")
	b.click(`.tools [data-do="preview"]`)
	b.until(`document.querySelector("[data-frame]").src.includes("/proof/")`)
	check("preview")
	b.open(b.bench + "/tree?state=now&as=staff&at=2027-03-02T10:00")
	b.sees(".band", "You see the site as somebody with the role “Staff”, on 2 March 2027 at 10:00")
	check("public now, as staff, later")
	b.open(b.bench + "/tree?ask=half")
	b.sees("[data-part=hits]", "found")
	b.click(`[data-do="mark-all"]`)
	b.until(`!document.querySelector("[data-marked-bar]").hidden`)
	b.do(chromedp.Evaluate(`document.querySelector("[data-drafts-menu]").open = true`, nil))
	b.sees(".key", "Not listed")
	check("selection, filter and list of drafts")
	b.click(`[data-marked-bar] [data-do="carry"]`)
	b.sees("[data-drop-facts=before]", "in “")
	check("carrying")
	b.open(b.bench + "/drafts")
	check("drafts")
	b.menus("Quick tasks", "Book a place")
	check("menus")
	b.click("#tab-who")
	check("who sees which item")
	b.press(kb.ArrowRight)
	check("why an item shows")
	b.click(`.tools [data-do="make-after"]`)
	b.until(`document.activeElement.matches(".making [role=combobox]")`)
	b.typed("tides")
	b.sees(".making [aria-selected=true] strong", "Tides")
	check("making an item")
	b.click("[data-cancel]")
	b.click(`[data-do="new-menu"]`)
	b.until(`document.querySelector("[data-new-menu]").open`)
	check("a new menu")
	b.open(b.bench + "/layouts?layout=standard")
	b.until(`document.body.dataset.ready`)
	b.click(chip("Harbour radio") + " .chip-name")
	b.chosen("Harbour radio")
	check("layout map and the conditions of a block")
	b.click(`[data-do="new-block"]`)
	check("a new block")
	b.press(kb.Escape)
	b.open(b.bench + "/layouts?mode=page&page=33")
	b.sees(".chip-why", "Not here")
	check("what stands on a page")
	b.open(b.bench + "/settings")
	b.until(`document.body.dataset.ready`)
	check("settings")
	b.open(b.bench + "/picture?shade=clicks")
	check("site picture")
	b.open(b.bench + "/picture?shade=audience&as-table=yes")
	check("site picture as a table")
}

// Source: RFC 9110, 8.8.3 and 13.1.2: a program that has what stands is told so. The menu is resolved for who asks.
func TestMenusForPrograms(t *testing.T) {
	w := newWorld(t)
	main := w.published().Menus()[0]
	get := func(path, etag string) (*http.Response, string) {
		ask, err := http.NewRequest(http.MethodGet, w.site+path, nil)
		require.NoError(t, err)
		ask.Header.Set("If-None-Match", etag)
		answer, err := http.DefaultClient.Do(ask)
		require.NoError(t, err)
		defer answer.Body.Close()
		body, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		return answer, string(body)
	}
	address := "/api/menus/" + main.Key + ".json"
	answer, _ := get(address, "")
	assert.Equal(t, http.StatusNotFound, answer.StatusCode, "it is not marked for programs")
	w.publish("marked", edit.OpEditMenu{
		Menu:   main.ID,
		Fields: []edit.FieldChange{{Field: edit.FieldPrograms, Old: "no", New: "yes"}},
	})
	answer, body := get(address+"?levels=1", "")
	assert.Equal(t, http.StatusOK, answer.StatusCode)
	var menu struct {
		Key   string
		Lines []struct{ Label, URL string }
	}
	require.NoError(t, json.Unmarshal([]byte(body), &menu))
	assert.Equal(t, main.Key, menu.Key)
	assert.Equal(t, "Sailings", menu.Lines[1].Label)
	assert.Equal(t, w.site+"/sailings", menu.Lines[1].URL)
	for _, line := range menu.Lines {
		assert.NotEqual(t, "Staff", line.Label, "a program that is not signed in gets what visitors get")
	}
	answer, body = get(address+"?levels=1", answer.Header.Get("ETag"))
	assert.Equal(t, http.StatusNotModified, answer.StatusCode)
	assert.Empty(t, body)
	answer, _ = get(address+"?levels=x", "")
	assert.Equal(t, http.StatusBadRequest, answer.StatusCode)
}

// Source: RFC 9110, 15.6.4 and 10.2.3: a closed site is unavailable for a while, and says when to come back.
func TestAClosedSite(t *testing.T) {
	w := newWorld(t)
	closing := func(old, closed string) {
		change := []edit.FieldChange{{Field: edit.FieldClosed, Old: old, New: closed}}
		w.publish("closed", edit.OpEditSettings{Fields: change})
	}
	answer, _ := w.public("/sailings")
	assert.Equal(t, http.StatusOK, answer.StatusCode)
	closing("no", "yes")
	for _, path := range []string{"/", "/sailings", "/nowhere"} {
		answer, body := w.public(path)
		assert.Equal(t, http.StatusServiceUnavailable, answer.StatusCode, path)
		assert.Regexp(t, `^[0-9]+$`, answer.Header.Get("Retry-After"))
		assert.Contains(t, body, "Closed for the moment")
	}
	answer, _ = w.public("/sign-in")
	assert.Equal(t, http.StatusOK, answer.StatusCode, "people who may edit still get in")
	b := w.browser(1280, 800)
	b.open(b.site + "/sign-in")
	b.do(chromedp.SendKeys("#login", "keeper"), chromedp.SendKeys("#password", password("keeper")+"\n"))
	b.sees(".mainnav", "Sailings")
	closing("yes", "no")
	answer, _ = w.public("/sailings")
	assert.Equal(t, http.StatusOK, answer.StatusCode)
}

// Account items follow the visitor: who is signed out may register while the site lets visitors do that, who is signed
// in has details.
func TestRegisteringAndOnesOwnDetails(t *testing.T) {
	w := newWorld(t)
	ctx := context.Background()
	account := func(does, label string, id site.EntryID) edit.EntryForm {
		return edit.EntryForm{
			ID:     id,
			Fields: map[edit.Field]string{edit.FieldShows: "account:" + does, edit.FieldLabel: label},
		}
	}
	menu := w.published().MenuByKey("account").ID
	w.publish(
		"account items",
		edit.OpPutEntries{
			Gap:     edit.Gap{Menu: menu},
			Entries: []edit.EntryForm{account("register", "Register here", 900001)},
		},
		edit.OpPutEntries{
			Gap:     edit.Gap{Menu: menu},
			Entries: []edit.EntryForm{account("details", "All about me", 900002)},
		},
	)
	_, home := w.public("/")
	assert.NotContains(t, home, "Register here", "the site does not let visitors register")
	answer, _ := w.public("/register")
	assert.Equal(t, http.StatusNotFound, answer.StatusCode)
	lets := []edit.FieldChange{{Field: edit.FieldRegister, Old: "no", New: "yes"}}
	w.publish("let visitors register", edit.OpEditSettings{Fields: lets})
	_, home = w.public("/")
	assert.Contains(t, home, "Register here")
	assert.NotContains(t, home, "All about me")

	b := w.browser(1280, 800)
	b.open(b.site + "/register")
	fill := func(login, password string) {
		b.until(`document.querySelector("#login")`)
		b.do(
			chromedp.SetValue("#name", "Ana  Berg"),
			chromedp.SetValue("#login", login),
			chromedp.SetValue("#password", password),
		)
		b.follow(`document.querySelector(".signin form").requestSubmit()`)
	}
	fill("ana", "qwerty123456")
	b.sees(".fault", "Many people use this password")
	b.axe("register, with a fault")
	assert.Equal(t, "Ana Berg", eval[string](b, `document.querySelector("#name").value`), "what was typed is kept")
	fill("keeper", "long enough for anybody")
	b.sees("[role=status]", "If this name was free, it is yours now")
	kept, err := w.store.AccountByLogin(ctx, "keeper")
	require.NoError(t, err)
	assert.Equal(t, "Runa Tveit", kept.Name, "an account that is there is told in no way, and stays")
	b.open(b.site + "/register")
	fill("ana", "long enough for anybody")
	b.sees("[role=status]", "If this name was free, it is yours now")
	b.do(chromedp.SetValue("#password", "long enough for anybody"))
	b.follow(`document.querySelector(".signin form").requestSubmit()`)
	b.sees(".signin", "You sign in as ana.")
	b.sees(".region-footer", "All about me")
	b.axe("my details")
	b.do(chromedp.SetValue("#name", "Ana Bergh"))
	b.follow(`document.querySelector('[value="name"]').form.requestSubmit()`)
	b.sees("[role=status]", "Your name is changed.")
	change := func(old, password string) {
		b.do(chromedp.SetValue("#old", old), chromedp.SetValue("#password", password))
		b.follow(`document.querySelector('[value="password"]').form.requestSubmit()`)
	}
	change("wrong", "another long password")
	b.sees(".fault", "The old password is not right.")
	change("long enough for anybody", "another long password")
	b.sees("[role=status]", "Your password is changed.")
	made, err := w.store.Authenticate(ctx, "ana", "another long password")
	require.NoError(t, err)
	assert.Equal(t, "Ana Bergh", made.Name)
	assert.Empty(t, made.Roles)
}
