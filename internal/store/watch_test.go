package store

import (
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// Telling never waits for a reader, however the two meet: a reader that empties the channel between two looks at it
// must not hold up whoever publishes.
func TestTellingNeverWaits(t *testing.T) {
	st := &Store{}
	watch, end := st.Watch()
	defer end()
	stop := make(chan struct{})
	var readers sync.WaitGroup
	for range 4 {
		readers.Go(func() {
			for {
				select {
				case <-watch:
				case <-stop:
					return
				}
			}
		})
	}
	told := make(chan struct{})
	go func() {
		for i := range 60_000 {
			st.watchers.tell(News{Revision: int64(i)})
		}
		close(told)
	}()
	select {
	case <-told:
	case <-time.After(10 * time.Minute):
		t.Fatal("a tell waits for ever")
	}
	close(stop)
	readers.Wait()
	for range watcherBacklog + 3 {
		st.watchers.tell(News{Revision: 1})
	}
	st.watchers.tell(News{Revision: 7})
	last := News{}
	for len(watch) > 0 {
		last = <-watch
	}
	assert.Equal(t, int64(7), last.Revision, "the newest is never lost")
}
