package store

import (
	"context"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// waits has a client wait for a turn, and says so once it waits.
func waits(t *testing.T, all *turns, client string, got chan<- string) {
	before := all.Waiting()
	go func() {
		if all.take(context.Background(), client) == nil {
			got <- client
		}
	}()
	require.Eventually(t, func() bool { return all.Waiting() > before }, time.Minute, time.Millisecond)
}

// Twenty clients that try many passwords do not hold up one that tries its first: it is next.
func TestTurnsAreFair(t *testing.T) {
	all, got := &turns{free: 1}, make(chan string, 100)
	require.NoError(t, all.take(context.Background(), "attacker 0"))
	for i := range 20 {
		for range 2 {
			waits(t, all, fmt.Sprint("attacker ", i), got)
		}
	}
	waits(t, all, "early", got)
	all.give()
	assert.Equal(t, "early", <-got, "before any of them has had its turn")
	for range 25 { // each attacker has had one
		all.give()
		<-got
	}
	waits(t, all, "visitor", got)
	all.give()
	assert.Equal(t, "visitor", <-got)
	for range waitingClient {
		waits(t, all, "visitor", got)
	}
	assert.ErrorIs(t, all.take(context.Background(), "visitor"), ErrBusy, "a few of one client wait at most")
}

// However turns are taken, given up and given back, as many are free in the end as were at the beginning.
func TestTurnsAreNotLost(t *testing.T) {
	all := &turns{free: 2}
	var group sync.WaitGroup
	for i := range 400 {
		group.Go(func() {
			ctx, cancel := context.WithCancel(context.Background())
			if i%3 == 0 {
				go cancel()
			}
			defer cancel()
			if all.take(ctx, fmt.Sprint(i%50)) == nil {
				all.give()
			}
		})
	}
	group.Wait()
	assert.Equal(t, 2, all.free)
	assert.Empty(t, all.waiting)
}
