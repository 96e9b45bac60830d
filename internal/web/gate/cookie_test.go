package gate

import (
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
)

// A slow answer does not bring back the cookie that its request came with; a new one, and one that is taken away, go out.
func TestOnlyACookieThatChangesIsSet(t *testing.T) {
	for value, want := range map[string]int{"old": 0, "new": 1, "older": 1, "": 1} {
		for _, writesFirst := range []bool{true, false} {
			out := httptest.NewRecorder()
			w := &sameCookie{ResponseWriter: out, same: "vineladder=old;"}
			http.SetCookie(w, &http.Cookie{Name: "vineladder", Value: value, HttpOnly: true})
			if !writesFirst {
				w.WriteHeader(http.StatusSeeOther)
			}
			_, err := w.Write([]byte("x"))
			assert.NoError(t, err)
			assert.Len(t, out.Header().Values("Set-Cookie"), want, value)
		}
	}
}
