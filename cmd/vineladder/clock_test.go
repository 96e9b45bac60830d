package main

import (
	"context"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/demo"
	"vineladder/internal/store/storetest"
)

// The moment can be set from outside only in a program that was built for tests: the plain one does not look at it.
func TestOnlyAProgramBuiltForTestsTakesItsMomentFromOutside(t *testing.T) {
	url := storetest.URL(t)
	require.NoError(t, demo.Load(context.Background(), storetest.Open(t, url)))
	answer := func(binary, moment string) any {
		cmd := exec.Command(binary, "show", "page", "/notices/sailing-notices/early-boat-for-the-lamb-sales")
		cmd.Env = append(os.Environ(), "VINELADDER_DATABASE_URL="+url, "VINELADDER_TEST_NOW="+moment)
		out, err := cmd.Output()
		require.NoError(t, err)
		var facts map[string]any
		require.NoError(t, json.Unmarshal(out, &facts))
		return facts["answer"]
	}
	built := func(args ...string) string {
		binary := filepath.Join(t.TempDir(), "vineladder")
		out, err := exec.Command(
			"go",
			append(append([]string{"build"}, args...), "-o", binary, ".")...).CombinedOutput()
		require.NoError(t, err, string(out))
		return binary
	}
	plain, forTests := built(), built("-tags", "testclock")
	before, after := "2020-01-01T00:00:00Z", "2050-01-01T00:00:00Z"
	assert.Equal(t, answer(plain, ""), answer(plain, before))
	assert.Equal(t, answer(plain, ""), answer(plain, after))
	assert.Equal(t, "not found", answer(forTests, before))
	assert.Equal(t, "sees", answer(forTests, after))
}
