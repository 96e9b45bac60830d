package main

import (
	"context"
	"fmt"
	"net/http"
	"time"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"vineladder/internal/store"
	"vineladder/internal/web/gate"
)

// ops answers those who run the program, at an address of its own: whether it is well, and its numbers.
func ops(st *store.Store, counted *gate.Counted) http.Handler {
	numbers := prometheus.NewRegistry()
	numbers.MustRegister(
		collectors.NewGoCollector(),
		collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}),
		counted,
		&figures{st: st},
	)
	mux := http.NewServeMux()
	mux.Handle("GET /metrics", promhttp.HandlerFor(numbers, promhttp.HandlerOpts{}))
	mux.HandleFunc("GET /health", func(w http.ResponseWriter, r *http.Request) {
		ctx, cancel := context.WithTimeout(r.Context(), 2*time.Second)
		defer cancel()
		if err := st.Ping(ctx); err != nil {
			http.Error(w, "the database does not answer; pages are served from memory", http.StatusServiceUnavailable)
			return
		}
		fmt.Fprintf(w, "ok, revision %d\n", st.Published().Revision)
	})
	return mux
}

// figures are numbers of the site, read when they are asked for.
type figures struct{ st *store.Store }

func desc(name, help string) *prometheus.Desc {
	return prometheus.NewDesc("vineladder_"+name, help, nil, nil)
}

var (
	descRevision = desc("revision", "Newest publication that this instance has seen.")
	descPages    = desc("pages", "Pages in the published tree.")
	descBinned   = desc("binned_branches", "Branches in the bin.")
	descDrafts   = desc("open_drafts", "Drafts with edits that are not public.")
	descPlanned  = desc("planned_drafts", "Drafts that are to be published at a moment.")
	descSessions = desc("sessions", "Sessions that are not over.")
	descHashing  = desc("hashing_waiting", "Passwords that are hashed or wait for it.")
	descLag      = desc("catch_up_revisions", "Publications in the database that this instance has not seen yet.")
)

// Describe and Collect are for the registry.
func (f *figures) Describe(to chan<- *prometheus.Desc) {
	for _, d := range []*prometheus.Desc{
		descRevision, descPages, descBinned, descDrafts, descPlanned, descSessions,
		descHashing, descLag,
	} {
		to <- d
	}
}

func (f *figures) Collect(to chan<- prometheus.Metric) {
	gauge := func(d *prometheus.Desc, value int64) {
		to <- prometheus.MustNewConstMetric(d, prometheus.GaugeValue, float64(value))
	}
	on := f.st.Published()
	gauge(descRevision, on.Revision)
	gauge(descPages, int64(on.Site.Count()))
	gauge(descBinned, int64(len(on.Site.Binned())))
	gauge(descHashing, int64(store.Hashing()))
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Second)
	defer cancel()
	if counts, err := f.st.Counts(ctx); err == nil { // else the database does not answer, which health says
		gauge(descDrafts, counts.Drafts)
		gauge(descPlanned, counts.Planned)
		gauge(descSessions, counts.Sessions)
		gauge(descLag, counts.Revision-on.Revision)
	}
}
