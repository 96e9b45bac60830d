package e2e

import (
	"archive/zip"
	"net/http"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// zipped writes an archive of files.
func zipped(t *testing.T, files map[string]string) string {
	t.Helper()
	at := filepath.Join(t.TempDir(), "handbook.zip")
	out, err := os.Create(at)
	require.NoError(t, err)
	defer out.Close()
	archive := zip.NewWriter(out)
	for name, words := range files {
		in, err := archive.Create(name)
		require.NoError(t, err)
		_, err = in.Write([]byte(words))
		require.NoError(t, err)
	}
	require.NoError(t, archive.Close())
	return at
}

// looksAt chooses a file that is to be brought in, and asks what that would do.
func (b *browser) looksAt(file string) {
	b.t.Helper()
	b.do(chromedp.SetUploadFiles("#i-file", []string{file}))
	b.focus(`[data-coming] [value="look"]`)
	b.press(kb.Enter)
}

// brings brings in what was looked at.
func (b *browser) brings(said string) {
	b.t.Helper()
	b.until(`document.activeElement.matches("[data-coming-bring]")`)
	b.press(kb.Enter)
	b.sees("[data-coming-said]", said)
	b.until(`!document.body.dataset.busy`)
	b.sees("[data-coming-said]", said) // also when the screen was brought up to date
}

// A folder of HTML files is looked at, brought in, published, and stands with its links; its old addresses lead to it.
// An archive whose names lead out of it is refused with a sentence.
func TestAFolderIsBroughtIn(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.goTo("Contact")
	b.follow(
		`[...document.querySelectorAll(".sheet a")].find(a => a.textContent.startsWith("Bring pages in")).click()`,
	)
	b.until(`location.pathname === "/import" && document.body?.dataset.ready`)
	b.axe("bring pages in")

	b.looksAt(zipped(t, map[string]string{"../evil.html": "<h1>Out</h1>"}))
	b.sees("[data-alert]", "The archive names “../evil.html”, which is not inside of it.")
	b.click("[data-alert-close]")

	b.focus("#i-were")
	b.typed("/handbook")
	b.looksAt(zipped(t, map[string]string{
		"index.html": `<h1>Handbook</h1><p>See <a href="ice.html#thick">thick ice</a> and <a href="none.html">none</a>.</p>`,
		"ice.html": `<h1>Ice</h1><h2 id="thick">Thick ice</h2><table><tr><th>Months</th></tr><tr><td>January</td></tr>` +
			`</table>`,
	}))
	b.sees("[data-coming-rows]", "1 heading, 1 table")
	b.sees("[data-coming-rows]", "leads nowhere: none.html")
	b.axe("what would be brought in")
	b.brings("Brought in 2 pages and 0 files.")
	b.publish()
	_, page := b.public("/contact/handbook")
	assert.Contains(t, page, `<a href="/contact/handbook/ice#thick">thick ice</a> and none.`)
	old, _ := b.public("/handbook/ice.html")
	assert.Equal(t, http.StatusPermanentRedirect, old.StatusCode, "its old address leads to it")
	_, page = b.public("/contact/handbook/ice")
	assert.Contains(t, page, `<h2 id="thick">Thick ice</h2>`)
}

// A structure sheet with texts and a table of old addresses are looked at, with what they change for visitors, and
// brought in; a bad line is named and nothing is brought in.
func TestASheetAndOldAddressesAreBroughtIn(t *testing.T) {
	w := newWorld(t)
	b := w.browser(1280, 800)
	b.signIn("keeper")
	b.open(w.bench + "/import")
	b.until(`document.body?.dataset.ready`)
	looks := func(name, table string) {
		at := filepath.Join(t.TempDir(), name)
		require.NoError(t, os.WriteFile(at, []byte(table), 0o644))
		b.looksAt(at)
	}
	looks("old.csv", "from,to\n/tickets.php,/nowhere\n")
	b.sees("[data-alert]", "line 2: there is no page at “/nowhere”")
	b.click("[data-alert-close]")
	looks("old.csv", "from,to\n/tickets.php,/sailings/fares\n")
	b.sees("[data-coming-rows]", "changes: short addresses")
	b.brings("Brought in: 1 edit.")
	home := w.published().Page(w.published().Home()).Key
	looks("pages.csv", "key,parent_key,label,status,text\nice,"+home+",Ice reports,live,Thick this winter.\n")
	b.sees("[data-coming-rows]", "Ice reports")
	b.sees("[data-coming-changes]", "Ice reports")
	b.axe("what a sheet would do")
	b.brings("Brought in: 2 edits.")
	b.publish()
	_, page := b.public("/ice-reports")
	assert.Contains(t, page, "<p>Thick this winter.</p>")
	old, _ := b.public("/tickets.php")
	assert.Equal(t, "/sailings/fares", old.Header.Get("Location"))
}
