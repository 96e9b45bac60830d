// Package house holds the project to its own shape: which room may know which, and what is built is what is committed.
package house

import (
	"encoding/json"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Imports point downwards only: core knows nobody, formats know core, the store and the web know both.
func TestImportsPointDownwards(t *testing.T) {
	may := map[string][]string{
		"vineladder/internal/core":    {"vineladder/internal/core", "vineladder/internal/laws"},
		"vineladder/internal/laws":    {},
		"vineladder/internal/clock":   {},
		"vineladder/internal/formats": {"vineladder/internal/core", "vineladder/internal/formats"},
		"vineladder/internal/localpg": {},
		"vineladder/internal/store": {
			"vineladder/internal/core",
			"vineladder/internal/files",
			"vineladder/internal/store",
			"vineladder/internal/localpg",
			"vineladder/internal/theme",
		},
		"vineladder/internal/founding":   {"vineladder/internal/core", "vineladder/internal/store"},
		"vineladder/internal/theme":      {"vineladder/internal/core"},
		"vineladder/internal/demo":       {"vineladder/internal/core", "vineladder/internal/store"},
		"vineladder/internal/web/assets": {},
		"vineladder/internal/web/gate":   {"vineladder/internal/store"},
		"vineladder/internal/web/skin":   {"vineladder/internal/core", "vineladder/internal/theme"},
		"vineladder/internal/files":      {},
		"vineladder/internal/web/public": {
			"vineladder/internal/core",
			"vineladder/internal/files",
			"vineladder/internal/store",
			"vineladder/internal/web/skin",
			"vineladder/internal/web/assets",
			"vineladder/internal/web/gate",
		},
		"vineladder/internal/web/workbench": {
			"vineladder/internal/core",
			"vineladder/internal/files",
			"vineladder/internal/founding",
			"vineladder/internal/store",
			"vineladder/internal/web/assets",
			"vineladder/internal/web/gate",
			"vineladder/internal/web/public",
			"vineladder/internal/web/skin",
		},
	}
	core := []string{"database/sql", "net/http", "html/template", "github.com/jackc", "github.com/jmoiron"}
	out, err := exec.Command("go", "list", "-json=ImportPath,Imports", "vineladder/internal/...").Output()
	require.NoError(t, err)
	for decoder := json.NewDecoder(strings.NewReader(string(out))); ; {
		var pkg struct {
			ImportPath string
			Imports    []string
		}
		if err := decoder.Decode(&pkg); err == io.EOF {
			break
		} else {
			require.NoError(t, err)
		}
		for room, allowed := range may {
			if !within(pkg.ImportPath, room) {
				continue
			}
			for _, imported := range pkg.Imports {
				clock := imported == "vineladder/internal/clock" &&
					room != "vineladder/internal/core" // which is given its moments
				laws := imported == "vineladder/internal/laws" &&
					pkg.ImportPath == "vineladder/internal/store/storetest"
				if strings.HasPrefix(imported, "vineladder/") && !clock && !laws {
					assert.True(t, anyWithin(imported, allowed), "%s may not know %s", pkg.ImportPath, imported)
				}
				if room == "vineladder/internal/core" {
					assert.False(t, anyWithin(imported, core), "%s may not know %s", pkg.ImportPath, imported)
				}
			}
		}
	}
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
