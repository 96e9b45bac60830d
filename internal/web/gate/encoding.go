package gate

import (
	"net/http"
	"strconv"
	"strings"

	"github.com/klauspost/compress/gzhttp"
	"github.com/klauspost/compress/gzip"
)

// TakesGzip says whether who asks takes an answer that is packed with gzip (RFC 9110 12.5.3): a coding that is named
// with the weight 0 is not taken, and “*” stands for all that are not named.
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

// packedTypes are what is worth packing, made anew for each request.
var packedTypes = []string{"text/html", "application/json", "image/svg+xml", "text/csv", "text/plain"}

// PackedTag ends the tag of an answer that is packed: another representation needs another strong tag (RFC 9110
// 8.8.3.3).
const PackedTag = "-gzip"

// Packed packs answers for who takes that. Streams are left as they are; what comes packed already is, too.
func Packed(next http.Handler) http.Handler {
	wrap, err := gzhttp.NewWrapper(
		gzhttp.MinSize(1024),
		gzhttp.CompressionLevel(gzip.BestSpeed),
		gzhttp.EnableZstd(false),
		gzhttp.SuffixETag(PackedTag),
		gzhttp.ContentTypes(packedTypes),
	)
	if err != nil {
		panic(err) // the options are constants
	}
	packs := wrap(next)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Header.Get("Accept") == "text/event-stream" {
			next.ServeHTTP(w, r)
			return
		}
		packs.ServeHTTP(w, r)
	})
}

// IsTag says whether what a browser has, packed or not, is the representation with a tag.
func IsTag(has, tag string) bool {
	return tag != "" && (has == tag || has == strings.TrimSuffix(tag, `"`)+PackedTag+`"`)
}
