// Package laws says how tests run. They stand on one day, whatever day it is, since the demo has dates. Random laws
// run from a fixed seed and briefly, unless VINELADDER_SEED (0 for a fresh one each time) or VINELADDER_CHECKS say
// otherwise. Tests with laws import it for that.
package laws

import (
	"cmp"
	"flag"
	"os"
	"strconv"
	"time"

	_ "pgregory.net/rapid" // its flags

	"vineladder/internal/clock"
)

// Today is the moment at which tests begin.
var Today = time.Date(2026, time.November, 24, 12, 0, 0, 0, time.UTC)

func init() {
	clock.Start(Today)
	for name, value := range map[string]string{
		"rapid.seed":   cmp.Or(os.Getenv("VINELADDER_SEED"), "1"),
		"rapid.checks": os.Getenv("VINELADDER_CHECKS"),
	} {
		if value == "" {
			continue
		}
		if err := flag.Set(name, value); err != nil {
			panic(err)
		}
	}
}

// Seed is that of tests which draw by other means than rapid.
func Seed() uint64 {
	seed, err := strconv.ParseUint(os.Getenv("VINELADDER_SEED"), 10, 64)
	switch {
	case err != nil:
		return 1
	case seed == 0:
		return uint64(time.Now().UnixNano())
	}
	return seed
}
