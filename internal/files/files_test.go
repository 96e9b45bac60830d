package files_test

import (
	"bytes"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/files"
)

func TestFilesAreKeptUnderSafeNames(t *testing.T) {
	dir := files.Dir(filepath.Join(t.TempDir(), "kept"))
	names, err := dir.Names()
	require.NoError(t, err)
	assert.Empty(t, names)
	for given, kept := range map[string]string{
		"Rates until 2024.PDF": "rates-until-2024.pdf",
		`C:\pier\Ålesund.png`:  "alesund.png",
		"../../etc/passwd":     "passwd",
		".htaccess":            "file.htaccess",
		"no extension":         "no-extension",
		"???.p%df":             "file.p-df",
	} {
		name, err := dir.Save(given, strings.NewReader("words"))
		require.NoError(t, err, given)
		assert.Equal(t, kept, name)
		assert.True(t, dir.Has(name))
	}
	again, err := dir.Save("rates until 2024.pdf", strings.NewReader("other words"))
	require.NoError(t, err)
	assert.Equal(t, "rates-until-2024-2.pdf", again, "a name that is taken stays with its file")
	names, err = dir.Names()
	require.NoError(t, err)
	assert.Len(t, names, 7)
	assert.False(t, dir.Has("../kept/passwd"))
}

func TestAFileIsWholeOrNotThere(t *testing.T) {
	dir := files.Dir(t.TempDir())
	_, err := dir.Save("empty.txt", strings.NewReader(""))
	assert.ErrorIs(t, err, files.ErrEmpty)
	_, err = dir.Save("large.bin", bytes.NewReader(make([]byte, files.Limit+1)))
	assert.ErrorIs(t, err, files.ErrTooLarge)
	left, err := os.ReadDir(string(dir))
	require.NoError(t, err)
	assert.Empty(t, left)
	_, err = files.Dir("").Save("a.txt", strings.NewReader("a"))
	assert.ErrorContains(t, err, "no directory")
}

// A file that could run something in the site's name is a download, and is never sniffed into another type.
func TestServing(t *testing.T) {
	dir := files.Dir(t.TempDir())
	for _, name := range []string{"notice.pdf", "page.html", "drawing.svg"} {
		_, err := dir.Save(name, strings.NewReader("<script>1</script>"))
		require.NoError(t, err)
	}
	get := func(name string) *http.Response {
		w := httptest.NewRecorder()
		dir.Serve(w, httptest.NewRequest(http.MethodGet, "/files/"+name, nil), name)
		return w.Result()
	}
	assert.Equal(t, "application/pdf", get("notice.pdf").Header.Get("Content-Type"))
	assert.Empty(t, get("notice.pdf").Header.Get("Content-Disposition"))
	for _, name := range []string{"page.html", "drawing.svg"} {
		answer := get(name)
		assert.Equal(t, "attachment; filename="+name, answer.Header.Get("Content-Disposition"))
		assert.Equal(t, "nosniff", answer.Header.Get("X-Content-Type-Options"))
		assert.Contains(t, answer.Header.Get("Content-Security-Policy"), "sandbox")
	}
	assert.Equal(t, http.StatusNotFound, get("nothing.pdf").StatusCode)
	assert.Equal(t, http.StatusNotFound, get("../secret").StatusCode)
}
