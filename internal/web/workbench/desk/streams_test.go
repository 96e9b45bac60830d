package desk

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func isOver(s *stream) bool {
	select {
	case <-s.over:
		return true
	default:
		return false
	}
}

func TestStreamsEndWithTheirSessionAndAreBounded(t *testing.T) {
	var all streams
	all.signOut(1, "a") // who has no screen open
	one, two, other := all.begin(1, "a"), all.begin(1, "b"), all.begin(2, "c")
	all.signOut(1, "a")
	assert.Equal(t, []bool{true, false, false}, []bool{isOver(one), isOver(two), isOver(other)})
	all.end(one) // its handler returns
	var more []*stream
	for range streamLimit {
		more = append(more, all.begin(1, "b"))
	}
	assert.True(t, isOver(two), "the oldest makes room")
	assert.False(t, isOver(more[0]))
	all.signOut(1, "b")
	for _, s := range more {
		assert.True(t, isOver(s))
		all.end(s)
	}
	assert.False(t, isOver(other))
	all.end(other)
	assert.Empty(t, all.of, "nothing is left behind")
}
