package redirects_test

import (
	"bytes"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/formats/redirects"
)

// moved is a site with short, old and binned addresses, and some that must not be told.
func moved(t *testing.T) *site.Site {
	s := edit.Settle(site.NewBuilder(testkit.Settings()).Site(), testkit.Outline(t, `
Home
  Sailings
    Winter
      Fares
  Harbours | short_addresses=/h
  Handbook | audience=staff
    Rotas
  Old notices`), testkit.Now)
	publish := func(hours int, ops ...edit.Op) {
		at := testkit.Now.Add(time.Duration(hours) * time.Hour)
		next, _, err := edit.ApplyAll(s, ops, at)
		require.NoError(t, err)
		s = edit.Settle(s, next, at)
	}
	find := func(label string) site.PageID { return testkit.Find(t, s, label) }
	publish(
		1,
		edit.OpMove{Page: find("Winter"), To: edit.Place{Parent: find("Harbours")}},
		edit.OpMove{Page: find("Rotas"), To: edit.Place{Parent: find("Handbook")}},
	)
	publish(
		2,
		edit.OpMove{Page: find("Rotas"), To: edit.Place{Parent: find("Sailings")}},
		edit.OpEdit{Page: find("Rotas"), Fields: []edit.FieldChange{{Field: edit.FieldAudience, New: "staff"}}},
	)
	publish(3, edit.OpBin{Page: find("Old notices")})
	return s
}

func TestTheTable(t *testing.T) {
	all := redirects.Of(moved(t), testkit.Now.Add(24*time.Hour))
	var out bytes.Buffer
	require.NoError(t, redirects.WriteCSV(&out, all))
	assert.Equal(
		t,
		"from,to,status\r\n/h,/harbours,308\r\n/old-notices,,410\r\n"+
			"/sailings/winter,/harbours/winter,308\r\n/sailings/winter/fares,/harbours/winter/fares,308\r\n",
		out.String(),
		"what only staff may see is not told",
	)
}

// Source: nginx, Debian's package, started with the map that we write.
func TestNginxReadsTheMap(t *testing.T) {
	path, err := exec.LookPath("nginx")
	if err != nil {
		t.Skip("Debian's nginx is not installed; “make test” installs it")
	}
	dir := t.TempDir()
	require.NoError(t, os.Chmod(dir, 0o755))
	all := redirects.Of(moved(t), testkit.Now.Add(24*time.Hour))
	var out bytes.Buffer
	require.NoError(t, redirects.WriteNginx(&out, all))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "ladder.map"), out.Bytes(), 0o644))
	l, err := net.Listen("tcp4", "127.0.0.1:0")
	require.NoError(t, err)
	addr := l.Addr().String()
	l.Close()
	conf := fmt.Sprintf(`daemon off; master_process off; pid %[1]s/pid; error_log stderr; events {}
http { access_log off; client_body_temp_path %[1]s/a; proxy_temp_path %[1]s/b; fastcgi_temp_path %[1]s/c; uwsgi_temp_path %[1]s/d; scgi_temp_path %[1]s/e;
map_hash_bucket_size 128; include %[1]s/ladder.map;
server { listen %[2]s; if ($ladder_gone) { return 410; } if ($ladder_to) { return 308 $ladder_to$is_args$args; } location / { return 204; } } }`, dir, addr)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "nginx.conf"), []byte(conf), 0o644))
	var said bytes.Buffer
	cmd := exec.Command(path, "-p", dir, "-e", "stderr", "-c", filepath.Join(dir, "nginx.conf"))
	cmd.Stderr = &said
	require.NoError(t, cmd.Start())
	t.Cleanup(func() { cmd.Process.Kill(); cmd.Wait() })
	client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	require.Eventually(t, func() bool {
		response, err := client.Get("http://" + addr + "/")
		if err == nil {
			io.Copy(io.Discard, response.Body)
			response.Body.Close()
		}
		return err == nil
	}, 20*time.Second, 20*time.Millisecond, said.String())
	for _, r := range append(all, redirects.Redirect{From: "/harbours", Status: http.StatusNoContent},
		redirects.Redirect{From: "/sailings/winter/x", Status: http.StatusNoContent}) {
		response, err := client.Get("http://" + addr + r.From + "?q=1")
		require.NoError(t, err)
		response.Body.Close()
		assert.Equal(t, r.Status, response.StatusCode, r.From)
		if r.To != "" {
			assert.Equal(t, "http://"+addr+r.To+"?q=1", response.Header.Get("Location"))
		}
	}
}
