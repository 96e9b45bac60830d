package grant

import (
	"time"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/typed"
)

// A Shown is a draft shown by a link to somebody without an account.
type Shown struct {
	Reader string        // whom the link is for
	Ends   time.Time     // when it shows nothing any more
	As     reach.Visitor // as which the draft is shown
}

// Bounds of a Shown.
const (
	ReaderLimit = 80                  // characters of the reader's name
	ShownLimit  = 20                  // links that one draft has at a time
	ShownLasts  = 92 * 24 * time.Hour // three months, whichever they are
)

// Allow gives what is asked for with its reader's name tidied, or says why there is no such link now; beside are the
// links that the draft has.
func (l Shown) Allow(now time.Time, beside int) (Shown, error) {
	reader, err := typed.Line(l.Reader, "The reader", ReaderLimit)
	switch {
	case err != nil:
		return Shown{}, err
	case reader == "":
		return Shown{}, typed.Refuse("Say who is to look at the draft: the link names its reader.")
	case !l.Ends.After(now):
		return Shown{}, typed.Refuse("That moment is over: the link would show nothing.")
	case l.Ends.After(now.Add(ShownLasts)):
		return Shown{}, typed.Refuse("A link shows a draft for three months at most.")
	case beside >= ShownLimit:
		return Shown{}, typed.Refuse("A draft has %d links at most; end one of them first.", ShownLimit)
	}
	l.Reader = reader
	return l, nil
}
