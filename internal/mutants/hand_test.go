package main

import (
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What is broken by hand is still there to be broken, and every room is drawn from.
func TestWhatIsBrokenIsThere(t *testing.T) {
	require.NoError(t, os.Chdir("../.."))
	assert.GreaterOrEqual(t, len(byHand()), 40)
	for _, r := range rooms {
		assert.NotEmpty(t, candidatesIn(r.dir), r.dir)
	}
}
