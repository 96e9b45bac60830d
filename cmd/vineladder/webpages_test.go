package main

import (
	"context"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/clock"
	"vineladder/internal/core/address"
	"vineladder/internal/demo"
	"vineladder/internal/store/storetest"
)

// A folder of HTML files comes in by command: looked at first, which changes nothing, then all of it.
func TestAFolderComesInByCommand(t *testing.T) {
	url := storetest.URL(t)
	t.Setenv("VINELADDER_DATABASE_URL", url)
	t.Setenv("VINELADDER_FILES_DIR", t.TempDir())
	st := storetest.Open(t, url)
	require.NoError(t, demo.Load(context.Background(), st))
	folder := t.TempDir()
	for name, words := range map[string]string{
		"index.html": `<h1>Handbook</h1><p><a href="ice.html">Ice</a> <a href="gone.html">gone</a></p>`,
		"ice.html":   `<h1>Ice</h1><p>Thick <a href="notes.txt">notes</a></p>`,
		"notes.txt":  "Notes on ice.",
	} {
		require.NoError(t, os.WriteFile(filepath.Join(folder, name), []byte(words), 0o644))
	}
	said, err := command(t, "", "import", "html", folder, "--look")
	require.NoError(t, err)
	assert.Contains(t, said, "index.html → “Handbook”: 1 link within; leads nowhere: gone.html")
	assert.Contains(t, said, "2 pages and 1 file would be brought in. Nothing was changed.")
	_, err = command(t, "", "import", "html", folder)
	assert.ErrorContains(t, err, "either --publish or --draft")
	_, err = command(t, "", "import", "html", folder, "--publish", "--below", "/nowhere")
	assert.ErrorContains(t, err, "there is no page at /nowhere")
	_, err = command(t, "", "import", "html", t.TempDir(), "--look")
	assert.ErrorContains(t, err, "no HTML file")
	_, err = command(t, "", "import", "html", folder, "--publish", "--below", "/contact", "--were-at", "handbook")
	require.NoError(t, err)
	require.NoError(t, st.Reload(context.Background()))
	s := st.Published().Site
	ice := address.Resolve(s, "/handbook/ice.html", clock.Now())
	assert.Equal(t, "/contact/handbook/ice", address.Of(s, ice.Page))
	kept, err := st.Text(context.Background(), s.Page(ice.Page).Text)
	require.NoError(t, err)
	assert.Contains(t, kept, `">notes</a>`)
}
