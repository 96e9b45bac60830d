package main

import (
	"context"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"time"

	"vineladder/internal/core/site"
	"vineladder/internal/demo"
	"vineladder/internal/localpg"
	"vineladder/internal/store"
	"vineladder/internal/web/assets"
	"vineladder/internal/web/gate"
	"vineladder/internal/web/public"
)

// A world is a large site in a PostgreSQL of its own, and its public server.
type world struct {
	dir     string
	pg      *localpg.Server
	store   *store.Store
	server  *httptest.Server
	public  *public.Server
	url     string
	loading string
	ends    []func() // of what rows have begun
}

func newWorld(ctx context.Context, pages int) (*world, error) {
	dir, err := os.MkdirTemp("", "vineladder-bench-")
	if err != nil {
		return nil, err
	}
	if err := os.Chmod(dir, 0o755); err != nil {
		return nil, err
	}
	w := &world{dir: dir}
	if w.pg, err = localpg.Start(ctx, dir); err != nil {
		return nil, err
	}
	if err := w.pg.CreateDatabase(ctx, "bench"); err != nil {
		return nil, err
	}
	url := w.pg.URL("bench")
	w.url = url
	if err := store.Migrate(ctx, url); err != nil {
		return nil, err
	}
	log := slog.New(slog.DiscardHandler)
	if w.store, err = store.Open(ctx, url, log); err != nil {
		return nil, err
	}
	if err := w.fill(ctx, pages); err != nil {
		return nil, err
	}
	start := time.Now()
	again, err := store.Open(ctx, url, log)
	if err != nil {
		return nil, err
	}
	w.loading += fmt.Sprintf(", loading it at start %.1f s", time.Since(start).Seconds())
	again.Close()
	files, err := assets.New()
	if err != nil {
		return nil, err
	}
	w.public, err = public.New(
		w.store,
		public.Settings{Origin: "http://127.0.0.1", Hosts: []string{"127.0.0.1"}},
		files,
		gate.NewSigner([]byte("bench")),
		log,
	)
	if err != nil {
		return nil, err
	}
	w.server = httptest.NewServer(w.public.Handler())
	return w, nil
}

// fill makes a synthetic site of lifelike shape.
func (w *world) fill(ctx context.Context, pages int) error {
	start := time.Now()
	if err := demo.Generate(ctx, w.store, demo.Synthetic{Pages: pages, Seed: 1}, func(demo.Progress) {}); err != nil {
		return err
	}
	w.loading = fmt.Sprintf("making it and publishing it in parts %.1f s", time.Since(start).Seconds())
	// A database that has run for a while knows its own shape; the baselines shall not suffer from a fresh one.
	_, err := w.store.DB().ExecContext(ctx, `VACUUM ANALYZE`)
	return err
}

// branchOf finds the branch whose size is nearest to a number of pages.
func (w *world) branchOf(pages int) site.PageID {
	s := w.store.Published().Site
	var best site.PageID
	far := pages
	s.Walk(s.Home(), func(p *site.Page) bool {
		if off := 1 + s.Below(p.ID) - pages; max(off, -off) < far && p.Parent != 0 {
			best, far = p.ID, max(off, -off)
		}
		return true
	})
	return best
}

func (w *world) close() {
	for _, end := range w.ends {
		end()
	}
	w.server.Close()
	w.public.Close()
	w.store.Close()
	_ = w.pg.Close()
	_ = os.RemoveAll(w.dir)
}

// client keeps connections alive, as a load generator does.
func client() *http.Client {
	return &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 64, DisableCompression: true}}
}
