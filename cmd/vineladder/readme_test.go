package main

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/store/storetest"
)

// program builds the program once for a test and gives a function that runs lines of shell with it.
func program(t *testing.T, url string) func(line string) (*exec.Cmd, *bytes.Buffer) {
	dir := t.TempDir()
	build := exec.Command("go", "build", "-o", filepath.Join(dir, "vineladder"), ".")
	out, err := build.CombinedOutput()
	require.NoError(t, err, string(out))
	work := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(work, "password.txt"), []byte("a fine long password\n"), 0o600))
	free := func(host string) string {
		l, err := net.Listen("tcp4", host+":0")
		require.NoError(t, err)
		defer l.Close()
		_, port, _ := net.SplitHostPort(l.Addr().String())
		return host + ":" + port
	}
	env := append(
		os.Environ(),
		"PATH="+dir+":"+os.Getenv("PATH"),
		"VINELADDER_DATABASE_URL="+url,
		"VINELADDER_SITE_ADDR="+free(
			"127.0.0.1",
		),
		"VINELADDER_WORKBENCH_ADDR="+free("localhost"),
		"VINELADDER_OPS_ADDR="+free("127.0.0.1"),
	)
	return func(line string) (*exec.Cmd, *bytes.Buffer) {
		cmd := exec.Command("bash", "-c", "exec "+line)
		cmd.Dir, cmd.Env = work, env
		var said bytes.Buffer
		cmd.Stdout, cmd.Stderr = &said, &said
		return cmd, &said
	}
}

// variable reads one of the variables of a command.
func variable(cmd *exec.Cmd, name string) string {
	for _, line := range cmd.Env {
		if value, is := strings.CutPrefix(line, name+"="); is {
			return value
		}
	}
	return ""
}

func get(t *testing.T, url string) (int, string) {
	t.Helper()
	var last error
	for range 300 {
		response, err := http.Get(url)
		if err == nil {
			body, err := io.ReadAll(response.Body)
			response.Body.Close()
			require.NoError(t, err)
			return response.StatusCode, string(body)
		}
		last = err
		time.Sleep(100 * time.Millisecond)
	}
	require.NoError(t, last)
	return 0, ""
}

// The commands of the README's section are run as they stand, on an empty database.
func TestRunningItForRealAsTheReadmeSays(t *testing.T) {
	readme, err := os.ReadFile("../../README.md")
	require.NoError(t, err)
	_, section, found := strings.Cut(string(readme), "## Running it for real")
	require.True(t, found)
	section, _, _ = strings.Cut(section, "\n## ")
	run := program(t, storetest.Bare(t))
	ran := 0
	for _, line := range strings.Split(section, "\n") {
		command, is := strings.CutPrefix(line, "    vineladder ")
		if !is {
			continue
		}
		ran++
		cmd, said := run("vineladder " + command)
		if strings.Contains(command, " ./handbook ") { // what somebody has who comes from elsewhere
			handbook := filepath.Join(cmd.Dir, "handbook")
			require.NoError(t, os.MkdirAll(handbook, 0o755))
			require.NoError(t, os.WriteFile(filepath.Join(handbook, "index.html"), []byte("<h1>Handbook</h1>"), 0o644))
		}
		if command != "serve" {
			require.NoError(t, cmd.Run(), "%s: %s", command, said)
			continue
		}
		require.NoError(t, cmd.Start())
		status, page := get(t, "http://"+variable(cmd, "VINELADDER_SITE_ADDR")+"/")
		assert.Equal(t, http.StatusOK, status)
		assert.Contains(t, page, "<h1 dir=\"auto\">Nine Islands</h1>")
		status, page = get(t, "http://"+variable(cmd, "VINELADDER_WORKBENCH_ADDR")+"/")
		assert.Equal(t, http.StatusOK, status)
		assert.Contains(t, page, "Sign in")
		status, page = get(t, "http://"+variable(cmd, "VINELADDER_OPS_ADDR")+"/health")
		assert.Equal(t, http.StatusOK, status, page)
		_, page = get(t, "http://"+variable(cmd, "VINELADDER_OPS_ADDR")+"/metrics")
		assert.Contains(t, page, "vineladder_pages 5\n")
		assert.Contains(t, page, `vineladder_answers_total{host="site",method="GET",status="200"}`)
		status, _ = get(t, "http://"+variable(cmd, "VINELADDER_WORKBENCH_ADDR")+"/metrics")
		assert.Equal(t, http.StatusNotFound, status, "numbers have an address of their own")
		t.Cleanup(func() {
			require.NoError(t, cmd.Process.Signal(os.Interrupt))
			assert.NoError(t, cmd.Wait(), said.String())
		})
	}
	assert.Greater(t, ran, 12)
	cmd, said := run("vineladder user disable ana")
	require.Error(t, cmd.Run())
	assert.Contains(t, said.String(), "nobody else who can sign in may keep the site")
	cmd, said = run("vineladder user list")
	require.NoError(t, cmd.Run())
	assert.Contains(t, said.String(), "tomas\tTomas Lind\twriter\tdisabled since")
	cmd, said = run("vineladder audit")
	require.NoError(t, cmd.Run())
	assert.Contains(t, said.String(), "gave “tomas” the roles writer")
}

// What is wrong with a database is said with what to do, and nothing is made of it.
func TestADatabaseThatDoesNotFitIsRefused(t *testing.T) {
	url := storetest.Bare(t)
	t.Setenv("VINELADDER_DATABASE_URL", url)
	_, err := command(t, "", "user", "list")
	assert.ErrorContains(t, err, "the database is empty; “vineladder init” sets a site up")
	_, err = command(t, "a fine long password\n", "init", "--name", "X", "--language", "th")
	assert.ErrorContains(t, err, "“th” is not one of the languages")
	_, err = command(t, "qwerty123456\n", "init", "--name", "X", "--keeper", "ana")
	assert.ErrorContains(t, err, "Many people use this password")
	_, err = command(t, "", "init", "--name", "X", "--zone", "Mars/Olympus")
	assert.ErrorContains(t, err, "is not a time zone")
	_, err = command(t, "", "init", "--name", "Nine Islands")
	require.NoError(t, err)
	_, err = command(t, "", "init", "--name", "Nine Islands")
	assert.ErrorContains(t, err, "has been set up already")
	st := storetest.Open(t, url)
	for change, said := range map[string]string{"999": "of a newer version", "9": "of the line of versions before 100"} {
		_, err = st.DB().ExecContext(
			context.Background(),
			fmt.Sprintf(
				`UPDATE goose_db_version SET version_id = %s WHERE version_id >= 100`,
				change,
			),
		)
		require.NoError(t, err)
		_, err = command(t, "", "user", "list")
		assert.ErrorContains(t, err, said)
		_, err = st.DB().ExecContext(
			context.Background(),
			`UPDATE goose_db_version SET version_id = 102 WHERE id = (SELECT max(id) FROM goose_db_version)`,
		)
		require.NoError(t, err)
	}
}
