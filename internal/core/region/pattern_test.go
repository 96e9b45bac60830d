package region

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// match is what a pattern means, said once more and plainly; it takes as long as there are ways to read a pattern.
func match(pattern, path []string) bool {
	for i, part := range pattern {
		if part == "**" {
			for skip := 0; skip <= len(path)-i; skip++ {
				if match(pattern[i+1:], path[i+skip:]) {
					return true
				}
			}
			return false
		}
		if i >= len(path) || part != "*" && part != path[i] {
			return false
		}
	}
	return len(pattern) == len(path)
}

func FuzzPatterns(f *testing.F) {
	for _, seed := range [][2]string{
		{"/a/**/b", "/a/x/y/b"},
		{"/**/*", "/a"},
		{"/*/*", "/a/b/c"},
		{"/**", ""},
		{"/a//b/", "/a/b"},
		{"/**/a/**/a", "/a/a/a"},
	} {
		f.Add(seed[0], seed[1])
	}
	f.Fuzz(func(t *testing.T, written, at string) {
		if strings.Count(written, "/") > 7 || strings.Count(at, "/") > 9 {
			return // the plain reading would take too long
		}
		assert.Equal(t, match(segments(written), segments(at)), Matches(written, at), "%q %q", written, at)
	})
}

// The pattern for which the plain reading takes longest is answered at once.
func TestPatternsTakeNoLongerThanTheyAreLong(t *testing.T) {
	assert.False(t, Matches(strings.Repeat("/**/a", 30), strings.Repeat("/a", 59)+"/b"))
	assert.True(t, Matches(strings.Repeat("/**/a", 29)+"/**", strings.Repeat("/a", 59)+"/b"))
	assert.False(
		t,
		Matches(strings.Repeat("/*", PatternLimit+1), strings.Repeat("/a", PatternLimit+1)),
		"longer ones are refused when typed",
	)
}
