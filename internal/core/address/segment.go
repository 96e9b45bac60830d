package address

import (
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/gosimple/slug"

	"vineladder/internal/core/site"
)

// SegmentLimit is the length of the longest segment made from a label, in bytes.
const SegmentLimit = 80

// glued are signs inside words that the transliteration would write as words without a gap: they part words.
// Free-standing ones are written as the word that they stand for.
var glued = regexp.MustCompile(`\b[&@]\b|[&@]\b|\b[&@]`)

// Segment makes a segment from a label (rules 3.2): transliterated to ASCII, lower case, words joined by hyphens, cut
// at a word's end. A label with nothing to keep gives "page". What it gives is a ValidSegment.
func Segment(label string) string {
	made := cut(slug.Make(strings.ReplaceAll(glued.ReplaceAllString(label, " "), "_", " ")), SegmentLimit)
	if !ValidSegment(made) {
		return "page"
	}
	return made
}

// cut shortens a segment to a number of bytes, at a word's end if there is one.
func cut(segment string, limit int) string {
	if len(segment) <= limit {
		return segment
	}
	at := strings.LastIndexByte(segment[:limit+1], '-')
	if at <= 0 {
		at = limit
	}
	return strings.TrimRight(segment[:at], "-")
}

// FreeSegment gives wanted, or wanted with the first suffix from "-2" on, that a page can have below its parent: no
// other child that counts has it, it is not reserved right below the home page, and the address that it makes is not
// one that was typed for another page.
func FreeSegment(s *site.Site, p *site.Page, wanted string, inTheWay func(other site.PageID) bool) string {
	above := Of(s, p.Parent)
	taken := func(segment string) bool {
		counts := func(other site.PageID) bool { return other != p.ID && inTheWay(other) }
		return slices.ContainsFunc(s.Namesakes(p.Parent, segment), counts) ||
			p.Parent == s.Home() && IsReserved(segment) ||
			p.OwnAddress == "" && isFixedForAnother(s, p.ID, Under(above, segment))
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

// AnyOther has every other child in the way.
func AnyOther(site.PageID) bool { return true }

// isFixedForAnother says whether a path was typed as an address of another page, or as a short one of the page itself.
func isFixedForAnother(s *site.Site, id site.PageID, path string) bool {
	return slices.ContainsFunc(fixedAt(s, path), func(f site.FixedAddress) bool { return f.Page != id || f.Short })
}

// Suffixed gives a segment with a number behind it, cut at a word's end so that it is not too long.
func Suffixed(segment string, n int) string {
	suffix := "-" + strconv.Itoa(n)
	return cut(segment, SegmentLimit-len(suffix)) + suffix
}

// ValidSegment says whether a typed segment can stand in an address as it is: lower-case letters, digits and hyphens.
func ValidSegment(segment string) bool {
	return segment != "" && len(segment) <= SegmentLimit && !strings.Contains(segment, "/") && isNormal("/"+segment)
}

// Reserved first segments are what the program itself serves on the public site (rules 3.3).
var reserved = []string{
	"api", "assets", "feeds", "files", "health", "metrics", "my-details", "proof", "register", "robots.txt",
	"sign-in", "sign-out", "sitemap.xml",
}

// IsReserved says whether the program itself serves what starts with this segment.
func IsReserved(segment string) bool { return slices.Contains(reserved, segment) }
