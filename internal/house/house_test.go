// Package house holds the project to its own shape: which room may know which, and what is built is what is committed.
package house

import (
	"encoding/json"
	"errors"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// rooms says for each room which others it may know, besides itself. The longest name that fits a package counts.
var rooms = map[string][]string{
	"core":            {"laws"},
	"laws":            {"clock"},
	"clock":           {},
	"formats":         {"core"},
	"localpg":         {},
	"files":           {},
	"blob":            {"core"},
	"post":            {},
	"standin":         {},
	"distant":         {"core"},
	"theme":           {"core"},
	"store":           {"core", "files", "blob", "theme", "clock"},
	"store/storetest": {"store", "localpg", "laws"},
	"founding":        {"core", "store", "clock"},
	"intake":          {"core", "formats", "store", "blob"},
	"demo":            {"core", "store", "files", "blob", "clock", "standin"},
	"web/assets":      {},
	"web/gate":        {"store", "clock"},
	"web/skin":        {"core", "theme"},
	"web/public":      {"core", "files", "blob", "store", "clock", "web/skin", "web/assets", "web/gate"},
	"web/workbench":   {"core", "files", "store", "clock", "web/assets", "web/gate"},
	"web/workbench/desk": {
		"core",
		"files",
		"blob",
		"store",
		"clock",
		"web/assets",
		"web/gate",
		"web/public",
		"web/skin",
	},
	"web/workbench/desk/desktest": {"core", "store", "web/workbench/desk"},
	"web/workbench/tree":          append([]string{"formats"}, area...),
	"web/workbench/menus":         area,
	"web/workbench/layouts":       area,
	"web/workbench/drafts":        area,
	"web/workbench/settings":      area,
	"web/workbench/wording":       area,
	"web/workbench/problems":      area,
	"web/workbench/reviews":       area,
	"web/workbench/start":         area,
	"web/workbench/table":         area,
	"web/workbench/coming":        append([]string{"formats", "intake"}, area...),
	"web/workbench/access":        area,
	"web/workbench/picture":       area,
	"web/workbench/setup":         append([]string{"founding"}, area...),
	"bench": {
		"core",
		"formats",
		"demo",
		"store",
		"theme",
		"localpg",
		"clock",
		"files",
		"blob",
		"web",
	},
	"chaos":   {},
	"oracle":  {},
	"house":   {},
	"mutants": {},
}

// area is what an area of the workbench may know: the desk, not another area.
var area = []string{
	"core",
	"files",
	"blob",
	"store",
	"clock",
	"web/gate",
	"web/public",
	"web/skin",
	"web/workbench/desk",
}

// outside is what core may not know of the world.
var outside = []string{"database/sql", "net/http", "html/template", "github.com/jackc", "github.com/jmoiron", "os"}

// Imports point downwards only, and every package has a room.
func TestImportsPointDownwards(t *testing.T) {
	const home = "vineladder/internal/"
	out, err := exec.Command("go", "list", "-json=ImportPath,Imports", home+"...").Output()
	require.NoError(t, err)
	for decoder := json.NewDecoder(strings.NewReader(string(out))); ; {
		var pkg struct {
			ImportPath string
			Imports    []string
		}
		if err := decoder.Decode(&pkg); errors.Is(err, io.EOF) {
			break
		} else {
			require.NoError(t, err)
		}
		path := strings.TrimPrefix(pkg.ImportPath, home)
		room := roomOf(path)
		if !assert.NotEmpty(t, room, "%s has no room: say in the house's test what it may know", path) {
			continue
		}
		for _, imported := range pkg.Imports {
			if room == "core" {
				assert.False(t, anyWithin(imported, outside), "%s may not know %s", path, imported)
			}
			other, ours := strings.CutPrefix(imported, home)
			if ours && other != path && !(room == "web/workbench" && within(other, room)) {
				assert.True(
					t,
					anyWithin(other, append([]string{room}, rooms[room]...)),
					"%s may not know %s",
					path,
					other,
				)
			}
		}
	}
}

// roomOf gives the room of a package; "" if it has none.
func roomOf(path string) (room string) {
	for name := range rooms {
		if within(path, name) && len(name) > len(room) {
			room = name
		}
	}
	return room
}

func within(path, room string) bool { return path == room || strings.HasPrefix(path, room+"/") }

func anyWithin(path string, rooms []string) bool {
	for _, room := range rooms {
		if within(path, room) {
			return true
		}
	}
	return false
}

func TestBuiltAssetsAreCurrent(t *testing.T) {
	root, err := filepath.Abs("../..")
	require.NoError(t, err)
	if _, err := os.Stat(filepath.Join(root, "node_modules")); err != nil {
		t.Skip("node_modules is not there; “make test” brings it")
	}
	folder := t.TempDir()
	cmd := exec.Command("node", "internal/web/assets/build.mjs", folder)
	cmd.Dir = root
	said, err := cmd.CombinedOutput()
	require.NoError(t, err, string(said))
	made, err := os.ReadDir(folder)
	require.NoError(t, err)
	require.NotEmpty(t, made)
	for _, file := range made {
		want, err := os.ReadFile(filepath.Join(folder, file.Name()))
		require.NoError(t, err)
		got, err := os.ReadFile(filepath.Join(root, "internal/web/assets/built", file.Name()))
		require.NoError(t, err)
		assert.True(t, string(want) == string(got), "%s is stale; run “make assets”", file.Name())
	}
}
