package desk

import (
	"time"

	"vineladder/internal/core/ask"
	"vineladder/internal/core/count"
)

// A tick is a moment on the strip of time.
type Tick struct {
	Moment time.Time
	At     string // as the lens takes it
	When   string
	What   string
	On     bool
}

const stripLimit = 5

// Strip gives the next moments at which the visitor gains or loses pages, counted from now whatever moment the lens
// has.
func (s *Server) Strip(d *Desk) []Tick {
	lens := d.Lens
	lens.At = s.Now()
	var ticks []Tick
	for _, edge := range ask.Edges(d.Site, lens, stripLimit) {
		t := Tick{Moment: edge.At, At: lensMoment(d.Site, edge.At), When: Day(d.Site, edge.At)}
		t.On = t.At == d.At
		switch {
		case edge.Appear == 1:
			t.What = "“" + Short(edge.Appears.Label) + "” appears"
		case edge.Appear > 1:
			t.What = count.Pages(edge.Appear) + " appear"
		}
		if edge.Vanish > 0 && t.What != "" {
			t.What += ", "
		}
		switch {
		case edge.Vanish == 1:
			t.What += "“" + Short(edge.Vanishes.Label) + "” goes"
		case edge.Vanish > 1:
			t.What += count.Pages(edge.Vanish) + " go"
		}
		ticks = append(ticks, t)
	}
	return ticks
}
