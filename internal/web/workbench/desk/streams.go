package desk

import (
	"slices"
	"sync"
)

// streamLimit is the number of screens of one account that are told the news; where more are opened, the oldest is
// told no more.
const streamLimit = 12

// streams are the connections over which screens are told the news, by account.
type streams struct {
	sync.Mutex
	of map[int64][]*stream
}

// A stream is one screen's connection.
type stream struct {
	account int64
	session string // its token
	over    chan struct{}
}

// begin opens a stream.
func (all *streams) begin(account int64, session string) *stream {
	made := &stream{account, session, make(chan struct{})}
	all.Lock()
	defer all.Unlock()
	if all.of == nil {
		all.of = map[int64][]*stream{}
	}
	own := append(all.of[account], made)
	if len(own) > streamLimit {
		close(own[0].over)
		own = own[1:]
	}
	all.of[account] = own
	return made
}

// end forgets a stream whose connection is gone.
func (all *streams) end(gone *stream) {
	all.drop(gone.account, func(s *stream) bool { return s == gone })
}

// has says whether an account has any stream here.
func (all *streams) has(account int64) bool {
	all.Lock()
	defer all.Unlock()
	return len(all.of[account]) > 0
}

// signOut ends all streams of a session.
func (all *streams) signOut(account int64, session string) {
	for _, s := range all.drop(account, func(s *stream) bool { return s.session == session }) {
		close(s.over)
	}
}

func (all *streams) drop(account int64, which func(*stream) bool) (dropped []*stream) {
	all.Lock()
	defer all.Unlock()
	kept := slices.DeleteFunc(slices.Clone(all.of[account]), func(s *stream) bool {
		if which(s) {
			dropped = append(dropped, s)
			return true
		}
		return false
	})
	if len(kept) == 0 {
		delete(all.of, account)
	} else {
		all.of[account] = kept
	}
	return dropped
}
