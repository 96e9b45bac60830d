// Package clock says what time it is, to everything whose answers depend on the moment: what is online, what is
// planned, when something was done. Time that passes is still measured with the package time.
package clock

import (
	"sync/atomic"
	"time"
)

// ahead is by how much the program stands ahead of the machine's clock, in nanoseconds; 0 but in tests.
var ahead atomic.Int64

// Now is the moment at which the program stands.
func Now() time.Time { return time.Now().Add(time.Duration(ahead.Load())) }

// Start makes the program begin at a moment, from which time goes on. It is for tests alone, whose data has dates.
func Start(at time.Time) { ahead.Store(int64(time.Until(at))) }
