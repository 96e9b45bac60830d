package edit

import (
	"strings"

	"vineladder/internal/core/site"
)

// whyLimit is the length of the longest reason of a publication, in signs.
const whyLimit = 500

// Reason gives why something is published as the history keeps it, or refuses it: where the settings ask for one and
// none is given, or one that is too long.
func Reason(settings site.Settings, typed string) (string, error) {
	why := strings.TrimSpace(typed)
	switch {
	case why == "" && settings.AskWhy:
		return "", refuse("Say why: the settings ask for a reason, which stands in the history.")
	case len([]rune(why)) > whyLimit:
		return "", refuse("The reason is longer than %d signs.", whyLimit)
	}
	return why, nil
}
