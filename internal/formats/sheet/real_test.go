package sheet_test

import (
	"compress/gzip"
	"encoding/csv"
	"html"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/address"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

var titled = regexp.MustCompile(`(?is)<title>(.*?)</title>`)

// titleOf gives the title of an HTML file, packed or not; else its name.
func titleOf(t *testing.T, file string) string {
	in, err := os.Open(file)
	require.NoError(t, err)
	defer in.Close()
	var from io.Reader = in
	if strings.HasSuffix(file, ".gz") {
		from, err = gzip.NewReader(in)
		require.NoError(t, err)
	}
	begin, err := io.ReadAll(io.LimitReader(from, 1<<14))
	require.NoError(t, err)
	if found := titled.FindSubmatch(begin); found != nil {
		if words := strings.Join(strings.Fields(html.UnescapeString(string(found[1]))), " "); words != "" {
			return string([]rune(words)[:min(len([]rune(words)), 200)])
		}
	}
	return filepath.Base(file)
}

// Source: documentation trees of HTML files, as Debian packages install them (openjdk-17-doc, linux-doc-6.1,
// postgresql-doc-15 make 15,444 pages). Their directory is given by VINELADDER_DOCUMENTS. The tree is imported,
// exported, imported into an empty site, and exported the same.
func TestATreeOfRealPagesGoesRound(t *testing.T) {
	root := os.Getenv("VINELADDER_DOCUMENTS")
	if root == "" {
		t.Skip("VINELADDER_DOCUMENTS names no directory of HTML files")
	}
	var text strings.Builder
	out := csv.NewWriter(&text)
	require.NoError(t, out.Write([]string{"key", "parent_key", "label", "status"}))
	require.NoError(t, out.Write([]string{"home", "", "Documents", ""}))
	pages, dirs := 0, map[string]string{}
	var dir func(at string) string
	dir = func(at string) string {
		if at == "." {
			return "home"
		}
		if dirs[at] == "" {
			above := dir(path.Dir(at))
			dirs[at] = "d" + strconv.Itoa(len(dirs))
			require.NoError(t, out.Write([]string{dirs[at], above, path.Base(at), "live"}))
		}
		return dirs[at]
	}
	require.NoError(t, filepath.WalkDir(root, func(file string, entry fs.DirEntry, err error) error {
		if err != nil || entry.IsDir() || !strings.Contains(entry.Name(), ".html") || entry.Type()&fs.ModeSymlink != 0 {
			return err
		}
		within, err := filepath.Rel(root, file)
		require.NoError(t, err)
		pages++
		return out.Write(
			[]string{"p" + strconv.Itoa(pages), dir(path.Dir(filepath.ToSlash(within))), titleOf(t, file), "live"},
		)
	}))
	out.Flush()
	made := read(t, testkit.Empty(), text.String())
	require.Equal(t, pages+len(dirs)+1, made.Count())
	once := export(t, made)
	again := read(t, testkit.Empty(), once)
	assert.Equal(t, once, export(t, again))
	seen := map[string]bool{}
	made.Walk(made.Home(), func(p *site.Page) bool {
		at := address.Of(made, p.ID)
		require.False(t, seen[at], at)
		require.Equal(t, p.ID, address.Resolve(made, at, testkit.Now).Page)
		seen[at] = true
		return true
	})
	t.Logf("%d pages of %d files, %d bytes of sheet", made.Count(), pages, len(once))
}
