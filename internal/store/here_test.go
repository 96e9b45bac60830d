package store_test

import (
	"context"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/store/storetest"
)

// Who has a page open is known at every instance; who watches is told of the page that is come to and the one that is
// left, and of nothing while somebody stays.
func TestWhoHasAPageOpen(t *testing.T) {
	url := storetest.URL(t)
	st, other := storetest.Open(t, url), storetest.Open(t, url)
	follow, stop := context.WithCancel(ctx)
	defer stop()
	go other.Follow(follow)
	watch, end := other.Watch()
	defer end()
	one, err := st.AddAccount(ctx, "one", "One", "a long password", nil)
	require.NoError(t, err)
	hears := func(pages ...int64) {
		t.Helper()
		for deadline := time.After(time.Minute); len(pages) > 0; {
			select {
			case news := <-watch:
				pages = slices.DeleteFunc(pages, func(page int64) bool { return page == news.Here && news.Who == one.ID })
			case <-deadline:
				t.Fatal("nobody was told of", pages)
			}
		}
	}
	require.Eventually(t, func() bool { // once it listens
		require.NoError(t, st.BeAt(ctx, one.ID, 5))
		require.NoError(t, st.Leave(ctx, one.ID))
		select {
		case <-watch:
			return true
		case <-time.After(50 * time.Millisecond):
			return false
		}
	}, time.Minute, time.Millisecond)
	for len(watch) > 0 {
		<-watch
	}
	require.NoError(t, st.BeAt(ctx, one.ID, 7))
	hears(7)
	require.NoError(t, st.BeAt(ctx, one.ID, 7))
	require.NoError(t, st.StayHere(ctx, one.ID))
	names, err := other.Here(ctx, 7, 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"One"}, names)
	names, err = other.Here(ctx, 7, one.ID)
	require.NoError(t, err)
	assert.Empty(t, names, "oneself is no news")
	require.NoError(t, st.BeAt(ctx, one.ID, 9))
	hears(7, 9)
	require.NoError(t, st.Leave(ctx, one.ID))
	hears(9)
	names, err = other.Here(ctx, 9, 0)
	require.NoError(t, err)
	assert.Empty(t, names)
}
