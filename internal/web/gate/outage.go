package gate

import (
	"context"
	"log/slog"
	"net/http"
	"runtime/debug"
	"slices"
	"time"

	"github.com/go-chi/chi/v5/middleware"
)

type lostKey struct{}

// Lost says whether the session of a request could not be read, so that it is answered as signed out.
func Lost(ctx context.Context) bool { return ctx.Value(lostKey{}) != nil }

// LoadOrLose is LoadAndSave for pages that everybody may have: while sessions can't be read, who has one gets what is
// for everyone, and nothing of it is kept.
func (s *Sessions) LoadOrLose(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		token := s.token(r)
		ctx, err := s.load(r.Context(), token)
		reads := r.Method == http.MethodGet || r.Method == http.MethodHead
		if err != nil && !reads {
			s.ErrorFunc(w, r, err)
			return
		}
		if err == nil {
			s.serve(w, r.WithContext(ctx), token, next)
			return
		}
		if ctx, err = s.load(r.Context(), ""); err != nil {
			s.ErrorFunc(w, r, err)
			return
		}
		w.Header().Set("Cache-Control", "private, no-store")
		next.ServeHTTP(w, r.WithContext(context.WithValue(ctx, lostKey{}, true)))
	})
}

// Limits bounds how long a request may take, so that a database that hangs holds nobody: reading a while, writing
// longer. What tells news for as long as it takes is left out by its handler's path.
func Limits(reading, writing time.Duration, streams ...string) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if slices.Contains(streams, r.URL.Path) {
				next.ServeHTTP(w, r)
				return
			}
			limit := reading
			if r.Method != http.MethodGet && r.Method != http.MethodHead {
				limit = writing
			}
			ctx, cancel := context.WithTimeout(r.Context(), limit)
			defer cancel()
			next.ServeHTTP(w, r.WithContext(ctx))
		})
	}
}

// Recover answers a request whose handler panics, and logs it as all else is logged, with the number of the request.
func Recover(log *slog.Logger) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return middleware.RequestID(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			defer func() {
				fault := recover()
				if fault == nil {
					return
				}
				if fault == http.ErrAbortHandler {
					panic(fault)
				}
				log.Error(
					"a request failed without reason",
					"path",
					Path(r),
					"request",
					middleware.GetReqID(r.Context()),
					"panic",
					fault,
					"stack",
					string(debug.Stack()),
				)
				http.Error(
					w,
					"Something went wrong on our side. Please try again in a moment.",
					http.StatusInternalServerError,
				)
			}()
			next.ServeHTTP(w, r)
		}))
	}
}
