package e2e

import (
	"encoding/json"
	"net/http"
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Who may order pages and not say who sees them reads no more in the workbench than in public: a board paper answers
// 403 wherever its words could come out.
func TestABoardPaperIsReadByNobodyElse(t *testing.T) {
	w := newWorld(t)
	structure, keeper := w.signedIn("structure"), w.signedIn("keeper")
	paper, at := w.find("Papers for December"), url.Values{}
	at.Set("page", paper)
	for _, path := range []string{"/text", "/preview"} {
		status, said := structure.get(path + "?" + at.Encode())
		assert.Equal(t, http.StatusForbidden, status, "%s: %s", path, said)
		assert.NotContains(t, said, "fenders")
		status, _ = keeper.get(path + "?" + at.Encode())
		assert.Equal(t, http.StatusOK, status, path)
	}
	status, screen := structure.get("/tree?" + at.Encode())
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, screen, "Papers for December", "the label is for who may order it")
	assert.Contains(t, screen, "you may order it, and not read it")
	assert.NotContains(t, screen, "fenders")
	for _, field := range []string{"summary", "title", "text"} {
		status, said := structure.post(
			"/edit",
			url.Values{"do": {"field"}, "page": {paper}, "field": {field}, "old": {""}, "new": {"Mine"}},
		)
		assert.Equal(t, http.StatusForbidden, status, "%s: %s", field, said)
	}
	// Another page's preview, seen as a member of the board, leads no further.
	home := url.Values{"page": {w.find("Home")}, "as": {"board-members"}}
	status, said := structure.get("/preview?" + home.Encode())
	require.Equal(t, http.StatusOK, status, said)
	base := urlIn(t, said)
	answer, page := fetch(t, http.DefaultClient, base+"board-papers/papers-for-december")
	assert.Equal(t, http.StatusForbidden, answer.StatusCode)
	assert.NotContains(t, page, "fenders")
	status, said = keeper.get("/preview?" + home.Encode())
	require.Equal(t, http.StatusOK, status, said)
	answer, page = fetch(t, http.DefaultClient, urlIn(t, said)+"board-papers/papers-for-december")
	assert.Equal(t, http.StatusOK, answer.StatusCode)
	assert.Contains(t, page, "fenders")
}

// get asks as a script of the workbench does.
func (v *visitor) get(path string) (int, string) {
	v.t.Helper()
	request, err := http.NewRequest(http.MethodGet, v.bench+path, nil)
	require.NoError(v.t, err)
	return v.send(request)
}

// urlIn gives the address in a reply, up to the page's own part.
func urlIn(t *testing.T, said string) string {
	var answer struct{ URL string }
	require.NoError(t, json.Unmarshal([]byte(said), &answer))
	return answer.URL
}
