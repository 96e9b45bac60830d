package house

import (
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Widths of lines, in characters.
const (
	widthOfGo    = 120
	widthOfOther = 140 // templates, styles and scripts
)

// sources gives the files of the project with some endings; what is built or fetched is left out.
func sources(t *testing.T, endings ...string) []string {
	t.Helper()
	var files []string
	require.NoError(t, filepath.WalkDir("../..", func(path string, entry fs.DirEntry, err error) error {
		name := entry.Name()
		switch {
		case err != nil:
			return err
		case entry.IsDir() && path != "../.." && (strings.HasPrefix(name, ".") || slices.Contains(fetched, name)):
			return filepath.SkipDir
		case slices.ContainsFunc(endings, func(ending string) bool { return strings.HasSuffix(name, ending) }):
			files = append(files, path)
		}
		return nil
	}))
	require.NotEmpty(t, files)
	return files
}

// fetched are directories of what is built or fetched.
var fetched = []string{"built", "node_modules", "bin", "testdata"}

// Lines are short enough to be read beside another file. What a raw string holds is as it is.
func TestLinesAreShort(t *testing.T) {
	for _, file := range sources(t, ".go") {
		raw := false
		for n, line := range linesOf(t, file) {
			was := raw
			raw = raw != (strings.Count(line, "`")%2 == 1)
			if !was && !strings.Contains(line, "`") {
				assert.LessOrEqual(t, len([]rune(line)), widthOfGo, "%s:%d", file, n+1)
			}
		}
	}
	for _, file := range sources(t, ".html", ".css", ".js", ".mjs") {
		for n, line := range linesOf(t, file) {
			assert.LessOrEqual(t, len([]rune(line)), widthOfOther, "%s:%d", file, n+1)
		}
	}
}

func linesOf(t *testing.T, file string) []string {
	t.Helper()
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	return strings.Split(string(text), "\n")
}

// opening finds the beginnings of elements that stand by themselves on a page.
var opening = regexp.MustCompile(
	`<(?:div|p|section|ul|ol|table|tr|dl|form|header|footer|nav|h[1-4]|main|aside|article|fieldset|dialog|details)[ >]`,
)

// A template has one such element a line, so that a change shows what it changes.
func TestTemplatesHaveOneElementALine(t *testing.T) {
	for _, file := range sources(t, ".html") {
		for n, line := range linesOf(t, file) {
			assert.LessOrEqual(t, len(opening.FindAllString(line, -1)), 1, "%s:%d", file, n+1)
		}
	}
}

// Scripts and styles are laid out and written as the tools for that say.
func TestScriptsAndStylesPassTheirTools(t *testing.T) {
	if _, err := os.Stat("../../node_modules"); err != nil {
		t.Skip("node_modules is not there; “make test” brings it")
	}
	cmd := exec.Command("npm", "run", "--silent", "lint")
	cmd.Dir = "../.."
	said, err := cmd.CombinedOutput()
	assert.NoError(t, err, string(said))
}
