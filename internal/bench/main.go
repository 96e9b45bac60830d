// Command bench measures what the project promises, each row against its baseline in the same run, and writes
// docs/bench.md. Rounds of the two alternate, so that a noisy machine disturbs both; medians are compared.
package main

import (
	"context"
	"flag"
	"fmt"
	"os"
	"regexp"
	"runtime"
	"runtime/pprof"
	"slices"
	"strings"
	"time"
)

// A row is one promise.
type row struct {
	name    string
	what    string
	aim     float64
	atLeast bool // the ratio must be at least the aim; else at most
	unit    string
	measure func(context.Context, *world) (ours, baseline func() float64)
}

// rounds of each row; a site of a million pages takes its time.
const rounds, largeRounds = 15, 3

// profiling is where the profile of the rows goes; nil: nowhere.
var profiling *os.File

// standardPages is the size at which the promises are judged; others are reported.
const standardPages = 100_000

func main() {
	pattern := flag.String("rows", ".", "which rows, a regular expression")
	pages := flag.Int("pages", standardPages, "pages of the site")
	out := flag.String("out", "docs/bench.md", "where the table goes")
	profile := flag.String("profile", "", "where a processor profile of the rows goes")
	flag.Parse()
	if *profile != "" {
		profiling = must(os.Create(*profile))
		defer pprof.StopCPUProfile()
	}
	if err := run(context.Background(), *pattern, *pages, *out); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(ctx context.Context, pattern string, pages int, out string) error {
	chosen, err := regexp.Compile(pattern)
	if err != nil {
		return err
	}
	w, err := newWorld(ctx, pages)
	if err != nil {
		return err
	}
	defer w.close()
	if profiling != nil {
		if err := pprof.StartCPUProfile(profiling); err != nil {
			return err
		}
	}
	var lines, table []string
	for _, r := range rows {
		if !chosen.MatchString(r.name) {
			continue
		}
		ours, baseline := r.measure(ctx, w)
		times := rounds
		if pages > standardPages {
			times = largeRounds
		}
		a, b := medians(times, ours, baseline)
		ratio := a / b
		verdict := "holds"
		if r.atLeast && ratio < r.aim || !r.atLeast && ratio > r.aim {
			verdict = "short"
		}
		lines = append(
			lines,
			fmt.Sprintf(
				"bench %s ours=%.4g%s baseline=%.4g%s ratio=%.2f aim=%g %s",
				r.name,
				a,
				r.unit,
				b,
				r.unit,
				ratio,
				r.aim,
				verdict,
			),
		)
		table = append(
			table,
			fmt.Sprintf(
				"| %s | %s | %.4g%s | %.4g%s | %.2f | %s %g | %s |",
				r.name,
				r.what,
				a,
				r.unit,
				b,
				r.unit,
				ratio,
				map[bool]string{true: "at least", false: "at most"}[r.atLeast],
				r.aim,
				verdict,
			),
		)
	}
	fmt.Println(strings.Join(lines, "\n"))
	if chosen.String() != "." || pages != standardPages {
		return nil
	}
	text := fmt.Sprintf(`# Benchmarks

Made by `+"`make bench`"+` on %s, %d cores, %s: a site of %d pages, %d rounds of each, medians. Times to load it: %s.

| row | what | ours | baseline | ratio | aim | |
| --- | --- | --- | --- | --- | --- | --- |
%s
`, time.Now().Format("2 January 2006"), runtime.NumCPU(), runtime.Version(), w.store.Published().Site.Count(), rounds, w.loading, strings.Join(table, "\n"))
	return os.WriteFile(out, []byte(text), 0o644)
}

func medians(times int, ours, baseline func() float64) (float64, float64) {
	var a, b []float64
	ours()
	baseline()
	for range times {
		a, b = append(a, ours()), append(b, baseline())
	}
	slices.Sort(a)
	slices.Sort(b)
	return a[len(a)/2], b[len(b)/2]
}

// milliseconds times one call.
func milliseconds(do func()) float64 {
	start := time.Now()
	do()
	return float64(time.Since(start).Microseconds()) / 1000
}

func must[T any](value T, err error) T {
	if err != nil {
		panic(err)
	}
	return value
}
