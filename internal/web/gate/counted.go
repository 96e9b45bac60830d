package gate

import (
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5/middleware"
	"github.com/prometheus/client_golang/prometheus"
)

// Counted counts the answers of both hosts by method and status.
type Counted struct{ *prometheus.CounterVec }

// NewCounted makes the counters.
func NewCounted() *Counted {
	return &Counted{
		prometheus.NewCounterVec(
			prometheus.CounterOpts{Name: "vineladder_answers_total", Help: "Answers, by host, method and status."},
			[]string{"host", "method", "status"},
		),
	}
}

// Of counts what a handler answers.
func (c *Counted) Of(host string, next http.Handler) http.Handler {
	ok := c.WithLabelValues(host, http.MethodGet, "200") // the usual one is not looked up
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		seen := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		next.ServeHTTP(seen, r)
		status := seen.Status()
		if status == 0 || status == http.StatusOK && r.Method == http.MethodGet {
			ok.Inc()
			return
		}
		method := r.Method
		if method != http.MethodGet && method != http.MethodPost && method != http.MethodHead {
			method = "other"
		}
		c.WithLabelValues(host, method, strconv.Itoa(status)).Inc()
	})
}
