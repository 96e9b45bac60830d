package store

import (
	"context"
	"errors"
	"sync"
	"time"
)

// ErrBusy is said when too many sign-ins wait already.
var ErrBusy = errors.New("too many people are signing in at this moment; try again in a few seconds")

// Passwords are hashed by two at a time, which bounds the memory and the time that sign-ins can take. A few of each
// client may wait, and some in all.
const (
	hashersLimit  = 2
	waitingLimit  = 120
	waitingClient = 3
)

var hashTurns = &turns{free: hashersLimit}

// turns has work done in turn, fairly: of those who wait, the client comes next that had the fewest turns of late, so
// that nobody who tries many passwords holds up who tries one.
type turns struct {
	sync.Mutex
	free    int
	waiting []*ticket
	had     map[string]int // turns of each client since some moment
	since   time.Time
}

type ticket struct {
	client string
	ready  chan struct{}
}

// forget is how long a client's turns count.
const forget = time.Minute

// Waiting is how many wait for a turn.
func (t *turns) Waiting() int {
	t.Lock()
	defer t.Unlock()
	return len(t.waiting)
}

// take waits for a turn. It gives ErrBusy where too many wait, and ends with ctx.
func (t *turns) take(ctx context.Context, client string) error {
	t.Lock()
	if t.free > 0 {
		t.free--
		t.count(client)
		t.Unlock()
		return nil
	}
	own := 0
	for _, other := range t.waiting {
		if other.client == client {
			own++
		}
	}
	if own >= waitingClient || len(t.waiting) >= waitingLimit {
		t.Unlock()
		return ErrBusy
	}
	mine := &ticket{client, make(chan struct{})}
	t.waiting = append(t.waiting, mine)
	t.Unlock()
	select {
	case <-mine.ready:
		return nil
	case <-ctx.Done():
	}
	t.Lock()
	defer t.Unlock()
	for i, other := range t.waiting {
		if other == mine {
			t.waiting = append(t.waiting[:i], t.waiting[i+1:]...)
			return ctx.Err()
		}
	}
	t.next() // the turn came at the same moment: it goes on to another
	return ctx.Err()
}

// give ends a turn.
func (t *turns) give() {
	t.Lock()
	defer t.Unlock()
	t.next()
}

// next hands a turn that is free to the client that had the fewest.
func (t *turns) next() {
	if len(t.waiting) == 0 {
		t.free++
		return
	}
	// Who wants several at once comes after who wants one.
	asks := map[string]int{}
	for _, other := range t.waiting {
		asks[other.client]++
	}
	best, score := 0, func(client string) int { return t.had[client] + asks[client] }
	for i, other := range t.waiting {
		if score(other.client) < score(t.waiting[best].client) {
			best = i
		}
	}
	chosen := t.waiting[best]
	t.waiting = append(t.waiting[:best], t.waiting[best+1:]...)
	t.count(chosen.client)
	close(chosen.ready)
}

func (t *turns) count(client string) {
	if now := time.Now(); t.had == nil || now.Sub(t.since) > forget {
		t.had, t.since = map[string]int{}, now
	}
	t.had[client]++
}

type clientKey struct{}

// ForClient says for which client's sake passwords are hashed with a context.
func ForClient(ctx context.Context, client string) context.Context {
	return context.WithValue(ctx, clientKey{}, client)
}

// inTurn computes while at most one other does, in the turn of the context's client.
func inTurn[T any](ctx context.Context, compute func() (T, error)) (made T, err error) {
	client, _ := ctx.Value(clientKey{}).(string)
	if err := hashTurns.take(ctx, client); err != nil {
		return made, err
	}
	defer hashTurns.give()
	return compute()
}
