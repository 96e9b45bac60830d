// Package laws says how the random laws of the tests run: from a fixed seed and briefly, unless VINELADDER_SEED (0
// for a fresh one each time) or VINELADDER_CHECKS say otherwise. Tests with laws import it for that.
package laws

import (
	"cmp"
	"flag"
	"os"

	_ "pgregory.net/rapid" // its flags
)

func init() {
	for name, value := range map[string]string{"rapid.seed": cmp.Or(os.Getenv("VINELADDER_SEED"), "1"), "rapid.checks": os.Getenv("VINELADDER_CHECKS")} {
		if value == "" {
			continue
		}
		if err := flag.Set(name, value); err != nil {
			panic(err)
		}
	}
}
