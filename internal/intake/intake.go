// Package intake has what comes from elsewhere go into a store and its files.
package intake

import (
	"context"
	"errors"
	"io"
	"time"

	"vineladder/internal/blob"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
	"vineladder/internal/formats/outline"
	"vineladder/internal/formats/sheet"
	"vineladder/internal/formats/webpages"
	"vineladder/internal/store"
)

// Pages has folders of web pages go there; links to the given hosts are the site's own. Where they are to stand, and
// who is told how far it is, is for the caller to say.
func Pages(
	ctx context.Context,
	st *store.Store,
	kept store.Files,
	now time.Time,
	hosts ...string,
) webpages.Destination {
	cleaner := text.NewCleaner(hosts...)
	return webpages.Destination{
		Now: now,
		IDs: func(n int) ([]site.PageID, error) { return st.NewPageIDs(ctx, n) },
		Keep: func(name string, from io.Reader) (site.Bytes, error) {
			holds, err := kept.Bytes.Keep(ctx, name, from)
			if refused, is := errors.AsType[*blob.Refusal](err); is {
				return holds, &edit.Refusal{Sentence: refused.Sentence}
			}
			return holds, err
		},
		Clean: func(on *site.Site, raw string) string { return cleaner.Clean(on, raw, now) },
		Save:  func(texts []string) ([]string, error) { return st.SaveTexts(ctx, texts...) },
		Free: func(on *site.Site, wanted string, holds site.Bytes) string {
			return edit.FreeFileName(blob.Name(wanted, holds), kept.Dir.Has, on, st.Published().Site)
		},
		Told: func(int, int) {},
	}
}

// Sheet reads a structure sheet, with its texts if it has any.
func Sheet(
	ctx context.Context, st *store.Store, on *site.Site, from io.Reader, now time.Time, hosts ...string,
) ([]edit.Op, error) {
	newIDs := func(n int) ([]site.PageID, error) { return st.NewPageIDs(ctx, n) }
	cleaner := text.NewCleaner(hosts...)
	return sheet.Read(from, on, now, newIDs, func(on *site.Site, raw []string) ([]string, error) {
		clean := make([]string, len(raw))
		for i := range raw {
			clean[i] = cleaner.Clean(on, raw[i], now)
		}
		return st.SaveTexts(ctx, clean...)
	})
}

// Menus gives the operations that bring menus to what a document says: one whose key the site has takes its entries in
// place of those that it had, any other is made. origin is the public site, whose addresses lead to its pages.
func Menus(
	ctx context.Context, st *store.Store, on *site.Site, menus []outline.Menu, origin string, now time.Time,
) ([]edit.Op, error) {
	var ops []edit.Op
	for _, m := range menus {
		var ids []site.EntryID
		var err error
		if n := m.Count(); n > 0 {
			if ids, err = st.NewEntryIDs(ctx, n); err != nil {
				return nil, err
			}
		}
		forms, err := m.Forms(on, origin, ids, now)
		if err != nil {
			return nil, err
		}
		if standing := on.MenuByKey(m.Key); standing != nil {
			ops = append(ops, m.Bring(standing, forms)...)
			continue
		}
		id, err := st.NewMenuID(ctx)
		if err != nil {
			return nil, err
		}
		ops = append(ops, edit.OpMakeMenu{Menu: id, Key: m.Key, Name: m.Name, Programs: m.Programs, Entries: forms})
	}
	return ops, nil
}
