package check

import (
	"strings"
	"time"

	"vineladder/internal/core/typed"
)

// Bounds of saying that something is meant so: for how long, and the reason in signs.
const (
	excuseLasts = 3 * 366 * 24 * time.Hour
	reasonLimit = 500
)

// An Excuse is why a problem is none, and the day on which it is asked again.
type Excuse struct {
	Reason string
	Until  time.Time
}

// Checked gives the excuse as it is kept, or refuses it: without a reason, or for no time or too long.
func (e Excuse) Checked(now time.Time) (Excuse, error) {
	e.Reason = strings.TrimSpace(e.Reason)
	switch {
	case e.Reason == "":
		return e, typed.Refuse("Say why it is meant so: the next who looks wonders too.")
	case len([]rune(e.Reason)) > reasonLimit:
		return e, typed.Refuse("The reason is longer than %d signs.", reasonLimit)
	case !e.Until.After(now):
		return e, typed.Refuse("The day on which to ask again is over.")
	case e.Until.After(now.Add(excuseLasts)):
		return e, typed.Refuse("Choose a day within the next three years: what is meant today is forgotten by then.")
	}
	return e, nil
}
