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
