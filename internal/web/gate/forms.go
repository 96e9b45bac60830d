package gate

import (
	"net/http"
	"net/url"
	"strings"
	"unicode/utf8"
)

// Forms refuses what no form of ours sends, before anything reads it: bytes that are no UTF-8, and NUL, which the
// database does not take; and forms that can't be parsed. Uploads are read by their handler. refuse says so to who
// asked.
func Forms(refuse func(http.ResponseWriter, *http.Request, string)) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			query, err := url.ParseQuery(r.URL.RawQuery)
			if err != nil || !readable(query) {
				refuse(w, r, "This address holds characters that can't be read.")
				return
			}
			if r.Method == http.MethodPost && !strings.HasPrefix(r.Header.Get("Content-Type"), "multipart/form-data") {
				if err := r.ParseForm(); err != nil {
					refuse(w, r, "This form could not be read; it may be too long. Nothing was changed.")
					return
				}
				if !readable(r.PostForm) {
					refuse(w, r, "What was sent holds characters that can't be kept. Nothing was changed.")
					return
				}
			}
			next.ServeHTTP(w, r)
		})
	}
}

func readable(values url.Values) bool {
	for name, all := range values {
		for _, value := range append(all, name) {
			if !utf8.ValidString(value) || strings.ContainsRune(value, 0) {
				return false
			}
		}
	}
	return true
}
