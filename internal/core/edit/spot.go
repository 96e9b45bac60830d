package edit

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// SpotsText writes what a condition names: "branch:12|page:3|topic:7|pattern:/harbours/*".
func SpotsText(spots []site.Spot) string {
	parts := make([]string, len(spots))
	for i, spot := range spots {
		switch {
		case spot.Page == 0:
			parts[i] = "pattern:" + spot.Pattern
		case spot.Topic:
			parts[i] = fmt.Sprintf("topic:%d", spot.Page)
		case spot.Branch:
			parts[i] = fmt.Sprintf("branch:%d", spot.Page)
		default:
			parts[i] = fmt.Sprintf("page:%d", spot.Page)
		}
	}
	return strings.Join(parts, "|")
}

// KeptSpots reads what SpotsText wrote of a site, whatever of it is still there.
func KeptSpots(text string) (spots []site.Spot) {
	for part := range strings.SplitSeq(text, "|") {
		kind, rest, _ := strings.Cut(part, ":")
		if kind == "pattern" {
			spots = append(spots, site.Spot{Pattern: rest})
		} else if id, err := strconv.ParseInt(rest, 10, 64); err == nil {
			spots = append(spots, site.Spot{Page: site.PageID(id), Branch: kind == "branch", Topic: kind == "topic"})
		}
	}
	return spots
}

// ParseSpots reads what SpotsText wrote. Pages may be binned by now: the condition keeps them (rules 6.3).
func ParseSpots(s *site.Site, value string) ([]site.Spot, error) {
	var spots []site.Spot
	for part := range strings.SplitSeq(value, "|") {
		if part == "" {
			continue
		}
		kind, rest, _ := strings.Cut(part, ":")
		var spot site.Spot
		switch kind {
		case "pattern":
			spot.Pattern = rest
			if err := checkPattern(rest); err != nil {
				return nil, err
			}
		case "branch", "page", "topic":
			id, err := strconv.ParseInt(rest, 10, 64)
			named := s.Page(site.PageID(id))
			if err != nil || named == nil {
				return nil, &typed.Missing{Sentence: "A page that the condition names is not there any more."}
			}
			if kind == "topic" && !named.IsTopic() {
				return nil, refuse("“%s” is no topic.", named.Label)
			}
			spot.Page, spot.Branch, spot.Topic = site.PageID(id), kind == "branch", kind == "topic"
		default:
			return nil, refuse("“%s” is neither a page nor a pattern of addresses.", part)
		}
		if !slices.Contains(spots, spot) {
			spots = append(spots, spot)
		}
	}
	return spots, nil
}

func checkPattern(pattern string) error {
	if !strings.HasPrefix(pattern, "/") || strings.ContainsAny(pattern, "?# ") {
		return refuse("A pattern of addresses begins with “/”, as in /harbours/* or /notices/**.")
	}
	if n := strings.Count(pattern, "/"); n > region.PatternLimit {
		return refuse("A pattern of addresses can have %d parts at most; this one has %d.", region.PatternLimit, n)
	}
	return nil
}
