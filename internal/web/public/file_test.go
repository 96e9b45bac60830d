package public

import (
	"io"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// Files as RFC 9110 has it: conditional requests (13.1) and ranges (14), over real HTTP.
func TestFilesOverHTTP(t *testing.T) {
	server, _, st, bytes := serveFiles(t)
	get := func(path string, headers ...string) (*http.Response, string) {
		request, err := http.NewRequest(http.MethodGet, server.URL+path, http.NoBody)
		require.NoError(t, err)
		for i := 0; i < len(headers); i += 2 {
			request.Header.Set(headers[i], headers[i+1])
		}
		answer, err := http.DefaultClient.Do(request)
		require.NoError(t, err)
		defer answer.Body.Close()
		body, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		return answer, string(body)
	}
	whole, body := get("/files/harbour-rules.pdf")
	tag := whole.Header.Get("ETag")
	assert.Equal(t, "application/pdf", whole.Header.Get("Content-Type"))
	assert.Equal(t, "no-cache", whole.Header.Get("Cache-Control"))
	assert.Equal(t, "bytes", whole.Header.Get("Accept-Ranges"))
	assert.True(t, strings.HasPrefix(body, "%PDF-"))
	assert.Contains(t, whole.Header.Get("Content-Security-Policy"), "sandbox")

	same, none := get("/files/harbour-rules.pdf", "If-None-Match", tag)
	assert.Equal(t, http.StatusNotModified, same.StatusCode)
	assert.Empty(t, none)
	part, middle := get("/files/harbour-rules.pdf", "Range", "bytes=5-9")
	assert.Equal(t, http.StatusPartialContent, part.StatusCode)
	assert.Equal(t, body[5:10], middle)
	end, last := get("/files/harbour-rules.pdf", "Range", "bytes=-6", "If-Range", tag)
	assert.Equal(t, http.StatusPartialContent, end.StatusCode)
	assert.Equal(t, body[len(body)-6:], last)
	all, again := get("/files/harbour-rules.pdf", "Range", "bytes=0-4", "If-Range", `"another"`)
	assert.Equal(t, http.StatusOK, all.StatusCode)
	assert.Equal(t, body, again)
	beyond, _ := get("/files/harbour-rules.pdf", "Range", "bytes=9999999-")
	assert.Equal(t, http.StatusRequestedRangeNotSatisfiable, beyond.StatusCode)

	small, less := get("/files/tern.png?w=480")
	large, more := get("/files/tern.png?w=77") // which nobody made
	assert.Less(t, len(less), len(more))
	assert.NotEqual(t, small.Header.Get("ETag"), large.Header.Get("ETag"))

	// A page shows the version that is meant; bytes that were withdrawn are gone at once.
	on := st.Published().Site
	picture := address.Resolve(on, "/files/chart-oyra.png", on.Page(on.Home()).Changed).Page
	_, page := get("/harbours/oyra")
	assert.Contains(t, page, `src="/files/chart-oyra.png?v=`+on.Page(picture).BytesOf().Version()+`"`)
	assert.Contains(t, page, `alt="A drawn chart of Øyra: the island, its pier, and depths in metres."`)
	require.NoError(t, bytes.Remove(t.Context(), on.Page(picture).BytesOf()))
	gone, _ := get("/files/chart-oyra.png")
	assert.Equal(t, http.StatusGone, gone.StatusCode)

	// In the bin its address says “gone”, and pages have its words in its place.
	bin := edit.OpBin{Page: picture, Seen: st.Published().Revision}
	_, err := st.PublishDirect(t.Context(), store.Account{Name: "test"}, "binned a chart", []edit.Op{bin})
	require.NoError(t, err)
	gone, _ = get("/files/chart-oyra.png")
	assert.Equal(t, http.StatusGone, gone.StatusCode)
	_, page = get("/harbours/oyra")
	assert.NotContains(t, page, site.FilesPath+"chart-oyra.png")
	assert.Contains(t, page, "A drawn chart of Øyra")
}
