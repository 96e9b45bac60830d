package skin_test

import (
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/go-chi/chi/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/theme"
	"vineladder/internal/web/skin"
)

func TestStyleSheetsFromData(t *testing.T) {
	of, err := theme.Of()
	require.NoError(t, err)
	r := chi.NewRouter()
	skin.Mount(r, func() *site.Theme { return of })
	get := func(path string) *httptest.ResponseRecorder {
		w := httptest.NewRecorder()
		r.ServeHTTP(w, httptest.NewRequest(http.MethodGet, path, nil))
		return w
	}
	sheet := get(skin.ThemePath(of))
	assert.Equal(t, http.StatusOK, sheet.Code)
	assert.Contains(t, sheet.Header().Get("Cache-Control"), "immutable")
	assert.Contains(
		t,
		sheet.Body.String(),
		".map-standard{grid-template-columns:minmax(11rem,1fr) minmax(12rem,1.5fr) minmax(11rem,1fr)",
	)
	assert.Equal(t, http.StatusNotFound, get("/assets/theme/000000000000.css").Code, "an older theme's")

	b := testkit.Outline(t, "Home").Builder()
	b.SetMenus([]site.Menu{{ID: 1, Entries: []site.Entry{
		{ID: 1, Badge: site.Badge{Text: "New", Pair: "#ffffff on #12414a"}},
		{ID: 2, Badge: site.Badge{Text: "Old", Pair: "sand"}},
		{ID: 3, Badge: site.Badge{Pair: "#000000 on #ffffff"}},
		{ID: 4, Badge: site.Badge{Text: "Again", Pair: "#ffffff on #12414a"}},
	}}})
	path := skin.PairsPath(b.Site())
	assert.Equal(t, "/assets/pairs/ffffff-12414a.css", path, "each free pair once, and none without words")
	assert.Equal(t, ".pair-ffffff-12414a{color:#ffffff;background:#12414a}\n", get(path).Body.String())
	assert.Equal(
		t,
		http.StatusNotFound,
		get("/assets/pairs/red;}body{.css").Code,
		"nothing but colours comes into a style sheet",
	)
	assert.Empty(t, skin.PairsPath(testkit.Outline(t, "Home")))
	for pair, class := range map[string]string{"": "", "sand": "pair-sand", "#ffffff on #12414a": "pair-ffffff-12414a"} {
		assert.Equal(t, class, skin.Pair(pair))
	}
}
