package gate

import (
	"net/http"
	"slices"
	"strings"
)

// LoadAndSave is the session package's, but that an answer sets the cookie only where it changes: a slow answer to a request from before
// a sign-in or sign-out must not bring the browser's old cookie back.
func (s *Sessions) LoadAndSave(next http.Handler) http.Handler {
	inner := s.SessionManager.LoadAndSave(next)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if cookie, err := r.Cookie(s.Cookie.Name); err == nil {
			w = &sameCookie{ResponseWriter: w, same: cookie.Name + "=" + cookie.Value + ";"}
		}
		inner.ServeHTTP(w, r)
	})
}

// A sameCookie takes a cookie out of an answer that the browser has sent just so.
type sameCookie struct {
	http.ResponseWriter
	same  string
	begun bool
}

// Unwrap lets http.ResponseController find the writer below.
func (c *sameCookie) Unwrap() http.ResponseWriter { return c.ResponseWriter }

func (c *sameCookie) WriteHeader(status int) {
	if !c.begun {
		c.begun = true
		h := c.Header()
		if set := h["Set-Cookie"]; len(set) > 0 {
			h["Set-Cookie"] = slices.DeleteFunc(slices.Clone(set), func(line string) bool { return strings.HasPrefix(line+";", c.same) })
		}
	}
	c.ResponseWriter.WriteHeader(status)
}

func (c *sameCookie) Write(body []byte) (int, error) {
	if !c.begun {
		c.WriteHeader(http.StatusOK)
	}
	return c.ResponseWriter.Write(body)
}
