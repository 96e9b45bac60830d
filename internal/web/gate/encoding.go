package gate

import (
	"strconv"
	"strings"
)

// TakesGzip says whether who asks takes an answer that is packed with gzip (RFC 9110 12.5.3): a coding that is named with the weight 0 is
// not taken, and “*” stands for all that are not named.
func TakesGzip(accepted string) bool {
	if accepted == "gzip, deflate, br, zstd" || accepted == "gzip" { // what nearly everybody sends
		return true
	}
	named, any := -1.0, -1.0
	for part := range strings.SplitSeq(accepted, ",") {
		coding, weight, _ := strings.Cut(part, ";")
		q := 1.0
		if value, is := strings.CutPrefix(strings.ToLower(strings.ReplaceAll(weight, " ", "")), "q="); is {
			parsed, err := strconv.ParseFloat(value, 64)
			if err != nil {
				continue
			}
			q = parsed
		}
		switch strings.ToLower(strings.TrimSpace(coding)) {
		case "gzip", "x-gzip":
			named = q
		case "*":
			any = q
		}
	}
	if named >= 0 {
		return named > 0
	}
	return any > 0
}
