package main

import (
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/store/storetest"
)

// Ctrl+C ends a command wherever it is, and nothing of it is done: whenever it comes, the site has all of the sheet or
// none of it, and a backup is there whole or not at all.
func TestCtrlCEndsACommandWithNothingHalfDone(t *testing.T) {
	url := storetest.URL(t)
	run := program(t, url)
	done := func(line string) string {
		cmd, said := run(line)
		require.NoError(t, cmd.Run(), said.String())
		return said.String()
	}
	done("vineladder init --name Site --language en --zone UTC")
	cmd, _ := run("true")
	dir := cmd.Dir
	home := strings.Split(strings.Split(done("vineladder export pages"), "\n")[1], ",")[0]
	var sheet strings.Builder
	sheet.WriteString("key,parent_key,label\n")
	const rows = 20_000
	for i := range rows {
		fmt.Fprintf(&sheet, "k%d,%s,Page %d\n", i, map[bool]string{true: home, false: fmt.Sprint("k", i/50)}[i < 50], i)
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "sheet.csv"), []byte(sheet.String()), 0o600))
	pages := func() int { return strings.Count(done("vineladder export pages"), "\n") }
	before, stopped := pages(), 0
	for _, after := range []time.Duration{50, 150, 400, 900} {
		if pages() > before {
			break // it was done before it was interrupted
		}
		cmd, said := run("vineladder import pages --publish sheet.csv")
		require.NoError(t, cmd.Start())
		time.Sleep(after * time.Millisecond)
		require.NoError(t, cmd.Process.Signal(syscall.SIGINT))
		err := cmd.Wait()
		var ended *exec.ExitError
		if errors.As(err, &ended) {
			stopped++
			assert.Equal(t, interrupted, ended.ExitCode(), said.String())
		}
		assert.Contains(t, []int{before, before + rows}, pages(), "all of it or nothing")
	}
	assert.NotZero(t, stopped)

	for _, after := range []time.Duration{20, 60, 150} {
		name := fmt.Sprintf("backup-%d", after)
		cmd, _ := run("vineladder backup " + name)
		require.NoError(t, cmd.Start())
		time.Sleep(after * time.Millisecond)
		require.NoError(t, cmd.Process.Signal(syscall.SIGINT))
		finished := cmd.Wait() == nil
		if _, err := os.Stat(filepath.Join(dir, name)); err == nil {
			done("gzip -t < " + name)
		} else {
			assert.False(t, finished, name)
		}
		assert.NoFileExists(t, filepath.Join(dir, name+".part"))
	}
}
