//go:build testclock

package clock

import (
	"os"
	"time"
)

// A program that was built for tests begins at VINELADDER_TEST_NOW, in RFC 3339. A plain one does not look at it.
func init() {
	if text := os.Getenv("VINELADDER_TEST_NOW"); text != "" {
		at, err := time.Parse(time.RFC3339, text)
		if err != nil {
			panic(err)
		}
		Start(at)
	}
}
