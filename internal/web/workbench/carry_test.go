package workbench

import (
	"encoding/json"
	"io"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/web/workbench/desk"
)

// The answer to an edit carries what the screen would be asked for next, byte for byte, and nothing that the person may
// not see; a screen that is not made of parts, or an edit that is refused, brings nothing.
func TestAnEditCarriesTheParts(t *testing.T) {
	b := openBench(t, "structure")
	ask := func(carry string, form url.Values) (int, desk.Reply) {
		form.Set("page", "2")
		request, err := http.NewRequest(http.MethodPost, b.URL+"/edit", strings.NewReader(form.Encode()))
		require.NoError(t, err)
		request.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		request.Header.Set("X-Carry", carry)
		answer, err := b.client.Do(request)
		require.NoError(t, err)
		defer answer.Body.Close()
		var said desk.Reply
		require.NoError(t, json.NewDecoder(answer.Body).Decode(&said))
		return answer.StatusCode, said
	}
	title := func(old, value string) url.Values {
		return url.Values{"do": {"field"}, "field": {string(edit.FieldTitle)}, "old": {old}, "new": {value}}
	}
	old := edit.Value(b.store.Published().Site.Page(2), edit.FieldTitle)
	status, said := ask("/tree?page=2&state=after&from=0", title(old, "Carried"))
	require.Equal(t, http.StatusOK, status, said.Error)
	assert.Contains(t, said.Parts, `value="Carried"`)
	request, err := http.NewRequest(http.MethodGet, b.URL+"/tree?"+said.At, nil)
	require.NoError(t, err)
	request.Header.Set("X-Part", "all")
	answer, err := b.client.Do(request)
	require.NoError(t, err)
	defer answer.Body.Close()
	asked, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	assert.Equal(t, string(asked), said.Parts, "what the screen would be asked for next")

	for _, elsewhere := range []string{"/drafts", "/sign-out", "", "/tree/../publish"} {
		_, said = ask(elsewhere, title("Carried", "Carried"))
		assert.Empty(t, said.Parts, elsewhere)
	}
	status, said = ask("/tree?page=2", title("what nobody sees", "Again"))
	assert.Equal(t, http.StatusConflict, status)
	assert.Empty(t, said.Parts)
}
