package files_test

import (
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/files"
)

func TestFilesAreFoundByName(t *testing.T) {
	dir := files.Dir(filepath.Join(t.TempDir(), "kept"))
	names, err := dir.Names()
	require.NoError(t, err)
	assert.Empty(t, names)
	require.NoError(t, os.Mkdir(string(dir), 0o755))
	for _, name := range []string{"map.txt", ".hidden"} {
		require.NoError(t, os.WriteFile(dir.Path(name), []byte("words"), 0o600))
	}
	names, err = dir.Names()
	require.NoError(t, err)
	assert.Equal(t, []string{"map.txt"}, names)
	assert.True(t, dir.Has("map.txt"))
	for _, name := range []string{"../kept/map.txt", ".hidden", "other.txt", ""} {
		assert.False(t, dir.Has(name), name)
	}
	assert.False(t, files.Dir("").Has("map.txt"))
}

// A file that could run something in the site's name is a download, and is never sniffed into another type.
func TestServing(t *testing.T) {
	dir := files.Dir(t.TempDir())
	for _, name := range []string{"notice.pdf", "page.html", "drawing.svg"} {
		require.NoError(t, os.WriteFile(dir.Path(name), []byte("<script>1</script>"), 0o600))
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
