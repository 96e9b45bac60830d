package address

import (
	"slices"
	"strconv"
	"strings"

	"github.com/gosimple/slug"

	"vineladder/internal/core/site"
)

// SegmentLimit is the length of the longest segment made from a label, in bytes.
const SegmentLimit = 80

// Segment makes a segment from a label (rules 3.2): transliterated to ASCII, lower case, words joined by hyphens, cut at
// a word's end. A label with nothing to keep gives "page".
func Segment(label string) string {
	made := slug.Make(label)
	if len(made) > SegmentLimit {
		cut := strings.LastIndexByte(made[:SegmentLimit+1], '-')
		if cut <= 0 {
			cut = SegmentLimit
		}
		made = strings.TrimRight(made[:cut], "-")
	}
	if made == "" {
		return "page"
	}
	return made
}

// FreeSegment gives wanted, or wanted with the first suffix from "-2" on, so that no child of parent but self has it
// and, right below the home page, it is not reserved.
func FreeSegment(s *site.Site, parent, self site.PageID, wanted string) string {
	taken := func(segment string) bool {
		child := s.Child(parent, segment)
		return child != 0 && child != self || parent == s.Home() && IsReserved(segment)
	}
	if !taken(wanted) {
		return wanted
	}
	for n := 2; ; n++ {
		if free := Suffixed(wanted, n); !taken(free) {
			return free
		}
	}
}

// Suffixed gives a segment with a number behind it, cut so that it is not too long.
func Suffixed(segment string, n int) string {
	suffix := "-" + strconv.Itoa(n)
	if len(segment)+len(suffix) > SegmentLimit {
		segment = strings.TrimRight(segment[:SegmentLimit-len(suffix)], "-")
	}
	return segment + suffix
}

// ValidSegment says whether a typed segment can stand in an address as it is: lower-case letters, digits and hyphens.
func ValidSegment(segment string) bool {
	return segment != "" && len(segment) <= SegmentLimit && !strings.Contains(segment, "/") && isNormal("/"+segment)
}

// Reserved first segments are what the program itself serves on the public site (rules 3.3).
var reserved = []string{"api", "assets", "feeds", "files", "health", "metrics", "my-details", "proof", "register", "robots.txt",
	"sign-in", "sign-out", "sitemap.xml", "topics"}

// IsReserved says whether the program itself serves what starts with this segment.
func IsReserved(segment string) bool { return slices.Contains(reserved, segment) }
