// Command mutants breaks the program on purpose, a bit at a time, and says which of the breaks no test finds. A share
// of them is drawn from the source, the others are written down by hand: the mistakes that were made, or are easily
// made, where things carry their own facts. The source itself is never touched: the compiler is given the broken file
// in its place.
package main

import (
	"encoding/json"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"
)

// A mutant is one file with one thing broken.
type mutant struct {
	file  string // from the root of the project
	line  int
	what  string
	broke []byte // the whole file
}

// A room is a directory that is broken, with the packages whose tests should find it.
type room struct {
	dir   string
	tests []string
}

var rooms = []room{
	{
		"internal/core/edit",
		[]string{"./internal/core/edit", "./internal/core/grant", "./internal/formats/...", "./internal/core/address"},
	},
	{
		"internal/core/piece",
		[]string{"./internal/core/edit", "./internal/core/region", "./internal/core/consequence", "./internal/store"},
	},
	{
		"internal/core/target",
		[]string{"./internal/core/edit", "./internal/core/menu", "./internal/formats/outline", "./internal/store"},
	},
	{
		"internal/core/region",
		[]string{"./internal/core/region", "./internal/core/consequence", "./internal/core/grant"},
	},
	{"internal/formats/sheet", []string{"./internal/formats/sheet"}},
	{"internal/formats/outline", []string{"./internal/formats/outline"}},
	{"internal/formats/redirects", []string{"./internal/formats/redirects"}},
	{"internal/store", []string{"./internal/store"}},
}

func main() {
	drawn := flag.Int("drawn", 200, "how many are drawn from the source")
	seed := flag.Uint64("seed", 1, "of the draw")
	limit := flag.Duration("limit", 4*time.Minute, "of the tests of one mutant; what hangs is found")
	only := flag.String("only", "", "directories, by a part of their names")
	flag.Parse()
	all := byHand()
	random := rand.New(rand.NewPCG(*seed, 1))
	var candidates []mutant
	for _, r := range rooms {
		candidates = append(candidates, candidatesIn(r.dir)...)
	}
	random.Shuffle(len(candidates), func(i, k int) { candidates[i], candidates[k] = candidates[k], candidates[i] })
	all = append(all, candidates[:min(*drawn, len(candidates))]...)
	all = slices.DeleteFunc(all, func(m mutant) bool { return !strings.Contains(m.file, *only) })
	for _, tests := range needed(all) {
		if said, err := runTests(tests, "", *limit); err != nil {
			fmt.Fprintf(os.Stderr, "%s fails as it is, so it finds nothing:\n%s\n", tests, said)
			os.Exit(1)
		}
	}
	report(try(all, *limit))
}

// needed gives the packages whose tests should find some mutants.
func needed(all []mutant) []string {
	var packages []string
	for _, m := range all {
		packages = append(packages, roomOf(m).tests...)
	}
	slices.Sort(packages)
	return slices.Compact(packages)
}

func roomOf(m mutant) room {
	return rooms[slices.IndexFunc(rooms, func(r room) bool { return r.dir == filepath.Dir(m.file) })]
}

// runTests runs the tests of some packages, of the source as it is or with a file in the place of another. Those of the
// store are run with fewer random cases than usual.
func runTests(tests, overlay string, limit time.Duration) (said []byte, err error) {
	args := []string{"test", "-failfast", "-timeout", limit.String()}
	if overlay != "" {
		args = append(args, "-overlay", overlay)
	}
	cmd := exec.Command("go", append(args, tests)...)
	if cmd.Env = os.Environ(); strings.HasSuffix(tests, "/store") {
		cmd.Env = append(cmd.Env, "VINELADDER_CHECKS=25")
	}
	return cmd.CombinedOutput()
}

// An outcome is what became of a mutant.
type outcome struct {
	mutant
	by string // the package whose tests found it; "": none
}

// try runs the tests on mutants, as many at once as there are processors. Those that do not compile are left out.
func try(all []mutant, limit time.Duration) []outcome {
	var outcomes []outcome
	var lock sync.Mutex
	var group sync.WaitGroup
	queue := make(chan mutant)
	for range runtime.NumCPU() {
		group.Go(func() {
			for m := range queue {
				by, compiles := found(m, limit)
				lock.Lock()
				if compiles {
					outcomes = append(outcomes, outcome{m, by})
					fmt.Fprintf(
						os.Stderr,
						"%4d  %-28s %s:%d  %s\n",
						len(outcomes),
						orSurvived(by),
						m.file,
						m.line,
						m.what,
					)
				}
				lock.Unlock()
			}
		})
	}
	for _, m := range all {
		queue <- m
	}
	close(queue)
	group.Wait()
	return outcomes
}

func orSurvived(by string) string {
	if by == "" {
		return "SURVIVED"
	}
	return by
}

// found gives the first package whose tests fail with a mutant.
func found(m mutant, limit time.Duration) (by string, compiles bool) {
	dir, err := os.MkdirTemp("", "mutant-*")
	if err != nil {
		panic(err)
	}
	defer os.RemoveAll(dir)
	root, _ := os.Getwd()
	broken, overlay := filepath.Join(dir, filepath.Base(m.file)), filepath.Join(dir, "overlay.json")
	replace, _ := json.Marshal(map[string]map[string]string{"Replace": {filepath.Join(root, m.file): broken}})
	for name, data := range map[string][]byte{broken: m.broke, overlay: replace} {
		if err := os.WriteFile(name, data, 0o600); err != nil {
			panic(err)
		}
	}
	pkg := "./" + filepath.Dir(m.file)
	if exec.Command("go", "vet", "-overlay", overlay, pkg).Run() != nil &&
		exec.Command("go", "build", "-overlay", overlay, "./internal/...").Run() != nil {
		return "", false
	}
	for _, tests := range roomOf(m).tests {
		if _, err := runTests(tests, overlay, limit); err != nil {
			return tests, true
		}
	}
	return "", true
}

func report(outcomes []outcome) {
	killed := 0
	for _, o := range outcomes {
		if o.by != "" {
			killed++
		}
	}
	fmt.Printf(
		"%d of %d mutants were found, %.1f %%. Not found:\n",
		killed,
		len(outcomes),
		100*float64(killed)/float64(max(1, len(outcomes))),
	)
	slices.SortFunc(outcomes, func(a, b outcome) int { return strings.Compare(a.file, b.file) })
	for _, o := range outcomes {
		if o.by == "" {
			fmt.Printf("  %s:%d  %s\n", o.file, o.line, o.what)
		}
	}
}
