package edit

import (
	"slices"
	"strconv"
	"strings"
)

// Position gives the neighbours of something that goes to a typed position among its siblings, counted from 1; zero
// ones are the ends. It may be among the siblings already, where it does not count.
func Position[ID comparable](siblings []ID, self ID, typed string) (after, before ID, err error) {
	siblings = slices.DeleteFunc(slices.Clone(siblings), func(id ID) bool { return id == self })
	position, wrong := strconv.Atoi(strings.TrimSpace(typed))
	if wrong != nil || position < 1 || position > len(siblings)+1 {
		return after, before, refuse("A position here is a number from 1 to %d.", len(siblings)+1)
	}
	if position > 1 {
		after = siblings[position-2]
	}
	if position <= len(siblings) {
		before = siblings[position-1]
	}
	return after, before, nil
}

// Step gives the neighbours of something that goes one step up or down among its siblings; false if it stands at that
// end.
func Step[ID comparable](siblings []ID, self ID, up bool) (after, before ID, ok bool) {
	at := slices.Index(siblings, self)
	if up {
		at--
	} else {
		at++
	}
	if at < 0 || at >= len(siblings) {
		return after, before, false
	}
	after, before, err := Position(siblings, self, strconv.Itoa(at+1))
	return after, before, err == nil
}
