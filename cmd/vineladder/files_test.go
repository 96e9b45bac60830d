package main

import (
	"bytes"
	"context"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/blob"
	"vineladder/internal/clock"
	"vineladder/internal/core/edit"
	"vineladder/internal/demo"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
)

// Bytes go that nothing names, and no others: not those of a page, not those that a publication replaced, since it can
// be taken back, and not those that were uploaded just now.
func TestBytesThatNothingNamesAreCleaned(t *testing.T) {
	url, dir := storetest.URL(t), t.TempDir()
	t.Setenv("VINELADDER_DATABASE_URL", url)
	t.Setenv("VINELADDER_FILES_DIR", dir)
	st := storetest.Open(t, url)
	ctx := context.Background()
	require.NoError(t, demo.Load(ctx, st))
	kept, err := blob.Open(ctx, blob.InDir(dir))
	require.NoError(t, err)
	upload := func(width int) (holds string, name string) {
		var picture bytes.Buffer
		require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, width, 4))))
		made, err := kept.Keep(ctx, "quay.png", &picture)
		require.NoError(t, err)
		return made.String(), made.Hash
	}
	shown, shownHash := upload(20)
	replaced, replacedHash := upload(21)
	_, lost := upload(600) // with another width of its own
	_, fresh := upload(23)
	ids, err := st.NewPageIDs(ctx, 2)
	require.NoError(t, err)
	publish := func(ops ...edit.Op) {
		_, err := st.PublishDirect(ctx, store.Account{Name: "test"}, "test", ops)
		require.NoError(t, err)
	}
	above, place := edit.FilesPlace(st.Published().Site, ids[0])
	publish(append(above, edit.OpMake{Page: ids[1], Place: place, Fields: []edit.FieldChange{
		{Field: edit.FieldLabel, New: "Quay"},
		{Field: edit.FieldKind, New: "file"},
		{Field: edit.FieldOwnAddress, New: "/files/quay.png"},
		{Field: edit.FieldBytes, New: replaced},
	}})...)
	publish(
		edit.OpEdit{Page: ids[1], Fields: []edit.FieldChange{{Field: edit.FieldBytes, Old: replaced, New: shown}}},
	)
	names, err := kept.Names(ctx)
	require.NoError(t, err)
	for _, name := range names {
		at := clock.Now().Add(-48 * time.Hour)
		if name == fresh {
			at = clock.Now()
		}
		paths, err := filepath.Glob(filepath.Join(blob.InDir(dir), name+"*"))
		require.NoError(t, err)
		for _, path := range paths {
			require.NoError(t, os.Chtimes(path, at, at))
		}
	}
	said, err := command(t, "", "files", "clean", "--look")
	require.NoError(t, err)
	assert.Contains(t, said, lost+"-480")
	assert.Contains(t, said, "2 files of bytes would be taken away.")
	_, err = command(t, "", "files", "clean")
	require.NoError(t, err)
	names, err = kept.Names(ctx)
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{shownHash, replacedHash, fresh}, names)
}
