package main

import (
	"context"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"time"

	"vineladder/internal/core/site"
	"vineladder/internal/formats/sheet"
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
	loading string
}

func newWorld(ctx context.Context, sections int) (*world, error) {
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
	if err := store.Migrate(ctx, url); err != nil {
		return nil, err
	}
	log := slog.New(slog.DiscardHandler)
	if w.store, err = store.Open(ctx, url, log); err != nil {
		return nil, err
	}
	if err := w.fill(ctx, sections); err != nil {
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
	w.public, err = public.New(w.store, public.Settings{Origin: "http://127.0.0.1", Hosts: []string{"127.0.0.1"}}, files, gate.NewSigner([]byte("bench")), log)
	if err != nil {
		return nil, err
	}
	w.server = httptest.NewServer(w.public.Handler())
	return w, nil
}

// fill imports a structure sheet: sections of 1,000 pages, in which 9 parts hold 110 pages each.
func (w *world) fill(ctx context.Context, sections int) error {
	roles := []site.Role{{Key: "staff", Name: "Staff"}, {Key: "operators", Name: "Operators"}, {Key: "masters", Name: "Harbour masters", Includes: []string{"staff"}},
		{Key: "board", Name: "Board members", Includes: []string{"staff"}}}
	if err := w.store.Found(ctx, store.Foundation{Settings: site.Settings{Name: "Bench", Language: "en", Zone: time.UTC}, Roles: roles}); err != nil {
		return err
	}
	var text strings.Builder
	text.WriteString("key,parent_key,label,status,audience\nhome,,Home,,\n")
	audiences := []string{"", "", "", "", "", "", "", "staff", "operators", "signed-in"}
	for a := range sections {
		fmt.Fprintf(&text, "s%d,home,Section %d,live,\n", a, a)
		for b := range 9 {
			fmt.Fprintf(&text, "s%d-%d,s%d,Part %d,live,%s\n", a, b, a, b, audiences[(a+b)%10])
			for c := range 110 {
				fmt.Fprintf(&text, "s%d-%d-%d,s%d-%d,Page %d of part %d,live,\n", a, b, c, a, b, c, b)
			}
		}
	}
	start := time.Now()
	ops, err := sheet.Read(strings.NewReader(text.String()), w.store.Published().Site, start, func(n int) ([]site.PageID, error) { return w.store.NewPageIDs(ctx, n) })
	if err != nil {
		return err
	}
	if _, err := w.store.PublishDirect(ctx, store.Account{Name: "bench"}, "imported", ops); err != nil {
		return err
	}
	w.loading = fmt.Sprintf("importing the sheet and publishing it %.1f s", time.Since(start).Seconds())
	// A database that has run for a while knows its own shape; the baselines shall not suffer from a fresh one.
	if _, err := w.store.DB().ExecContext(ctx, `VACUUM ANALYZE`); err != nil {
		return err
	}
	home := w.store.Published().Site.Home()
	return w.store.FoundMenus(ctx, []site.Menu{{ID: 1, Key: "main", Name: "Main", Entries: []site.Entry{site.BranchEntry{ID: 1, Root: home, Self: site.SelfBeside}}}},
		[]site.MenuBlock{
			{ID: 1, Key: "header", Name: "Header", Title: "Main", Menu: 1, Window: site.Window{First: 1, Levels: 1, From: site.FromWhole, Unfold: site.UnfoldAll}},
			{ID: 2, Key: "side", Name: "Side", Title: "Section", Menu: 1, Window: site.Window{First: 2, From: site.FromTrail, Unfold: site.UnfoldTrail}},
		}, 0, 0)
}

func (w *world) close() {
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
