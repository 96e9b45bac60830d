package picture

import (
	"context"
	"fmt"
	"strings"
	"time"

	"vineladder/internal/core/measure"
	"vineladder/internal/core/reach"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
)

// Publications on the line of numbers, and how long counting those that nobody counted yet may take.
const (
	linePoints  = 24
	lineTimeout = 10 * time.Minute
)

// A numbersLine is how many pages there were, publication by publication.
type numbersLine struct {
	Points   []linePoint
	Pages    string // as points of a line, in a box of lineWide by lineHigh
	Reached  string
	Counting bool
}

type linePoint struct {
	store.NumbersThen
	When string
	Link string // to the site as it was then
}

const lineWide, lineHigh = 600, 80

// line gives the numbers of past publications; what is missing is counted in the background.
func (s *Area) line(ctx context.Context, d *desk.Desk) (*numbersLine, error) {
	all, err := s.Store.NumbersLine(ctx, linePoints)
	if err != nil {
		return nil, err
	}
	made := &numbersLine{}
	var missing []int64
	for _, n := range all {
		if !n.Known {
			missing = append(missing, n.Revision)
			continue
		}
		made.Points = append(made.Points, linePoint{
			n, desk.MomentWords(d.Site, n.At), d.Link("/tree", "then", fmt.Sprint(n.Revision)),
		})
	}
	made.draw()
	if made.Counting = len(missing) > 0; made.Counting && s.counting.CompareAndSwap(false, true) {
		go s.countPast(missing)
	}
	return made, nil
}

// draw lays the points out over time; the highest number touches the top.
func (l *numbersLine) draw() {
	if len(l.Points) < 2 {
		return
	}
	first, last := l.Points[0].At, l.Points[len(l.Points)-1].At
	most := 1
	for _, p := range l.Points {
		most = max(most, p.NumbersThen.Pages)
	}
	at := func(p linePoint, n int) string {
		x := lineWide
		if span := last.Sub(first); span > 0 {
			x = int(lineWide * p.At.Sub(first) / span)
		}
		return fmt.Sprintf("%d,%d ", x, lineHigh-lineHigh*n/most)
	}
	var pages, reached strings.Builder
	for _, p := range l.Points {
		pages.WriteString(at(p, p.NumbersThen.Pages))
		reached.WriteString(at(p, p.NumbersThen.Reached))
	}
	l.Pages, l.Reached = pages.String(), reached.String()
}

// countPast counts the pages of past publications and keeps the numbers.
func (s *Area) countPast(revisions []int64) {
	defer s.counting.Store(false)
	ctx, cancel := context.WithTimeout(context.Background(), lineTimeout)
	defer cancel()
	for _, revision := range revisions {
		past, err := s.Store.PastAt(ctx, revision)
		if err != nil {
			s.Log.Error("the numbers of a publication can't be counted", "revision", revision, "error", err)
			return
		}
		n := measure.Count(past.Site, reach.Lens{At: past.At}, nil)
		then := store.NumbersThen{
			Revision: revision, Pages: len(n.Whole[0].Pages), Online: len(n.Whole[1].Pages),
			Reached: len(n.Whole[2].Pages), Listed: len(n.Whole[3].Pages),
		}
		if err := s.Store.KeepNumbers(ctx, then); err != nil {
			s.Log.Error("the numbers of a publication can't be kept", "revision", revision, "error", err)
			return
		}
	}
}
